"""One part over the years: the last change, its slope, and when it leaves its band at that slope.

From five visits on the slope is Theil and Sen's, the median of all pairs (P. K. Sen, 1968), with his interval: one
bad visit does not bend it.  From three or four it is the line of least squares with Student's t.  *Sliding* is
who changed between two visits by more than their uncertainty explains; of three and more, whose slope leaves nought
out for certain: a step at the end of a level line is a change, and no slide.  When it leaves its band is foretold from the line,
not from the last figure.

>>> drift([Point(at=0.0, value=0.0, u=0.01), Point(at=1.0, value=0.06, u=0.01)], None).sliding
True
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy  # its parts load when first used: all at once cost every start a second

from plumb.core.measure.readings import Window
from plumb.core.measure.uncertainty import reach

FEWEST_FOR_A_SLOPE: Final = 3
MEDIAN_OF_PAIRS: Final = 5
"""From so many visits on the median of pairs has an interval worth its name; below, Student's t has."""
CONFIDENCE: Final = 0.95
SLIDES: Final = 0.97
"""So sure the change between two visits must be, or the slope of more: of those that stand still three of a hundred
are called sliding."""
VISIT: Final = 1.0
"""A visit shifts a figure beside what its readings explain, by as much again; common practice, no source."""
SAME_VISIT: Final = 0.02
"""Figures within so much of the whole time are of one visit; common practice, no source."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Point:
    """A visit: when (years, or thousands of km), what it gave, one standard uncertainty."""

    at: float
    value: float
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Drift:
    """How something moves: the last change with its ``u``, the slope and its 95 % interval.

    ``leaves_in`` is after how long the limit is reached at that slope, as (expected, soonest, latest),
    in the unit of ``at``; latest is None where it may as well stay.  None: no slope, no limit, or out of it already.
    """

    change: float
    u: float
    sliding: bool
    slope: float | None = None
    slope_low: float | None = None
    slope_high: float | None = None
    leaves_in: tuple[float, float, float | None] | None = None


def drift(points: Sequence[Point], window: Window | None) -> Drift | None:
    """What the visits say, oldest first; None for a single one."""
    if len(points) < 2:
        return None
    before, last = points[-2], points[-1]
    change, u = last.value - before.value, math.hypot(before.u, last.u)
    visits = _visits(points)
    # Two sheets of one visit share what that visit shifts.
    shift = 0.0 if len(visits) < 2 else VISIT * u
    moved = abs(change) > float(scipy.special.ndtri(0.5 + SLIDES / 2.0)) * math.hypot(u, shift)
    if len(visits) < FEWEST_FOR_A_SLOPE:
        return Drift(change=change, u=u, sliding=moved)
    line = _line(visits, CONFIDENCE)
    sure = _line(visits, SLIDES)
    # On a line for certain, and farther than its figures may be off: what moves by less is nothing yet.
    along = abs(line.slope) * (visits[-1].at - visits[0].at)
    far = along > reach(math.hypot(visits[0].u, visits[-1].u))
    return Drift(
        change=change, u=u, sliding=far and sure.low * sure.high > 0.0,
        slope=line.slope, slope_low=line.low, slope_high=line.high, leaves_in=_leaves(visits, line, window),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Line:
    """A slope with its interval, and the value on the line at the last visit with how far that may be off."""

    slope: float
    low: float
    high: float
    now: float
    reach: float


def _line(visits: Sequence[Point], confidence: float) -> _Line:
    """Through the visits: least squares and Student's t of a few, the median of pairs of many."""
    at, value = np.array([p.at for p in visits]), np.array([p.value for p in visits])
    n, since = len(visits), at - at.mean()
    across = float((since**2).sum())
    t = float(scipy.special.stdtrit(n - 2, 0.5 + confidence / 2.0))
    if n < MEDIAN_OF_PAIRS:
        slope, middle = float((since * value).sum()) / across, float(value.mean())
        left = value - middle - slope * since
    else:
        slope, _, low, high = map(float, scipy.stats.theilslopes(value, at, confidence))
        middle = float(np.median(value - slope * since))
        left = value - middle - slope * since
    scatter = math.sqrt(float((left**2).sum()) / (n - 2))
    if n < MEDIAN_OF_PAIRS:
        low, high = (slope + side * t * scatter / math.sqrt(across) for side in (-1.0, 1.0))
    last = float(since[-1])
    return _Line(
        slope, low, high, middle + slope * last,
        t * scatter * math.sqrt(1.0 / n + last**2 / across),
    )  # fmt: skip


def _visits(points: Sequence[Point]) -> list[Point]:
    """The points, those of one visit as their mean: hours apart their difference is scatter, and no slope."""
    near = SAME_VISIT * (points[-1].at - points[0].at)
    made: list[list[Point]] = []
    for point in points:
        if made and point.at - made[-1][0].at <= near:
            made[-1].append(point)
        else:
            made.append([point])
    return [
        Point(
            at=sum(p.at for p in mine) / len(mine), value=sum(p.value for p in mine) / len(mine),
            u=math.hypot(*(p.u for p in mine)) / len(mine),
        )
        for mine in made
    ]  # fmt: skip


def _leaves(
    visits: Sequence[Point], line: _Line, window: Window | None
) -> tuple[float, float, float | None] | None:
    """After how long the limit on the side that it moves to is reached, from where the line is now."""
    slope = line.slope
    limit = None if window is None else window.high if slope > 0.0 else window.low
    if limit is None or slope == 0.0:
        return None
    side = math.copysign(1.0, slope)
    room = (limit - line.now) * side
    if room <= 0.0 or (limit - visits[-1].value) * side <= 0.0:
        return None
    steep, flat = (line.high, line.low) if slope > 0.0 else (line.low, line.high)
    latest = (room + line.reach) / abs(flat) if flat * slope > 0.0 else None
    return room / abs(slope), max(0.0, room - line.reach) / abs(steep), latest
