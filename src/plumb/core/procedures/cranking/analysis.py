"""Cranking balance: how high each cylinder's hump of starter current stands.

The engine is kept from starting and cranked for a couple of seconds with a clamp round all starter
cables; each compression makes a hump.  Even humps mean even compression; a cylinder beyond -15 %
in every cycle is mechanically weak, once only is noise (common practice, no source).  Humps are
typed in per cent of the usual one, or come from a trace (see ``traces.humps``); what is typed comes first.

>>> sheet = CrankingSheet(cylinders=(("1", 98.0), ("2", 101.0), ("3", 79.0), ("4", 100.0)), step=1.0)
>>> [f.state.value for f in analyse_cranking(sheet).findings]
['in_plumb', 'in_plumb', 'low', 'in_plumb']
"""

import math
from dataclasses import dataclass, replace
from statistics import median
from typing import Final

from plumb.core.measure.decision import State, Thresholds, normal_below, sides
from plumb.core.measure.finding import SHARE, Finding, all_in_plumb
from plumb.core.measure.uncertainty import step_uncertainty

KIND: Final = "cranking_balance"
LIMIT: Final = 0.15
HUMP_REPEATS: Final = 0.03
"""A hump that is read from a screen comes again to so much of it; common practice, no source."""
LEAST_CYCLES: Final = 3
"""Fewer cycles cannot tell noise from a weak cylinder."""
MOST_CYCLES_LOW: Final = 0.8
"""In every cycle, but for a few that noise lifted: common practice, no source."""
LEAST_SCATTER: Final = 0.01
MAD_SCALE: Final = 1.4826
MEDIAN_FACTOR: Final = 1.2533
"""From a MAD to a standard deviation, from a mean's u to a median's; both for the normal law."""

FIRING_ORDERS: Final[dict[int, tuple[int, ...]]] = {
    1: (1,),
    2: (1, 2),
    3: (1, 2, 3),
    4: (1, 3, 4, 2),
    5: (1, 2, 4, 5, 3),
    6: (1, 5, 3, 6, 2, 4),
    8: (1, 8, 4, 3, 6, 5, 7, 2),
}
"""The usual order of engines in line, and of one V8; common practice, no source: it can be set."""


@dataclass(frozen=True, slots=True, kw_only=True)
class CrankTrace:
    """Humps from a trace: heights in per cent of the usual one, cycle by cycle in firing order.

    ``order`` are the labels of the humps where a sync signal told them, else empty.
    """

    cycles: tuple[tuple[float, ...], ...]
    order: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class CrankingSheet:
    """What is put in: each cylinder's hump by injector label, None where not typed; a trace.

    ``bare`` are names of cylinders without an injector of their own, ``beside`` pairs of a name and a
    further injector of that cylinder, ``shared`` the injectors that feed all cylinders.  ``low_by_eye``
    are those whose hump was seen to be low, where somebody only looked; None where nobody did.
    """

    cylinders: tuple[tuple[str, float | None], ...]
    bare: frozenset[str] = frozenset()
    beside: tuple[tuple[str, str], ...] = ()
    shared: tuple[str, ...] = ()
    step: float
    limit: float = LIMIT
    trace: CrankTrace | None = None
    low_by_eye: tuple[str, ...] | None = None

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND


@dataclass(frozen=True, slots=True, kw_only=True)
class Hump:
    """One place in the cycle: its cylinder's label or empty, its median height over the cycles.

    ``low_cycles`` of ``cycles`` lie beyond the limit; ``once`` says that it was noise.
    """

    place: int
    label: str
    median: float
    u: float
    low_cycles: int
    cycles: int
    state: State
    probability_out: float

    @property
    def once(self) -> bool:
        """Some cycle was low, but not this hump as a rule."""
        return self.low_cycles > 0 and self.state is State.IN_PLUMB


@dataclass(frozen=True, slots=True, kw_only=True)
class CrankingResult:
    """What the sheet says: low is a mechanically weak cylinder; ``reference`` the median hump.

    ``humps`` are those of the trace; ``uneven``: one of them is low, but nobody knows whose it is.
    """

    sheet: CrankingSheet
    findings: tuple[Finding, ...]
    humps: tuple[Hump, ...]
    reference: float | None
    uneven: bool
    thresholds: Thresholds

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND

    @property
    def begun(self) -> bool:
        """Whether a hump was typed, or found in a trace."""
        looked = self.sheet.low_by_eye is not None
        return looked or bool(self.humps) or any(v is not None for _, v in self.sheet.cylinders)

    @property
    def passed(self) -> bool:
        """Every cylinder was read and none is weak."""
        return all_in_plumb(self.findings)


def analyse_cranking(sheet: CrankingSheet, thresholds: Thresholds = Thresholds()) -> CrankingResult:
    """Judge each hump against the median of all; fewer than three say nothing."""
    values = [v for _, v in sheet.cylinders if v is not None]
    middle = median(values) if len(values) > 2 else None
    humps = _humps(sheet, thresholds)
    told = {h.label: h for h in humps if h.label}
    loose = bool(humps) and not told
    even = loose and all(h.state is State.IN_PLUMB for h in humps)

    def finding(label: str, value: float | None) -> Finding:
        if value is None and humps:
            return _from_trace(label, told.get(label), humps, sheet, even=even)
        if value is None and sheet.low_by_eye is not None:
            return _by_eye(label, sheet, low=label in sheet.low_by_eye)
        return _typed(label, value, middle, sheet, thresholds)

    findings = tuple(finding(label, value) for label, value in sheet.cylinders)
    return CrankingResult(
        sheet=sheet,
        findings=tuple(
            replace(f, injector="", place=f.injector) if f.injector in sheet.bare else f
            for f in findings
        ),
        humps=humps,
        reference=100.0 if middle is None and humps else middle,
        uneven=loose and any(h.state is State.LOW for h in humps),
        thresholds=thresholds,
    )


def _humps(sheet: CrankingSheet, thresholds: Thresholds) -> tuple[Hump, ...]:
    trace = sheet.trace
    if trace is None or len(trace.cycles) < LEAST_CYCLES:
        return ()
    return tuple(
        _hump(
            place, [c[place] / 100.0 for c in trace.cycles],
            trace.order[place] if trace.order else "", sheet.limit, thresholds,
        )
        for place in range(len(trace.cycles[0]))
    )  # fmt: skip


def _hump(
    place: int, heights: list[float], label: str, limit: float, thresholds: Thresholds
) -> Hump:
    """One place over all cycles: low in every one of them, or surely so in nearly every one."""
    count = len(heights)
    middle = median(heights)
    scatter = max(LEAST_SCATTER, MAD_SCALE * median(abs(h - middle) for h in heights))
    u = MEDIAN_FACTOR * scatter / count**0.5
    low = sum(1 for h in heights if h < 1.0 - limit)
    out = normal_below((1.0 - limit - middle) / u)
    state = State.UNSETTLED
    if low == count or (out >= thresholds.call and low >= MOST_CYCLES_LOW * count):
        state = State.LOW
    elif out <= thresholds.clear:
        state = State.IN_PLUMB
    return Hump(
        place=place, label=label, median=middle, u=u, low_cycles=low, cycles=count, state=state,
        probability_out=out,
    )  # fmt: skip


def _from_trace(
    label: str, hump: Hump | None, humps: tuple[Hump, ...], sheet: CrankingSheet, *, even: bool
) -> Finding:
    """A cylinder by its hump; without a sync all are even, or none can be told."""
    state = State.NOT_JUDGED
    if hump is not None:
        state = hump.state
    elif even:
        state = State.IN_PLUMB
    return Finding(
        injector=label,
        quantity="hump",
        scale=SHARE,
        state=state,
        value=None if hump is None else 100.0 * hump.median,
        reference=100.0,
        deviation=None if hump is None else hump.median - 1.0,
        u=None if hump is None else hump.u,
        tolerance=sheet.limit,
        probability_out=None if hump is None else hump.probability_out,
        passes_to_settle=None,
        passes=humps[0].cycles,
        agrees=False,
    )


def _by_eye(label: str, sheet: CrankingSheet, *, low: bool) -> Finding:
    """A cylinder that was only looked at: no figure, and no more said than was seen."""
    return Finding(
        injector=label, quantity="hump", scale=SHARE,
        state=State.LOW if low else State.IN_PLUMB,
        value=None, reference=None, deviation=None, u=None, tolerance=sheet.limit,
        probability_out=None, passes_to_settle=None, passes=1, agrees=False,
    )  # fmt: skip


def _typed(
    label: str,
    value: float | None,
    middle: float | None,
    sheet: CrankingSheet,
    thresholds: Thresholds,
) -> Finding:
    deviation, u, out, state = None, None, None, State.NOT_JUDGED
    if value is not None and middle:
        deviation = value / middle - 1.0
        u = math.hypot(step_uncertainty(sheet.step) / middle, HUMP_REPEATS * value / middle)
        told = sides(deviation, u, -sheet.limit, None)
        state, out = told.state(thresholds), told.out
    return Finding(
        injector=label,
        quantity="hump",
        scale=SHARE,
        state=state,
        value=value,
        reference=middle,
        deviation=deviation,
        u=u,
        tolerance=sheet.limit,
        probability_out=out,
        passes_to_settle=None,
        passes=0 if value is None else 1,
        agrees=False,
    )
