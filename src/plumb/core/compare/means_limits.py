"""Decision limits of the analysis of means: h(alpha; k, nu).

Group means of k groups are compared with their grand mean; h is such that all of them stay within
h * s * sqrt((k - 1) / (k n)) with probability 1 - alpha.

>>> round(critical_h(0.05, 4, 8), 3)
3.066

The deviations Z_i - mean(Z) are exchangeable with correlation -1/(k - 1), so
P(max |Z_i - mean| <= c) = sqrt(k / 2 pi) * integral of psi_c(t)^k dt, with
psi_c(t) = integral over [-c, c] of phi(z) cos(t z) dz; that is averaged over s = chi_nu / sqrt(nu).
Table to compare with: Nelson 1983 (Journal of Quality Technology 15, 40-45).
"""

import math
from functools import lru_cache
from itertools import pairwise
from typing import Final

import numpy as np
import scipy  # its parts load when first used: all at once cost every start a second
from numpy.typing import NDArray

Array = NDArray[np.float64]

_REACH: Final = 9.0
"""Beyond nine standard deviations the probability is one to within 1e-16."""


@lru_cache(maxsize=8)
def _gauss(count: int) -> tuple[Array, Array]:
    """Gauss-Legendre nodes and weights on [-1, 1]; to find them costs more than to use them."""
    return np.polynomial.legendre.leggauss(count)


def _legendre(low: float, high: float, count: int) -> tuple[Array, Array]:
    """Gauss-Legendre nodes and weights on [low, high]."""
    nodes, weights = _gauss(count)
    half = (high - low) / 2.0
    return low + half * (nodes + 1.0), weights * half


@lru_cache(maxsize=1)
def _psi() -> tuple[Array, Array, Array]:
    """The grid of c, psi_c(t) with a row for each c, and the weights of t; the same for any number of groups."""
    t, t_weight = _legendre(0.0, 30.0, 400)
    grid = np.linspace(0.0, _REACH, 361)
    # From one c to the next only the strip between them is added; it is so narrow that four nodes are enough.
    strips = [_legendre(low, high, 4) for low, high in pairwise(grid)]
    z = np.concatenate([nodes for nodes, _ in strips])
    density = np.concatenate([weights for _, weights in strips]) * np.exp(-z * z / 2.0)
    parts = np.cos(np.outer(z, t)) * (density * math.sqrt(2.0 / math.pi))[:, None]
    rows = np.cumsum(parts.reshape(len(strips), 4, len(t)).sum(axis=1), axis=0)
    return grid, np.vstack([np.zeros(len(t)), rows]), t_weight


@lru_cache(maxsize=32)
def _within(k: int) -> "scipy.interpolate.CubicSpline":
    """P(max |Z_i - mean| <= c) for ``k`` groups as a spline over c."""
    grid, psi, t_weight = _psi()
    values = 2.0 * math.sqrt(k / (2.0 * math.pi)) * (psi**k @ t_weight)
    return scipy.interpolate.CubicSpline(grid, np.clip(values, 0.0, 1.0))


@lru_cache(maxsize=512)
def critical_h(alpha: float, k: int, degrees: int) -> float:
    """The factor h for ``k`` groups (3 or more) and ``degrees`` of freedom of the pooled s."""
    spline = _within(k)
    nu = float(degrees)
    # scipy.special.chdtri(v, p) is the chi-square value exceeded with probability p.
    low = math.sqrt(float(scipy.special.chdtri(nu, 1.0 - 1e-10)) / nu)
    high = math.sqrt(float(scipy.special.chdtri(nu, 1e-12)) / nu)
    s, s_weight = _legendre(low, high, 200)
    log_density = (
        math.log(2.0)
        + (nu / 2.0) * math.log(nu / 2.0)
        - float(scipy.special.gammaln(nu / 2.0))
        + (nu - 1.0) * np.log(s)
        - nu * s * s / 2.0
    )
    weight = np.exp(log_density) * s_weight
    share = math.sqrt((k - 1.0) / k)

    def short(h: float) -> float:
        c = np.minimum(h * share * s, _REACH)
        return float(np.sum(spline(c) * weight)) - (1.0 - alpha)

    return float(scipy.optimize.brentq(short, 0.1, 200.0, xtol=1e-9))
