"""Pressure logs: bursts recovered from simulated rails, creep carried back, doubts told."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plumb.bench.trace_speed import recover
from plumb.bench.traces import Log, pressure_log
from plumb.core.measure.problems import PlumbError
from plumb.core.measure.quantities import KPA_PER
from plumb.core.traces.pressure_log import DOUBTS, find_bursts, reread

STEP = 0.5 * KPA_PER["psi"]
BURSTS = ((342.0, 178.0), (345.0, 181.0), (339.0, 205.0))


@pytest.mark.parametrize("rate", [50.0, 200.0, 1000.0])
def test_readings_come_back_within_a_step_or_are_doubted(rate: float) -> None:
    """Noise, creep, seep, pulses: 99 of 100 within half a psi, none of the rest unmarked."""
    bursts, within, wrong, doubtful = recover(rate, seed=17)
    assert within >= 0.99 * bursts
    assert wrong == 0
    assert doubtful <= 0.02 * bursts


def test_creep_after_the_burst_does_not_count() -> None:
    """Eight kPa come back within seconds: the second reading is the one at the burst's end."""
    t, p, marks = pressure_log(Log(bursts=BURSTS, creep=8.0, creep_s=2.0, seep=0.0))
    found = find_bursts(t, p, step=STEP).bursts
    late = [float(np.median(p[(t > end + 3.5) & (t < end + 4.5)])) for _, end in marks]
    for burst, (_, second), after in zip(found, BURSTS, late, strict=True):
        assert burst.second == pytest.approx(second, abs=1.0)
        assert after - burst.second > 5.0
        assert burst.drift_after > 1.0


def test_begin_and_end_lie_where_the_injector_opened() -> None:
    """To a few hundredths of a second."""
    t, p, marks = pressure_log(Log(bursts=BURSTS, rate_hz=500.0))
    found = find_bursts(t, p).bursts
    for burst, (start, end) in zip(found, marks, strict=True):
        assert (burst.start_s, burst.end_s) == pytest.approx((start, end), abs=0.05)


@settings(max_examples=15, deadline=None)
@given(st.floats(-50, 50), st.floats(0.3, 3.0))
def test_a_shift_in_time_or_a_scale_changes_nothing_but_itself(shift: float, scale: float) -> None:
    """Readings scale with the gauge's unit, moments shift with the clock."""
    t, p, _ = pressure_log(Log(bursts=BURSTS[:2], noise=0.5))
    plain = find_bursts(t, p).bursts
    moved = find_bursts(t + shift, p * scale).bursts
    assert len(moved) == len(plain)
    for a, b in zip(plain, moved, strict=True):
        assert b.first == pytest.approx(a.first * scale, rel=1e-4)
        assert b.start_s == pytest.approx(a.start_s + shift, abs=0.03)


def test_a_pump_that_still_runs_is_doubted() -> None:
    """The pressure rises into the burst: the first reading is not to be believed."""
    t = np.arange(0.0, 9.0, 0.01)
    rng = np.random.default_rng(2)
    p = np.where(t < 4.0, 300.0 + 9.0 * t, np.where(t < 4.6, 336.0 - 260.0 * (t - 4.0), 180.0))
    burst = find_bursts(t, p + rng.normal(0, 0.4, len(t)), step=STEP).bursts[0]
    assert "still_rising" in burst.doubts
    assert burst.doubtful
    assert set(burst.doubts) <= set(DOUBTS)


def test_a_rail_that_ran_empty_is_told() -> None:
    """The second reading is next to nothing."""
    t, p, _ = pressure_log(Log(bursts=((340.0, 0.0),), creep=0.0, seep=0.0))
    assert "empty" in find_bursts(t, np.maximum(p, 0.0), step=STEP).bursts[0].doubts


def test_a_quiet_log_has_no_burst() -> None:
    """Noise alone is none, nor is a seep."""
    rng = np.random.default_rng(3)
    t = np.arange(0.0, 60.0, 0.02)
    with pytest.raises(PlumbError) as caught:
        find_bursts(t, 340.0 - 0.5 * t + rng.normal(0, 0.8, len(t)))
    assert caught.value.problems[0].code == "no_bursts"


def test_marks_set_by_hand_are_read_again() -> None:
    """The same place gives the same readings; a later begin reads less pressure."""
    t, p, _ = pressure_log(Log(bursts=BURSTS, noise=0.3))
    log = find_bursts(t, p, step=STEP)
    old = log.bursts[1]
    same = reread(log, old.start_s, old.end_s, step=STEP)
    assert (same.first, same.second) == pytest.approx((old.first, old.second), abs=0.7)
    for start, end in ((-5.0, 3.0), (9.0, 4.0), (4.0, 1e6)):
        with pytest.raises(PlumbError):
            reread(log, start, end)
