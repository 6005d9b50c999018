"""Windows learnt from sound parts: a tolerance interval, which holds so many of all parts of a type.

With 95 % confidence it holds 95 % of them.  From few parts it is mean and k standard deviations,
k exact for the normal distribution (ISO 16269-6, annex; the integral is that of D. B. Owen, 1964);
from 93 parts on it lies between the smallest and the largest (S. S. Wilks, 1941), whatever the
distribution is.

>>> round(two_sided_factor(10), 3), parts_for_smallest_to_largest()
(3.393, 93)
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final, NamedTuple

import numpy as np
import scipy  # its parts load when first used: all at once cost every start a second
from numpy.typing import NDArray

CONTENT: Final = 0.95
CONFIDENCE: Final = 0.95
FEWEST: Final = 5
"""From fewer parts the interval is so wide that it says nothing."""
FEWEST_VEHICLES: Final = 3
"""Nor do fewer vehicles say how vehicles differ."""
_NODES: Final = 60
_DRAWS: Final = 4000
_SEED: Final = 1
_HALVINGS: Final = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class Learnt:
    """A window learnt from ``count`` sound parts of so many ``vehicles``: its limits in their unit, and how it was made.

    ``how`` is normal or smallest_to_largest; ``factor`` the k of the former, nought of the latter.
    """

    low: float
    high: float
    count: int
    vehicles: int
    mean: float
    deviation: float
    factor: float
    how: str


def _half_widths(shifts: NDArray[np.float64], content: float) -> NDArray[np.float64]:
    """R for which the normal distribution has so much between shift - r and shift + r, by halving; of many at once."""
    low, high = np.zeros_like(shifts), np.abs(shifts) + 10.0
    for _ in range(_HALVINGS):
        middle = (low + high) / 2.0
        short = scipy.special.ndtr(shifts + middle) - scipy.special.ndtr(shifts - middle) < content
        low, high = np.where(short, middle, low), np.where(short, high, middle)
    return high


@lru_cache(maxsize=256)
def two_sided_factor(count: int, content: float = CONTENT, confidence: float = CONFIDENCE) -> float:
    """The exact k of mean +- k s for ``count`` normal values; from two on."""
    if count < 2:
        message = f"a tolerance interval needs two values at least, not {count}"
        raise ValueError(message)
    nodes, weights = np.polynomial.hermite_e.hermegauss(_NODES)
    weights = weights / math.sqrt(2.0 * math.pi)
    squares = _half_widths(nodes / math.sqrt(count), content) ** 2
    df = count - 1

    def short_of(k: float) -> float:
        return float(weights @ scipy.special.chdtrc(df, df * squares / k**2)) - confidence

    return float(scipy.optimize.brentq(short_of, 1e-3, 1e4, xtol=1e-10))


@lru_cache(maxsize=256)
def one_sided_factor(count: int, content: float = CONTENT, confidence: float = CONFIDENCE) -> float:
    """The exact k of mean + k s on one side, by the noncentral t distribution."""
    if count < 2:
        message = f"a tolerance interval needs two values at least, not {count}"
        raise ValueError(message)
    root = math.sqrt(count)
    return (
        float(
            scipy.stats.nct.ppf(confidence, count - 1, root * float(scipy.special.ndtri(content)))
        )
        / root
    )


@lru_cache(maxsize=8)
def parts_for_smallest_to_largest(content: float = CONTENT, confidence: float = CONFIDENCE) -> int:
    """From how many values on the smallest to the largest hold so much with that confidence."""
    count = 2
    while 1.0 - count * content ** (count - 1) + (count - 1) * content**count < confidence:
        count += 1
    return count


class _Spread(NamedTuple):
    """Mean of the vehicles' means, the deviation of a new part of a new vehicle, and k: half the window by the latter."""

    mean: float
    deviation: float
    factor: float


def _spread(vehicles: Sequence[Sequence[float]]) -> _Spread:
    """Between vehicles and within them; vehicles of unlike size count by the harmonic mean of their sizes.

    One part of each: the exact k.  Else by generalized confidence (Liao, Lin and Iyer 2005, Technometrics 47,
    325-335; from memory): the two variances and the mean are drawn as the parts leave them open, and the window
    is as wide as holds enough of the parts in so many of the draws.
    """
    sizes = [len(v) for v in vehicles]
    means = np.array([np.mean(v) for v in vehicles])
    many, rest = len(vehicles), sum(sizes) - len(vehicles)
    each = many / sum(1.0 / n for n in sizes)
    mean, of_means = float(means.mean()), float(means.var(ddof=1))
    if not rest:
        return _Spread(mean, math.sqrt(of_means), two_sided_factor(many))
    left = sum(
        float(((np.asarray(v) - m) ** 2).sum()) for v, m in zip(vehicles, means, strict=True)
    )
    share = 1.0 - 1.0 / each
    deviation = math.sqrt(of_means + share * left / rest)
    rng = np.random.default_rng(_SEED)
    of_mean = (many - 1) * of_means / rng.chisquare(many - 1, _DRAWS)
    within = left / rng.chisquare(rest, _DRAWS)
    shift = rng.standard_normal(_DRAWS) * np.sqrt(of_mean / many)
    # A vehicle's mean varies at least as its own parts do by their number.
    drawn = np.sqrt(np.maximum(of_mean, within / each) + share * within)
    half = drawn * _half_widths(shift / drawn, CONTENT)
    return _Spread(
        mean, deviation, float(np.quantile(half, CONFIDENCE)) / deviation if deviation else 0.0
    )


def learnt_window(vehicles: Sequence[Sequence[float]]) -> Learnt | None:
    """The window that the sound parts of vehicles of one type give; None from too few, or all of one value.

    Parts of one vehicle share its fuel, its age and its gauge: vehicles are the sample, not their places.
    """
    vehicles = [v for v in vehicles if v]
    count = sum(map(len, vehicles))
    if len(vehicles) < FEWEST_VEHICLES or count < FEWEST:
        return None
    told = _spread(vehicles)
    if told.deviation <= 0.0:
        return None
    enough = len(vehicles) >= parts_for_smallest_to_largest()
    factor = 0.0 if enough else told.factor
    values = [x for v in vehicles for x in v]
    low, high = (min(values), max(values)) if enough else (
        told.mean - factor * told.deviation, told.mean + factor * told.deviation
    )  # fmt: skip
    return Learnt(
        low=low, high=high, count=count, vehicles=len(vehicles), mean=told.mean,
        deviation=told.deviation, factor=factor, how="smallest_to_largest" if enough else "normal",
    )  # fmt: skip
