"""The default rule on the worked check set, on sets whose mean lies, and on hard cases."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import norm, t

from plumb.core.compare.flow import second_for
from plumb.core.compare.flow_rule import judge_by_flow
from plumb.core.measure.decision import State
from plumb.core.measure.uncertainty import combined
from tests.core.sets import CHECK, PSI, bursts

# Agreed check values of the method: step 0.5 psi, tolerance 10 %.
DEVIATIONS = (1.14, 0.45, 12.22, -1.36, -25.19, -0.23)


def test_the_worked_check_set() -> None:
    """Group 1, 2, 4, 6; reference 1.9498 root psi; deviations; u and probability of the third."""
    judged = judge_by_flow(bursts(CHECK), 0.10)
    assert judged.agreeing == ("1", "2", "4", "6")
    assert judged.reference is not None
    assert judged.reference / math.sqrt(PSI) == pytest.approx(1.9498, abs=5e-5)
    assert [100 * v.deviation for v in judged.views] == pytest.approx(DEVIATIONS, abs=0.006)
    third = judged.views[2]
    assert 100 * third.u == pytest.approx(1.60, abs=0.005)
    # The normal distribution gives 0.917; the scatter rests on four degrees of freedom, and with them on 11.6 of u's
    # (JCGM 100:2008, G.4.1), so Student's t counts.
    away = (third.deviation - 0.10) / third.u
    assert norm.cdf(away) == pytest.approx(0.917, abs=5e-4)
    scattered = math.hypot(0.011222, 0.01 / 2)
    assert third.probability_out == pytest.approx(
        t.cdf(away, third.u**4 / (scattered**4 / 4)), abs=1e-4
    )
    assert (third.state, third.passes_to_settle) == (State.UNSETTLED, 4)
    assert judged.views[4].state is State.LOW
    assert 100 * judged.views[4].u == pytest.approx(1.31, abs=0.006)


def test_two_against_two_is_split() -> None:
    """(40, 32) (40, 28) (40, 28) (40, 32): the set cannot say which half is right."""
    judged = judge_by_flow(bursts([(40, 32), (40, 28), (40, 28), (40, 32)]), 0.10)
    assert judged.split
    assert {v.state for v in judged.views} == {State.SPLIT}
    assert {judged.agreeing, *judged.against} == {("1", "4"), ("2", "3")}


def test_the_asked_pass_settles_it() -> None:
    """Plumb said four more passes: measured alike from other starts, it is called, and not before three."""
    flow = math.sqrt(49.5) - math.sqrt(23.5)
    starts = (49.5, 50.5, 51.5, 48.5)
    for passes, says in ((2, State.UNSETTLED), (3, State.UNSETTLED), (4, State.HIGH)):
        sets = [[p] for p in CHECK]
        sets[2] = [(s, (math.sqrt(s) - flow) ** 2) for s in starts[:passes]]
        assert judge_by_flow(bursts(sets), 0.10).views[2].state is says


def test_contributions_add_up_to_the_total() -> None:
    """The total is derived from the parts, never stated beside them."""
    for view in judge_by_flow(bursts(CHECK), 0.10).views:
        assert combined(view.contributions) == pytest.approx(view.u)
        assert {c.source for c in view.contributions} == {
            "gauge step, first reading", "gauge step, second reading", "burst to burst",
            "the reference itself"}  # fmt: skip


def test_a_member_is_compared_with_a_mean_it_is_part_of() -> None:
    """By simulation: the stated u of a member's deviation is the scatter it has."""
    import numpy as np  # noqa: PLC0415

    rng = np.random.default_rng(11)
    found = []
    for _ in range(3000):
        flows = rng.normal(1.0, 0.01, 4)
        found.append(flows[0] / flows.mean() - 1.0)
    pairs = [(50.0, 26.0)] * 4
    view = judge_by_flow(bursts(pairs, step=1e-6), 0.10).views[0]
    assert view.u == pytest.approx(np.std(found), rel=0.05)


def test_one_stuck_open_does_not_make_the_good_ones_look_dead() -> None:
    """Voting counts from the second largest: five good ones at a seventh of the wild one."""
    wild = (50.0, 2.0)
    good = (50.0, 45.0)
    judged = judge_by_flow(bursts([good, good, wild, good, good]), 0.10)
    assert [v.state for v in judged.views] == [
        State.IN_PLUMB, State.IN_PLUMB, State.HIGH, State.IN_PLUMB, State.IN_PLUMB]  # fmt: skip


def test_who_gives_next_to_nothing_does_not_vote() -> None:
    """Below 15 % of the second largest (docs/methods.md): 10 % does not, 17 % does."""
    judged = judge_by_flow(bursts([(50, 26)] * 3 + [(50, 47.25), (50, 45.4)], step=0.01), 0.10)
    flows = [
        (math.sqrt(50) - math.sqrt(p)) / (math.sqrt(50) - math.sqrt(26)) for p in (47.25, 45.4)
    ]
    assert flows == pytest.approx([0.10, 0.17], abs=0.005)
    assert [v.votes for v in judged.views] == [True, True, True, False, True]


def test_starts_that_wander_do_not_mislead() -> None:
    """The same injector from 40 to 58 psi: plain drops differ by half, the index does not."""
    flow = math.sqrt(50) - math.sqrt(26)
    pairs = [(p, round(second_for(p, flow), 1)) for p in (40.0, 46.0, 52.0, 58.0)]
    judged = judge_by_flow(bursts(pairs, step=0.1), 0.10)
    assert {v.state for v in judged.views} == {State.IN_PLUMB}
    assert max(a - b for a, b in pairs) / min(a - b for a, b in pairs) > 1.2


def test_an_empty_rail_votes_on_nothing_and_is_never_cleared() -> None:
    """A bound can only be called high, or left open."""
    judged = judge_by_flow(bursts([(50, 26), (50, 26), (50, 26), (24, 0)]), 0.10)
    last = judged.views[3]
    assert last.bound
    assert not last.votes
    assert last.state is State.HIGH
    near = judge_by_flow(bursts([(50, 26), (50, 26), (50, 26), (4, 0)]), 0.10).views[3]
    assert near.state is State.UNSETTLED
    assert near.passes_to_settle is None


def test_one_alone_is_not_judged() -> None:
    """Nothing to compare with."""
    views = judge_by_flow(bursts([(50, 26), (50, 50)]), 0.10).views
    assert [v.state for v in views] == [State.NOT_JUDGED, State.NO_RESPONSE]
    only = views[0]
    assert (only.deviation, only.u, only.probability_out) == (0.0, 0.0, 0.0)


def test_an_expected_flow_settles_a_split() -> None:
    """Of two halves the one that gives what was foretold is the reference."""
    pairs = [(40, 32), (40, 28), (40, 28), (40, 32)]
    expected = (math.sqrt(40) - math.sqrt(28)) * math.sqrt(PSI)
    judged = judge_by_flow(bursts(pairs), 0.10, expected_flow=expected)
    assert judged.settled_by_expected
    assert not judged.split
    assert [v.state.value for v in judged.views] == ["low", "in_plumb", "in_plumb", "low"]


@settings(max_examples=60)
@given(
    st.lists(st.sampled_from([26.0, 26.5, 27.0, 31.5, 22.0, 50.0]), min_size=2, max_size=8),
    st.floats(0.5, 2.0),
)
def test_the_unit_does_not_matter(ends: list[float], factor: float) -> None:
    """Everything scaled, the gauge's step too: the same deviations and states."""
    one = judge_by_flow(bursts([(50.0, e) for e in ends], 0.5), 0.10)
    two = judge_by_flow(bursts([(50.0 * factor, e * factor) for e in ends], 0.5 * factor), 0.10)
    assert [v.state for v in one.views] == [v.state for v in two.views]
    assert [v.deviation for v in one.views] == pytest.approx([v.deviation for v in two.views])


@pytest.mark.parametrize("dead", [(50, 50), (50, 50.5)])
def test_no_drop_is_no_response(dead: tuple[float, float]) -> None:
    """Also where the needle trembled upwards by a step."""
    views = judge_by_flow(bursts([(50, 26), (50, 26), (50, 26), dead]), 0.10).views
    assert views[3].state is State.NO_RESPONSE
