"""Traces on an even grid: what is left out, what is filled in, and what is refused."""

import numpy as np
import pytest

from plumb.core.measure.problems import PlumbError
from plumb.core.traces.evenly import LEAST_SAMPLES, envelope, evenly, thinned


def code_of(t: np.ndarray, *channels: np.ndarray) -> str:
    """The code of what is wrong with it."""
    with pytest.raises(PlumbError) as caught:
        evenly(t, *channels)
    return caught.value.problems[0].code


def test_an_even_trace_stays_as_it_is() -> None:
    """Ten a second from 5 s on: the same samples, the same times."""
    t = 5.0 + np.arange(40) / 10.0
    grid = evenly(t, np.sin(t), np.cos(t))
    assert (grid.t0, grid.rate) == pytest.approx((5.0, 10.0))
    assert np.array_equal(grid.values[0], np.sin(t))
    assert np.array_equal(grid.values[1], np.cos(t))
    assert grid.times == pytest.approx(t)


def test_a_gap_is_filled_in_on_a_straight_line() -> None:
    """A line with five samples missing is the same line on the grid of its usual spacing."""
    t = np.delete(np.arange(60) / 20.0, [11, 12, 13, 14, 15])
    grid = evenly(t, 3.0 - 2.0 * t)
    assert grid.rate == pytest.approx(20.0)
    assert len(grid.values[0]) == 60
    assert grid.values[0] == pytest.approx(3.0 - 2.0 * grid.times)


def test_spacing_that_shakes_by_more_than_a_fiftieth_is_laid_out_anew() -> None:
    """By 1 % the samples stay where they are; by 5 % they are read off between."""
    rng = np.random.default_rng(3)
    for share, kept in ((0.005, True), (0.05, False)):
        t = np.arange(50) / 10.0
        t[1:-1] += share / 10.0 * rng.choice([-1.0, 1.0], 48)
        values = t**2
        grid = evenly(t, values)
        assert np.array_equal(grid.values[0], values) == kept
        assert grid.values[0] == pytest.approx(grid.times**2, abs=0.12)


def test_what_has_no_time_or_figure_is_left_out_of_every_channel() -> None:
    """Two figures and a moment are missing: three samples less, filled in again."""
    t, one, two = np.arange(40.0), np.arange(40.0), 2.0 * np.arange(40.0)
    t[3], one[7], two[9] = np.nan, np.inf, np.nan
    grid = evenly(t, one, two)
    assert grid.values[0] == pytest.approx(np.arange(40.0))
    assert grid.values[1] == pytest.approx(2.0 * np.arange(40.0))


def test_what_is_no_trace_is_refused() -> None:
    """Too few samples, time that goes back, time that stands still."""
    few = np.arange(LEAST_SAMPLES - 1.0)
    assert code_of(few, few) == "too_short"
    assert len(evenly(np.arange(float(LEAST_SAMPLES)), np.zeros(LEAST_SAMPLES)).values[0]) == 20
    back = np.arange(30.0)
    back[[10, 11]] = back[[11, 10]]
    assert code_of(back, back) == "not_rising"
    with pytest.raises(PlumbError) as caught:
        evenly(back, back)
    assert (caught.value.problems[0].path, caught.value.problems[0].value) == (
        "sample 12, time", "10 s after 11 s",
    )  # fmt: skip
    assert code_of(np.full(30, 4.0), np.zeros(30)) == "not_rising"


def test_a_moment_that_is_there_twice_is_no_step_back() -> None:
    """Loggers write a moment twice now and then: the spacing is that of the others."""
    t = np.sort(np.append(np.arange(40) / 10.0, 2.0))
    assert evenly(t, t).rate == pytest.approx(10.0, rel=0.03)


def test_thinned_to_means_of_equal_runs() -> None:
    """Ten to four: runs of three, and what is left of them by itself; short ones as they are."""
    assert thinned(np.arange(10.0), 4).tolist() == [1.0, 4.0, 7.0, 9.0]
    assert thinned(np.arange(9.0), 3).tolist() == [1.0, 4.0, 7.0]
    assert thinned(np.arange(4.0), 4).tolist() == [0.0, 1.0, 2.0, 3.0]


def test_an_envelope_loses_no_peak() -> None:
    """Of each run its lowest and its highest."""
    low, high = envelope(np.array([3.0, 9.0, 1.0, 4.0, -5.0, 2.0, 7.0]), 3)
    assert (low.tolist(), high.tolist()) == ([1.0, -5.0, 7.0], [9.0, 4.0, 7.0])
    assert envelope(np.array([2.0, 1.0]), 10)[0].tolist() == [2.0, 1.0]
