"""Deciding quantities that have a window of their own: resistances, volts, pressures.

Two comparisons: with the window (everything uncertain counts), and with the injectors that agree
(what is common to all readings of the sheet, such as the meter's class, cancels).

>>> items = [Item(label=str(n), value=v, u=0.03) for n, v in enumerate((12.1, 12.3, 12.2, 5.0), 1)]
>>> [v.state.value for v in judge(items, Window(low=11.0, high=14.0)).views]
['in_plumb', 'in_plumb', 'in_plumb', 'low']
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final, NamedTuple

from plumb.core.compare.agreement import Group, agreeing
from plumb.core.compare.renewed import Renewed, voters
from plumb.core.measure.decision import State, Thresholds, normal_below, probability_out
from plumb.core.measure.readings import Window

DEFAULT_SHARE: Final = 0.10
"""Without a window and without a spread: so far from those that agree; common practice."""


class Item(NamedTuple):
    """One injector's figure: ``u`` is its own uncertainty, ``u_common`` what all of them share.

    ``in_window`` is the figure to hold against the window, where that is another one (a coil at the
    window's own temperature); it defaults to ``value``.
    """

    label: str
    value: float
    u: float
    u_common: float = 0.0
    in_window: float | None = None


class View(NamedTuple):
    """One injector: its deviation from the reference in the quantity's unit, and the decision."""

    item: Item
    state: State
    deviation: float | None
    u_deviation: float
    probability_out: float | None
    agrees: bool
    by_window: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Absolute:
    """The set: who agrees, the reference, how far it spreads and how likely that is too far."""

    views: tuple[View, ...]
    group: Group | None
    agreeing: tuple[str, ...]
    reference: float | None
    u_reference: float
    tolerance: float | None
    spread: float | None
    spread_out: float | None

    @property
    def split(self) -> bool:
        """Two groups of one size stand against each other."""
        return self.group is not None and self.group.split


def outside_window(value: float, u: float, window: Window) -> float:
    """Probability that the true value lies outside the window (JCGM 106:2012, 8)."""
    if u <= 0.0:
        low_out = window.low is not None and value < window.low
        high_out = window.high is not None and value > window.high
        return 1.0 if low_out or high_out else 0.0
    below = normal_below((window.low - value) / u) if window.low is not None else 0.0
    above = normal_below((value - window.high) / u) if window.high is not None else 0.0
    return below + above


def decide_window(
    value: float, u: float, window: Window, thresholds: Thresholds = Thresholds()
) -> State:
    """In plumb, low, high or unsettled against a window; not judged where there is none."""
    if not window.stated:
        return State.NOT_JUDGED
    out = outside_window(value, u, window)
    if out >= thresholds.call:
        low = window.low is not None and value < window.low
        return State.LOW if low else State.HIGH
    return State.IN_PLUMB if out <= thresholds.clear else State.UNSETTLED


def judge(
    items: Sequence[Item],
    window: Window,
    thresholds: Thresholds = Thresholds(),
    share: float = DEFAULT_SHARE,
    renewed: Renewed = (),
) -> Absolute:
    """Judge a set against its window and against those that agree; items may be empty.

    ``share`` is how far from them an item may lie where the window states no spread; ``renewed`` are
    those that were worked on: the others say what is good.
    """
    if not items:
        return _NOTHING
    values = [i.value for i in items]
    middle = sorted(values)[len(values) // 2]
    tolerance = window.spread if window.spread is not None else share * abs(middle)
    half = max(tolerance / 2.0, 2.0 * sorted(i.u for i in items)[len(items) // 2])
    group = _group(items, half, renewed)
    members = set(group.members)
    u_ref = math.sqrt(sum(items[k].u ** 2 for k in members)) / len(members)
    spread = max(values) - min(values)
    u_spread = math.hypot(items[values.index(max(values))].u, items[values.index(min(values))].u)
    spread_out = (
        probability_above(spread, u_spread, window.spread) if window.spread is not None else None
    )
    far = _farthest(values, group.mean) if (spread_out or 0.0) >= thresholds.call else None
    views = tuple(
        _view(
            item, window, tolerance, group, (u_ref, k in members, k == far), len(items), thresholds
        )
        for k, item in enumerate(items)
    )
    return Absolute(
        views=views,
        group=group,
        agreeing=tuple(items[k].label for k in sorted(members)),
        reference=group.mean,
        u_reference=u_ref,
        tolerance=tolerance,
        spread=spread,
        spread_out=spread_out,
    )


_NOTHING: Final = Absolute(
    views=(), group=None, agreeing=(), reference=None, u_reference=0.0, tolerance=None,
    spread=None, spread_out=None,
)  # fmt: skip


def _group(items: Sequence[Item], half: float, renewed: Renewed) -> Group:
    """Those that agree, by their places among all items; who was worked on has no vote."""
    asked = voters([i.label for i in items], renewed)
    group = agreeing([items[k].value for k in asked], half, absolute=True)
    return replace(
        group, members=tuple(asked[k] for k in group.members),
        others=tuple(tuple(asked[k] for k in other) for other in group.others),
    )  # fmt: skip


def probability_above(value: float, u: float, limit: float) -> float:
    """Probability that the true value is above a limit."""
    if u <= 0.0:
        return 1.0 if value > limit else 0.0
    return normal_below((value - limit) / u)


def _farthest(values: Sequence[float], centre: float) -> int:
    return max(range(len(values)), key=lambda k: abs(values[k] - centre))


def _view(
    item: Item,
    window: Window,
    tolerance: float,
    group: Group,
    place: tuple[float, bool, bool],
    count: int,
    thresholds: Thresholds,
) -> View:
    """One injector; ``place``: the reference's u, whether it agrees, whether it is the farthest."""
    u_ref, agrees, farthest = place
    size = len(group.members)
    factor = max(0.0, 1.0 - 2.0 / size) if agrees else 1.0
    deviation = item.value - group.mean
    u_dev = math.sqrt(factor * item.u**2 + (0.0 if agrees and size == 1 else u_ref**2))
    held = item.value if item.in_window is None else item.in_window
    state, out = State.NOT_JUDGED, None
    if window.stated:
        u_all = math.hypot(item.u, item.u_common)
        state = decide_window(held, u_all, window, thresholds)
        out = outside_window(held, u_all, window)
    by_window = state in {State.LOW, State.HIGH, State.UNSETTLED}
    if count > 1 and not by_window:
        by_set = _against_set(deviation, u_dev, tolerance, group, thresholds, farthest=farthest)
        compared = window.spread is not None or not window.stated
        if compared and not (window.stated and by_set is State.SPLIT):
            state = by_set if by_set is not State.IN_PLUMB or not window.stated else state
            out = out if out is not None else probability_out(deviation, u_dev, tolerance)
    return View(
        item=item,
        state=state,
        deviation=deviation if count > 1 else None,
        u_deviation=u_dev,
        probability_out=out,
        agrees=agrees,
        by_window=by_window,
    )


def _against_set(
    deviation: float,
    u: float,
    tolerance: float,
    group: Group,
    thresholds: Thresholds,
    *,
    farthest: bool,
) -> State:
    if group.split:
        return State.SPLIT
    out = probability_out(deviation, u, tolerance)
    if farthest or out >= thresholds.call:
        return State.LOW if deviation < 0.0 else State.HIGH
    return State.IN_PLUMB if out <= thresholds.clear else State.UNSETTLED
