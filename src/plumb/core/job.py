"""A whole job: every sheet analysed, all of them weighed into one verdict an injector.

>>> analyse_job(Job(injectors=("1", "2", "3"), sheets=())).next_step.kind
'walk_round'
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Final

from plumb.core import (
    coil,
    correction,
    cranking,
    drop,
    hold,
    opening,
    rail,
    returns,
    running,
    seen,
    supply,
    walk,
)  # fmt: skip
from plumb.core.decision import Thresholds
from plumb.core.evidence import Result, facts_of, newest
from plumb.core.fact import Fact, Shares
from plumb.core.next_job import next_in_job
from plumb.core.next_step import NextStep
from plumb.core.suspicions import CAUSES
from plumb.core.verdict import Verdict, judge

Sheet = (
    drop.DropSheet
    | coil.CoilSheet
    | supply.SupplySheet
    | hold.HoldSheet
    | seen.SeenSheet
    | walk.WalkSheet
    | correction.CorrectionSheet
    | returns.ReturnSheet
    | cranking.CrankingSheet
    | rail.RailSheet
    | opening.OpeningSheet
)
"""What any sheet puts in."""

PETROL: Final = ("port", "throttle_body", "direct")

ROUTES: Final[dict[str, tuple[str, ...]]] = {
    system: (
        walk.KIND,
        supply.KIND,
        hold.KIND,
        seen.COMMAND,
        coil.RESISTANCE,
        coil.VOLTAGE,
        drop.KIND,
        *((running.RUNNING,) if system == "direct" else ()),
        seen.TIP_LEAK,
        running.FLOW_BENCH,
    )
    for system in PETROL
} | {
    "common_rail": (
        walk.KIND,
        supply.KIND,
        correction.KIND,
        rail.KIND,
        cranking.KIND,
        hold.KIND,
        returns.KIND,
        coil.RESISTANCE,
    ),
    "mechanical_diesel": (walk.KIND, cranking.KIND, returns.KIND, opening.KIND),
}
"""The sheets of each fuel system in working order: cheap and outside first, removal last."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """What is put in: injectors in reach order and the sheets as (id, sheet), oldest first.

    ``feeds`` and ``banks`` say who shares what; ``set_aside`` are kinds that will not be done.
    """

    injectors: tuple[str, ...]
    sheets: tuple[tuple[str, Sheet], ...]
    fuel_system: str = "port"
    feeds: Mapping[str, str] = field(default_factory=dict)
    banks: Mapping[str, str] = field(default_factory=dict)
    set_aside: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True, kw_only=True)
class JobResult:
    """Results by sheet id, verdicts by injector, what on the engine comes first, the next step.

    ``facts`` are what the verdicts rest on; ``causes`` are (fact, words) of the engine itself.
    """

    sheets: tuple[tuple[str, Result], ...]
    facts: tuple[Fact, ...]
    verdicts: tuple[tuple[str, Verdict], ...]
    causes: tuple[tuple[str, str], ...]
    next_step: NextStep | None

    def facts_about(self, injector: str) -> tuple[Fact, ...]:
        """The facts of one injector that are said in words, sheet by sheet."""
        return tuple(f for f in self.facts if f.injector == injector and f.text)

    def speaking(self) -> dict[str, str]:
        """The id of the sheet that speaks, by kind."""
        return {kind: key for kind, (key, _) in newest(self.sheets).items()}


_ANALYSE: Final[dict[type, Callable[[Any, Thresholds], Result]]] = {
    drop.DropSheet: drop.analyse_drop,
    coil.CoilSheet: coil.analyse_coils,
    supply.SupplySheet: supply.analyse_supply,
    hold.HoldSheet: hold.analyse_hold,
    seen.SeenSheet: lambda sheet, _thresholds: seen.analyse_seen(sheet),
    walk.WalkSheet: lambda sheet, _thresholds: walk.analyse_walk(sheet),
    correction.CorrectionSheet: correction.analyse_corrections,
    returns.ReturnSheet: returns.analyse_returns,
    cranking.CrankingSheet: cranking.analyse_cranking,
    rail.RailSheet: rail.analyse_rail,
    opening.OpeningSheet: opening.analyse_opening,
}


def analyse_sheet(sheet: Sheet, thresholds: Thresholds = Thresholds()) -> Result:
    """Analyse one sheet of any kind."""
    return _ANALYSE[type(sheet)](sheet, thresholds)


def analyse_job(job: Job, thresholds: Thresholds = Thresholds()) -> JobResult:
    """Analyse every sheet of a job and weigh them together."""
    return weigh(job, tuple((key, analyse_sheet(sheet, thresholds)) for key, sheet in job.sheets))


def weigh(job: Job, results: tuple[tuple[str, Result], ...]) -> JobResult:
    """One verdict an injector from results that are there already."""
    facts = facts_of(results, Shares(feeds=job.feeds, banks=job.banks))
    if facts and job.fuel_system == "mechanical_diesel":
        facts = (*facts, Fact(code="mechanical_nozzles", injector="", sheet=""))
    common = frozenset(f.code for f in facts if not f.injector)
    own: dict[str, set[str]] = {label: set() for label in job.injectors}
    for fact in facts:
        if fact.injector in own:
            own[fact.injector].add(fact.code)
    said = bool(common) or any(own.values())
    verdicts = tuple((label, judge(common | own[label])) for label in job.injectors) if said else ()
    codes = {f.code for f in facts}
    return JobResult(
        sheets=results,
        facts=facts,
        verdicts=verdicts,
        causes=tuple((code, words) for code, words in CAUSES.items() if code in codes),
        next_step=next_in_job(
            injectors=job.injectors,
            results=results,
            verdicts=dict(verdicts),
            codes=codes,
            own=own,
            route=tuple(k for k in ROUTES.get(job.fuel_system, ()) if k not in job.set_aside),
        ),
    )
