"""Traces as numbers: on an even grid of time, thinned, and as an envelope that can be drawn.

>>> t = np.delete(np.arange(30) / 10.0, 3)
>>> grid = evenly(t, 10.0 * t)
>>> round(grid.rate), grid.values[0][:5].round(6).tolist()
(10, [0.0, 1.0, 2.0, 3.0, 4.0])
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from plumb.core.measure.problems import PlumbError, Problem

LEAST_SAMPLES: Final = 20
MOST_GRID: Final = 4_000_000
"""An uneven trace whose closest samples would make a longer grid is put on a coarser one."""


@dataclass(frozen=True, slots=True, eq=False)
class Grid:
    """Channels on an even grid: ``t0`` in s, ``rate`` in Hz, ``values`` one array a channel."""

    t0: float
    rate: float
    values: tuple[np.ndarray, ...]

    @property
    def times(self) -> np.ndarray:
        """The time of each sample, s."""
        return self.t0 + np.arange(len(self.values[0])) / self.rate


def evenly(t: np.ndarray, *channels: np.ndarray) -> Grid:
    """Channels at the times ``t`` (s, rising) on an even grid of their median spacing.

    Samples without a time or a figure are left out.  Raises :class:`PlumbError` for too few
    samples, and for time that goes backwards, with the sample's number.
    """
    whole = np.isfinite(t)
    for c in channels:
        whole &= np.isfinite(c)
    if not whole.all():
        t, channels = t[whole], tuple(c[whole] for c in channels)
    if len(t) < LEAST_SAMPLES:
        raise PlumbError(
            Problem(path="time", rule=f"at least {LEAST_SAMPLES} samples", value=str(len(t)),
                    code="too_short")
        )  # fmt: skip
    steps = np.diff(t)
    back = np.flatnonzero(steps < 0.0)
    if len(back):
        k = int(back[0]) + 1
        raise PlumbError(
            Problem(path=f"sample {k + 1}, time", rule="time goes on from sample to sample",
                    value=f"{t[k]:g} s after {t[k - 1]:g} s", code="not_rising")
        )  # fmt: skip
    span = float(t[-1] - t[0])
    forward = steps[steps > 0.0]
    if span <= 0.0 or not len(forward):
        raise PlumbError(Problem(path="time", rule="time goes on", code="not_rising"))
    spacing = max(float(np.median(forward)), span / MOST_GRID)
    count = round(span / spacing) + 1
    if count == len(t) and float(np.max(np.abs(steps - spacing))) < 0.02 * spacing:
        return Grid(float(t[0]), (count - 1) / span, channels)
    grid = np.linspace(t[0], t[-1], count)
    return Grid(float(t[0]), (count - 1) / span, tuple(np.interp(grid, t, c) for c in channels))


def thinned(values: np.ndarray, most: int) -> np.ndarray:
    """Means of equal runs, at most ``most`` of them; short arrays come back as they are."""
    if len(values) <= most:
        return values
    run = -(-len(values) // most)
    whole = len(values) // run * run
    means = values[:whole].reshape(-1, run).mean(axis=1)
    return means if whole == len(values) else np.append(means, values[whole:].mean())


def envelope(values: np.ndarray, most: int) -> tuple[np.ndarray, np.ndarray]:
    """Lowest and highest of equal runs, so that a drawing loses no peak."""
    run = max(1, -(-len(values) // most))
    starts = np.arange(0, len(values), run)
    return np.minimum.reduceat(values, starts), np.maximum.reduceat(values, starts)
