"""One whose own passes disagree: singled out, and nobody else's judgement moves for it."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumb.core.compare.drops.asks import next_step
from plumb.core.compare.drops.sheet import analyse_drop
from plumb.core.compare.flow_rule import APART, intermittent
from plumb.core.measure.decision import State
from plumb.core.weigh.job import Job, analyse_job
from tests.core.jobs import scan, verdicts
from tests.core.sets import bursts, drop_sheet

GOOD = [[(50, 26), (50, 26.5)], [(50.5, 26.5), (50, 26)], [(49.5, 26), (50, 26.5)]]


def test_a_burst_that_stuck_once_is_its_own_state_and_spoils_nobody() -> None:
    """50 to 50, then 50 to 26: the others are judged as if it were not there."""
    odd = analyse_drop(drop_sheet([*GOOD, [(50, 50), (50, 26)]]))
    alone = analyse_drop(drop_sheet(GOOD))
    assert [f.state for f in odd.findings] == [State.IN_PLUMB] * 3 + [State.INTERMITTENT]
    for one, other in zip(odd.findings, alone.findings, strict=False):
        assert (one.deviation, one.u) == pytest.approx((other.deviation, other.u))
    assert odd.flow.repeatability == alone.flow.repeatability
    assert "4" not in odd.flow.agreeing


def test_one_slip_does_not_make_the_gauge_too_coarse() -> None:
    """A pass typed 36 for 26 is asked about; a set with it says the same of all others."""
    result = analyse_drop(drop_sheet([*GOOD, [(50, 36), (50, 26), (50, 26)]]))
    assert result.findings[3].state is State.INTERMITTENT
    assert {f.state for f in result.findings[:3]} == {State.IN_PLUMB}


def test_it_is_asked_for_until_a_slip_is_told_from_a_burst_that_sticks() -> None:
    """One pass alone may be a slip: five tell.  Two on either side are none: three were enough."""
    two = analyse_drop(drop_sheet([*GOOD, [(50, 50), (50, 26)]]))
    step = next_step(two, 1.5)
    assert step is not None
    assert (step.injectors, step.passes, step.reason) == (("4",), 1, "disagree")
    for passes, strays, asked in (
        ([50, 26, 26], 1, True),
        ([50, 26, 26, 26], 1, True),
        ([50, 26, 26, 26, 26], 1, False),
        ([50, 26, 50, 26], 2, False),
        ([26, 50, 50, 26, 26], 2, False),
    ):
        result = analyse_drop(drop_sheet([*GOOD, [(50, second) for second in passes]]))
        assert result.strays("4") == strays
        assert (next_step(result, 1.5) is not None) is asked, passes


def test_one_that_sticks_again_and_again_is_cleaned() -> None:
    """A single pass apart is looked at; two on either side, or its own misfires, are no slip."""
    for passes, sheets, action in (
        ([50, 26, 26, 26, 26], (), "repeat"),
        ([50, 26, 50, 26], (), "clean_and_repeat"),
        ([50, 26, 26, 26, 26], (scan("0 0 0 90"),), "clean_and_repeat"),
    ):
        sheet = drop_sheet([*GOOD, [(50, second) for second in passes]])
        verdict = verdicts(4, sheet, *sheets)["4"]
        assert (verdict.condition, verdict.action) == ("intermittent", action), passes


def test_the_verdict_says_intermittent_and_condemns_nobody() -> None:
    """Its own condition; the others are sound."""
    sheet = drop_sheet([*GOOD, [(50, 50), (50, 26)]])
    result = analyse_job(Job(injectors=sheet.injectors, sheets=(("s1", sheet),)))
    assert [(v.condition, v.action) for _, v in result.verdicts] == [
        *[("sound", "keep")] * 3,
        ("intermittent", "repeat"),
    ]


def test_where_most_disagree_it_is_the_method() -> None:
    """Three of four scatter widely: nobody is singled out."""
    wild = [[(50, 26), (50, 40)], [(50, 40), (50, 26)], [(50, 25), (50, 41)], [(50, 26), (50, 26)]]
    result = analyse_drop(drop_sheet(wild))
    assert State.INTERMITTENT not in {f.state for f in result.findings}


@pytest.mark.parametrize(("second", "named"), [(29.5, set()), (31.0, {"4"})])
def test_a_difference_within_twice_the_band_is_scatter(second: float, named: set[str]) -> None:
    """By hand, on a fine gauge: twice 10 % of sqrt(50) - sqrt(26) lies between both."""
    apart = math.sqrt(second) - math.sqrt(26.0)
    assert (apart > 0.2 * (math.sqrt(50.0) - math.sqrt(26.0))) is bool(named)
    fine = bursts([*[[(50, 26), (50, 26)]] * 3, [(50, 26), (50, second)]], step=0.05)
    assert intermittent(fine, 0.10) == named


def test_a_coarse_gauge_singles_out_less() -> None:
    """By hand: a step of 5 psi is 1.44 psi of each reading; 25 to 35 lies within four times that."""
    read = 5.0 / math.sqrt(12.0)
    u = math.hypot(read / (2 * math.sqrt(50)), read / (2 * math.sqrt(30)))
    apart = math.sqrt(35.0) - math.sqrt(25.0)
    level = math.sqrt(50.0) - math.sqrt(25.0)
    assert 0.2 * level < apart < APART * math.sqrt(2.0) * math.hypot(u, 0.01 * level)
    pairs = [*[[(50, 25), (50, 25)]] * 3, [(50, 25), (50, 35)]]
    assert intermittent(bursts(pairs, step=5.0), 0.10) == frozenset()
    assert intermittent(bursts(pairs, step=0.5), 0.10) == {"4"}


@given(st.lists(st.tuples(st.floats(49, 51), st.floats(25.5, 26.5)), min_size=8, max_size=8))
def test_honest_scatter_is_never_called_intermittent(pairs: list[tuple[float, float]]) -> None:
    """Half a psi to either side of one drop, two passes each."""
    passes = [[pairs[k], pairs[k + 4]] for k in range(4)]
    assert intermittent(bursts(passes), 0.10) == frozenset()
