"""What a falling pressure will be: a straight line through its roots, and how well that is known.

A seat that leaks lets sqrt(p) fall in a straight line.  The line is the weighted least squares one: each reading
counts by its own uncertainty, the first seconds for little, because hoses settle then.  How the readings scatter
is learnt from what they leave beside the line, begun from half a step, which a person's eye and hand add to the
rounding; the range of what is foretold is that of Student's t.  A fall that bends (two leaks, heat, a seat that
closes) foretells nothing.

>>> fall = tuple((t, (20.0 - 0.01 * t) ** 2) for t in (15.0, 30.0, 45.0, 60.0, 75.0))
>>> line = fitted(fall, 1.0)
>>> round(line.k, 6), round(line.root_at(200.0), 6)
(0.01, 18.0)
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy  # its parts load when first used: all at once cost every start a second
from numpy.typing import NDArray

from plumb.core.measure.uncertainty import step_uncertainty

LEAST_POINTS: Final = 4
"""A line through fewer leaves nothing to learn its scatter from."""
SETTLES_SHARE: Final = 0.02
SETTLES_S: Final = 5.0
"""Hoses and the gauge's line give way by a fiftieth at first, and by less with every five seconds; common practice,
no source."""
READ_TO: Final = 0.5
READ_DEGREES: Final = 10.0
"""A reading scatters by half a step beside its rounding; common practice, no source.  Worth ten degrees of freedom."""
_BENT: Final = 0.99
"""So sure must be that a fall bends before it foretells nothing."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """sqrt(p) = level - k (t - middle), in sqrt(kPa) and s, with one u each that do not depend on each other.

    ``degrees`` are those of the scatter; ``bent`` says that a straight line does not hold.
    """

    level: float
    middle: float
    k: float
    u_level: float
    u_k: float
    degrees: float
    points: int
    bent: bool

    def root_at(self, at_s: float) -> float:
        """The root of the pressure on the line; a leak takes and never gives."""
        return self.level - max(0.0, self.k) * (at_s - self.middle)

    def u_at(self, at_s: float) -> float:
        """One standard uncertainty of that."""
        return math.hypot(self.u_level, self.u_k * (at_s - self.middle))

    def range_at(self, at_s: float) -> tuple[float, float, float]:
        """What the pressure will be (kPa), at least and at most: the range holds 95 %, by Student's t."""
        t = float(scipy.special.stdtrit(self.degrees, 0.975))
        root, beyond = self.root_at(at_s), t * self.u_at(at_s)
        value, low, high = (max(0.0, x) ** 2 for x in (root, root - beyond, root + beyond))
        return value, low, high


def fitted(series: Sequence[tuple[float, float]], step: float) -> Fit | None:
    """The line through a falling part, (s, kPa) by time and a gauge of that step; None from too few readings."""
    if len(series) < LEAST_POINTS:
        return None
    times, pressures = (np.array(x, dtype=float) for x in zip(*series, strict=True))
    if times[-1] <= times[0]:
        return None
    roots = np.sqrt(np.clip(pressures, 0.0, None))
    u = _u_of_roots(times - times[0], pressures, step)
    line, left = _least_squares(times, roots, u, 1)
    n = len(times)
    scatter = (READ_DEGREES + left) / (READ_DEGREES + n - 2)
    weights = u**-2
    middle = float((weights * times).sum() / weights.sum())
    across = float((weights * (times - middle) ** 2).sum())
    return Fit(
        level=float(np.polyval(line, middle)), middle=middle, k=-float(line[0]),
        u_level=math.sqrt(scatter / float(weights.sum())), u_k=math.sqrt(scatter / across),
        degrees=READ_DEGREES + n - 2, points=n, bent=_bends(times, roots, u, left),
    )  # fmt: skip


def _u_of_roots(
    since: NDArray[np.float64], pressures: NDArray[np.float64], step: float
) -> NDArray[np.float64]:
    """One standard uncertainty of each root: rounding, the reader, and what still settles."""
    read = math.hypot(step_uncertainty(step), READ_TO * step)
    settles = SETTLES_SHARE * pressures.max() * np.exp(-since / SETTLES_S)
    floor = max(step, 1e-9)
    found: NDArray[np.float64] = np.hypot(read, settles) / (
        2.0 * np.sqrt(np.clip(pressures, floor, None))
    )
    return found


def _least_squares(
    times: NDArray[np.float64], roots: NDArray[np.float64], u: NDArray[np.float64], order: int
) -> tuple[NDArray[np.float64], float]:
    """Coefficients of the weighted polynomial, highest first, and the weighted squares it leaves."""
    found: NDArray[np.float64] = np.polyfit(times, roots, order, w=1.0 / u)
    return found, float((((roots - np.polyval(found, times)) / u) ** 2).sum())


def _bends(
    times: NDArray[np.float64], roots: NDArray[np.float64], u: NDArray[np.float64], left: float
) -> bool:
    """Whether a parabola takes more away of what a line leaves than chance would (F test, one and n - 3)."""
    n = len(times)
    if len(set(times.tolist())) < LEAST_POINTS:
        return False
    middle = times.mean()
    scale = max(float(np.abs(times - middle).max()), 1e-9)
    _, still = _least_squares((times - middle) / scale, roots, u, 2)
    degrees = READ_DEGREES + n - 3
    spread = (READ_DEGREES + still) / degrees
    return bool(scipy.special.fdtr(1.0, degrees, max(0.0, left - still) / spread) > _BENT)
