"""What the rules are given: each injector's bursts on one sheet, and what a rule gives back.

A burst starts at ``first`` and ends at ``second`` (kPa); passes of one injector are averaged.

>>> one = Injected(label="1", flows=(flow_of(350.0, 180.0, 3.4), flow_of(352.0, 182.0, 3.4)))
>>> one.drop, one.second
(170.0, 181.0)
"""

import math
from collections.abc import Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, field
from enum import StrEnum
from itertools import pairwise
from statistics import fmean, median
from typing import Final, NamedTuple

from plumb.core.compare.flow import Flow, flow_of
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.uncertainty import (
    PRIOR_RELATIVE,
    Repeatability,
    Scatter,
    relative_scatter,
    sample_sd,
)

__all__ = ["BurstSet", "Decision", "Injected", "Limits", "Outcome", "Row", "flow_of"]


@dataclass(frozen=True, slots=True)
class Injected:
    """One injector's bursts, at least one, in pass order; all means are over the passes.

    ``u_first`` and ``u_second`` are what the two readings add to the uncertainty of the mean flow;
    ``bound``: the rail ran empty at least once, so the flow is only a lower bound.  ``span``
    is the largest flow of a pass less the smallest, ``situations`` how many bursts begin a step or more
    from each other: whoever begins at the same mark reads the same rounding again, however often; ``different`` how
    many pairs of readings there are that are not the same.  ``starts`` are the lowest and the highest first reading, ``scatter`` is how the passes' flows lie about their mean.
    """

    label: str
    flows: tuple[Flow, ...]
    first: float = field(init=False)
    second: float = field(init=False)
    drop: float = field(init=False)
    flow: float = field(init=False)
    u_drop: float = field(init=False)
    u_first: float = field(init=False)
    u_second: float = field(init=False)
    bound: bool = field(init=False)
    span: float = field(init=False)
    situations: int = field(init=False)
    different: int = field(init=False)
    starts: tuple[float, float] = field(init=False)
    scatter: Scatter = field(init=False)

    def __post_init__(self) -> None:
        """Take the means once, in one walk over the passes: every rule asks for them."""
        first = second = drop = flow = u_drop = u_first = u_second = 0.0
        bound = False
        low = high = self.flows[0].first
        least = most = self.flows[0].value
        for f in self.flows:
            if f.first < low:
                low = f.first
            elif f.first > high:
                high = f.first
            if f.value < least:
                least = f.value
            elif f.value > most:
                most = f.value
            first += f.first
            second += f.second
            drop += f.drop
            flow += f.value
            u_drop += f.u_drop * f.u_drop
            u_first += f.u_first * f.u_first
            u_second += f.u_second * f.u_second
            bound = bound or f.bound
        count = len(self.flows)
        put = object.__setattr__
        put(self, "first", first / count)
        put(self, "second", second / count)
        put(self, "drop", drop / count)
        put(self, "flow", flow / count)
        situations = _situations(self.flows)
        told = math.sqrt(count * situations)
        put(self, "u_drop", math.sqrt(u_drop) / told)
        put(self, "u_first", math.sqrt(u_first) / told)
        put(self, "u_second", math.sqrt(u_second) / told)
        put(self, "situations", situations)
        put(self, "different", len({(f.first, f.second) for f in self.flows}))
        put(self, "bound", bound)
        put(self, "span", most - least)
        put(self, "starts", (low, high))
        scatter = relative_scatter([f.value for f in self.flows]) if count > 1 else (0.0, 0)
        put(self, "scatter", scatter)

    @property
    def passes(self) -> int:
        """How many bursts there are."""
        return len(self.flows)

    def news(self, *, wanders: bool) -> int:
        """How many of its readings are news to the gauge: a rounding that comes again is none."""
        return max(self.situations, self.different) if wanders else self.situations

    @property
    def strays(self) -> int:
        """How many passes lie on the smaller side of the widest gap between two of them."""
        ranked = sorted(f.value for f in self.flows)
        gaps = [b - a for a, b in pairwise(ranked)]
        at = 1 + gaps.index(max(gaps)) if gaps else 0
        return min(at, len(ranked) - at)

    @property
    def responds(self) -> bool:
        """The mean drop can be told from none: it is beyond twice its uncertainty."""
        return self.drop > 2.0 * self.u_drop


def _situations(flows: Sequence[Flow]) -> int:
    """How many of the first readings lie a step or more from each other."""
    count, last = 0, -math.inf
    for first, step in sorted((f.first, f.step) for f in flows):
        if first - last >= step * (1.0 - 1e-9):
            count, last = count + 1, first
    return count


WANDERS: Final = 0.5
"""Starts that scatter by so much of a step make roundings chance; from memory, see there."""


@dataclass(frozen=True, slots=True, kw_only=True)
class BurstSet:
    """All injectors with at least one measured burst, in reach order, and the gauge's step (kPa).

    ``silent`` are the labels whose last burst was marked "no response" without a figure; ``prior`` is how one
    reading of this test scatters before any pass was repeated.
    """

    injected: tuple[Injected, ...]
    step: float
    silent: tuple[str, ...] = ()
    prior: float = PRIOR_RELATIVE

    def drops(self) -> list[float]:
        """The mean drop of each injector, kPa."""
        return [i.drop for i in self.injected]

    def median_pressures(self) -> tuple[float, float]:
        """Median first and second reading of those that respond (kPa)."""
        live = [i for i in self.injected if i.responds] or list(self.injected)
        return median(i.first for i in live), median(i.second for i in live)

    @property
    def wanders(self) -> bool:
        """Whether bursts begin now here, now there, by half a step and more: then roundings are chance.

        So much makes the error of a rounding as good as independent of what is rounded (Widrow and Kollár 2008,
        Quantization Noise; from memory).
        """
        starts = [f.first for i in self.injected for f in i.flows]
        return len(starts) > 1 and sample_sd(starts) >= WANDERS * self.step

    def repeatability(self, without: AbstractSet[str] = frozenset()) -> Repeatability:
        """Burst to burst scatter, pooled over the injectors that respond; some left out by label."""
        return Repeatability.of_scatters(
            (i.scatter for i in self.injected if i.responds and i.label not in without),
            prior=self.prior,
        )

    def mean_drop(self) -> float:
        """Plain mean of all drops, kPa."""
        return fmean(self.drops())


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """What a rule may be told: each rule reads the ones it knows (see ``rules.RULES``).

    ``tolerance`` is a fraction of the flow or of the drop; ``limit`` and ``reject`` are kPa;
    ``score`` and ``alpha`` have no unit; ``suspect`` is an injector's label.
    """

    tolerance: float | None = None
    limit: float | None = None
    reject: float | None = None
    score: float | None = None
    alpha: float | None = None
    suspect: str | None = None
    thresholds: Thresholds = Thresholds()


class Decision(StrEnum):
    """What a rule does with one injector."""

    KEEP = "keep"
    REPEAT = "repeat"
    REJECT = "reject"


class Row(NamedTuple):
    """One injector under one rule.

    ``value`` in the rule's quantity (kPa, or sqrt(kPa)); ``deviation``, ``limit`` and ``u`` are
    fractions of the centre's drop or flow, positive on the side that gives more.
    """

    injector: str
    value: float
    deviation: float
    limit: float
    u: float
    decision: Decision


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """What one rule makes of a set.

    ``applies`` is false when the rule cannot be used, ``reason`` then says why; ``caution`` is a
    warning beside a result that stands.  ``centre`` is what the rule compared with.
    """

    rule: str
    quantity: str
    rows: tuple[Row, ...] = ()
    centre: float | None = None
    applies: bool = True
    reason: str = ""
    caution: str = ""
    silent: tuple[str, ...] = ()

    @property
    def reject(self) -> tuple[str, ...]:
        """Labels the rule would reject, those that did not respond included."""
        rows = tuple(r.injector for r in self.rows if r.decision is Decision.REJECT)
        return rows + tuple(s for s in self.silent if s not in rows)

    @property
    def repeat(self) -> tuple[str, ...]:
        """Labels the rule would measure again."""
        return tuple(r.injector for r in self.rows if r.decision is Decision.REPEAT)


def beyond(difference: float, limit: float) -> bool:
    """More than the limit, the last float digit aside: 1.5 psi away is not *more than* 1.5."""
    return abs(difference) > limit + 1e-9 * max(1.0, limit)


def reaches(difference: float, limit: float) -> bool:
    """The limit or more, the last float digit aside."""
    return abs(difference) >= limit - 1e-9 * max(1.0, limit)


def too_few(rule: str, burst_set: BurstSet, least: int) -> Outcome | None:
    """An outcome that does not apply when fewer than ``least`` injectors are measured."""
    count = len(burst_set.injected)
    if count >= least:
        return None
    return Outcome(
        rule=rule,
        quantity="drop",
        applies=False,
        silent=burst_set.silent,
        reason=f"needs {least} measured injectors, there are {count}",
    )


def drop_rows(
    burst_set: BurstSet, centre: float, decisions: Sequence[Decision], limit: float
) -> tuple[Row, ...]:
    """Rows for a rule that compares drops with ``centre`` (kPa) and a ``limit`` (kPa)."""
    scale = centre if centre > 0.0 else 1.0
    return tuple(
        Row(
            injector=i.label,
            value=i.drop,
            deviation=(i.drop - centre) / scale,
            limit=limit / scale,
            u=i.u_drop / scale,
            decision=d,
        )
        for i, d in zip(burst_set.injected, decisions, strict=True)
    )
