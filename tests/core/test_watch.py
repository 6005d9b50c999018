"""What a watch remembers of samples, and the line and noise that it takes from them."""

import math

import numpy as np
import pytest
from scipy.stats import linregress

from plumb.core.capture.watch import GAP_S, Samples, line_through, noise_of


def filled(*moments: float, kept_s: float = 30.0) -> Samples:
    """Samples at these moments, each ten times its moment."""
    made = Samples(kept_s=kept_s)
    for t in moments:
        made.add(t, 10.0 * t)
    return made


def test_samples_are_kept_for_a_while() -> None:
    """Three seconds of them: what is older than that is gone, what is as old is not."""
    kept = filled(0.0, 0.5, 1.0, 1.5, 2.0, 2.5, 3.0, 3.5, kept_s=3.0)
    assert list(kept.t) == [0.5, 1.0, 1.5, 2.0, 2.5, 3.0, 3.5]
    assert list(kept.v) == [5.0, 10.0, 15.0, 20.0, 25.0, 30.0, 35.0]


def test_the_last_seconds_in_their_order() -> None:
    """Both ends count; whether so many seconds are there is known to a millionth."""
    kept = filled(0.0, 0.5, 1.0, 1.5)
    assert kept.last(0.5).tolist() == [10.0, 15.0]
    assert kept.last(0.4).tolist() == [15.0]
    assert [kept.lasts(s) for s in (1.4, 1.5, 1.5 + 5e-7, 1.6)] == [True, True, True, False]
    assert not Samples().lasts(0.0)
    times, figures = kept.since(0.5)
    assert (times.tolist(), figures.tolist()) == ([0.5, 1.0, 1.5], [5.0, 10.0, 15.0])


def test_after_a_gap_it_begins_anew() -> None:
    """A pause of GAP_S is none, a longer one is, and so is time that goes back."""
    kept = filled(0.0)
    assert kept.add(GAP_S, 1.0)
    assert not kept.add(2.0 * GAP_S + 0.01, 2.0)
    assert list(kept.v) == [2.0]
    assert not kept.add(1.0, 3.0)
    assert list(kept.v) == [3.0]


def test_a_line_is_the_one_of_least_squares() -> None:
    """scipy's linregress; u of the value at a moment by its two parts (JCGM 100:2008, H.3.4)."""
    rng = np.random.default_rng(8)
    t = np.sort(rng.uniform(10.0, 12.0, 15))
    v = 300.0 - 4.0 * t + rng.normal(0.0, 0.3, 15)
    value, u, slope = line_through(t, v, 12.5)
    by_scipy = linregress(t, v)
    assert slope == pytest.approx(by_scipy.slope)
    assert value == pytest.approx(by_scipy.intercept + 12.5 * by_scipy.slope)
    far = 12.5 - t.mean()
    s = by_scipy.stderr * math.sqrt(((t - t.mean()) ** 2).sum())
    assert u == pytest.approx(math.hypot(s / math.sqrt(15), by_scipy.stderr * far))


def test_of_two_there_is_a_mean_and_no_line() -> None:
    """Three make one."""
    t = np.array([0.0, 1.0, 2.0])
    assert line_through(t[:2], np.array([4.0, 8.0]), 1.0) == (6.0, 0.0, 0.0)
    assert line_through(t, np.array([4.0, 8.0, 12.0]), 3.0) == pytest.approx((16.0, 0.0, 4.0))


def test_noise_is_found_on_any_line() -> None:
    """Second differences of white noise have sqrt(1 + 4 + 1) of its s; the MAD holds off a few wild ones."""
    rng = np.random.default_rng(5)
    t = np.arange(20_000.0)
    noise = rng.normal(0.0, 0.7, len(t))
    wild = noise.copy()
    wild[::200] += 50.0
    for line in (0.0 * t, 3.0 - 0.4 * t):
        assert noise_of(line + noise) == pytest.approx(0.7, rel=0.03)
        assert noise_of(line + wild) == pytest.approx(0.7, rel=0.06)
    assert noise_of(np.array([1.0, 5.0, 2.0, 9.0])) == 0.0
    # Five: second differences -2, 3, -4 lie 0, 5 and 2 from their median.
    assert noise_of(np.array([0.0, 1.0, 0.0, 2.0, 0.0])) == pytest.approx(1.4826 * 2 / math.sqrt(6))
