"""Shims under a nozzle's spring: what a hundredth of a millimetre buys, and which stack to fit.

Common practice says 2.35 bar for 0.01 mm, give or take a fifth; every change that a shop records on
a nozzle type moves that figure towards what its own bench shows.  The stack is then chosen from the
shims at hand, so that the opening pressure most likely lands in the window.

>>> round(learn(()).kpa_per_mm * 0.01)
235
>>> best = plan(11_600.0, 25.0, 1.0, (0.02, 0.05, 0.10, 0.20), Window(low=12_200.0, high=13_200.0),
...             learn(()))
>>> best.added, round(best.predicted)
((0.05,), 12775)
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import combinations_with_replacement
from typing import Final

from plumb.core.measure.decision import normal_below
from plumb.core.measure.readings import Window
from plumb.core.measure.uncertainty import reach

KPA_PER_MM: Final = 23_500.0
"""0.01 mm is worth about 2.35 bar, 0.4 thousandths of an inch 34 psi; common practice, no source."""
PRIOR_SHARE: Final = 0.20
"""How far a nozzle type may lie from that; common practice, no source."""
MAKER_SHARE: Final = 0.05
"""How far a nozzle may lie from its maker's figure, as one u; common practice, no source."""
BETWEEN_SHARE: Final = 0.10
BETWEEN_DEGREES: Final = 8.0
"""Nozzles of one type differ by a tenth, worth eight changes that were recorded; common practice, no source."""
REASSEMBLY_KPA: Final = 100.0
"""Taking a nozzle apart alone shifts it by a bar or two; common practice, no source."""
AS_LIKELY: Final = 0.02
"""Stacks that land as surely to two in a hundred are told apart by where they land."""
MOST_PIECES: Final = 3
"""More thin shims than that are not stacked on what is inside; common practice, no source."""
MM_PER_THOU: Final = 0.0254
"""A thousandth of an inch in mm, exactly (NIST SP 811, Appendix B.8)."""


_SAME_MM: Final = 1e-9
STEP_MM: Final = 0.01
STEP_THOU: Final = 0.5
"""Shims come in these steps; common practice, no source."""


def to_step(mm: float, length: str) -> float:
    """A thickness rounded to the step that shims come in, never to nothing.

    >>> to_step(0.068, "mm"), round(to_step(0.068, "thou") / 0.0254, 6)
    (0.07, 2.5)
    """
    step = STEP_THOU * MM_PER_THOU if length == "thou" else STEP_MM
    return round(max(1, round(mm / step)) * step, 6)


def show_shim(mm: float, length: str) -> str:
    """A shim in mm or in thousandths of an inch, without digits that say nothing.

    >>> show_shim(1.016, "thou"), show_shim(0.02, "mm")
    ('40', '0.02')
    """
    return f"{mm / MM_PER_THOU if length == 'thou' else mm:.4g}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """A change of shims on one nozzle: mm more (less below zero), kPa before and after, their u."""

    shim_mm: float
    before: float
    after: float
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Sensitivity:
    """What a millimetre of shim buys on a nozzle type: kPa per mm, its u, from so many changes.

    ``between`` is how far one nozzle of the type lies from another, one standard deviation.
    """

    kpa_per_mm: float
    u: float
    changes: int
    between: float = 0.0

    @property
    def u_of_one(self) -> float:
        """How well it is known of a single nozzle."""
        return math.hypot(self.u, self.between)


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """A stack to fit: whether the shim inside stays, the pieces added, and what it should give.

    ``change_mm`` is the difference to what is inside; ``low`` and ``high`` bound 95 %;
    ``probability`` is that of landing in ``window``, where it was aimed.  Pressures in kPa.
    """

    stays: bool
    added: tuple[float, ...]
    change_mm: float
    predicted: float
    u: float
    probability: float
    window: Window

    @property
    def low(self) -> float:
        """Lower end of the 95 % range."""
        return self.predicted - reach(self.u)

    @property
    def high(self) -> float:
        """Upper end of the 95 % range."""
        return self.predicted + reach(self.u)


COMMONLY: Final = Sensitivity(
    kpa_per_mm=KPA_PER_MM, u=PRIOR_SHARE * KPA_PER_MM, changes=0, between=BETWEEN_SHARE * KPA_PER_MM
)
"""Before anything is known of a nozzle type."""


def by_maker(kpa: float, shim_mm: float) -> Sensitivity:
    """What a nozzle's maker says that a shim buys.

    >>> round(by_maker(241.3, 0.4 * MM_PER_THOU).kpa_per_mm)
    23750
    """
    told = kpa / shim_mm
    return Sensitivity(
        kpa_per_mm=told, u=MAKER_SHARE * told, changes=0, between=BETWEEN_SHARE * told
    )


def learn(changes: Sequence[Change], before: Sensitivity = COMMONLY) -> Sensitivity:
    """The sensitivity after so many changes, from what was known ``before``; nozzles differ (random effects).

    A change carries the u of both its readings and the scatter of re-assembly, and what its nozzle differs by:
    DerSimonian and Laird 1986, Controlled Clinical Trials 7, 177-188 (from memory).
    """
    told = [
        (math.hypot(math.sqrt(2.0) * c.u, REASSEMBLY_KPA) / abs(c.shim_mm), (c.after - c.before) / c.shim_mm)
        for c in changes
        if abs(c.shim_mm) > _SAME_MM
    ]  # fmt: skip
    between = _between(told, BETWEEN_SHARE * before.kpa_per_mm)
    weight, sum_ = 1.0 / before.u**2, before.kpa_per_mm / before.u**2
    for u, buys in told:
        variance = u**2 + between**2
        weight += 1.0 / variance
        sum_ += buys / variance
    return Sensitivity(
        kpa_per_mm=sum_ / weight, u=weight**-0.5, changes=len(changes), between=between
    )


def _between(told: Sequence[tuple[float, float]], usual: float) -> float:
    """How far nozzles lie apart: what (u, buys) of each scatter beyond their u, pooled with what is ``usual``."""
    if len(told) < 2:
        return usual
    weights = [u**-2 for u, _ in told]
    total, squares = sum(weights), sum(w * w for w in weights)
    mean = sum(w * buys for w, (_, buys) in zip(weights, told, strict=True)) / total
    q = sum(w * (buys - mean) ** 2 for w, (_, buys) in zip(weights, told, strict=True))
    degrees = len(told) - 1
    found = max(0.0, (q - degrees) / (total - squares / total))
    pooled = (BETWEEN_DEGREES * usual**2 + degrees * found) / (BETWEEN_DEGREES + degrees)
    return math.sqrt(pooled)


def foretold(now: float, u_now: float, change_mm: float, s: Sensitivity) -> tuple[float, float]:
    """Opening pressure and its u after a change of shims; kPa."""
    u = math.sqrt(u_now**2 + (change_mm * s.u_of_one) ** 2 + REASSEMBLY_KPA**2)
    return now + s.kpa_per_mm * change_mm, u


def wanted_mm(now: float, window: Window, s: Sensitivity) -> float | None:
    """The change that would bring the pressure to the middle of the window; None without one."""
    if window.low is None or window.high is None:
        return None
    return ((window.low + window.high) / 2.0 - now) / s.kpa_per_mm


def aim(window: Window, others: Sequence[float]) -> Window:
    """Where a nozzle is set: in the window, and so that the set lies no further apart than it may.

    ``others`` are the pressures (kPa) of those that stay as they are.  Where both cannot hold, the
    window alone counts.

    >>> aimed = aim(Window(low=122.0, high=132.0, spread=5.0), (123.0, 124.0))
    >>> aimed.low, aimed.high
    (122.0, 128.0)
    """
    if not others or window.spread is None or window.low is None or window.high is None:
        return window
    low = max(window.low, max(others) - window.spread)
    high = min(window.high, min(others) + window.spread)
    return replace(window, low=low, high=high) if low < high else window


def plan(
    now: float,
    u_now: float,
    inside_mm: float | None,
    drawer: Sequence[float],
    window: Window,
    s: Sensitivity,
) -> Plan | None:
    """The stack most likely to land in the window, then nearest its middle, then fewest pieces.

    ``inside_mm`` None or 0: not known, so it stays and the drawer's shims go on top.  None when no
    stack of the drawer is foretold inside the window, or the window has only one side.
    """
    if window.low is None or window.high is None:
        return None
    middle = (window.low + window.high) / 2.0
    landing = [
        p
        for stays, added, change in _stacks(inside_mm, drawer)
        if abs(change) > 1e-9
        and window.low <= (p := _plan(now, u_now, (stays, added, change), window, s)).predicted
        and p.predicted <= window.high
    ]
    best = max((p.probability for p in landing), default=0.0)
    return min(
        (p for p in landing if p.probability >= best - AS_LIKELY),
        key=lambda p: (abs(p.predicted - middle), len(p.added) + p.stays),
        default=None,
    )


def nearest(
    now: float,
    u_now: float,
    inside_mm: float | None,
    drawer: Sequence[float],
    window: Window,
    s: Sensitivity,
) -> Plan | None:
    """Where no stack lands in the window: the one that comes nearest to its middle, and nearer.

    None without a drawer, a window of two sides, or a stack that is better than what is inside.
    """
    if window.low is None or window.high is None:
        return None
    middle = (window.low + window.high) / 2.0
    plans = (_plan(now, u_now, stack, window, s) for stack in _stacks(inside_mm, drawer))
    best = min(plans, key=lambda p: (abs(p.predicted - middle), len(p.added)), default=None)
    if best is None or abs(best.predicted - middle) >= abs(now - middle):
        return None
    return best


def _stacks(
    inside: float | None, drawer: Sequence[float]
) -> Iterator[tuple[bool, tuple[float, ...], float]]:
    """Every stack: whether what is inside stays, the pieces added, and the change in mm."""
    for count in range(1, MOST_PIECES + 1):
        for pieces in combinations_with_replacement(sorted(set(drawer)), count):
            yield True, pieces, sum(pieces)
            if inside:
                yield False, pieces, sum(pieces) - inside


def _plan(
    now: float,
    u_now: float,
    stack: tuple[bool, tuple[float, ...], float],
    window: Window,
    s: Sensitivity,
) -> Plan:
    stays, added, change = stack
    predicted, u = foretold(now, u_now, change, s)
    low = normal_below(((window.low or 0.0) - predicted) / u)
    high = normal_below((predicted - (window.high or math.inf)) / u)
    return Plan(
        stays=stays, added=added, change_mm=round(change, 6), predicted=predicted, u=u,
        probability=1.0 - low - high, window=window,
    )  # fmt: skip
