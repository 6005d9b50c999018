"""Deciding with a probability: JCGM 106's examples, both thresholds, passes that settle."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import norm

from plumb.core.measure.decision import (
    State,
    Thresholds,
    decide,
    normal_below,
    passes_to_settle,
    probability_out,
    state_of,
)


def test_zener_diode() -> None:
    """JCGM 106:2012, Zener voltage (input from memory): y -5.47, u 0.05, limit -5.40."""
    assert normal_below((-5.40 - -5.47) / 0.05) == pytest.approx(0.919243, abs=1e-6)


def test_burst_pressure() -> None:
    """JCGM 106:2012, burst pressure (input from memory): 509.7, u 8.6, lower limit 490."""
    assert 1 - normal_below((490 - 509.7) / 8.6) == pytest.approx(0.989010, abs=1e-6)


def test_both_limits() -> None:
    """JCGM 106:2012: interval [-6, 6], y 4, u 1: conforming with 0.977250."""
    assert 1 - probability_out(4.0, 1.0, 6.0) == pytest.approx(0.977250, abs=1e-6)


def test_one_sided_guard_band() -> None:
    """ISO 14253-1 (default from memory): called at 95 % beyond 1.644854 u from the limit."""
    u, limit = 0.01, 0.10
    assert decide(limit + 1.6448 * u, u, limit) is State.UNSETTLED
    assert decide(limit + 1.6449 * u, u, limit) is State.HIGH


@given(st.floats(-1, 1), st.floats(1e-3, 0.3), st.floats(0.01, 0.5))
def test_scipys_normal_agrees(deviation: float, u: float, tolerance: float) -> None:
    """A second implementation."""
    expected = norm.cdf(-tolerance, deviation, u) + norm.sf(tolerance, deviation, u)
    assert probability_out(deviation, u, tolerance) == pytest.approx(expected, abs=1e-12)


@given(st.floats(-1, 1), st.floats(1e-3, 0.3))
def test_less_and_more_are_mirror_images(deviation: float, u: float) -> None:
    """Nothing favours one side."""
    mirror = {State.LOW: State.HIGH, State.HIGH: State.LOW}
    one, two = decide(deviation, u, 0.1), decide(-deviation, u, 0.1)
    assert mirror.get(one, one) is two


def test_without_uncertainty_the_limit_alone_decides() -> None:
    """u of zero is no division by zero."""
    assert probability_out(0.11, 0.0, 0.10) == 1.0
    assert decide(0.09, 0.0, 0.10) is State.IN_PLUMB


def test_the_fewest_passes_are_asked_for() -> None:
    """By hand: 2 u from the limit at the first, 1.645 u needs u to shrink by 1 / 1.37: one more."""
    settle = passes_to_settle(0.112, lambda k: 0.010 / math.sqrt(1 + k), 0.10)
    assert settle == 1
    assert passes_to_settle(0.108, lambda k: 0.010 / math.sqrt(1 + k), 0.10) == 4
    assert passes_to_settle(0.101, lambda k: 0.010 / math.sqrt(1 + k), 0.10) is None


def test_a_shops_own_thresholds_count() -> None:
    """A shop that calls at 99 % calls later."""
    strict = Thresholds(call=0.99, clear=0.01)
    assert decide(0.12, 0.01, 0.10) is State.HIGH
    assert decide(0.12, 0.01, 0.10, strict) is State.UNSETTLED


@pytest.mark.parametrize(
    ("out", "deviation", "state"),
    [
        (0.95, -0.2, State.LOW),
        (0.95, 0.2, State.HIGH),
        (0.949, 0.2, State.UNSETTLED),
        (0.051, 0.2, State.UNSETTLED),
        (0.05, 0.2, State.IN_PLUMB),
    ],
)
def test_a_probability_at_a_threshold_is_decided(
    out: float, deviation: float, state: State
) -> None:
    """From 95 % on it is called, up to 5 % it is cleared: the thresholds belong to the decision."""
    assert state_of(out, deviation) is state
