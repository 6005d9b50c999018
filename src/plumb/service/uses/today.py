"""Today: the jobs of the shop, page by page, each with its bobs and what it waits for.

What a job says is kept in the store with the state that it was said of, so that a look at four
hundred jobs reads four hundred lines instead of weighing four hundred engines.
"""

from collections.abc import Mapping
from contextlib import suppress
from dataclasses import astuple
from hashlib import sha256
from pathlib import Path
from typing import Final

from pydantic import TypeAdapter
from sqlalchemy import Connection, Engine

import plumb
from plumb.core.causes.common import Learnt
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.step import NextStep
from plumb.core.procedures import BY_CODE
from plumb.core.weigh.facts import newest
from plumb.core.weigh.words_next import step_words
from plumb.core.weigh.words_verdict import sentence
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.kinds.kind import CORRIDOR
from plumb.service.screens.bobs import bobs_of, hung_of
from plumb.service.screens.job import knot_words, ordered_view
from plumb.service.stored.analysis import analysed, weighed
from plumb.service.stored.commonness import common_here, counts_here
from plumb.service.stored.lessons import lessons_state
from plumb.service.stored.others import all_with_others
from plumb.service.views.job import JobLineView, JobsPageView
from plumb.store import jobs as store
from plumb.store import said
from plumb.store import sheets as sheet_store
from plumb.store.finishing import Kept, done_on
from plumb.store.records import InjectorRecord, JobRecord, VehicleRecord, WholeSheet
from plumb.store.session import StoreBusy, StoreFull, retried, transaction
from plumb.store.words import MOST_COUNTED

ON_A_PAGE: Final = 60
MOST_AHEAD: Final = 10 * ON_A_PAGE
"""So many open jobs are worked out after a start; of more, whoever turns so many pages waits a moment."""
_LINE: Final = TypeAdapter(JobLineView)

Found = list[tuple[JobRecord, VehicleRecord]]


def _program() -> str:
    """Which state of the program this is: what another one said is not taken over."""
    files = sorted(Path(plumb.__file__).parent.rglob("*.py"))
    seen = [(f.name, f.stat().st_size, f.stat().st_mtime_ns) for f in files]
    return sha256(repr((plumb.__version__, seen)).encode()).hexdigest()


_PROGRAM: Final = _program()


@retried
def list_jobs(
    engine: Engine, thresholds: Thresholds, find: str = "", *, closed: bool = False, skip: int = 0
) -> JobsPageView:
    """A page of jobs, newest first, and how many there are in all."""
    with transaction(engine) as connection:
        total, found = store.find_jobs(connection, find, closed=closed, skip=skip, most=ON_A_PAGE)
    lines = _said(engine, found, thresholds)
    return JobsPageView(
        total=min(total, MOST_COUNTED), more=total > MOST_COUNTED,
        jobs=[lines[job.id] for job, _ in found],
    )  # fmt: skip


def say_ahead(engine: Engine, thresholds: Thresholds) -> None:
    """Write down what open jobs say, before somebody looks: page by page, newest first, so far as people turn pages."""
    for skip in range(0, MOST_AHEAD, ON_A_PAGE):
        if not list_jobs(engine, thresholds, skip=skip).jobs:
            return


@retried
def say_of(engine: Engine, number: str, thresholds: Thresholds) -> None:
    """Write down what a job says, before somebody looks; nothing where there is no such job."""
    with transaction(engine) as connection:
        job = store.job_by_number(connection, number)
    if job is not None:
        _said(engine, [job], thresholds)


@retried
def _said(engine: Engine, found: Found, thresholds: Thresholds) -> dict[int, JobLineView]:
    """What these jobs say: as it was kept where nothing changed since, else worked out and kept."""
    with transaction(engine) as connection:
        stamps = _stamps(connection, found, thresholds)
        kept = said.lines_of(connection, list(stamps))
        known = {n: _LINE.validate_json(text) for n, (stamp, text) in kept.items()
                 if stamp == stamps[n]}  # fmt: skip
        fresh = _lines(connection, [x for x in found if x[0].id not in known], thresholds)
    if fresh:
        rows = [(n, stamps[n], _LINE.dump_json(line).decode()) for n, line in fresh.items()]
        # Somebody else is writing down the same at this moment, or there is no room: it can be looked at all the same.
        with suppress(StoreBusy, StoreFull), transaction(engine) as connection:
            said.keep(connection, rows)
    return known | fresh


def _stamps(connection: Connection, found: Found, thresholds: Thresholds) -> dict[int, str]:
    """What tells one state of each job from every other: whatever its line is made of."""
    sheets = sheet_store.stamps_of_jobs(connection, [job.id for job, _ in found])
    types = {(kind, about) for mine in sheets.values() for kind, about, _ in mine}
    learnt = lessons_state(connection, types)
    made = {}
    systems = {vehicle.fuel_system for _, vehicle in found}
    here = {system: counts_here(connection, system) for system in systems}
    kept = done_on(connection, [job.id for job, _ in found])
    for job, vehicle in found:
        mine = sheets.get(job.id, [])
        others = [learnt[kind, about] for kind, about, _ in mine if about]
        state = (
            _PROGRAM, astuple(thresholds), astuple(job), astuple(vehicle), mine, others,
            here[vehicle.fuel_system], kept.get(job.id),
            sheet_store.injectors_of(connection, vehicle.id) if not mine else (),
        )  # fmt: skip
        made[job.id] = sha256(repr(state).encode()).hexdigest()
    return made


def _lines(connection: Connection, found: Found, thresholds: Thresholds) -> dict[int, JobLineView]:
    """What these jobs say now, worked out from their sheets."""
    if not found:
        return {}
    of_jobs = sheet_store.sheets_of_jobs(connection, [job.id for job, _ in found])
    sheets: dict[int, list[WholeSheet]] = {}
    for whole in all_with_others(connection, [w for mine in of_jobs.values() for w in mine]):
        sheets.setdefault(whole.sheet.job_id, []).append(whole)
    systems = {vehicle.fuel_system for _, vehicle in found}
    common = {system: common_here(connection, system) for system in systems}
    kept = done_on(connection, [job.id for job, _ in found])
    return {
        job.id: _line(
            job, vehicle, sheets.get(job.id, []),
            sheet_store.injectors_of(connection, vehicle.id), thresholds,
            (common[vehicle.fuel_system], kept.get(job.id, Kept())),
        )
        for job, vehicle in found
    }  # fmt: skip


def _line(
    job: JobRecord,
    vehicle: VehicleRecord,
    sheets: list[WholeSheet],
    injectors: tuple[InjectorRecord, ...],
    thresholds: Thresholds,
    around: tuple[Mapping[str, Learnt], Kept],
) -> JobLineView:
    finished = weighed(job, vehicle, injectors, sheets, thresholds, *around)
    result, step = finished.now, finished.next_step
    there = newest(result.sheets)
    hung = hung_of(there)
    on = there[step.kind][1] if step and step.kind in there else None
    latest = next((w for w in reversed(sheets) if w.readings), sheets[-1] if sheets else None)
    done = step is None or job.closed_at is not None
    ordered = ordered_view(job)
    waits = "parts" if ordered else "done" if done else "now" if result.verdicts else "start"
    return JobLineView(
        number=job.number,
        vehicle=vehicle.name,
        registration=vehicle.registration,
        complaint=job.complaint,
        codes=list(job.codes),
        opened=job.opened_typed,
        closed=job.closed_at is not None,
        cylinders=vehicle.cylinders or len({i.cylinder for i in injectors if i.cylinder}) or 1,
        fuel_system=vehicle.fuel_system,
        waits=waits,
        next_title=ordered.words
        if ordered
        else _next_title(step, step_words(step, on, result.setting).title)
        if step
        else "".join(s.text for s in sentence(result)).strip(),
        next_sub=_sub(latest, thresholds),
        corridor_percent=SCREEN_KINDS[hung.kind].corridor(hung) if hung else CORRIDOR,
        bobs=bobs_of(hung) if hung is not None else [],
    )


def _next_title(step: NextStep, title: str) -> str:
    """What comes next and how long it takes, as a line of the list has room for it."""
    return f"{title}, {round(step.minutes)} min" if step.measures else title


def _sub(whole: WholeSheet | None, thresholds: Thresholds) -> str:
    if whole is None:
        return "nothing measured"
    words = knot_words(whole, analysed(whole, thresholds))
    return f"{BY_CODE[whole.sheet.kind].title}, {words[0].lower()}{words[1:]}"
