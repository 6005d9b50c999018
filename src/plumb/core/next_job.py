"""The next step of a whole job: the procedure that settles most for each minute, cold work first.

Order: what is cheap and outside (walk-round, supply); the set measured once; what the sheet on the
bench still asks for; where a rail that does not hold loses it; what two contradicting procedures
leave open; then, for every injector that is not sound, whatever could still imitate its fault, by
how many such doubts a procedure clears for each minute.  None: nothing left would change a verdict.
"""

from collections.abc import Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from typing import Final

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
from plumb.core.decision import State
from plumb.core.evidence import Result, has_readings, newest
from plumb.core.isolation import step_of
from plumb.core.next_step import NextStep, next_step
from plumb.core.suspicions import SUSPICIONS
from plumb.core.verdict import Verdict


@dataclass(frozen=True, slots=True, kw_only=True)
class Effort:
    """Minutes of a procedure: once, and for each injector; ``cold`` is better on a cold engine."""

    once: float
    each: float
    cold: bool = False
    whole_set: bool = False


EFFORT: Final[dict[str, Effort]] = {
    walk.KIND: Effort(once=2.0, each=0.0),
    supply.KIND: Effort(once=4.0, each=0.0),
    hold.KIND: Effort(once=6.0, each=0.0),
    seen.COMMAND: Effort(once=1.0, each=0.7),
    coil.RESISTANCE: Effort(once=1.0, each=0.7, cold=True, whole_set=True),
    coil.VOLTAGE: Effort(once=2.0, each=1.0, whole_set=True),
    drop.KIND: Effort(once=3.0, each=1.5, whole_set=True),
    running.RUNNING: Effort(once=2.0, each=0.5, whole_set=True),
    seen.TIP_LEAK: Effort(once=20.0, each=0.5),
    running.FLOW_BENCH: Effort(once=30.0, each=3.0, whole_set=True),
    correction.KIND: Effort(once=3.0, each=0.3, whole_set=True),
    cranking.KIND: Effort(once=8.0, each=0.2, whole_set=True),
    returns.KIND: Effort(once=15.0, each=1.5, whole_set=True),
    rail.KIND: Effort(once=4.0, each=0.0),
    opening.KIND: Effort(once=30.0, each=8.0, whole_set=True),
}
"""Minutes are common practice, no source."""

_COMPARED: Final = (
    opening.KIND, drop.KIND, running.RUNNING, running.FLOW_BENCH, correction.KIND, returns.KIND,
)  # fmt: skip
"""Sheets that compare what injectors did; one of them must have been done."""

_SETTLED: Final = frozenset(
    {"sound", "coil_open", "coil_shorted", "no_command", "stuck_open", "opens_early", "opens_late"}
)
"""Conditions that no further sheet is asked for."""
_MOST_SHEETS: Final = 2
"""A procedure that contradicts another is done again once."""


def minutes(kind: str, count: int) -> float:
    """How long a procedure takes for so many injectors."""
    effort = EFFORT[kind]
    return effort.once + effort.each * count


def next_in_job(
    *,
    injectors: tuple[str, ...],
    results: Sequence[tuple[str, Result]],
    verdicts: Mapping[str, Verdict],
    codes: AbstractSet[str],
    own: Mapping[str, AbstractSet[str]],
    route: Sequence[str],
) -> NextStep | None:
    """The next step, None when nothing that is left to do would change a verdict.

    ``codes`` are all facts of the job, ``own`` those of each injector, ``route`` the procedures
    that this fuel system has and nobody set aside.
    """
    if "no_supply" in codes:
        return None
    there = {kind: result for kind, (_, result) in newest(list(results)).items()}
    compared = [k for k in _COMPARED if k in there]
    if not compared or (opening.KIND in route and opening.KIND not in there):
        return _to_begin(injectors, there, route)
    for kind in compared:
        step = _on_the_bench(there[kind], kind) if kind in route else None
        if step and not all(verdicts[i].condition in _SETTLED for i in step.injectors):
            return step
    return (
        _hold_step(there, route)
        or _contradicted(injectors, results, verdicts, route)
        or _doubts(injectors, there, verdicts, own, route)
        or _complaint(there, codes, route)
    )


def _step(kind: str, injectors: tuple[str, ...], reason: str, doubt: str = "") -> NextStep:
    return NextStep(
        kind=kind, injectors=injectors, passes=1, minutes=minutes(kind, len(injectors)),
        reason=reason, doubt=doubt,
    )  # fmt: skip


def _to_begin(
    injectors: tuple[str, ...], there: Mapping[str, Result], route: Sequence[str]
) -> NextStep | None:
    """Before the set was measured once: outside first, then the pump, then the set."""
    for kind, reason in ((walk.KIND, "outside_first"), (supply.KIND, "pump_first")):
        if kind in route and kind not in there:
            return _step(kind, (), reason)
    begun = there.get(walk.KIND)
    cold = isinstance(begun, walk.WalkResult) and "hard_start_cold" in begun.sheet.complaint
    if cold and coil.RESISTANCE in route and coil.RESISTANCE not in there:
        return _step(coil.RESISTANCE, injectors, "cold_first")
    if opening.KIND in route and cranking.KIND in route and cranking.KIND not in there:
        return _step(cranking.KIND, injectors, "compression_first")
    for kind in _COMPARED:
        if kind in route and injectors:
            return _step(kind, injectors, "not_measured")
    return None


def _on_the_bench(result: Result, kind: str) -> NextStep | None:
    """What a sheet that compares injectors still asks for."""
    if isinstance(result, drop.DropResult):
        return next_step(result) if result.kind == kind else None
    missing = tuple(f.injector for f in result.findings if not f.passes)
    if missing:
        return _step(kind, missing, "not_measured")
    if isinstance(result, opening.OpeningResult):
        for f in result.findings:
            if f.passes_to_settle and not result.nozzle(f.injector).fault:
                return NextStep(
                    kind=kind, injectors=(f.injector,), passes=f.passes_to_settle,
                    minutes=2.0 * f.passes_to_settle, reason="stroke_again",
                )  # fmt: skip
    return None


def _hold_step(there: Mapping[str, Result], route: Sequence[str]) -> NextStep | None:
    """A hold that is not finished, or a rail that loses it somewhere not yet known."""
    result = there.get(hold.KIND)
    if not isinstance(result, hold.HoldResult) or hold.KIND not in route:
        return None
    last = result.sheet.series[-1][0] if result.sheet.series else -1.0
    if result.state is State.UNSETTLED and result.due_after(last) is not None:
        return _step(hold.KIND, (), "hold_due")
    proposal = result.board.next_step
    if result.state is not State.LOW or proposal is None or result.board.found:
        return None
    step = step_of(proposal.step, result.sheet.rail)
    looked = there.get(seen.TIP_LEAK)
    if looked is not None and not looked.passed:
        return None
    if proposal.step == "tips" and looked is not None:
        return None
    return NextStep(
        kind=hold.KIND, injectors=(), passes=1, minutes=step.minutes, reason="isolate",
        isolation=proposal.step,
    )  # fmt: skip


def _contradicted(
    injectors: tuple[str, ...],
    results: Sequence[tuple[str, Result]],
    verdicts: Mapping[str, Verdict],
    route: Sequence[str],
) -> NextStep | None:
    done: dict[str, int] = {}
    for _, result in results:
        done[result.kind] = done.get(result.kind, 0) + has_readings(result)
    for label in injectors:
        for against in verdicts[label].contradictions:
            if against.repeat in route and done.get(against.repeat, 0) < _MOST_SHEETS:
                wanted = injectors if EFFORT[against.repeat].whole_set else (label,)
                if against.repeat in _WHOLE_ENGINE:
                    wanted = ()
                return _step(against.repeat, wanted, "contradiction", against.text)
    return None


def _read(result: Result | None) -> set[str]:
    """Injectors that a sheet has something on."""
    if result is None:
        return set()
    return {f.injector for f in result.findings if f.passes or f.state is State.OPEN}


def _doubts(
    injectors: tuple[str, ...],
    there: Mapping[str, Result],
    verdicts: Mapping[str, Verdict],
    own: Mapping[str, AbstractSet[str]],
    route: Sequence[str],
) -> NextStep | None:
    """The procedure that clears most doubts about injectors that are not sound, for each minute."""
    wanted: dict[str, list[str]] = {}
    doubts: dict[str, str] = {}
    for label in injectors:
        verdict = verdicts[label]
        if verdict.condition in _SETTLED and "answered_late" not in own[label]:
            continue
        for code in verdict.not_ruled_out:
            kind = SUSPICIONS[code].by
            if not kind or kind not in route or _done(kind, label, there):
                continue
            wanted.setdefault(kind, []).append(label)
            doubts.setdefault(kind, code)
    best: tuple[float, str, tuple[str, ...]] | None = None
    for kind in route:
        if kind not in wanted:
            continue
        effort = EFFORT[kind]
        labels = injectors if effort.whole_set else tuple(dict.fromkeys(wanted[kind]))
        score = len(wanted[kind]) / minutes(kind, len(labels)) * (1.25 if effort.cold else 1.0)
        if best is None or score > best[0] + 1e-12:
            best = (score, kind, labels if kind not in _WHOLE_ENGINE else ())
    if best is None:
        return None
    return _step(best[1], best[2], "doubt", doubts[best[1]])


_WHOLE_ENGINE: Final = frozenset({walk.KIND, supply.KIND, hold.KIND, rail.KIND})


def _done(kind: str, label: str, there: Mapping[str, Result]) -> bool:
    """Whether nothing more is to be had from a sheet of that kind about an injector."""
    if kind in _WHOLE_ENGINE or EFFORT[kind].whole_set:
        return kind in there
    return label in _read(there.get(kind))


def _complaint(
    there: Mapping[str, Result], codes: AbstractSet[str], route: Sequence[str]
) -> NextStep | None:
    """A complaint that a rail which does not hold would explain, and nobody looked yet."""
    if "complains_of_leak" in codes and hold.KIND in route and hold.KIND not in there:
        return _step(hold.KIND, (), "complaint")
    return None
