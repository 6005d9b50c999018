"""Deciding with a probability: JCGM 106's examples, both thresholds, passes that settle."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import norm

from plumb.core.measure.decision import (
    Sides,
    State,
    Thresholds,
    decide,
    effective_degrees,
    normal_below,
    passes_to_settle,
    probability_out,
    sides,
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

    def settle(deviation: float) -> int | None:
        return passes_to_settle(lambda k: decide(deviation, 0.010 / math.sqrt(1 + k), 0.10))

    assert (settle(0.112), settle(0.108), settle(0.101)) == (1, 4, None)


def test_a_shops_own_thresholds_count() -> None:
    """A shop that calls at 99 % calls later."""
    strict = Thresholds(call=0.99, clear=0.01)
    assert decide(0.12, 0.01, 0.10) is State.HIGH
    assert decide(0.12, 0.01, 0.10, strict) is State.UNSETTLED


@pytest.mark.parametrize(
    ("below", "above", "state"),
    [
        (0.95, 0.0, State.LOW),
        (0.0, 0.95, State.HIGH),
        (0.0, 0.949, State.UNSETTLED),
        (0.0, 0.051, State.UNSETTLED),
        (0.025, 0.025, State.IN_PLUMB),
        (0.48, 0.52, State.UNSETTLED),
    ],
)
def test_a_probability_at_a_threshold_is_decided(below: float, above: float, state: State) -> None:
    """From 95 % on *one side* it is called, up to 5 % on both together it is cleared: the thresholds belong to it."""
    assert Sides(below, above).state() is state


def test_alike_on_a_coarse_gauge_is_neither_low_nor_high() -> None:
    """No deviation known to 60 % is outside 10 % most likely, and on neither side."""
    told = sides(0.0, 0.6, -0.1, 0.1)
    assert told.out > 0.8
    assert told.state() is State.UNSETTLED


def test_few_repeats_widen_by_student() -> None:
    """t of 95 % on one side: 2.132 for four degrees, 1.812 for ten (print of any table), 1.645 without end."""
    for degrees, t in ((4.0, 2.132), (10.0, 1.812), (math.inf, 1.645)):
        assert sides(0.1 + t * 0.01, 0.01, -0.1, 0.1, degrees).above == pytest.approx(
            0.95, abs=2e-4
        )


def test_degrees_by_welch_and_satterthwaite() -> None:
    """JCGM 100:2008, H.1.6: the gauge block's five parts come to 16 (printed 16.7, cut to 16; from memory)."""
    parts = [(25.0, 18.0), (9.7, 25.6), (2.9, 50.0), (16.6, 2.0)]
    assert effective_degrees([*parts, (0.0, math.inf)]) == pytest.approx(16.7, abs=0.6)
    assert math.isinf(effective_degrees([(1.0, math.inf)]))
