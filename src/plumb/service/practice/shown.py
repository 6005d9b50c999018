"""Runs as a screen shows them, on a screen and on paper."""

from collections.abc import Mapping
from datetime import datetime

from plumb.bench.virtual import LINES
from plumb.core.causes.table import FAULTS
from plumb.core.procedures import HOLD
from plumb.practice.exercises import DRAWN, EXERCISES, engine_of
from plumb.practice.virtual import RunBench
from plumb.practice.worked import Progress
from plumb.report.paper import html_of, pdf_of
from plumb.service.practice.begin import vehicle_of
from plumb.service.practice.runs import (
    REPAIRABLE,
    REPAIRS,
    ROW_BY_ROW,
    causes_of,
    conditions_of,
    look_in,
    money_now,
    step_choices,
)
from plumb.service.practice.world import World, known_exercise, known_run, progress_of
from plumb.service.views.practice import (
    BenchView,
    ChoiceView,
    ExerciseView,
    PersonView,
    PracticeView,
    RunLineView,
    RunView,
)
from plumb.store import practice as store
from plumb.store.practice import RunRecord
from plumb.store.session import transaction

SOLVED: float = 80.0
"""From so many points on an exercise counts as solved; our own choice."""


def run_view(world: World, number: str) -> RunView:
    """A run as it stands now.  Raises :class:`plumb.core.measure.problems.NotThere`."""
    world.open()
    with transaction(world.engine) as connection:
        run = known_run(connection, number)
    if run.ended_at is not None:
        return _view(run, progress_of(run), None)
    progress, bench = look_in(world, number)
    return _view(run, progress, bench.do(lambda: _bench(bench)))


def _bench(bench: RunBench) -> BenchView:
    engine = bench.engine
    gauge = bench.gauge()
    return BenchView(
        on=[line for line in LINES if engine.is_on(line)], gauge=gauge, unit=bench.unit,
        runs=engine.runs, lifted=bench.lifted,
    )  # fmt: skip


def _choices(words: Mapping[str, str]) -> list[ChoiceView]:
    return [ChoiceView(code=code, words=text) for code, text in words.items()]


def _view(run: RunRecord, progress: Progress, bench: BenchView | None) -> RunView:
    exercise = known_exercise(run.exercise)
    hidden = engine_of(exercise)
    ended = run.ended_at is not None
    return RunView(
        number=run.job_number, exercise=run.exercise, vehicle=vehicle_of(exercise), by=run.by_whom,
        exam=run.exam, ended=ended, minutes=round(progress.minutes, 1),
        money=round(progress.money if ended else money_now(progress), 2), hints=progress.hints,
        hint=progress.hint, spent=progress.charges,
        incidents=progress.incidents,
        about=progress.about,
        told=progress.told, bench=bench,
        injectors=[str(n + 1) for n in range(hidden.count)],
        conditions=_choices(conditions_of(exercise.system)),
        repairs=_choices(REPAIRS), causes=_choices(causes_of(exercise.system)),
        steps=_choices(step_choices(exercise.system)), hold_kind=HOLD.code,
        repairable=_choices(
            {c: FAULTS[c].words for c in REPAIRABLE if exercise.system in FAULTS[c].common}
        ),
        by_row=list(ROW_BY_ROW), points=run.points,
        marks=progress.marks,
        truth=progress.truth, teaches=exercise.teaches if ended else "",
    )  # fmt: skip


def practice_view(world: World) -> PracticeView:
    """The thirty, all runs, and how far everybody has come."""
    world.open()
    with transaction(world.engine) as connection:
        runs = store.runs(connection)
    best: dict[str, dict[str, float]] = {}
    for run in runs:
        if run.points is not None:
            of = best.setdefault(run.exercise, {})
            of[run.by_whom] = max(of.get(run.by_whom, 0.0), run.points)
    return PracticeView(
        exercises=[
            ExerciseView(
                code=e.code, vehicle=e.vehicle, system=e.system, count=engine_of(e).count,
                best=best.get(e.code, {}),
            )
            for e in EXERCISES.values()
        ],
        runs=[_line(run) for run in runs],
        people=_people(runs, best),
    )  # fmt: skip


def _line(run: RunRecord) -> RunLineView:
    return RunLineView(
        number=run.job_number, exercise=run.exercise, vehicle=vehicle_of(known_exercise(run.exercise)),
        by=run.by_whom, exam=run.exam, begun_at=_told(run.begun_at), points=run.points,
    )  # fmt: skip


def _told(moment: datetime) -> str:
    return moment.isoformat(timespec="seconds") + "Z"


def _people(runs: list[RunRecord], best: Mapping[str, Mapping[str, float]]) -> list[PersonView]:
    made = []
    for by in sorted({r.by_whom for r in runs if r.points is not None}, key=str.casefold):
        own = {code: points[by] for code, points in best.items() if by in points}
        thirty = [p for code, p in own.items() if not code.startswith(DRAWN)]
        made.append(
            PersonView(
                by=by, handed_in=sum(r.by_whom == by and r.points is not None for r in runs),
                solved=sum(p >= SOLVED for p in thirty),
                mean_best=round(sum(own.values()) / len(own), 1),
            )
        )  # fmt: skip
    return made


def run_pdf(world: World, number: str) -> bytes:
    """How a run was marked, on paper; one that goes on says so."""
    run = run_view(world, number)
    world.open()
    with transaction(world.engine) as connection:
        record = known_run(connection, number)
    html = html_of(
        "practice.html.j2", r=run, begun=_told(record.begun_at),
        ended=_told(record.ended_at) if record.ended_at else "",
    )  # fmt: skip
    return pdf_of(html, title=f"Practice {number}")
