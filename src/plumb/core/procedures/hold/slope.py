"""The slope of a falling pressure: the median of all pairs, which one bad reading cannot move.

>>> theil_sen([20.0, 19.5, 19.0, 18.5], [0.0, 8.0, 16.0, 24.0])[0]
-0.0625
"""

import math
from collections import Counter
from statistics import NormalDist
from typing import Final

import numpy as np

_COVER: Final = 0.95
_Z: Final = NormalDist().inv_cdf(0.5 + _COVER / 2.0)
MOST_POINTS: Final = 500
"""Of a longer log every so manieth reading takes part in the slope: pairs grow with the square."""


def theil_sen(roots: list[float], times: list[float]) -> tuple[float, float, float]:
    """The median of all slopes between two readings, with its interval.

    Sen 1968, Journal of the American Statistical Association 63, 1379-1389, (2.6).  Tests compare it
    with scipy's ``theilslopes``, which takes ten times as long for the dozen readings of a hold.
    """
    every = -(-len(roots) // MOST_POINTS)
    roots, times = roots[::every], times[::every]
    y, x = np.asarray(roots), np.asarray(times)
    later, earlier = np.tril_indices(len(x), -1)
    across = x[later] - x[earlier]
    apart = across > 0.0
    slopes = np.sort((y[later] - y[earlier])[apart] / across[apart])
    middle = len(slopes) // 2
    slope = (slopes[middle] + slopes[~middle]) / 2.0
    n = len(y)
    # Where moments and figures both repeat, the formula can fall below nothing.
    untied = max(0, n * (n - 1) * (2 * n + 5) - _ties(roots) - _ties(times))
    reach = _Z * math.sqrt(untied / 18.0)
    low = max(round((len(slopes) - reach) / 2.0) - 1, 0)
    high = min(round((len(slopes) + reach) / 2.0), len(slopes) - 1)
    return float(slope), float(slopes[low]), float(slopes[high])


def _ties(values: list[float]) -> int:
    """What readings that are the same take from the variance of Kendall's score."""
    counts = Counter(values).values()
    return sum(k * (k - 1) * (2 * k + 5) for k in counts)
