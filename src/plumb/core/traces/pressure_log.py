"""A pressure log of many bursts: rest, burst, what comes after; first and second reading of each.

A burst is a fall much steeper than any seep.  The first reading is the rest before it, carried to
its beginning; the second is the pressure after it, carried back to its end by the drift that
follows, so that creep does not count.  Each burst says how well it is known, and why it is doubted.

>>> t = np.arange(0, 8, 0.01)
>>> p = np.where(t < 3, 345.0, np.where(t < 3.6, 345.0 - 275.0 * (t - 3), 180.0))
>>> [(round(b.first), round(b.second), b.doubts) for b in find_bursts(t, p).bursts]
[(345, 180, ())]
"""

import math
from dataclasses import dataclass
from typing import Final

import numpy as np

from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.traces.evenly import Grid, evenly

SLOPE_S: Final = 0.25
"""Slopes are taken over so long: longer than a pulse of a burst, shorter than a burst."""
JOIN_S: Final = 0.35
"""Falls nearer to each other than that are the pulses of one burst."""
LONGEST_S: Final = 8.0
STEEP: Final = 0.15
"""A burst falls at least with so much of the steepest fall in the log."""
FLAT: Final = 0.03
"""Rest is flatter than so much of it."""
REST_S: Final = 3.0
"""So long a rest, before or after, is looked at."""
LEAST_REST_S: Final = 0.3
SIX_SIGMA: Final = 6.0

DOUBTS: Final = {
    "short_rest_before": "hardly any rest before it",
    "short_rest_after": "hardly any rest after it",
    "still_rising": "the pressure was still rising before it: was the pump on",
    "already_falling": "the pressure was already falling before it",
    "unsteady": "the pressure after it does not settle",
    "empty": "the rail ran empty",
}
"""Why a burst is doubted, in words."""


@dataclass(frozen=True, slots=True, kw_only=True)
class TracedBurst:
    """One burst: when it began and ended (s), both readings and their u (kPa), the drifts (kPa/s).

    ``confidence`` is the probability that both readings lie within a step of the gauge of the truth;
    ``doubts`` are codes of :data:`DOUBTS`.
    """

    start_s: float
    end_s: float
    first: float
    second: float
    u_first: float
    u_second: float
    drift_before: float
    drift_after: float
    confidence: float
    doubts: tuple[str, ...]

    @property
    def doubtful(self) -> bool:
        """Whether someone should look at it before it is believed."""
        return bool(self.doubts) or self.confidence < 0.95


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PressureLog:
    """What was found in a log: its bursts, its noise and smallest step (kPa), and the log on an even grid."""

    bursts: tuple[TracedBurst, ...]
    noise: float
    resolution: float
    grid: Grid


def find_bursts(t: np.ndarray, p: np.ndarray, *, step: float = 0.0) -> PressureLog:
    """Find the bursts of pressure ``p`` (kPa) at times ``t`` (s).

    ``step`` is what a reading may be off (one step of the sheet's gauge); 0: a hundredth of the
    drop.  Raises :class:`PlumbError` where no burst is found.
    """
    grid = evenly(t, p)
    known = _known(grid, _resolution(p))
    spans = _falls(known)
    if not spans:
        raise PlumbError(
            Problem(path="trace", rule="no burst is in this log: no fall steeper than its noise",
                    code="no_bursts")
        )  # fmt: skip
    ends = [(spans[k - 1][1] if k else 0, spans[k][0]) for k in range(len(spans))]
    after = [spans[k + 1][0] if k + 1 < len(spans) else len(known.p) for k in range(len(spans))]
    bursts = tuple(
        burst
        for span, (before, _), until in zip(spans, ends, after, strict=True)
        if (burst := _read(known, span, before, until, step)) is not None
    )
    return PressureLog(bursts=bursts, noise=known.noise, resolution=known.resolution, grid=grid)


def reread(log: PressureLog, start_s: float, end_s: float, *, step: float = 0.0) -> TracedBurst:
    """Read one burst again, its begin and end set by hand; both must lie in the log, in order."""
    known = _known(log.grid, log.resolution)
    last = log.grid.t0 + (len(known.p) - 1) / known.rate
    if not log.grid.t0 <= start_s < end_s <= last:
        raise PlumbError(
            Problem(path="start_s", rule=f"begin before end, both from {log.grid.t0:g} to {last:g} s",
                    value=f"{start_s:g} to {end_s:g}", code="outside_the_log")
        )  # fmt: skip
    a, b = (round((x - log.grid.t0) * known.rate) for x in (start_s, end_s))
    if b - a < 1 or a < 2 or b > len(known.p) - 3:
        raise PlumbError(
            Problem(path="start_s", rule="some rest is left before and after it",
                    value=f"{start_s:g} to {end_s:g}", code="no_rest")
        )  # fmt: skip
    return _measured(known, a, b, _rest_back(known, a, 0), _rest_on(known, b, len(known.p)), step)


@dataclass(frozen=True, slots=True, eq=False)
class _Known:
    """The log and what everything is measured with: noise, slopes, how steep a burst is."""

    p: np.ndarray
    rate: float
    t0: float
    noise: float
    resolution: float
    slope: np.ndarray
    half: int
    steep: float
    flat: float


def _resolution(p: np.ndarray) -> float:
    """The smallest step that the figures as they came make, 0 where they make none."""
    differences = np.abs(np.diff(p))
    moved = differences[differences > 1e-6]
    return float(moved.min()) if len(moved) else 0.0


def _known(grid: Grid, resolution: float) -> _Known:
    p, rate = grid.values[0], grid.rate
    bends = np.diff(p, 2)
    noise = 1.4826 * float(np.median(np.abs(bends - np.median(bends)))) / math.sqrt(6.0)
    noise = max(noise, resolution / math.sqrt(12.0), 1e-6 * float(np.ptp(p)), 1e-9)
    half = max(1, round(SLOPE_S / 2.0 * rate))
    soft = _moving_mean(p, max(1, half // 2))
    slope = np.zeros_like(p)
    if len(p) > 2 * half:
        slope[half:-half] = (soft[2 * half :] - soft[: -2 * half]) / (2.0 * half / rate)
    u_slope = noise * math.sqrt(2.0 / max(1, half // 2)) / (2.0 * half / rate)
    deepest = float(-slope.min())
    steep = max(SIX_SIGMA * u_slope, STEEP * deepest)
    # A figure that flicks by one step of its gauge is at rest all the same.
    flick = 1.2 * resolution / (2.0 * half / rate)
    flat = max(4.0 * u_slope, FLAT * deepest, min(flick, 0.5 * steep))
    return _Known(p, rate, grid.t0, noise, resolution, slope, half, steep, flat)


def _moving_mean(x: np.ndarray, width: int) -> np.ndarray:
    if width <= 1:
        return x
    left = width // 2
    padded = np.pad(x, (left, width - 1 - left), mode="edge")
    total = np.cumsum(np.insert(padded, 0, 0.0))
    mean: np.ndarray = (total[width:] - total[:-width]) / width
    return mean


def _falls(known: _Known) -> list[tuple[int, int]]:
    """Stretches that fall steeply; the pulses of one burst joined; spikes and floods left out."""
    steep = known.slope < -known.steep
    edges = np.flatnonzero(np.diff(np.concatenate(([0], steep.astype(np.int8), [0]))))
    join = JOIN_S * known.rate
    joined: list[list[int]] = []
    for a, b in zip(edges[::2], edges[1::2], strict=True):
        if joined and a - joined[-1][1] <= join:
            joined[-1][1] = int(b)
        else:
            joined.append([int(a), int(b)])
    made = []
    for a, b in joined:
        lost = (
            known.p[max(0, a - known.half) : a + 1].mean() - known.p[b : b + known.half + 1].mean()
        )
        if lost > 6.0 * known.noise and (b - a) / known.rate <= LONGEST_S:
            made.append((a, b))
    return made


def _rest_back(known: _Known, a: int, least: int) -> tuple[int, int]:
    """The flat stretch that ends at ``a`` or shortly before, at most so long."""
    nearest = max(least, a - round(known.rate))
    while a > nearest and abs(known.slope[a - 1]) >= known.flat:
        a -= 1
    first = max(least, a - round(REST_S * known.rate))
    k = a
    while k > first and abs(known.slope[max(0, k - 1 - known.half)]) < known.flat:
        k -= 1
    return k, a


def _rest_on(known: _Known, b: int, most: int) -> tuple[int, int]:
    """The flat stretch from ``b`` or shortly after, at most so long, until the pump comes on."""
    latest = min(most - 1, b + round(0.5 * known.rate))
    while b < latest and abs(known.slope[min(len(known.p) - 1, b + known.half)]) >= known.flat:
        b += 1
    last = min(most, b + round(REST_S * known.rate))
    k = b
    size = len(known.p)
    while k < last and abs(known.slope[min(size - 1, k + known.half)]) < known.flat:
        k += 1
    return b, k


def _fit(
    known: _Known, span: tuple[int, int], at: int, degree: int
) -> tuple[float, float, float, float]:
    """A curve through a rest, carried to the sample ``at``: value, u, slope there, rms of what is left."""
    a, b = span
    k = np.arange(a, b)
    x = (k - at) / known.rate
    y = known.p[a:b]
    if len(y) <= degree + 2:
        value = float(np.median(y)) if len(y) else float(known.p[at])
        return value, known.noise / math.sqrt(max(1, len(y))), 0.0, 0.0
    basis = np.vander(x, degree + 1, increasing=True)
    coefficients, _, _, _ = np.linalg.lstsq(basis, y, rcond=None)
    left = y - basis @ coefficients
    rms = float(np.sqrt(np.sum(left**2) / (len(y) - degree - 1)))
    inverse = np.linalg.inv(basis.T @ basis)
    u = max(rms, known.noise) * math.sqrt(float(inverse[0, 0]))
    return float(coefficients[0]), u, float(coefficients[1]), rms


def _read(
    known: _Known, span: tuple[int, int], before: int, until: int, step: float
) -> TracedBurst | None:
    """Find where a fall really begins and ends, then read it."""
    a, b = span
    back = _rest_back(known, max(a - known.half, 0), before)
    on = _rest_on(known, min(b + known.half, len(known.p) - 1), until)
    start = _leaves(known, back, (max(back[0], a - 2 * known.half), b))
    end = _arrives(known, on, (start, min(until, b + 2 * known.half)))
    if end <= start:
        return None
    # The rests as far as the burst itself: what lies between belongs to them.
    return _measured(
        known, start, end, (back[0], max(back[0], start)), (end + 1, max(on[1], end + 1)), step
    )


def _leaves(known: _Known, rest: tuple[int, int], search: tuple[int, int]) -> int:
    """The last sample that still lies on the rest before the burst."""
    a, b = search
    x = np.arange(a, b)
    line = _line(known, rest, x)
    below = line - known.p[a:b] > 4.0 * known.noise
    hold = max(2, round(0.02 * known.rate))
    for k in range(len(below)):
        if below[k : k + hold].all():
            return max(a, a + k - 1)
    return a


def _arrives(known: _Known, rest: tuple[int, int], search: tuple[int, int]) -> int:
    """The first sample that lies on what follows the burst."""
    a, b = search
    x = np.arange(a, b)
    line = _line(known, rest, x)
    above = known.p[a:b] - line > 4.0 * known.noise
    hits = np.flatnonzero(above)
    return int(a + hits[-1] + 1) if len(hits) else a + 1


def _line(known: _Known, rest: tuple[int, int], x: np.ndarray) -> np.ndarray:
    """The rest as a straight line, carried to the samples ``x``."""
    a, b = rest
    if b - a < 4:
        return np.full(len(x), float(np.median(known.p[max(0, a - 1) : b + 1])))
    k = np.arange(a, b)
    slope, base = np.polyfit(k - a, known.p[a:b], 1)
    line: np.ndarray = base + slope * (x - a)
    return line


def _measured(
    known: _Known, start: int, end: int, back: tuple[int, int], on: tuple[int, int], step: float
) -> TracedBurst:
    first, u1, drift1, _ = _fit(known, back, start, 1)
    long = (on[1] - on[0]) / known.rate >= 1.0 and on[1] - on[0] >= 30
    second, u2, drift2, rms = _fit(known, on, end, 2 if long else 1)
    within = step or max(0.01 * abs(first - second), 2.0 * known.resolution)
    doubts = []
    if (back[1] - back[0]) / known.rate < LEAST_REST_S:
        doubts.append("short_rest_before")
    if (on[1] - on[0]) / known.rate < LEAST_REST_S:
        doubts.append("short_rest_after")
    if drift1 > max(0.02 * abs(first - second), 5.0 * u1):
        doubts.append("still_rising")
    if drift1 < -max(0.05 * abs(first - second), 5.0 * u1):
        doubts.append("already_falling")
    if rms > 2.0 * known.noise + 0.3 * within:
        doubts.append("unsteady")
    if second <= within:
        doubts.append("empty")
    sure = math.erf(within / (math.sqrt(2.0) * max(u1, 1e-9))) * math.erf(
        within / (math.sqrt(2.0) * max(u2, 1e-9))
    )
    return TracedBurst(
        start_s=known.t0 + start / known.rate, end_s=known.t0 + end / known.rate,
        first=first, second=min(second, first), u_first=u1, u_second=u2,
        drift_before=drift1, drift_after=drift2,
        confidence=sure * (0.5 if doubts else 1.0), doubts=tuple(doubts),
    )  # fmt: skip
