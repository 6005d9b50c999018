"""What is done at a run: acts at its bench, hints, handing it in; and how all of it stands."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from typing import Final

from sqlalchemy import Connection

from plumb.bench.engines.follow import AS_GOOD_AS, follow
from plumb.bench.engines.looked import Look, minutes_of, steps_of
from plumb.bench.virtual import LINES
from plumb.core.causes.fault import INJECTOR
from plumb.core.causes.table import FAULTS
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import Conflict, PlumbError, Problem
from plumb.core.procedures import BY_CODE, DROP, HOLD, OPENING
from plumb.core.weigh.words_verdict import CONDITION_WORDS
from plumb.practice.exercises import engine_of
from plumb.practice.marks import (
    PRICES,
    Judged,
    Said,
    Worked,
    cost,
    mark,
    spent,
)
from plumb.practice.virtual import RunBench
from plumb.practice.worked import REPAIR_MIN, Marked, Progress, Told
from plumb.service.practice.world import World, known_exercise, known_run
from plumb.service.stored.known import known_job
from plumb.service.uses.jobs import show_job
from plumb.store import practice as store
from plumb.store import sheets as sheet_store
from plumb.store.practice import RunRecord
from plumb.store.session import transaction

FOLLOWED_SEED: Final = 1
"""The noise with which Plumb's own path is followed for the marks."""
LONGEST_WAIT_S: Final = 1200.0
REPAIRABLE: Final = ("pump", "supply", "rail_control")
"""What can be put right on the way, because nothing behind it can be measured before."""
REPAIRS: Final = {
    "clean": "clean", "replace": "replace", "rebuild": "rebuild", "reshim": "re-shim",
}  # fmt: skip
CONDITIONS: Final = tuple(dict.fromkeys(c for names in AS_GOOD_AS.values() for c in sorted(names)))


@dataclass(frozen=True, slots=True, kw_only=True)
class Act:
    """Something that a person does: on which sheet (its key) or rows, switched on or off, for how long."""

    what: str
    sheet: str = ""
    rows: tuple[str, ...] = ()
    name: str = ""
    on: bool = True
    seconds: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """What is handed in: condition and repair by injector, causes on the engine, or that it is elsewhere."""

    injectors: Mapping[str, tuple[str, str]]
    causes: tuple[str, ...] = ()
    elsewhere: bool = False


def act(world: World, number: str, wanted: Act) -> None:
    """Do something; what was seen is kept with the run until the next thing is seen.

    Raises :class:`NotThere`, :class:`PlumbError` for what nobody can do, :class:`Conflict` for what
    cannot be done as things stand.
    """

    def work(connection: Connection, run: RunRecord, progress: Progress) -> None:
        kinds = _sheets(connection, run, progress)
        bench = world.bench(run, progress)
        told = bench.do(lambda: _done(bench, progress, wanted, kinds))
        if told is not None:
            progress.about = wanted.sheet
            progress.told = [Told(row=t.row, text=t.text, file=t.file) for t in told]
        _news(bench, progress)

    world.change(number, work)


def look_in(world: World, number: str) -> tuple[Progress, RunBench]:
    """Take in what has happened by itself (sheets begun, bursts that a burst box fired); how it stands then."""

    def work(
        connection: Connection, run: RunRecord, progress: Progress
    ) -> tuple[Progress, RunBench]:
        bench = world.bench(run, progress)
        _sheets(connection, run, progress)
        _news(bench, progress)
        return progress, bench

    return world.change(number, work)


def _sheets(connection: Connection, run: RunRecord, progress: Progress) -> dict[str, str]:
    """The kinds of the job's sheets by their keys; those that are new are paid."""
    job, _ = known_job(connection, run.job_number)
    kinds = sheet_store.sheet_kinds(connection, job.id)
    count = engine_of(known_exercise(run.exercise)).count
    for key, kind in kinds.items():
        progress.sheet(key, kind, count=count)
    return kinds


def _news(bench: RunBench, progress: Progress) -> None:
    rows, dangers = bench.do(bench.news)
    if rows:
        progress.rows(DROP.code, rows)
    for danger in dangers:
        progress.danger(danger)


def _done(
    bench: RunBench, progress: Progress, wanted: Act, kinds: Mapping[str, str]
) -> list[Look] | None:
    """One act; what was seen, None where nothing was looked at.  In the bench's own thread."""
    acts: dict[str, Callable[[], list[Look] | None]] = {
        "look": lambda: _looked(bench, progress, wanted, kinds),
        "try": lambda: _tried(bench, progress, wanted),
        "repair": lambda: _repaired(bench, progress, wanted),
        "lift": lambda: _rail_out(bench, progress, out=True),
        "put_back": lambda: _rail_out(bench, progress, out=False),
        "start": lambda: [bench.start()],
        "stop": lambda: [bench.stop()],
        "relieve": lambda: [bench.relieve()],
        "switch": lambda: _switched(bench, wanted),
        "wait": lambda: bench.wait(min(wanted.seconds, LONGEST_WAIT_S)),
    }
    if wanted.what not in acts:
        raise _unknown("what", wanted.what, acts)
    return acts[wanted.what]()


def _unknown(path: str, value: str, known: Iterable[str]) -> PlumbError:
    rule = "one of " + ", ".join(known)
    return PlumbError(Problem(path=path, rule=rule, value=value, code="unknown_word"))


def _looked(
    bench: RunBench, progress: Progress, wanted: Act, kinds: Mapping[str, str]
) -> list[Look]:
    if wanted.sheet not in kinds:
        raise _unknown("sheet", wanted.sheet, kinds)
    kind = kinds[wanted.sheet]
    seen = bench.look(kind, wanted.rows)
    # A burst is paid when it was fired, by whomever.
    if kind != DROP.code:
        progress.rows(kind, wanted.rows or _all_rows(bench, kind))
    return seen


def _rail_out(bench: RunBench, progress: Progress, *, out: bool) -> list[Look]:
    danger = ""
    if out:
        danger = bench.lift()
    else:
        bench.put_back()
    progress.lifted = out
    if danger:
        progress.danger(danger)
    return [Look("rail", "out, injectors and all" if out else "fitted")]


def _switched(bench: RunBench, wanted: Act) -> None:
    if wanted.name not in LINES:
        raise _unknown("name", wanted.name, LINES)
    bench.switch(wanted.name, on=wanted.on)


def _all_rows(bench: RunBench, kind: str) -> list[str]:
    return [] if BY_CODE[kind].of_engine else [str(n + 1) for n in range(bench.count)]


def _tried(bench: RunBench, progress: Progress, wanted: Act) -> list[Look]:
    rail = _rail_of(bench.hidden.system)
    if wanted.name not in steps_of(rail):
        raise _unknown("name", wanted.name, steps_of(rail))
    progress.pay(steps_of(rail)[wanted.name], minutes_of(rail, wanted.name))
    return [bench.try_step(wanted.name)]


def _repaired(bench: RunBench, progress: Progress, wanted: Act) -> list[Look]:
    if wanted.name not in REPAIRABLE:
        raise _unknown("name", wanted.name, REPAIRABLE)
    if wanted.name in progress.repaired:
        rule = "this was put right already"
        raise Conflict(Problem(path="name", rule=rule, value=wanted.name, code="repaired"))
    progress.repaired.append(wanted.name)
    progress.pay(f"{FAULTS[wanted.name].words}: put right", REPAIR_MIN)
    return [bench.put_right(wanted.name)]


def _rail_of(system: str) -> str:
    return "high" if system == "common_rail" else "low"


def hint(world: World, number: str, thresholds: Thresholds) -> None:
    """Say what Plumb would do next; it costs.  Raises :class:`Conflict` in an exam."""
    world.open()
    job = show_job(world.engine, number, thresholds)

    def work(_connection: Connection, run: RunRecord, progress: Progress) -> None:
        if run.exam:
            rule = "there are no hints in an exam"
            raise Conflict(Problem(path="run", rule=rule, value=number, code="exam"))
        progress.hints += 1
        progress.hint = (
            f"{job.next.title}. {job.next.text}"
            if job.next
            else "Nothing that is left to measure would change the verdict: hand it in."
        )

    world.change(number, work)


def hand_in(world: World, number: str, answer: Answer) -> None:
    """Mark the run, and end it.  Raises :class:`PlumbError` for an answer with unknown words."""
    world.open()
    with transaction(world.engine) as connection:
        exercise = known_exercise(known_run(connection, number).exercise)
    # Plumb's own path takes a second or two: nobody else waits for that.
    own = follow(engine_of(exercise), FOLLOWED_SEED)

    def work(connection: Connection, run: RunRecord, progress: Progress) -> None:
        _sheets(connection, run, progress)
        _news(world.bench(run, progress), progress)
        hidden = engine_of(exercise)
        said = _said(answer, hidden.count, causes_of(hidden.system))
        seen, measured = _noted(connection, run)
        worked = Worked(
            minutes=progress.minutes, own_minutes=own.minutes, full_minutes=own.full_minutes,
            repaired=tuple(progress.repaired), hints=progress.hints, seen=seen, measured=measured,
            incidents=progress.as_incidents(),
        )  # fmt: skip
        marks = mark(hidden, said, worked)
        progress.marks = [Marked(**asdict(line)) for line in marks.lines]
        progress.money = spent(said, worked)
        progress.truth = [
            f"{k + 1}: {CONDITION_WORDS[truth]}" for k, truth in sorted(hidden.truth.items())
        ]
        progress.truth += [FAULTS[c].words for c in sorted(hidden.causes)]
        progress.truth += [f"elsewhere: {o.replace('_', ' ')}" for o in sorted(hidden.outside)]
        store.change_run(
            connection, number,
            {"ended_at": datetime.now(UTC).replace(tzinfo=None), "points": marks.points},
        )  # fmt: skip

    world.change(number, work)
    world.put_away(number)


def _noted(connection: Connection, run: RunRecord) -> tuple[frozenset[int], bool]:
    """The injectors that something is noted of on a sheet, and whether anything is noted at all."""
    job, _ = known_job(connection, run.job_number)
    seen: set[int] = set()
    measured = False
    for whole in sheet_store.sheets_of(connection, job.id):
        labels = {i.id: i.label for i in whole.injectors}
        noted = [labels.get(r.injector_id or 0, "") for r in whole.readings]
        seen |= {int(label) for label in noted if label.isdecimal()}
        measured = measured or bool(noted)
    return frozenset(seen), measured


def _said(answer: Answer, count: int, causes: Mapping[str, str]) -> Said:
    made: dict[int, Judged] = {}
    for row, (condition, repair) in answer.injectors.items():
        if not row.isdecimal() or not 1 <= int(row) <= count:
            rule = f"the injectors of this engine are called 1 to {count}"
            raise PlumbError(
                Problem(path="injectors", rule=rule, value=row, code="unknown_injector")
            )
        for path, value, known in (
            ("condition", condition, CONDITIONS), ("repair", repair, tuple(PRICES)),
        ):  # fmt: skip
            if value and value not in known:
                raise _unknown(path, value, known)
        made[int(row)] = Judged(condition, repair)
    for cause in answer.causes:
        if cause not in causes:
            raise _unknown("causes", cause, causes)
    return Said(injectors=made, causes=frozenset(answer.causes), elsewhere=answer.elsewhere)


def conditions_of(system: str) -> dict[str, str]:
    """How an injector of that fuel system can be: words by code."""
    return {c: CONDITION_WORDS[c] for c in CONDITIONS if system in FAULTS[c].common}


def causes_of(system: str) -> dict[str, str]:
    """What can be wrong with an engine of that fuel system beside its injectors: words by code."""
    return {
        code: fault.words
        for code, fault in FAULTS.items()
        if system in fault.common and fault.of != INJECTOR and system not in fault.outside
    }


def step_choices(system: str) -> dict[str, str]:
    """What can be tried at a hold; nothing where there is no rail."""
    return {} if system not in HOLD.places else steps_of(_rail_of(system))


def money_now(progress: Progress) -> float:
    """What was spent so far: the minutes, and what was put right."""
    return cost(progress.minutes, (), len(progress.repaired))


ROW_BY_ROW: Final = (DROP.code, OPENING.code)
"""Sheets whose rows are done one at a time."""
