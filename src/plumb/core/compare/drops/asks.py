"""What a begun sheet of this sort still asks for.

Order: what has no reading yet, on this sheet or on one before it; a neighbour where there is none to
compare with; a silent injector once more, because a weak supply imitates it; one that answered only
then; one whose passes disagree, because that may be a slip; a split set again; then the passes that settle
most injectors for each burst, planned over the set: those of the reference are measured again where
it is the reference that is not known well enough.  The detection bench says what that is worth.

>>> from plumb.core.compare.drops.sheet import DropSheet, analyse_drop
>>> found = analyse_drop(DropSheet(kind="any", injectors=("1", "2"), readings=(), step=3.4))
>>> step = next_step(found, minutes=1.5)
>>> step.injectors, step.passes, step.minutes
(('1', '2'), 1, 3.0)
"""

import math
from dataclasses import replace
from itertools import pairwise
from typing import Final

from plumb.core.compare.alone import alone_without_reference
from plumb.core.compare.drops.doubt import Doubt, doubt_of
from plumb.core.compare.drops.sheet import DropResult
from plumb.core.compare.flow_rule import settles
from plumb.core.measure.decision import MOST_PASSES, State
from plumb.core.measure.finding import Finding
from plumb.core.measure.step import NextStep
from plumb.core.measure.text import listed

_MOST_IN_ALL: Final = 8
"""More passes of one injector are not asked for: what they add is less than what the gauge hides."""
_MOST_OF_OTHERS: Final = 4
"""Nor are those that agree read more often for another's sake: half of what they are known to is gained by then."""
_MOST_ROUNDS: Final = 3
_DEAREST: Final = 12
"""More bursts than this for one injector are not worth it: a finer gauge or a longer burst is."""
_TELLING: Final = 3
"""With so many passes a set that is split, or one that sticks, has shown it: a further one adds little."""
_TWICE: Final = 2
_TELLING_A_SLIP: Final = 5
"""One pass that lies apart from all others may be a slip: with so many it would have come again; a burst that
sticks every other time does so in seven of eight."""


def next_step(result: DropResult, minutes: float) -> NextStep | None:
    """The next step on the sheet, None when it asks for nothing; ``minutes`` one burst takes."""
    before = result.sheet.read_before
    open_ = tuple(
        f.injector
        for f in result.findings
        if f.state is not State.NO_RESPONSE and f.passes == 0 and f.injector not in before
    )
    if open_:
        return _step(result, open_, 1, "not_measured", minutes)
    if before and all(f.state is State.NOT_JUDGED for f in result.findings):
        # Taken in another way than before: one neighbour is enough to be compared with.
        return _step(result, before[:1], 1, "neighbour", minutes)
    if alone := alone_without_reference(result.findings):
        return _step(result, alone, 1, "alone", minutes)
    silent = tuple(f.injector for f in result.findings if _to_be_driven_again(result, f))
    if silent:
        return _step(result, silent, 1, "silent_once", minutes)
    woken = tuple(f.injector for f in result.findings if f.answered_late and f.passes == 1)
    if woken:
        return _step(result, woken, 1, "woken", minutes)
    odd = tuple(
        f.injector
        for f in result.findings
        if f.state is State.INTERMITTENT and _may_be_a_slip(result, f)
    )
    if odd:
        return _step(result, odd, 1, "disagree", minutes)
    again = _split_again(result)
    if again:
        return _step(result, again, 1, "split_again", minutes)
    graded = _graded_again(result)
    if graded:
        return _step(result, graded, 1, "graded_again", minutes)
    waiting = [f for f in result.findings if _can_settle(f)]
    if waiting and all(_stays_too_coarse(f) for f in waiting):
        # A gauge that is too coarse stays so, however often everybody is read: a finer one is said, not asked.
        return None
    return _planned(result, waiting, minutes) if waiting else None


def _stays_too_coarse(finding: Finding) -> bool:
    """Whether three readings have left it as open: a mean moves, and a step of the gauge is less of it."""
    return doubt_of(finding) is Doubt.TOO_COARSE and finding.passes >= _TELLING


def _to_be_driven_again(result: DropResult, finding: Finding) -> bool:
    """Whether it was silent once, or gave too little by a supply that makes a good one look stuck."""
    told = _bursts_told(result, finding.injector)
    if finding.injector in result.driven_weakly:
        return finding.state in {State.NO_RESPONSE, State.LOW} and told < _TELLING
    return finding.state is State.NO_RESPONSE and told < _TWICE


def _may_be_a_slip(result: DropResult, finding: Finding) -> bool:
    """Whether a further pass tells a slip, which comes once, from a burst that sticks."""
    most = _TELLING if result.strays(finding.injector) > 1 else _TELLING_A_SLIP
    return finding.passes < most


def _split_again(result: DropResult) -> tuple[str, ...]:
    """Who is read once more where a set is split whose halves may yet touch; nobody where they do not.

    Halves whose nearest members lie further apart than the band will not meet by a better mean.
    """
    split = {f.injector: f for f in result.findings if f.state is State.SPLIT}
    if not split or min(f.passes for f in split.values()) >= _TELLING:
        return ()
    camp = {x: n for n, c in enumerate((result.flow.agreeing, *result.flow.against)) for x in c}
    ranked = sorted((v for v in result.flow.views if v.injector in camp), key=lambda v: v.flow)
    gaps = [
        (b.flow - a.flow) / b.flow - 2.0 * math.hypot(a.u, b.u)
        for a, b in pairwise(ranked)
        if camp[a.injector] != camp[b.injector]
    ]
    if not gaps or min(gaps) > result.tolerance:
        return ()
    return tuple(f.injector for f in result.findings if f.passes < _TELLING)


def _graded_again(result: DropResult) -> tuple[str, ...]:
    """Who is read once more where who agrees hangs on chance: all that vote, until each was read often enough.

    What is left then is how the set is: an expected drop or a bench tells, and no further pass.
    """
    if not any(f.graded for f in result.findings):
        return ()
    votes = {v.injector for v in result.flow.views if v.votes}
    return tuple(
        f.injector
        for f in result.findings
        if f.injector in votes and not f.carried and f.passes < _TELLING
    )


def _planned(result: DropResult, waiting: list[Finding], minutes: float) -> NextStep:
    """The plan that settles most injectors for each burst if their means stay, begun with one round.

    An injector on the edge is often there because the reference is known badly: then those that it is
    compared with are measured again as well.  Where nothing would settle it everybody is, once: means
    move.
    """
    flow = result.flow
    passes = {f.injector: f.passes for f in result.findings}
    before = {f.injector for f in result.findings if f.carried}
    members = [x for x in flow.agreeing if passes[x] < _MOST_OF_OTHERS and x not in before]
    labels = tuple(f.injector for f in waiting)
    by_rule = result.chosen.rule != "flow_index"
    most_rounds = 0 if by_rule or not members else _MOST_ROUNDS
    best = _cheapest(result, labels, len(members), most_rounds, other_starts=False)
    if not by_rule and not result.bursts.wanders:
        elsewhere = _cheapest(result, labels, len(members), most_rounds, other_starts=True)
        if elsewhere and elsewhere[1] and (best is None or elsewhere[0] < best[0] - 1e-12):
            return _step(result, labels, 1, "another_start", minutes)
    if best is None:
        # A gauge that is too coarse stays so, however often everybody is read.
        edge = any(doubt_of(f) is Doubt.ON_THE_EDGE for f in waiting)
        own, of_reference = 1, int(edge and not by_rule)
        reason = "edge"
    else:
        _, own, of_reference = best
        reason = "unsettled"
    if of_reference and members:
        asked = set(members) | (set(labels) if own else set())
        order = tuple(x for x in passes if x in asked)
        return replace(_step(result, order, 1, "reference", minutes), doubt=listed(labels))
    left = min(_MOST_IN_ALL - passes[x] for x in labels)
    return _step(result, labels, max(1, min(own, left)), reason, minutes)


def _cheapest(
    result: DropResult, labels: tuple[str, ...], members: int, rounds: int, *, other_starts: bool
) -> tuple[float, int, int] | None:
    """(Bursts for each that it settles, further passes of them, of the reference); None where nothing settles."""
    best: tuple[float, int, int] | None = None
    for of_reference in range(rounds + 1):
        for own in range(MOST_PASSES + 1):
            settled = sum(
                settles(
                    result.flow, x, own, of_reference, result.thresholds, other_starts=other_starts
                )
                for x in labels
            )
            cost = own * len(labels) + of_reference * members
            if (
                settled
                and 0 < cost <= _DEAREST * settled
                and (best is None or cost / settled < best[0] - 1e-12)
            ):
                best = (cost / settled, own, of_reference)
    return best


def _bursts_told(result: DropResult, label: str) -> int:
    """Bursts of an injector that told something, the silent ones included."""
    return sum(
        1
        for r in result.sheet.readings
        if r.injector == label and (r.second is not None or r.mark == "none")
    )


def _can_settle(finding: Finding) -> bool:
    open_ = finding.state is State.UNSETTLED and not finding.bound and not finding.carried
    return open_ and not finding.graded and finding.passes < _MOST_IN_ALL


def _step(
    result: DropResult, injectors: tuple[str, ...], passes: int, reason: str, minutes: float
) -> NextStep:
    return NextStep(
        kind=result.kind,
        injectors=injectors,
        passes=passes,
        reason=reason,
        minutes=minutes * len(injectors) * passes,
    )
