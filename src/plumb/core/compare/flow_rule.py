"""The default rule: flow index against the readings that agree, with its uncertainty.

The steps, in order: flow index of each burst; who may vote; the group that agrees; the reference;
the deviation of each injector with its uncertainty by source; the decision.

>>> from plumb.core.compare.bursts import BurstSet, Injected
>>> psi = 6.894757293168
>>> ends = ((50, 26), (50.5, 26.5), (49.5, 23.5), (50, 26.5), (50, 31.5), (51, 27))
>>> rows = tuple(Injected(str(n), (flow_of(a * psi, b * psi, 0.5 * psi),))
...              for n, (a, b) in enumerate(ends, 1))
>>> judged = judge_by_flow(BurstSet(injected=rows, step=0.5 * psi), tolerance=0.10)
>>> [f"{100 * v.deviation:+.2f}" for v in judged.views]
['+1.14', '+0.45', '+12.22', '-1.36', '-25.19', '-0.23']
"""

import math
from collections.abc import Sequence
from collections.abc import Set as AbstractSet
from statistics import median
from typing import Final, NamedTuple

from plumb.core.compare.agreement import Group, agreeing
from plumb.core.compare.bursts import BurstSet, Injected, flow_of
from plumb.core.compare.held import Held, Others
from plumb.core.compare.renewed import Renewed
from plumb.core.compare.renewed import voters as asked
from plumb.core.measure.decision import (
    State,
    Thresholds,
    passes_to_settle,
)
from plumb.core.measure.uncertainty import Contribution, Repeatability, combined

__all__ = ["FlowJudgement", "FlowView", "flow_of", "judge_by_flow"]

VOTE_SHARE: Final = 0.15
"""Below this share of the second largest an injector gives too little to vote."""


class FlowView(NamedTuple):
    """One injector under the flow index; fractions of the reference, flow in sqrt(kPa).

    ``contributions`` are the sources whose root sum of squares is ``u``; ``held`` is what decides, None where
    nothing can be compared; ``graded``: another group, nearly as large, would decide otherwise.
    """

    injector: str
    flow: float
    deviation: float
    u: float
    contributions: tuple[Contribution, ...]
    probability_out: float
    state: State
    passes_to_settle: int | None
    votes: bool
    agrees: bool
    bound: bool
    held: Held | None = None
    graded: bool = False


class FlowJudgement(NamedTuple):
    """The set under the flow index; ``reference`` is None where no group could be formed.

    ``alone``: it is what is expected, because the engine has one injector only, or because the set is split
    and its camps lie on both sides of that.  ``graded``: the set is spread evenly.
    """

    views: tuple[FlowView, ...]
    group: Group | None
    agreeing: tuple[str, ...]
    against: tuple[tuple[str, ...], ...]
    reference: float | None
    u_reference: float
    tolerance: float
    repeatability: Repeatability
    split: bool
    settled_by_expected: bool
    alone: bool = False

    @property
    def graded(self) -> tuple[str, ...]:
        """On whom another group, nearly as large, would decide otherwise: the set is spread evenly."""
        return tuple(v.injector for v in self.views if v.graded)


APART_BY_CHANCE: Final = 2.0 * math.sqrt(2.0)
"""Two alike lie so many of their standard uncertainties apart in one of twenty (k = 2 of a difference)."""
APART: Final = 4.0
"""Two passes of one injector disagree beyond so many standard uncertainties of their difference."""


def intermittent(burst_set: BurstSet, tolerance: float) -> frozenset[str]:
    """Labels whose own passes disagree: beyond their scatter, and by twice the tolerance.

    Nothing of them is a mean: they do not vote, and their scatter says nothing of the others'.  The
    scatter is the others'; where more than half of those with several passes disagree, it is the
    method, and nobody is singled out.
    """
    several = [i for i in burst_set.injected if i.passes > 1]
    level = median(f.value for i in burst_set.injected for f in i.flows) if several else 0.0
    wide = {i.label for i in several if i.span > 2.0 * tolerance * level > 0.0}
    if not wide or 2 * len(wide) > max(len(several), 2):
        return frozenset()
    s = burst_set.repeatability(without=wide)
    return frozenset(i.label for i in several if i.label in wide and _apart(i, s, level))


def _apart(one: Injected, s: Repeatability, level: float) -> bool:
    # What the readings of one pass add: those of the mean are smaller by the root of the passes.
    readings = math.hypot(one.u_first, one.u_second) * math.sqrt(one.passes)
    return one.span > APART * math.sqrt(2.0) * math.hypot(s.relative * level, readings)


def _voters(
    injected: tuple[Injected, ...], odd: frozenset[str], renewed: Renewed = ()
) -> list[int]:
    """Indices of those that may vote: a drop that is there, not bounded, not next to nothing."""
    live = [k for k, i in enumerate(injected) if i.responds and not i.bound and i.label not in odd]
    live = [live[k] for k in asked([injected[k].label for k in live], renewed)]
    least = _least_to_vote([injected[k].flow for k in live])
    return [k for k in live if injected[k].flow >= least]


def _least_to_vote(flows: Sequence[float]) -> float:
    """The flow below which one gives next to nothing: a share of the second largest."""
    ranked = sorted(flows, reverse=True)
    return VOTE_SHARE * ranked[min(1, len(ranked) - 1)] if ranked else 0.0


def _faint(injected: tuple[Injected, ...]) -> frozenset[str]:
    """Labels that give next to nothing: a step of the gauge is much of that, and says nothing of a burst's scatter."""
    least = _least_to_vote([i.flow for i in injected if i.responds])
    return frozenset(i.label for i in injected if i.flow < least)


def _scatter(burst_set: BurstSet, tolerance: float) -> tuple[frozenset[str], Repeatability]:
    """Whose passes disagree, and how bursts scatter among all others that give something."""
    odd = intermittent(burst_set, tolerance)
    return odd, burst_set.repeatability(without=odd | _faint(burst_set.injected))


def _own(one: Injected, s: Repeatability, *, wanders: bool) -> tuple[Contribution, ...]:
    """Uncertainty of an injector's mean flow by source, relative to its own flow."""
    flow = max(one.flow, 1e-9) * math.sqrt(one.news(wanders=wanders) / one.situations)
    return (
        Contribution(source="gauge step, first reading", relative=one.u_first / flow),
        Contribution(source="gauge step, second reading", relative=one.u_second / flow),
        Contribution(source="burst to burst", relative=s.relative / math.sqrt(one.passes)),
    )


def _choose(
    group: Group, flows: list[float], expected: float | None, half: float
) -> tuple[Group, bool, bool]:
    """Settle a split with an expected flow: (group, still split, settled by expected)."""
    if not group.split or expected is None:
        return group, group.split, False
    camps = [group.members, *group.others]
    near = [c for c in camps if abs(sum(flows[k] for k in c) / len(c) / expected - 1.0) <= half]
    if len(near) != 1:
        return group, True, False
    members = near[0]
    chosen = Group(
        members=members,
        mean=sum(flows[k] for k in members) / len(members),
        spread=flows[members[-1]] - flows[members[0]],
        half_width=group.half_width,
        others=tuple(c for c in camps if c != members),
    )
    return chosen, False, True


def judge_by_flow(
    burst_set: BurstSet,
    tolerance: float,
    thresholds: Thresholds = Thresholds(),
    expected_flow: float | None = None,
    *,
    alone: bool = False,
    renewed: Renewed = (),
) -> FlowJudgement:
    """Judge every measured injector of a set by its flow index.

    ``tolerance`` is a fraction; ``expected_flow`` (sqrt(kPa)) settles a split set, and is what the engine's only
    injector (``alone``) is held against, having no neighbour, and what all are where none of them is near it; ``renewed`` were worked on: the others vote.
    """
    injected = burst_set.injected
    odd, s = _scatter(burst_set, tolerance)
    wanders = burst_set.wanders
    own = [_own(i, s, wanders=wanders) for i in injected]
    voters = _voters(injected, odd, renewed)
    if not voters:
        return _nothing_to_compare(injected, s, tolerance, odd)
    judged, members, rivals = _grouped(
        injected, own, voters, (tolerance, expected_flow), s, alone=alone
    )
    reference = judged.reference or 1.0
    read = [combined(parts[:-1]) for parts in own]
    against, *otherwise = (
        Others(injected, read, group, s, reference, wanders=wanders) for group in (members, *rivals)
    )
    views = tuple(
        _view(i, own[k], judged, thresholds, against.of(k), votes=k in voters)
        for k, i in enumerate(injected)
    )
    judged = judged._replace(
        views=tuple(_disagreeing(v) if v.injector in odd else v for v in views)
    )
    return _graded(judged, otherwise, thresholds)


def _grouped(
    injected: tuple[Injected, ...],
    own: Sequence[tuple[Contribution, ...]],
    voters: list[int],
    asked: tuple[float, float | None],
    s: Repeatability,
    *,
    alone: bool,
) -> tuple[FlowJudgement, list[int], list[list[int]]]:
    """Who agrees and what they give, nobody judged yet; the places of those, and of groups that might as well have been it.

    ``asked`` are the tolerance and the flow that is expected.
    """
    tolerance, expected_flow = asked
    flows = [injected[k].flow for k in voters]
    u_own = [combined(parts) for parts in own]
    # The gauge may widen the group up to the tolerance: beyond it nobody agrees, however little is known.
    u = median(u_own[k] for k in voters)
    half, noise = min(max(tolerance / 2.0, 2.0 * u), tolerance), APART_BY_CHANCE * u
    found = agreeing(flows, half, noise=noise)
    group, split, by_expected = _choose(found, flows, expected_flow, half)
    members = [voters[m] for m in group.members]
    judged = FlowJudgement(
        views=(),
        group=group,
        agreeing=tuple(injected[k].label for k in sorted(members)),
        against=tuple(tuple(injected[voters[m]].label for m in sorted(o)) for o in group.others),
        reference=group.mean,
        u_reference=math.hypot(*(u_own[k] * injected[k].flow for k in members)) / len(members),
        tolerance=tolerance,
        repeatability=s,
        split=split,
        settled_by_expected=by_expected,
    )
    if expected_flow and (alone or (split and _on_both_sides(group, flows, expected_flow, half))):
        return _against(judged, expected_flow), [], []
    sure = split or by_expected
    return judged, members, [] if sure else [[voters[m] for m in r] for r in group.rivals]


def _graded(
    judged: FlowJudgement, rivals: Sequence[Others], thresholds: Thresholds
) -> FlowJudgement:
    """Nobody is called by the chance of which group is larger by one: who would not be by each of them stays open."""
    made: list[FlowView] = []
    for k, view in enumerate(judged.views):
        states = {view.state}
        if view.held is not None and view.state in _BY_GROUP and not view.bound:
            states |= {r.of(k).state(judged.tolerance, thresholds) for r in rivals}
        graded = len(states) > 1 and bool(states & {State.LOW, State.HIGH})
        open_ = view._replace(state=State.UNSETTLED, passes_to_settle=None, graded=True)
        made.append(open_ if graded else view)
    return judged._replace(views=tuple(made))


_BY_GROUP: Final = frozenset({State.IN_PLUMB, State.LOW, State.HIGH, State.UNSETTLED})


def _on_both_sides(group: Group, flows: list[float], expected: float, half: float) -> bool:
    """Whether camps lie on both sides of what is expected and none near it: then neither is what the others are held against."""
    off = [
        sum(flows[k] for k in c) / len(c) / expected - 1.0 for c in (group.members, *group.others)
    ]
    return min(off) < -half and max(off) > half


def _against(judged: FlowJudgement, expected_flow: float) -> FlowJudgement:
    """Held against what is expected, as the engine's only injector is: nobody agrees with it."""
    return judged._replace(
        agreeing=(), reference=expected_flow, u_reference=0.0, split=False, alone=True,
        settled_by_expected=True,
    )  # fmt: skip


def _disagreeing(view: FlowView) -> FlowView:
    """A view of one whose passes disagree: a further pass tells more than their mean."""
    return view._replace(state=State.INTERMITTENT, passes_to_settle=1, agrees=False)


def _nothing_to_compare(
    injected: tuple[Injected, ...], s: Repeatability, tolerance: float, odd: AbstractSet[str]
) -> FlowJudgement:
    """No injector may vote: no group, no reference."""
    views = ((i.label, _unreferenced(i)) for i in injected)
    return FlowJudgement(
        views=tuple(_disagreeing(v) if label in odd else v for label, v in views),
        group=None,
        agreeing=(),
        against=(),
        reference=None,
        u_reference=0.0,
        tolerance=tolerance,
        repeatability=s,
        split=False,
        settled_by_expected=False,
    )


def _unreferenced(one: Injected) -> FlowView:
    """An injector of a set that has nothing to compare with."""
    return FlowView(
        injector=one.label,
        flow=one.flow,
        deviation=0.0,
        u=0.0,
        contributions=(),
        probability_out=0.0,
        state=State.NOT_JUDGED if one.responds else State.NO_RESPONSE,
        passes_to_settle=None,
        votes=False,
        agrees=False,
        bound=one.bound,
    )


def _contributions(
    one: Injected, own: tuple[Contribution, ...], judged: FlowJudgement, *, agrees: bool
) -> tuple[Contribution, ...]:
    """Where the uncertainty of a deviation from the reference comes from."""
    reference, size = judged.reference or 1.0, len(judged.agreeing)
    # A member is part of the mean it is compared with: its own share cancels (factor 1 - 2/M).
    factor = max(0.0, 1.0 - 2.0 / size) if agrees else 1.0
    # Taken at deviation zero for all, so that a strong and a weak injector are treated alike.
    u_ref = 0.0 if agrees and size == 1 else judged.u_reference / reference
    share = math.sqrt(factor) * max(one.flow / reference, 1e-9)
    mine = tuple(Contribution(source=c.source, relative=c.relative * share) for c in own)
    return (*mine, Contribution(source="the reference itself", relative=u_ref))


def _view(
    one: Injected,
    own: tuple[Contribution, ...],
    judged: FlowJudgement,
    thresholds: Thresholds,
    held: Held,
    *,
    votes: bool,
) -> FlowView:
    """Deviation, its uncertainty by source, and the decision for one injector."""
    agrees = one.label in judged.agreeing
    contributions = _contributions(one, own, judged, agrees=agrees)
    state = _state(one, held, judged, thresholds, agrees=agrees)
    more = (
        passes_to_settle(lambda k: held.state(judged.tolerance, thresholds, k, other_starts=True))
        if state is State.UNSETTLED and not one.bound
        else None
    )
    return FlowView(
        injector=one.label,
        flow=one.flow,
        deviation=one.flow / (judged.reference or 1.0) - 1.0,
        u=combined(contributions),
        contributions=contributions,
        probability_out=held.sides(judged.tolerance).out,
        state=state,
        passes_to_settle=more,
        votes=votes,
        agrees=agrees,
        bound=one.bound,
        held=held,
    )


def settles(
    judged: FlowJudgement,
    label: str,
    own: int,
    of_reference: int,
    thresholds: Thresholds,
    *,
    other_starts: bool = False,
) -> bool:
    """Whether so many more passes of an injector, and of each of the reference, would settle it.

    The means are taken to stay; a source falls with the root of the passes that it is the mean of, what the
    gauge adds only where they begin at ``other_starts``.
    """
    view = next(v for v in judged.views if v.injector == label)
    if view.held is None:
        return False
    mine = own + (of_reference if view.agrees else 0)
    after = view.held.state(
        judged.tolerance, thresholds, mine, of_reference, other_starts=other_starts
    )
    return after is not State.UNSETTLED


def _state(
    one: Injected,
    held: Held,
    judged: FlowJudgement,
    thresholds: Thresholds,
    *,
    agrees: bool,
) -> State:
    if not one.responds:
        return State.NO_RESPONSE
    if judged.split:
        return State.SPLIT
    if agrees and len(judged.agreeing) == 1 and not judged.settled_by_expected:
        return State.NOT_JUDGED
    state = held.state(judged.tolerance, thresholds)
    if one.bound and state is not State.HIGH:
        # The rail ran empty: it may have passed any amount more than this.
        return State.UNSETTLED
    return state
