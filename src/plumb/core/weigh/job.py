"""A whole job: every sheet analysed, all of them weighed into one verdict an injector.

>>> analyse_job(Job(injectors=("1", "2", "3"), sheets=())).next_step.kind
'walk_round'
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from plumb.core.causes.fault import INJECTOR
from plumb.core.causes.sighting import Sighting
from plumb.core.causes.table import FAULTS
from plumb.core.diagnose.case import Case
from plumb.core.diagnose.explain import Diagnosis, at_the_end, diagnosis_of
from plumb.core.diagnose.sets import Weighed, weigh_faults
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.fact import Fact, Shares
from plumb.core.measure.spoken import NO_START
from plumb.core.measure.step import NextStep
from plumb.core.procedures import AnyKind, Result, Sheet, kind_of, route
from plumb.core.procedures.kind import Setting
from plumb.core.weigh.facts import facts_of, newest, of_codes, still_telling
from plumb.core.weigh.next_job import JobSoFar, next_in_job
from plumb.core.weigh.suspicions import CAUSES
from plumb.core.weigh.verdict import Verdict, accept, at_rest, judge, judge_sighted


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """What is put in: injectors in reach order and the sheets as (id, sheet), oldest first.

    ``feeds`` and ``banks`` say who shares what; ``set_aside`` are kinds that will not be done,
    ``said`` the words of the complaint as it was told, where no walk-round has noted any, ``codes``
    the fault codes.  ``cylinders`` are their numbers by injector; ``common`` how common faults are in
    this shop, where it has learnt that.  ``gone`` are (sheet, injector) whose readings a repair has
    made out of date; ``sightings`` are causes that a person found.  ``boosted``: a turbo or supercharger
    loads the engine.  ``accepted`` is by injector why a person takes a value that is not settled.
    ``no_more`` are words of the complaint that a repair has cured.
    """

    injectors: tuple[str, ...]
    sheets: tuple[tuple[str, Sheet], ...]
    fuel_system: str = "port"
    feeds: Mapping[str, str] = field(default_factory=dict)
    banks: Mapping[str, str] = field(default_factory=dict)
    set_aside: frozenset[str] = frozenset()
    said: tuple[str, ...] = ()
    codes: tuple[str, ...] = ()
    cylinders: Mapping[str, int] = field(default_factory=dict)
    common: Mapping[str, float] = field(default_factory=dict)
    gone: frozenset[tuple[str, str]] = frozenset()
    sightings: tuple[Sighting, ...] = ()
    boosted: bool = False
    accepted: Mapping[str, str] = field(default_factory=dict)
    no_more: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True, kw_only=True)
class JobResult:
    """Results by sheet id, verdicts by injector, what on the engine comes first, the next step.

    ``facts`` are what the verdicts rest on; ``causes`` are (fact, words) of the engine itself;
    ``diagnosis`` says what explains the complaint, ``weighed`` the shares of all
    faults, ``alternatives`` are steps beside the next one.
    """

    sheets: tuple[tuple[str, Result], ...]
    facts: tuple[Fact, ...]
    verdicts: tuple[tuple[str, Verdict], ...]
    causes: tuple[tuple[str, str], ...]
    next_step: NextStep | None
    diagnosis: Diagnosis
    weighed: Weighed
    alternatives: tuple[NextStep, ...] = ()
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
    """One verdict an injector from results that are there already, and what explains the complaint."""
    everything, results = results, still_telling(results)
    shares = Shares(feeds=job.feeds, banks=job.banks)
    noted = [(kind_of(r), r) for _, r in newest(results).values()]
    codes = tuple(dict.fromkeys((*job.codes, *(c for k, r in noted for c in k.codes_read(r)))))
    shown = facts_of(results, shares, job.fuel_system, job.gone)
    facts = (*shown, *of_codes(codes, job.cylinders))
    common = frozenset(f.code for f in facts if not f.injector)
    own = _own(job, facts, results)
    verdicts = {
        label: accept(v, job.accepted.get(label, ""))
        for label, v in _verdicts(job, common, own, said=any(f.weighs for f in facts)).items()
    }
    said = tuple(w for kind, r in noted for w in kind.complains(r)) or job.said
    words = tuple(w for w in said if w not in job.no_more)
    # An engine that ran while something was measured starts, whatever was complained of before.
    ran = any(kind.runs(r) for kind, r in noted)
    setting = Setting(
        fuel_system=job.fuel_system, starts=ran or NO_START not in words, boosted=job.boosted
    )
    weighed = weigh_faults(_case(job, facts, words, codes))
    conditions = {label: (v.condition, v.because) for label, v in verdicts.items()}
    first = {label for label, v in verdicts.items() if v.waits}
    so_far = diagnosis_of(weighed, conditions, first)
    steps = next_in_job(
        JobSoFar(
            injectors=job.injectors, results=results, verdicts=verdicts, own=own, setting=setting,
            codes={f.code for f in facts}, route=_route(job, setting), weighed=weighed,
            causes=so_far.causes, complained=bool(so_far.words), explained=so_far.explained == "yes",
        )
    )  # fmt: skip
    return JobResult(
        sheets=everything,
        facts=facts,
        verdicts=tuple(verdicts.items()) if steps else at_rest(verdicts.items()),
        causes=_first(facts),
        next_step=steps[0] if steps else None,
        alternatives=steps[1:],
        diagnosis=so_far if steps else at_the_end(so_far),
        weighed=weighed,
        setting=setting,
    )


def _verdicts(
    job: Job, common: frozenset[str], own: Mapping[str, set[str]], *, said: bool
) -> dict[str, Verdict]:
    """The verdict of each injector, by its facts or by what a person found at it; none before anything was."""
    seen = {s.place: s for s in job.sightings if FAULTS[s.fault].of == INJECTOR}
    return {
        label: judge_sighted(seen[label])
        if label in seen
        else judge(common | own[label], job.fuel_system)
        for label in job.injectors
        if said or seen
    }


def _own(
    job: Job, facts: Sequence[Fact], results: Sequence[tuple[str, Result]]
) -> dict[str, set[str]]:
    """The facts of each injector; of one that no sheet has told anything of, that it was never read."""
    own: dict[str, set[str]] = {label: set() for label in job.injectors}
    told = {f.injector for _, r in results for f in r.findings if f.told}
    for fact in facts:
        if fact.injector in own:
            own[fact.injector].add(fact.code)
    for label in own.keys() - told:
        own[label].add("never_read")
    return own


def _route(job: Job, setting: Setting) -> tuple[AnyKind, ...]:
    """The procedures of this engine as it stands that nobody set aside, in working order."""
    return tuple(
        k for k in route(job.fuel_system) if k.code not in job.set_aside and k.can_be_done(setting)
    )


def _first(facts: Sequence[Fact]) -> tuple[tuple[str, str], ...]:
    """What on the engine comes first, as (fact, words)."""
    codes = {f.code for f in facts}
    # What returns has been found: the rail that lies low is what it leaves.
    told = codes - ({"rail_low"} if "returns_high" in codes else set())
    return tuple((code, words) for code, words in CAUSES.items() if code in told)


def _case(
    job: Job, facts: tuple[Fact, ...], words: tuple[str, ...], codes: tuple[str, ...]
) -> Case:
    """What is weighed: the engine with its complaint, its codes, and everything that was seen."""
    return Case(
        fuel_system=job.fuel_system,
        injectors=job.injectors,
        facts=facts,
        words=words or None,
        codes=codes,
        feeds={x: job.feeds.get(x, "") or job.banks.get(x, "") for x in job.injectors},
        cylinders=job.cylinders,
        common=job.common,
        sightings=job.sightings,
    )
