"""Corrections: how much more fuel the controller gives one cylinder than its neighbours.

As corrections sum to about nothing, two starved cylinders push all the others the other way: the
reference is the cylinders that agree, never the mean.  A cylinder that asks for more is *weak*, and
weak is not "injector" before its compression and the rail are known.

>>> found = analyse_corrections(CorrectionSheet(
...     injectors=tuple("12345678"), step=0.1, unit="mm3", readings=tuple(
...     Value(injector=str(n), number=1, value=v)
...     for n, v in enumerate((14.0, -5.1, -4.9, 15.0, -5.0, -4.8, -5.2, -4.9), 1))))
>>> [f.injector for f in found.findings if f.state is State.HIGH]
['1', '4']
"""

import math
from dataclasses import dataclass, replace
from typing import Final

from plumb.core.compare.renewed import Renewed, held_by_others
from plumb.core.compare.window_rule import Absolute, Item, View, judge
from plumb.core.measure.decision import State, Thresholds, sides
from plumb.core.measure.finding import IN_POINTS, Finding, all_in_plumb
from plumb.core.measure.readings import Value, Window
from plumb.core.measure.uncertainty import SQRT12

KIND: Final = "correction"
POINTS: Final = 4.0
"""Corrections should lie within 3 or 4 points of each other; common practice, no source."""
_OUT: Final = frozenset({State.HIGH, State.LOW})
ON_TIME_SHARE: Final = 0.10
"""On-times are compared as a ratio; so far from those that agree, common practice, no source."""
POINTS_WANDER: Final = 0.4
ON_TIME_WANDERS: Final = 0.015
"""A figure wanders at idle from one look to the next: so many points, such a share of an on-time; common practice, no
source."""


@dataclass(frozen=True, slots=True, kw_only=True)
class CorrectionSheet:
    """What is put in: signed corrections in ``unit`` (mm3, percent) or on-times in ms.

    ``apart`` is the largest deviation allowed, in the unit; None: the usual one.  ``renewed`` were
    worked on before; as corrections are spread anew then, all cylinders are read and all of them vote.
    ``beside`` are the figures that the controller shows next to these, in a unit of their own.
    """

    injectors: tuple[str, ...]
    readings: tuple[Value, ...]
    step: float
    unit: str
    apart: float | None = None
    source: str = ""
    renewed: Renewed = ()
    beside: "Beside | None" = None

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside:
    """A second figure of each cylinder, of one reading, by injector; ``step`` is what they are shown to."""

    unit: str
    step: float
    figures: tuple[tuple[str, float], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class CorrectionResult:
    """What the sheet says: high asks for more fuel (a weak cylinder), low for less.

    ``beside`` is what the second figures say by themselves; None where there are none.
    """

    sheet: CorrectionSheet
    compared: Absolute
    findings: tuple[Finding, ...]
    apart: float
    thresholds: Thresholds
    beside: "CorrectionResult | None" = None

    @property
    def differ(self) -> tuple[str, ...]:
        """Cylinders of which both figures are told, and only one of them stands apart; in reach order."""
        other = {f.injector: f for f in self.beside.findings} if self.beside else {}
        both = [(f, other[f.injector]) for f in self.findings if f.told and f.injector in other]
        return tuple(
            a.injector
            for a, b in both
            if b.told and {a.state, b.state} & _OUT and a.state is not b.state
        )

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND

    @property
    def begun(self) -> bool:
        """Whether anything was read."""
        return bool(self.sheet.readings)

    @property
    def split(self) -> bool:
        """Two groups of one size stand against each other."""
        return self.compared.split

    @property
    def passed(self) -> bool:
        """Every cylinder was read and is in plumb."""
        return all_in_plumb(self.findings)


def analyse_corrections(
    sheet: CorrectionSheet, thresholds: Thresholds = Thresholds()
) -> CorrectionResult:
    """Judge each correction against those that agree, in points; on-times as a share of them."""
    means = {
        label: values
        for label in sheet.injectors
        if (
            values := [
                r.value for r in sheet.readings if r.injector == label and r.value is not None
            ]
        )
    }
    items = [
        Item(label=label, value=(mean := sum(v) / len(v)), u=_u(mean, len(v), sheet))
        for label, v in means.items()
    ]
    apart = _apart(sheet, items)
    compared = judge(items, Window(spread=apart), thresholds)
    views = {v.item.label: v for v in compared.views}
    findings = tuple(
        _finding(label, views.get(label), compared, apart, len(means.get(label, [])), thresholds)
        for label in sheet.injectors
    )
    return CorrectionResult(
        sheet=sheet,
        compared=compared,
        findings=held_by_others(findings, sheet.renewed),
        apart=apart,
        thresholds=thresholds,
        beside=_of_those_beside(sheet, thresholds),
    )


def _of_those_beside(sheet: CorrectionSheet, thresholds: Thresholds) -> CorrectionResult | None:
    """The second figures judged as if they stood alone: by their own unit's limit."""
    second = sheet.beside
    if second is None or not second.figures:
        return None
    readings = tuple(Value(injector=x, number=1, value=v) for x, v in second.figures)
    alone = replace(
        sheet, unit=second.unit, step=second.step, readings=readings, apart=None, beside=None
    )
    return analyse_corrections(alone, thresholds)


def _u(mean: float, count: int, sheet: CorrectionSheet) -> float:
    """What the mean of so many readings of one cylinder is known to: the last digit, and that it wanders at idle."""
    wanders = ON_TIME_WANDERS * abs(mean) if sheet.unit == "ms" else POINTS_WANDER
    return math.hypot(sheet.step / SQRT12, wanders) / math.sqrt(count)


def _apart(sheet: CorrectionSheet, items: list[Item]) -> float:
    if sheet.apart is not None:
        return sheet.apart
    if sheet.unit != "ms" or not items:
        return POINTS
    middle = sorted(i.value for i in items)[len(items) // 2]
    return ON_TIME_SHARE * abs(middle)


def _finding(
    label: str,
    view: View | None,
    compared: Absolute,
    apart: float,
    passes: int,
    thresholds: Thresholds,
) -> Finding:
    state = State.NOT_JUDGED if view is None else view.state
    out = None if view is None else view.probability_out
    if view is not None and view.deviation is not None and not compared.split:
        # The farthest is called only by its own deviation: here no limit on the spread of all is meant.
        told = sides(*view.from_others, -apart, apart)
        state, out = told.state(thresholds), told.out
    return Finding(
        injector=label,
        quantity="correction",
        scale=IN_POINTS,
        state=state,
        value=None if view is None else view.item.value,
        reference=compared.reference,
        deviation=None if view is None else view.deviation,
        u=None if view is None else view.u_deviation,
        tolerance=apart,
        probability_out=out,
        passes_to_settle=None,
        passes=passes,
        agrees=view is not None and view.agrees,
    )
