"""A burst's figures in a log, worked out beside the core by numpy's own least squares."""

import math

import numpy as np
import pytest

from plumb.core.measure.problems import PlumbError
from plumb.core.traces.pressure_log import PressureLog, find_bursts, reread

RATE = 100.0
FIRST, SECOND = 300.0, 200.0


def logged(
    before_s: float = 10.0, after_s: float = 10.0, *, drift: float = 0.0, noise: float = 0.4,
    falls_s: float = 0.6, creep: float = 0.0,
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """A rest that drifts (kPa/s), a straight fall from 300 to 200 kPa, and a rest that creeps back as much."""
    t = np.arange(0.0, before_s + falls_s + after_s, 1.0 / RATE)
    x = t - before_s
    fall = FIRST + (SECOND - FIRST) * x / falls_s
    p = np.where(
        x < 0.0, FIRST + drift * x, np.where(x < falls_s, fall, SECOND + creep * (x - falls_s))
    )
    return t, p + np.random.default_rng(12).normal(0.0, noise, len(t))


def of_line(
    log: PressureLog, begin: int, end: int, at: int, degree: int
) -> tuple[float, float, float]:
    """Value, u and slope of a curve through the samples from begin to before end, carried to one of them."""
    k = np.arange(begin, end)
    x, y = (k - at) / RATE, log.grid.values[0][begin:end]
    coefficients, unscaled = np.polyfit(x, y, degree, cov="unscaled")
    left = y - np.polyval(coefficients, x)
    rms = math.sqrt(float((left**2).sum()) / (len(y) - degree - 1))
    u = max(rms, log.noise) * math.sqrt(float(unscaled[-1, -1]))
    return float(coefficients[-1]), u, float(coefficients[-2])


def test_both_readings_and_their_u_are_those_of_least_squares() -> None:
    """Three seconds before: a line; three after: a curve of second degree; each carried to the burst's own end."""
    t, p = logged()
    log = find_bursts(t, p, step=1.0)
    burst = reread(log, 10.0, 10.6, step=1.0)
    # The slope is taken over a quarter of a second: nearer to the fall than half of that it is not flat.
    before = [of_line(log, a - 300, a, 1000, 1) for a in range(985, 1001)]
    after = [of_line(log, b, b + 300, 1060, 2) for b in range(1060, 1076)]
    first, u_first, drift = min(before, key=lambda x: abs(x[0] - burst.first))
    second, u_second, creep = min(after, key=lambda x: abs(x[0] - burst.second))
    assert (burst.first, burst.u_first, burst.drift_before) == pytest.approx(
        (first, u_first, drift)
    )
    assert (burst.second, burst.u_second, burst.drift_after) == pytest.approx(
        (second, u_second, creep)
    )
    sure = math.erf(1.0 / math.sqrt(2.0) / u_first) * math.erf(1.0 / math.sqrt(2.0) / u_second)
    assert burst.confidence == pytest.approx(sure)
    assert (burst.doubts, burst.doubtful) == ((), False)
    assert (burst.start_s, burst.end_s) == pytest.approx((10.0, 10.6))


def test_its_noise_is_the_scatter_of_its_samples() -> None:
    """0.4 kPa on straight stretches; the one that was found begins and ends where it was made."""
    log = find_bursts(*logged(), step=1.0)
    assert log.noise == pytest.approx(0.4, rel=0.1)
    (burst,) = log.bursts
    assert (burst.start_s, burst.end_s) == pytest.approx((10.0, 10.6), abs=0.04)
    assert (burst.first, burst.second) == pytest.approx((FIRST, SECOND), abs=0.3)


def test_a_gauge_that_shows_whole_steps_is_no_better_than_they_are() -> None:
    """Rounded to 2 kPa without noise: 2/sqrt(12) (JCGM 100:2008, F.2.2.1)."""
    t, p = logged(noise=0.0, drift=0.4)
    log = find_bursts(t, 2.0 * np.round(p / 2.0), step=2.0)
    assert log.resolution == 2.0
    assert log.noise == pytest.approx(2.0 / math.sqrt(12.0))


@pytest.mark.parametrize(
    ("made", "doubts"),
    [
        ({"before_s": 0.2}, {"short_rest_before"}),
        ({"before_s": 0.6}, set()),
        ({"after_s": 0.2}, {"short_rest_after"}),
        ({"after_s": 0.6}, set()),
        # A fiftieth of the 100 kPa in a second up, a twentieth down; common practice, no source.
        ({"drift": 2.6}, {"still_rising"}),
        ({"drift": 1.4}, set()),
        ({"drift": -6.0}, {"already_falling"}),
        ({"drift": -4.0}, set()),
    ],
    ids=str,
)  # fmt: skip
def test_each_doubt_by_itself(made: dict[str, float], doubts: set[str]) -> None:
    """On both sides of its bound; one that is doubted is sure to half."""
    (burst,) = find_bursts(*logged(noise=0.05, **made), step=1.0).bursts
    assert set(burst.doubts) == doubts
    assert burst.doubtful == bool(doubts)
    assert (burst.confidence <= 0.5) == bool(doubts)


def test_two_falls_close_together_are_one_burst_and_far_apart_two() -> None:
    """The pulses of one burst: a fifth of a second between them joins, three seconds do not."""
    for pause, count in ((0.1, 1), (3.0, 2)):
        t = np.arange(0.0, 12.0 + pause, 1.0 / RATE)
        p = (
            300.0
            - 50.0 * np.clip((t - 4.0) / 0.3, 0.0, 1.0)
            - 50.0 * np.clip((t - 4.3 - pause) / 0.3, 0.0, 1.0)
        )
        found = find_bursts(
            t, p + np.random.default_rng(4).normal(0.0, 0.1, len(t)), step=1.0
        ).bursts
        assert len(found) == count
        assert found[-1].second == pytest.approx(200.0, abs=0.5)


@pytest.mark.parametrize(
    ("start", "end", "code"),
    [
        (10.0, 10.003, "no_rest"),
        (0.01, 5.0, "no_rest"),
        (10.0, 20.58, "no_rest"),
        (10.6, 10.0, "outside_the_log"),
        (10.0, 30.0, "outside_the_log"),
    ],
)
def test_marks_that_leave_nothing_to_read_are_refused(start: float, end: float, code: str) -> None:
    """No burst between them, no rest before or after, turned round, beyond the end."""
    log = find_bursts(*logged(), step=1.0)
    with pytest.raises(PlumbError) as caught:
        reread(log, start, end)
    assert caught.value.problems[0].code == code


def test_what_is_not_told_a_step_is_sure_to_a_hundredth_of_the_drop() -> None:
    """100 kPa fell: within 1 kPa."""
    log = find_bursts(*logged())
    plain, told = reread(log, 10.0, 10.6), reread(log, 10.0, 10.6, step=1.0)
    assert plain.confidence == pytest.approx(told.confidence, rel=0.01)


@pytest.mark.parametrize(("seconds", "count"), [(7.5, 1), (9.0, 0)])
def test_a_burst_takes_eight_seconds_at_most(seconds: float, count: int) -> None:
    """What falls for longer is a leak, or an engine that runs; common practice, no source."""
    t, p = logged(falls_s=seconds, noise=0.05)
    if count:
        assert len(find_bursts(t, p, step=1.0).bursts) == count
        return
    with pytest.raises(PlumbError) as caught:
        find_bursts(t, p, step=1.0)
    assert caught.value.problems[0].code == "no_bursts"


def test_what_drifts_less_than_its_noise_shows_is_not_doubted_for_it() -> None:
    """Five times u of the reading, which 12 kPa of noise make more than a fiftieth of the drop."""
    (burst,) = find_bursts(*logged(noise=12.0, drift=2.6), step=1.0).bursts
    assert abs(burst.drift_before) < 5.0 * burst.u_first
    assert not {"still_rising", "already_falling"} & set(burst.doubts)


def test_begin_and_end_of_an_unbroken_fall_are_its_corners() -> None:
    """Without noise, to two samples, at any rate: the corner lies between two of them."""
    for rate in (50.0, 100.0, 1000.0):
        t = np.arange(0.0, 20.0, 1.0 / rate)
        p = 300.0 - 100.0 * np.clip((t - 10.0) / 0.6, 0.0, 1.0)
        (burst,) = find_bursts(
            t, p + np.random.default_rng(6).normal(0.0, 0.02, len(t)), step=1.0
        ).bursts
        assert (burst.start_s, burst.end_s) == pytest.approx((10.0, 10.6), abs=2.0 / rate)


def test_each_of_three_bursts_has_its_own_rests() -> None:
    """Two seconds between them: the rest before one is the rest after the one before it."""
    t = np.arange(0.0, 16.0, 1.0 / RATE)
    p = 300.0 - sum(20.0 * np.clip((t - at) / 0.4, 0.0, 1.0) for at in (5.0, 7.4, 9.8))
    found = find_bursts(t, p + np.random.default_rng(7).normal(0.0, 0.05, len(t)), step=1.0).bursts
    assert [(b.first, b.second) for b in found] == [
        pytest.approx((300.0 - 20.0 * n, 280.0 - 20.0 * n), abs=0.15) for n in range(3)
    ]
    assert [b.doubts for b in found] == [()] * 3
