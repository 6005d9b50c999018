"""One part over the years: the last change, its slope, and when it leaves its band at that slope.

The slope is Theil and Sen's, the median of all pairs (P. K. Sen, 1968), with his interval: one bad visit
does not bend it.  *Sliding* is who changed by more than twice the uncertainty of the change; with three visits
and more, who did so over all of them, on a slope whose interval leaves nought out.

>>> drift([Point(at=0.0, value=0.0, u=0.01), Point(at=1.0, value=0.05, u=0.01)], None).sliding
True
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import scipy  # its parts load when first used: all at once cost every start a second

from plumb.core.measure.readings import Window
from plumb.core.measure.uncertainty import COVERAGE

FEWEST_FOR_A_SLOPE: Final = 3
CONFIDENCE: Final = 0.95
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
    sliding = abs(change) > COVERAGE * u
    visits = _visits(points)
    if len(visits) < FEWEST_FOR_A_SLOPE:
        return Drift(change=change, u=u, sliding=sliding)
    slope, _, low, high = (
        float(x)
        for x in scipy.stats.theilslopes(
            [p.value for p in visits], [p.at for p in visits], CONFIDENCE
        )
    )
    # Over all visits, not from one to the next: who slides slowly does so in small steps.
    moved = visits[-1].value - visits[0].value
    over_all = abs(moved) > COVERAGE * math.hypot(visits[0].u, visits[-1].u)
    steady = low * high > 0.0
    return Drift(
        change=change, u=u, sliding=over_all and steady, slope=slope, slope_low=low, slope_high=high,
        leaves_in=_leaves(last, (slope, low, high), window),
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
    last: Point, slopes: tuple[float, float, float], window: Window | None
) -> tuple[float, float, float | None] | None:
    """After how long the limit on the side that it moves to is reached."""
    slope, low, high = slopes
    limit = None if window is None else window.high if slope > 0.0 else window.low
    if limit is None or slope == 0.0:
        return None
    room = (limit - last.value) * math.copysign(1.0, slope)
    if room <= 0.0:
        return None
    steep, flat = (high, low) if slope > 0.0 else (low, high)
    latest = room / abs(flat) if flat * slope > 0.0 else None
    return room / abs(slope), room / abs(steep), latest
