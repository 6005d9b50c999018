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
from typing import Final

import numpy as np
import scipy  # its parts load when first used: all at once cost every start a second

CONTENT: Final = 0.95
CONFIDENCE: Final = 0.95
FEWEST: Final = 5
"""From fewer parts the interval is so wide that it says nothing."""
_NODES: Final = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class Learnt:
    """A window learnt from ``count`` sound parts: its limits in their unit, and how it was made.

    ``how`` is normal or smallest_to_largest; ``factor`` the k of the former, nought of the latter.
    """

    low: float
    high: float
    count: int
    mean: float
    deviation: float
    factor: float
    how: str


def _half_width(shift: float, content: float) -> float:
    """R for which the normal distribution has so much between shift - r and shift + r."""
    return float(
        scipy.optimize.brentq(
            lambda r: scipy.stats.norm.cdf(shift + r) - scipy.stats.norm.cdf(shift - r) - content, 0.0, abs(shift) + 10.0,
            xtol=1e-12,
        )
    )  # fmt: skip


@lru_cache(maxsize=256)
def two_sided_factor(count: int, content: float = CONTENT, confidence: float = CONFIDENCE) -> float:
    """The exact k of mean +- k s for ``count`` normal values; from two on."""
    if count < 2:
        message = f"a tolerance interval needs two values at least, not {count}"
        raise ValueError(message)
    nodes, weights = np.polynomial.hermite_e.hermegauss(_NODES)
    weights = weights / math.sqrt(2.0 * math.pi)
    squares = np.array([_half_width(float(x) / math.sqrt(count), content) ** 2 for x in nodes])
    df = count - 1

    def short_of(k: float) -> float:
        return float(weights @ scipy.stats.chi2.sf(df * squares / k**2, df)) - confidence

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


def learnt_window(values: Sequence[float]) -> Learnt | None:
    """The window that sound parts of one type give; None from too few, or all of one value."""
    count = len(values)
    if count < FEWEST:
        return None
    mean, deviation = float(np.mean(values)), float(np.std(values, ddof=1))
    if deviation <= 0.0:
        return None
    enough = count >= parts_for_smallest_to_largest()
    factor = 0.0 if enough else two_sided_factor(count)
    low, high = (min(values), max(values)) if enough else (
        mean - factor * deviation, mean + factor * deviation
    )  # fmt: skip
    return Learnt(
        low=low, high=high, count=count, mean=mean, deviation=deviation, factor=factor,
        how="smallest_to_largest" if enough else "normal",
    )  # fmt: skip
