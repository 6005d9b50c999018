"""Somebody who only does what the next step says, and whether the engine's fault is found.

Right is a diagnosis whose actions are all right: nothing good is condemned, every bad injector is
named as what it is, every cause of the engine is found (or is the likeliest left), and the complaint
is said to be explained where it is, and not where it comes from elsewhere.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np

from plumb.bench.engines.gauges import Bench
from plumb.bench.engines.hidden import Hidden, put_right
from plumb.core.procedures import route
from plumb.core.procedures.kind import Setting
from plumb.core.weigh.job import Job, JobResult, analyse_job

_MOST_STEPS: Final = 40
_CONDEMNS: Final = frozenset({"replace", "bench_test", "clean_and_repeat", "reshim"})
AS_GOOD_AS: Final = {
    "gives_less": {"gives_less", "opens_weakly"},
    "opens_weakly": {"opens_weakly", "gives_less", "no_response", "intermittent"},
    "intermittent": {"intermittent", "gives_less", "no_response"},
    "coil_shorted": {"coil_shorted", "coil_out_of_window"},
    "gives_more": {"gives_more"},
    "leaks_at_tip": {"leaks_at_tip", "stuck_open"},
    "stuck_open": {"stuck_open", "leaks_at_tip"},
    "no_response": {"no_response"},
    "coil_open": {"coil_open"},
    "returns_too_much": {"returns_too_much"},
    "opens_early": {"opens_early"},
    "opens_late": {"opens_late"},
    "seat_leaks": {"seat_leaks"},
    "bad_spray": {"bad_spray"},
}
"""Conditions that lead to the same work."""
SAME_REPAIR: Final = {
    "all_clogged": {"all_clogged", "gives_less"},
    "supply": {"supply", "regulator"},
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """What came of one engine."""

    right: bool
    injectors_right: int
    injectors: int
    good: int
    condemned: int
    cause_right: bool
    explained_right: bool
    minutes: float
    full_minutes: float
    steps: tuple[str, ...]
    ended: bool
    said: str


def full_route(system: str, count: int, *, starts: bool) -> float:
    """Minutes of every sheet of the route that this engine can do, and of the board."""
    setting = Setting(fuel_system=system, starts=starts)
    kinds = [k for k in route(system) if not k.optional and k.can_be_done(setting)]
    return sum(k.effort.minutes(0 if k.of_engine else count) for k in kinds)


def job_of(bench: Bench) -> Job:
    """The job as it stands."""
    engine = bench.engine
    return Job(
        injectors=bench.labels,
        sheets=tuple((f"s{n}", sheet) for n, sheet in enumerate(bench.sheets)),
        fuel_system=engine.system,
        feeds=dict(zip(bench.labels, engine.feed, strict=True)) if engine.shares_feeds else {},
        said=tuple(sorted(engine.words)),
        cylinders={x: int(x) for x in bench.labels},
    )


def follow(
    engine: Hidden,
    seed: int,
    *,
    bench: Bench | None = None,
    watch: Callable[[JobResult], None] = lambda _: None,
) -> Outcome:
    """Do the next step until there is none, from the sheets of a ``bench`` or from the beginning."""
    bench = bench or Bench(engine, np.random.default_rng(seed))
    minutes, steps, found = 0.0, [], set()
    full = full_route(engine.system, engine.count, starts=engine.starts)
    result = analyse_job(job_of(bench))
    for _ in range(_MOST_STEPS):
        watch(result)
        step = result.next_step
        if step is None:
            break
        steps.append(step.isolation or f"{step.kind}:{step.reason}")
        if step.repairs:
            found.add(step.cause)
            put_right(engine, step.cause)
            if step.doubt:
                bench.take(step.doubt, ())
        else:
            again = step.reason == "contradiction"
            bench.take(step.kind, step.injectors, step.passes, step.isolation, again=again)
        minutes += step.minutes
        result = analyse_job(job_of(bench))
    return score(engine, result, found, (minutes, full), tuple(steps))


def by_hand(engine: Hidden, seed: int, rule: str = "") -> Outcome:
    """Every sheet of the route in working order, with what each still asks for; then the verdict.

    With a ``rule`` drops are judged by it, once, and only what a sheet shows counts: no shares.
    """
    bench = Bench(engine, np.random.default_rng(seed))
    bench.rule = rule
    steps: list[str] = []
    setting = Setting(fuel_system=engine.system, starts=engine.starts)
    for kind in route(engine.system):
        if kind.optional or not kind.can_be_done(setting):
            continue
        bench.take(kind.code, ())
        steps.append(kind.code)
        for _ in range(0 if rule and kind.compares else _MOST_STEPS):
            result = analyse_job(job_of(bench))
            newest_of = [r for _, r in result.sheets if r.kind == kind.code][-1]
            step = kind.asks(kind, newest_of, {f.code for f in result.facts})
            if step is None:
                break
            bench.take(step.kind, step.injectors, step.passes, step.isolation)
            steps.append(step.reason)
    result = analyse_job(job_of(bench))
    full = full_route(engine.system, engine.count, starts=engine.starts)
    return score(engine, result, set(), (full, full), tuple(steps), shares=not rule)


def score(
    engine: Hidden,
    result: JobResult,
    repaired: set[str],
    minutes: tuple[float, float],
    steps: tuple[str, ...],
    *,
    shares: bool = True,
) -> Outcome:
    """Hold what was said against what is true; without ``shares`` only what was found counts."""
    injectors_right, condemned = _injectors(engine, result)
    causes = result.diagnosis.causes
    named = {c.fault.code for c in causes if c.state == "found"} | repaired
    likely = [c.fault.code for c in causes if c.state == "suspected" and not c.outside][:shares]
    missed = [c for c in engine.causes if not SAME_REPAIR.get(c, {c}) & {*named, *likely}]
    wrong = {
        c.fault.code for c in causes if c.state == "found" and not c.place
    } - engine.causes - {"supply", "regulator"}  # fmt: skip
    explained = result.diagnosis.explained
    explained_right = _explained(engine, explained, repaired)
    return Outcome(
        right=injectors_right == engine.count and not missed and not wrong and explained_right,
        injectors_right=injectors_right, injectors=engine.count,
        good=engine.count - len(engine.truth), condemned=condemned,
        cause_right=not missed and not wrong, explained_right=explained_right,
        minutes=minutes[0], full_minutes=minutes[1], steps=steps,
        ended=result.next_step is None,
        said=f"{[(x, v.condition) for x, v in result.verdicts]} {sorted(named)} {likely} {explained}",
    )  # fmt: skip


def _injectors(engine: Hidden, result: JobResult) -> tuple[int, int]:
    """How many injectors are judged rightly, and how many good ones are condemned."""
    verdicts = dict(result.verdicts)
    right, condemned = 0, 0
    for k in range(engine.count):
        verdict = verdicts.get(str(k + 1))
        said = verdict.condition if verdict else ""
        truth = engine.truth.get(k)
        if truth:
            right += said in AS_GOOD_AS[truth]
            continue
        acted = verdict is not None and verdict.action in _CONDEMNS
        blamed = acted and not ("all_clogged" in engine.causes and said == "gives_less")
        condemned += blamed
        right += not blamed
    return right, condemned


def _explained(engine: Hidden, explained: str, repaired: set[str]) -> bool:
    """Whether the complaint is said to be explained where it is, and not where it is not."""
    if not engine.words:
        return True
    if not engine.outside:
        return explained in {"yes", "partly"} or bool(repaired)
    if engine.truth or engine.causes:
        return explained != "none"
    return explained == "no"
