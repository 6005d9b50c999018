"""Humps of starter current: found in a trace, folded over the engine's cycle, given cylinders.

Each compression makes a hump.  The trace is freed of what is faster than any compression, its peaks
are found, and each is measured above the troughs beside it, relative to the median of the humps of
one cycle around it, so that a battery that goes down does not count.  With a sync signal (one mark
a cycle at the first cylinder's hump) humps get cylinders; without it only their places are known.

>>> t = np.arange(0, 2.4, 0.001)
>>> height = np.where(np.floor(t / 0.1) % 4 == 2, 20.0, 30.0)
>>> found = find_humps(t, 150.0 + height * np.sin(np.pi * (t % 0.1) / 0.1) ** 2, cylinders=4)
>>> [round(x) for x in np.median(np.array(found.cycles), axis=0)].count(67)
1
"""

from dataclasses import dataclass
from itertools import pairwise
from typing import Final

import numpy as np
import scipy  # its parts load when first used: all at once cost every start a second

from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.traces.evenly import Grid, evenly

LOW_PASS_HZ: Final = 60.0
"""Nothing a starter does to compressions is faster; the filter is a fourth-order Butterworth run
both ways, so that peaks stay where they are."""
SHARP: Final = 4.0
"""So many times the humps' own frequency is kept of their shape."""
SLOWEST_HZ: Final = 2.0
FASTEST_HZ: Final = 45.0
"""Humps come no slower and no faster than that: 80 to 450 turns a minute, three to twelve
cylinders; common practice, no source."""
WORK_HZ: Final = 1000.0
DISTANCE: Final = 0.6
PROMINENCE: Final = 0.25
"""Peaks lie at least so much of a period apart and stand out by so much of the usual hump."""
INRUSH_S: Final = 0.25
"""The first inrush of a starter is no hump; common practice, no source."""
CRANKS: Final = 0.25
"""Where the current stays above so much of its usual, the starter turns."""
ALIKE: Final = 0.1
"""From so much of the larger swing on the smaller one is no noise: no starter gives current back."""
_INRUSH_STANDS_OUT: Final = 1.5
LEAST: Final = 64
"""Fewer samples than that show no humps."""
FLAT: Final = 0.01
"""Humps move the current by more than so much of it."""
SAMPLES: Final = 5.0
"""A hump has so many samples at least, or its top is missed by chance; common practice, no source."""
GONE: Final = 1.55
"""A gap of so many periods holds a hump that is not there."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Humps:
    """What was found in a trace.

    ``cycles`` are the humps' heights in per cent of the usual one, whole cycles only, each one
    cylinder after the other in firing order; ``at`` are the times of those humps; ``synced`` says
    that the first is the sync's.  ``hz`` is how often a hump comes, ``grid`` the trace as it was
    worked on, and ``turned`` says that the clamp was the wrong way round.
    """

    cycles: tuple[tuple[float, ...], ...]
    at: tuple[tuple[float, ...], ...]
    synced: bool
    hz: float
    turned: bool
    grid: Grid


def find_humps(
    t: np.ndarray, current: np.ndarray, *, cylinders: int, sync: np.ndarray | None = None
) -> Humps:
    """Find and fold the humps of ``current`` (A, or the clamp's volts) at the times ``t`` (s).

    Raises :class:`PlumbError` where no cranking, or no whole cycle, is found.
    """
    channels = (current,) if sync is None else (current, sync)
    grid = evenly(t, *channels)
    marks = _marks(grid) if sync is not None else np.array([])
    grid, smooth, turned = _smoothed(grid)
    first, last = _cranking(grid, smooth)
    smooth = smooth[first:last]
    hz = _hump_rate(smooth, grid.rate)
    if grid.rate < SAMPLES * hz:
        raise _nothing(
            rule=f"{grid.rate / hz:.1f} samples a compression are too few to tell one from another: "
            f"record {SAMPLES * hz:.0f} a second or more"
        )
    # Slow humps need no fast filter: what lies far above them is noise.
    smooth = _low_pass(smooth, min(LOW_PASS_HZ, SHARP * hz), grid.rate)
    peaks, heights = _peaks(smooth, grid.rate, hz)
    if len(peaks) < 2 * cylinders:
        raise _nothing(rule="no humps of compression stand out; crank for two seconds or longer")
    relative = heights / _usual(heights, cylinders)
    times = grid.t0 + (first + peaks) / grid.rate
    starts, synced = _starts(times, marks, cylinders)
    cycles = [(s, s + cylinders) for s in starts if s >= 0 and s + cylinders <= len(times)]
    if not cycles:
        raise _nothing(rule="no whole cycle of the engine is in the trace; crank a little longer")
    return Humps(
        cycles=tuple(tuple(float(100.0 * h) for h in relative[a:b]) for a, b in cycles),
        at=tuple(tuple(float(x) for x in times[a:b]) for a, b in cycles),
        synced=synced,
        hz=hz,
        turned=turned,
        grid=grid,
    )


def _nothing(*, rule: str) -> PlumbError:
    return PlumbError(Problem(path="trace", rule=rule, code="no_humps"))


def _smoothed(grid: Grid) -> tuple[Grid, np.ndarray, bool]:
    """The current at about a kilohertz without what is faster than a compression, upright."""
    current = grid.values[0]
    rate = grid.rate
    while rate >= 2.0 * WORK_HZ:
        q = min(10, int(rate // WORK_HZ))
        current = scipy.signal.decimate(current, q, ftype="fir")
        rate /= q
    if len(current) < LEAST:
        raise _nothing(rule="the trace is too short: crank for two seconds or longer")
    turned = bool(_way_round(current) < 0.0)
    upright = -current if turned else current
    return Grid(grid.t0, rate, (upright,)), _low_pass(upright, LOW_PASS_HZ, rate), turned


def coupled_away(current: np.ndarray) -> bool:
    """Whether a coupling has taken the mean away: the current swings to both sides of nought alike."""
    low, high = (float(x) for x in np.percentile(current, (10.0, 90.0)))
    return low < 0.0 < high and min(-low, high) > ALIKE * max(-low, high)


def _way_round(current: np.ndarray) -> float:
    """Below nought where the clamp was turned round; without a mean its inrush tells, else nothing does."""
    if not coupled_away(current):
        return float(np.median(current))
    up, down = float(current.max()), float(current.min())
    return -1.0 if -down > _INRUSH_STANDS_OUT * up else 1.0


def _low_pass(signal: np.ndarray, hz: float, rate: float) -> np.ndarray:
    if rate <= 2.2 * hz:
        return signal
    soft: np.ndarray = scipy.signal.sosfiltfilt(
        scipy.signal.butter(4, hz, fs=rate, output="sos"), signal
    )
    return soft


def _cranking(grid: Grid, smooth: np.ndarray) -> tuple[int, int]:
    """The longest stretch in which the starter turns, without its inrush."""
    away = coupled_away(smooth)
    if away:
        # Without its mean the current tells by its swing that the starter turns.
        size = max(3, int(grid.rate / SLOWEST_HZ))
        smooth = scipy.ndimage.maximum_filter1d(smooth, size) - scipy.ndimage.minimum_filter1d(
            smooth, size
        )
    usual = float(np.percentile(smooth, 50.0 if away else 75.0))
    on = smooth > CRANKS * usual
    edges = np.flatnonzero(np.diff(np.concatenate(([0], on.astype(np.int8), [0]))))
    starts, ends = edges[::2], edges[1::2]
    if usual <= 0.0 or not len(starts):
        raise _nothing(rule="no cranking is in this trace")
    k = int(np.argmax(ends - starts))
    first = int(starts[k])
    if first > 0 or smooth[0] > 1.5 * usual:
        first += int(INRUSH_S * grid.rate)
    if away:
        # The swing reaches half a window beyond, and the coupling takes as long again to settle.
        first, ends[k] = first + 2 * size, ends[k] - size
    last = int(ends[k])
    if (last - first) / grid.rate < 2.0 / FASTEST_HZ or last - first < LEAST:
        raise _nothing(rule="the starter does not turn for long enough")
    return first, last


def _hump_rate(smooth: np.ndarray, rate: float) -> float:
    """How often a hump comes, Hz: the strongest of the trace without its slow drift."""
    run = max(3, int(rate / SLOWEST_HZ))
    drift = np.convolve(np.pad(smooth, (run // 2, run - 1 - run // 2), mode="edge"),
                        np.ones(run) / run, mode="valid")  # fmt: skip
    if float(np.ptp(smooth - drift)) < FLAT * float(np.median(smooth)):
        raise _nothing(rule="no humps of compression stand out: the current is flat")
    size = max(len(smooth), 8192)
    frequencies, power = scipy.signal.periodogram(smooth - drift, fs=rate, window="hann", nfft=size)
    heard = (frequencies >= SLOWEST_HZ) & (frequencies <= FASTEST_HZ)
    if not np.any(heard) or float(power[heard].max()) <= 0.0:
        raise _nothing(rule="no humps of compression stand out in this trace")
    return float(frequencies[heard][np.argmax(power[heard])])


def _peaks(smooth: np.ndarray, rate: float, hz: float) -> tuple[np.ndarray, np.ndarray]:
    """Positions and heights of the humps; one that is missing stands where it would be."""
    period = rate / hz
    swing = float(np.percentile(smooth, 90.0) - np.percentile(smooth, 10.0))
    peaks, _ = scipy.signal.find_peaks(
        smooth, distance=max(1, DISTANCE * period), prominence=PROMINENCE * swing
    )
    if len(peaks) < 2:
        return peaks, np.array([])
    full = [int(peaks[0])]
    for b in peaks[1:]:
        gap = (b - full[-1]) / period
        if gap > GONE:
            missing = round(gap) - 1
            a = full[-1]
            full += [int(a + (b - a) * (k + 1) / (missing + 1)) for k in range(missing)]
        full.append(int(b))
    at = np.array(full)
    troughs = np.array([smooth[a : b + 1].min() for a, b in pairwise(at)])
    # The first and the last hump have a trough on one side only, and are left out.
    beside = (troughs[:-1] + troughs[1:]) / 2.0
    near = max(1, int(period / 8))
    tops = np.array([smooth[max(0, k - near) : k + near + 1].max() for k in at[1:-1]])
    return at[1:-1], np.maximum(tops - beside, 0.0)


def _usual(heights: np.ndarray, cylinders: int) -> np.ndarray:
    """The median of one cycle around each hump: what a battery that goes down takes with it."""
    run = cylinders if cylinders % 2 else cylinders + 1
    usual = scipy.ndimage.median_filter(heights, size=max(3, run), mode="nearest")
    floor = 0.05 * float(np.median(heights))
    return np.maximum(usual, max(floor, 1e-12))


def _marks(grid: Grid) -> np.ndarray:
    """Times of the sync's marks: where it rises (or falls) through the middle of its range."""
    signal = grid.values[1]
    low, high = float(np.min(signal)), float(np.max(signal))
    if high - low <= 0.0:
        return np.array([])
    middle = (low + high) / 2.0
    # The rarer state is the mark: a pulse may go up or down.
    up = signal > middle
    mark = up if float(np.mean(up)) <= 0.5 else ~up
    edges = np.flatnonzero(np.diff(mark.astype(np.int8)) == 1) + 1
    return grid.t0 + edges / grid.rate


def _starts(times: np.ndarray, marks: np.ndarray, cylinders: int) -> tuple[list[int], bool]:
    """Where each cycle begins: at the hump nearest a mark, or from the first hump on.

    A mark that is missing is counted out from the one before it; marks that come at anything but
    whole cycles are no marks of a cylinder.
    """
    inside = marks[(marks >= times[0]) & (marks <= times[-1])]
    nearest = sorted({int(np.argmin(np.abs(times - m))) for m in inside})
    whole = np.diff(nearest) % cylinders == 0
    if not nearest or (len(whole) and float(np.mean(whole)) < 0.8):
        return list(range(0, len(times), cylinders)), False
    starts = list(range(nearest[0] % cylinders, nearest[0], cylinders))
    for a, b in pairwise([*nearest, len(times)]):
        starts += range(a, b, cylinders) if (b - a) % cylinders == 0 or b == len(times) else [a]
    return starts, True
