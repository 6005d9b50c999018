"""A whole job: every sheet analysed, all of them weighed into one verdict an injector.

>>> analyse_job(Job(injectors=("1", "2", "3"), sheets=())).next_step.kind
'walk_round'
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.fact import Fact, Shares
from plumb.core.measure.spoken import NO_START
from plumb.core.measure.step import NextStep
from plumb.core.procedures import Result, Sheet, kind_of, route
from plumb.core.procedures.kind import Setting
from plumb.core.weigh.facts import facts_of, newest
from plumb.core.weigh.next_job import JobSoFar, next_in_job
from plumb.core.weigh.suspicions import CAUSES
from plumb.core.weigh.verdict import Verdict, judge


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """What is put in: injectors in reach order and the sheets as (id, sheet), oldest first.

    ``feeds`` and ``banks`` say who shares what; ``set_aside`` are kinds that will not be done,
    ``said`` the words of the complaint as it was told, where no walk-round has noted any.
    """

    injectors: tuple[str, ...]
    sheets: tuple[tuple[str, Sheet], ...]
    fuel_system: str = "port"
    feeds: Mapping[str, str] = field(default_factory=dict)
    banks: Mapping[str, str] = field(default_factory=dict)
    set_aside: frozenset[str] = frozenset()
    said: tuple[str, ...] = ()


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
    setting: Setting = field(default_factory=Setting)

    def facts_about(self, injector: str) -> tuple[Fact, ...]:
        """The facts of one injector that are said in words, sheet by sheet."""
        return tuple(f for f in self.facts if f.injector == injector and f.text)

    def speaking(self) -> dict[str, str]:
        """The id of the sheet that speaks, by kind."""
        return {kind: key for kind, (key, _) in newest(self.sheets).items()}


def analyse_sheet(sheet: Sheet, thresholds: Thresholds = Thresholds()) -> Result:
    """Analyse one sheet of any kind."""
    result: Result = kind_of(sheet).analyse(sheet, thresholds)
    return result


def analyse_job(job: Job, thresholds: Thresholds = Thresholds()) -> JobResult:
    """Analyse every sheet of a job and weigh them together."""
    return weigh(job, tuple((key, analyse_sheet(sheet, thresholds)) for key, sheet in job.sheets))


def weigh(job: Job, results: tuple[tuple[str, Result], ...]) -> JobResult:
    """One verdict an injector from results that are there already."""
    facts = facts_of(results, Shares(feeds=job.feeds, banks=job.banks), job.fuel_system)
    common = frozenset(f.code for f in facts if not f.injector)
    own: dict[str, set[str]] = {label: set() for label in job.injectors}
    for fact in facts:
        if fact.injector in own:
            own[fact.injector].add(fact.code)
    said = any(f.weighs for f in facts)
    verdicts = (
        tuple((label, judge(common | own[label], job.fuel_system)) for label in job.injectors)
        if said
        else ()
    )
    codes = {f.code for f in facts}
    setting = _setting(job, results)
    return JobResult(
        sheets=results,
        facts=facts,
        verdicts=verdicts,
        causes=tuple((code, words) for code, words in CAUSES.items() if code in codes),
        next_step=next_in_job(
            JobSoFar(
                injectors=job.injectors,
                results=results,
                verdicts=dict(verdicts),
                codes=codes,
                own=own,
                route=tuple(
                    k
                    for k in route(job.fuel_system)
                    if k.code not in job.set_aside and k.can_be_done(setting)
                ),
                setting=setting,
            )
        ),
        setting=setting,
    )


def _setting(job: Job, results: Sequence[tuple[str, Result]]) -> Setting:
    """The engine as it stands: what the walk-round noted counts, else what was told."""
    noted = (word for _, r in newest(results).values() for word in kind_of(r).complains(r))
    return Setting(fuel_system=job.fuel_system, starts=NO_START not in (tuple(noted) or job.said))
