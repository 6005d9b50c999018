"""A whole job: every sheet analysed, one verdict per injector, the next step.

>>> analyse_job(Job(injectors=("1", "2", "3"), sheets=())).next_step.reason
'not_measured'
"""

from dataclasses import dataclass

from plumb.core.decision import State, Thresholds
from plumb.core.drop import DropResult, DropSheet, analyse_drop
from plumb.core.next_step import NextStep, next_step
from plumb.core.verdict import Verdict, judge_injector


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """What is put in: the injectors in reach order and the sheets as (id, sheet), oldest first."""

    injectors: tuple[str, ...]
    sheets: tuple[tuple[str, DropSheet], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class JobResult:
    """Results by sheet id, verdicts by injector (from the newest sheet with readings)."""

    sheets: tuple[tuple[str, DropResult], ...]
    verdicts: tuple[tuple[str, Verdict], ...]
    next_step: NextStep | None


def verdicts_of(result: DropResult) -> tuple[tuple[str, Verdict], ...]:
    """The verdict of each injector of one drop sheet that has something to say."""
    answered = any(f.passes and f.state is not State.NO_RESPONSE for f in result.findings)
    proven = answered or result.sheet.neighbour_proven
    return tuple(
        (f.injector, judge_injector(f.state, neighbour_proven=proven)) for f in result.findings
    )


def analyse_job(job: Job, thresholds: Thresholds = Thresholds()) -> JobResult:
    """Analyse every sheet of a job; the newest one with readings gives the verdicts."""
    results = tuple((key, analyse_drop(sheet, thresholds)) for key, sheet in job.sheets)
    with_readings = [r for _, r in results if r.sheet.readings]
    latest = with_readings[-1] if with_readings else None
    newest = latest or (results[-1][1] if results else None)
    return JobResult(
        sheets=results,
        verdicts=verdicts_of(latest) if latest else (),
        next_step=next_step(newest, job.injectors),
    )
