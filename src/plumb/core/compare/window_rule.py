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
from plumb.core.measure.decision import Sides, State, Thresholds, normal_below, sides
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
    """One injector: its deviation from the reference in the quantity's unit, and the decision.

    ``from_others`` is the deviation from those that agree, itself left out, with one u of that: what decides.
    """

    item: Item
    state: State
    deviation: float | None
    u_deviation: float
    probability_out: float | None
    agrees: bool
    by_window: bool
    from_others: tuple[float, float] = (0.0, 0.0)


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


def outside_window(value: float, u: float, window: Window) -> Sides:
    """How likely the true value lies outside the window, below and above (JCGM 106:2012, 8)."""
    return sides(value, u, window.low, window.high)


def decide_window(
    value: float, u: float, window: Window, thresholds: Thresholds = Thresholds()
) -> State:
    """In plumb, low, high or unsettled against a window; not judged where there is none."""
    if not window.stated:
        return State.NOT_JUDGED
    return outside_window(value, u, window).state(thresholds)


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
    half = min(max(tolerance / 2.0, 2.0 * sorted(i.u for i in items)[len(items) // 2]), tolerance)
    group = _group(items, half, renewed)
    members = set(group.members)
    u_ref = math.sqrt(sum(items[k].u ** 2 for k in members)) / len(members)
    spread, spread_out = _spread(items, window)
    far = _farthest(values, group.mean) if (spread_out or 0.0) >= thresholds.call else None
    views = tuple(
        _view(
            item,
            window,
            tolerance,
            _Place(group, [items[m] for m in members if m != k], u_ref, k in members, k == far),
            len(items),
            thresholds,
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


def _spread(items: Sequence[Item], window: Window) -> tuple[float, float | None]:
    """From the lowest to the highest, and how likely that is more than the window allows; None where it says nothing."""
    lowest, highest = (limit(items, key=lambda i: i.value) for limit in (min, max))
    spread = highest.value - lowest.value
    if window.spread is None:
        return spread, None
    return spread, probability_above(spread, math.hypot(lowest.u, highest.u), window.spread)


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


class _Place(NamedTuple):
    """Where an item stands in its set: the group, those of it but itself, the group's u, whether it agrees, or is the farthest."""

    group: Group
    others: Sequence[Item]
    u_reference: float
    agrees: bool
    farthest: bool

    def deviation(self, item: Item) -> tuple[float, float]:
        """From the group's mean, and one u of that."""
        size = len(self.group.members)
        factor = max(0.0, 1.0 - 2.0 / size) if self.agrees else 1.0
        u_ref = 0.0 if self.agrees and size == 1 else self.u_reference
        return item.value - self.group.mean, math.sqrt(factor * item.u**2 + u_ref**2)

    def held(self, item: Item) -> tuple[float, float]:
        """From the mean of those that agree, itself left out, and one u of that: what decides."""
        if not self.others:
            return self.deviation(item)
        mean = sum(o.value for o in self.others) / len(self.others)
        return item.value - mean, math.hypot(
            item.u, math.hypot(*(o.u for o in self.others)) / len(self.others)
        )


def _view(
    item: Item,
    window: Window,
    tolerance: float,
    place: _Place,
    count: int,
    thresholds: Thresholds,
) -> View:
    """One injector, among so many."""
    deviation, u_dev = place.deviation(item)
    held = item.value if item.in_window is None else item.in_window
    state, out = State.NOT_JUDGED, None
    if window.stated:
        u_all = math.hypot(item.u, item.u_common)
        told = outside_window(held, u_all, window)
        state, out = told.state(thresholds), told.out
    by_window = state in {State.LOW, State.HIGH, State.UNSETTLED}
    if count > 1 and not by_window:
        by_set, out_of_set = _against_set(item, tolerance, place, thresholds)
        compared = window.spread is not None or not window.stated
        if compared and not (window.stated and by_set is State.SPLIT):
            state = by_set if by_set is not State.IN_PLUMB or not window.stated else state
            out = out if out is not None else out_of_set
    return View(
        item=item,
        state=state,
        deviation=deviation if count > 1 else None,
        u_deviation=u_dev,
        probability_out=out,
        agrees=place.agrees,
        by_window=by_window,
        from_others=place.held(item),
    )


def _against_set(
    item: Item, tolerance: float, place: _Place, thresholds: Thresholds
) -> tuple[State, float]:
    """What the set says of one, and how likely it lies outside."""
    deviation, u = place.held(item)
    told = sides(deviation, u, -tolerance, tolerance)
    if place.group.split:
        return State.SPLIT, told.out
    if place.farthest:
        return State.LOW if deviation < 0.0 else State.HIGH, told.out
    return told.state(thresholds), told.out
