"""Generic outlier tests, offered beside the workshop's rules so that their worth can be seen.

A gauge's step makes ties, and ties make the spread look smaller than it is: these tests condemn
someone in many healthy sets.

>>> scores, middle, mad = modified_z([199.31, 199.53, 200.19, 200.82, 201.92, 201.95, 202.18,
...                                   245.57])
>>> round(middle, 2), round(mad, 3), round(scores[-1], 4)
(201.37, 0.995, 29.9627)

Sources: Iglewicz and Hoaglin 1993 (modified z, 3.5); Rosner 1983, Technometrics 25, 165-172
(generalised extreme studentised deviate); Nelson 1983 (analysis of means).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from statistics import fmean, median

import scipy  # its parts load when first used: all at once cost every start a second

from plumb.core.compare.bursts import (
    BurstSet,
    Decision,
    Limits,
    Outcome,
    Row,
    beyond,
    drop_rows,
    too_few,
)
from plumb.core.compare.means_limits import critical_h
from plumb.core.measure.uncertainty import SQRT12, sample_sd

_KEEP, _REJECT = Decision.KEEP, Decision.REJECT


def modified_z(values: Sequence[float], floor: float = 0.0) -> tuple[list[float], float, float]:
    """Scores 0.6745 (x - median) / MAD, the median and the MAD, which is held above ``floor``.

    A MAD of zero without a floor gives scores of zero for values at the median, infinite else.
    """
    middle = median(values)
    mad = max(median(abs(x - middle) for x in values), floor)
    scores = [
        0.6745 * (x - middle) / mad
        if mad > 0.0
        else 0.0
        if x == middle
        else math.copysign(math.inf, x - middle)
        for x in values
    ]
    return scores, middle, mad


@lru_cache(maxsize=4096)
def grubbs_critical(count: int, alpha: float, *, two_sided: bool = True) -> float:
    """Critical value of the largest |x - mean| / s of ``count`` values.

    NIST/SEMATECH e-Handbook 1.3.5.17.1; with ``two_sided`` it is the lambda of 1.3.5.17.3.
    """
    p = alpha / ((2.0 if two_sided else 1.0) * count)
    t = -float(scipy.special.stdtrit(count - 2.0, p))
    return (count - 1.0) / math.sqrt(count) * math.sqrt(t * t / (count - 2.0 + t * t))


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviateStep:
    """One round of the extreme studentised deviate: which value went, R and lambda."""

    index: int
    r: float
    critical: float


def extreme_deviates(
    values: Sequence[float], most: int, alpha: float
) -> tuple[list[DeviateStep], int]:
    """Rosner's generalised test for up to ``most`` outliers: the rounds, and how many count."""
    left = list(range(len(values)))
    steps: list[DeviateStep] = []
    for _ in range(most):
        if len(left) < 3:
            break
        kept = [values[i] for i in left]
        mean, s = fmean(kept), sample_sd(kept)
        if s <= 1e-12 * max(1.0, abs(mean)):
            break
        far = max(left, key=lambda i: abs(values[i] - mean))
        steps.append(
            DeviateStep(
                index=far, r=abs(values[far] - mean) / s, critical=grubbs_critical(len(left), alpha)
            )
        )
        left.remove(far)
    counted = max((n for n, s_ in enumerate(steps, 1) if s_.r > s_.critical), default=0)
    return steps, counted


def judge_modified_z(burst_set: BurstSet, limits: Limits) -> Outcome:
    """Reject a drop whose modified z is beyond the score; MAD not below one step / sqrt(12)."""
    if few := too_few("modified_z", burst_set, 3):
        return few
    cut = limits.score or 3.5
    scores, middle, mad = modified_z(burst_set.drops(), burst_set.step / SQRT12)
    decisions = [_REJECT if beyond(z, cut) else _KEEP for z in scores]
    return Outcome(
        rule="modified_z",
        quantity="drop",
        centre=middle,
        silent=burst_set.silent,
        rows=drop_rows(burst_set, middle, decisions, cut * mad / 0.6745),
    )


def judge_extreme(burst_set: BurstSet, limits: Limits) -> Outcome:
    """Reject the drops that Rosner's test counts as outliers, up to half of the set."""
    drops = burst_set.drops()
    if few := too_few("extreme_studentized", burst_set, 3):
        return few
    steps, counted = extreme_deviates(drops, max(1, len(drops) // 2), limits.alpha or 0.05)
    gone = {s.index for s in steps[:counted]}
    kept = [d for k, d in enumerate(drops) if k not in gone]
    centre = fmean(kept)
    spread = sample_sd(kept) if len(kept) > 1 else 0.0
    reach = spread * (steps[counted].critical if counted < len(steps) else 0.0)
    decisions = [_REJECT if k in gone else _KEEP for k in range(len(drops))]
    return Outcome(
        rule="extreme_studentized",
        quantity="drop",
        centre=centre,
        rows=drop_rows(burst_set, centre, decisions, reach),
        silent=burst_set.silent,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class MeansAnalysis:
    """Group means against their decision limits: grand mean, pooled s, a half-width each."""

    grand: float
    s: float
    h: float
    means: tuple[float, ...]
    half_widths: tuple[float, ...]

    @property
    def outside(self) -> tuple[bool, ...]:
        """Which group means lie outside their limits."""
        return tuple(
            beyond(m - self.grand, w) for m, w in zip(self.means, self.half_widths, strict=True)
        )


def analyse_means(
    groups: Sequence[Sequence[float]], alpha: float, floor: float = 0.0
) -> MeansAnalysis:
    """Analysis of means of 3 or more groups of 2 or more values; ``floor`` holds s up.

    Groups of unequal size get limits of their own width, sqrt((N - n) / (N n)) (Nelson 1983).
    """
    total = sum(len(g) for g in groups)
    degrees = total - len(groups)
    means = tuple(fmean(g) for g in groups)
    grand = sum(sum(g) for g in groups) / total
    squares = sum((x - m) ** 2 for g, m in zip(groups, means, strict=True) for x in g)
    s = max(math.sqrt(squares / degrees), floor)
    h = critical_h(alpha, len(groups), degrees)
    widths = tuple(h * s * math.sqrt((total - len(g)) / (total * len(g))) for g in groups)
    return MeansAnalysis(grand=grand, s=s, h=h, means=means, half_widths=widths)


def judge_means(burst_set: BurstSet, limits: Limits) -> Outcome:
    """Reject an injector whose mean drop lies outside the decision limits; two passes each."""
    injected = burst_set.injected
    if len(injected) < 3 or any(i.passes < 2 for i in injected):
        return Outcome(
            rule="analysis_of_means",
            quantity="drop",
            applies=False,
            reason="needs two passes of each of 3 or more injectors",
            silent=burst_set.silent,
        )
    found = analyse_means(
        [[f.drop for f in i.flows] for i in injected],
        limits.alpha or 0.05,
        floor=burst_set.step / SQRT12,
    )
    scale = found.grand if found.grand > 0.0 else 1.0
    rows = tuple(
        Row(
            injector=i.label,
            value=i.drop,
            deviation=(i.drop - found.grand) / scale,
            limit=width / scale,
            u=i.u_drop / scale,
            decision=_REJECT if out else _KEEP,
        )
        for i, width, out in zip(injected, found.half_widths, found.outside, strict=True)
    )
    return Outcome(
        rule="analysis_of_means",
        quantity="drop",
        rows=rows,
        centre=found.grand,
        silent=burst_set.silent,
    )
