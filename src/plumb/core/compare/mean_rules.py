"""Rules taught in workshops: drops compared with some centre, a fixed pressure apart.

They are offered because shops and makers use them; each is computed as it is practised, with its
own weaknesses.  Sources: common practice, no source, unless a shop names one.

>>> from plumb.core.compare.bursts import BurstSet, Injected, flow_of
>>> psi = 6.894757293168
>>> rows = tuple(Injected(str(n), (flow_of(43 * psi, (43 - d) * psi, psi),))
...              for n, d in enumerate((14, 16, 13, 14), 1))
>>> ends_left_out(BurstSet(injected=rows, step=psi), Limits(limit=1.5 * psi, reject=2 * psi)).reject
('2',)
"""

from collections import Counter
from statistics import fmean, median

from plumb.core.compare.bursts import (
    BurstSet,
    Decision,
    Limits,
    Outcome,
    Row,
    beyond,
    drop_rows,
    reaches,
    too_few,
)

_KEEP, _REPEAT, _REJECT = Decision.KEEP, Decision.REPEAT, Decision.REJECT


def _against(rule: str, burst_set: BurstSet, centre: float, limit: float) -> Outcome:
    """Reject every drop more than ``limit`` from ``centre`` (kPa)."""
    decisions = [_REJECT if beyond(d - centre, limit) else _KEEP for d in burst_set.drops()]
    return Outcome(
        rule=rule,
        quantity="drop",
        centre=centre,
        silent=burst_set.silent,
        rows=drop_rows(burst_set, centre, decisions, limit),
    )


def plain_mean(burst_set: BurstSet, limits: Limits) -> Outcome:
    """Reject if the drop differs from the mean of all by more than the limit."""
    few = too_few("plain_mean", burst_set, 2)
    return few or _against("plain_mean", burst_set, burst_set.mean_drop(), limits.limit or 0.0)


def ends_left_out(burst_set: BurstSet, limits: Limits) -> Outcome:
    """Mean without the one highest and the one lowest drop; between the limits: repeat.

    With fewer than four injectors nothing is left out, and the plain mean is used.
    """
    if few := too_few("ends_left_out", burst_set, 2):
        return few
    drops = sorted(burst_set.drops())
    centre = fmean(drops[1:-1]) if len(drops) >= 4 else fmean(drops)
    limit, reject = limits.limit or 0.0, limits.reject or 0.0
    decisions = [
        _REJECT if reaches(d - centre, reject) else _REPEAT if beyond(d - centre, limit) else _KEEP
        for d in burst_set.drops()
    ]
    return Outcome(
        rule="ends_left_out",
        quantity="drop",
        centre=centre,
        silent=burst_set.silent,
        rows=drop_rows(burst_set, centre, decisions, reject),
    )


def _suspect(burst_set: BurstSet, chosen: str | None) -> int:
    """Index of the suspect: the chosen one, else the farthest from the median."""
    labels = [i.label for i in burst_set.injected]
    if chosen in labels:
        return labels.index(chosen)
    drops = burst_set.drops()
    middle = median(drops)
    return max(range(len(drops)), key=lambda k: abs(drops[k] - middle))


def suspect_left_out(burst_set: BurstSet, limits: Limits) -> Outcome:
    """Mean of the drops without the suspect; reject outside a fraction of it.

    Several suspects may be meant in a workshop; the rule leaves out the one chosen, or else the
    one farthest from the median.
    """
    if few := too_few("suspect_left_out", burst_set, 3):
        return few
    out = _suspect(burst_set, limits.suspect)
    centre = fmean(d for k, d in enumerate(burst_set.drops()) if k != out)
    return _against("suspect_left_out", burst_set, centre, (limits.tolerance or 0.0) * centre)


def commonest_drop(burst_set: BurstSet, limits: Limits) -> Outcome:
    """Reject what is more than the limit from the commonest drop.

    Several drops equally common: the one nearest the median; none repeated: does not apply.
    """
    if few := too_few("commonest_drop", burst_set, 2):
        return few
    # Drops that differ in their last float digit only are the same on the gauge.
    drops = burst_set.drops()
    counts = Counter(round(d, 6) for d in drops)
    most = max(counts.values())
    if most < 2:
        return Outcome(
            rule="commonest_drop",
            quantity="drop",
            applies=False,
            reason="no drop occurs twice",
            silent=burst_set.silent,
        )
    middle = median(drops)
    often = [d for d in drops if counts[round(d, 6)] == most]
    common = min(often, key=lambda d: (abs(d - middle), d))
    return _against("commonest_drop", burst_set, common, limits.limit or 0.0)


def end_pressure(burst_set: BurstSet, limits: Limits) -> Outcome:
    """Second readings against their median; reject what is more than the limit away.

    It only works when all bursts start alike: a caution says when they did not.
    """
    if few := too_few("end_pressure", burst_set, 2):
        return few
    limit = limits.limit or 0.0
    ends = [i.second for i in burst_set.injected]
    starts = [i.first for i in burst_set.injected]
    centre = median(ends)
    scale = max(median(starts) - centre, 1e-9)
    rows = tuple(
        Row(
            injector=i.label,
            value=i.second,
            deviation=(centre - i.second) / scale,
            limit=limit / scale,
            u=i.u_drop / scale,
            decision=_REJECT if beyond(i.second - centre, limit) else _KEEP,
        )
        for i in burst_set.injected
    )
    wander = max(starts) - min(starts)
    caution = (
        "the first readings differ by more than the limit, so the second readings "
        "cannot be compared"
        if beyond(wander, limit)
        else ""
    )
    return Outcome(
        rule="end_pressure",
        quantity="end_pressure",
        rows=rows,
        centre=centre,
        caution=caution,
        silent=burst_set.silent,
    )


def within_each_other(burst_set: BurstSet, limits: Limits) -> Outcome:
    """Largest minus smallest drop at most the limit, else the farthest from the median goes."""
    if few := too_few("within_each_other", burst_set, 2):
        return few
    drops = burst_set.drops()
    limit = limits.limit or 0.0
    middle = median(drops)
    apart = max(drops) - min(drops)
    decisions = [_KEEP] * len(drops)
    if beyond(apart, limit):
        decisions[max(range(len(drops)), key=lambda k: abs(drops[k] - middle))] = _REJECT
    return Outcome(
        rule="within_each_other",
        quantity="drop",
        centre=middle,
        rows=drop_rows(burst_set, middle, decisions, limit),
        silent=burst_set.silent,
    )
