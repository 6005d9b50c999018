"""Figures of a row as a screen shows them: with the digits that the gauge allows."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from plumb.core.measure.quantities import (
    KPA_PER,
    decimals_for,
    decimals_shown,
    rounded,
    show_pressure,
)
from plumb.jobfile.kinds.kind import factor_of
from plumb.store.records import ReadingRecord, WholeSheet


@dataclass(frozen=True, slots=True, kw_only=True)
class Noted:
    """What was noted on one row, and how it is to be shown; shims in ``length``."""

    label: str
    readings: Sequence[ReadingRecord]
    unit: str
    step: float
    length: str

    @property
    def values(self) -> list[float]:
        """The figures of a row that takes one, in the core's unit."""
        return [r.value for r in self.readings if r.value is not None]

    @property
    def over(self) -> str:
        """The word of a meter or tube that ran over, where that was the last thing noted."""
        return "over" if self.readings and self.readings[-1].mark == "over" else ""


def show(value: float, unit: str, step: float) -> str:
    """A figure of the core with the gauge's digits: kPa in ``unit``, the rest as it is."""
    if unit in KPA_PER:
        return show_pressure(value, unit, step)
    return rounded(value, decimals_for(float(f"{step:.6g}")))


def figure(value: float, typed: str | None, unit: str, step: float, *, as_typed: bool) -> str:
    """As typed where it has more digits than the gauge allows, else with the gauge's digits."""
    shown = show(value, unit, step)
    if (
        as_typed
        and typed is not None
        and len(typed.partition(".")[2]) > len(shown.partition(".")[2])
    ):
        return typed
    return shown


def mean_of(values: list[float], unit: str, step: float) -> str:
    """A mean of several with one digit more than one reading has."""
    if not values:
        return ""
    value = sum(values) / len(values)
    return show(value, unit, step) if len(values) == 1 else finer(value, unit, step)


def finer(value: float, unit: str, step: float) -> str:
    """A figure of the core with one digit more than the gauge has."""
    places = decimals_shown(unit, step) if unit in KPA_PER else decimals_for(float(f"{step:.6g}"))
    return rounded(value / factor_of(unit), places + 1)


def as_noted(value: float, whole: WholeSheet) -> str:
    """A figure of a log or a stream as a reading of its sheet: one digit more than its gauge shows."""
    step = float(whole.sheet.gauge_step_typed or "1")
    return rounded(value / factor_of(whole.sheet.unit), decimals_for(step) + 1)


def hundredths(fraction: float | None) -> float | None:
    """A fraction as per cent; None for what is none."""
    return None if fraction is None or not math.isfinite(fraction) else round(100.0 * fraction, 2)


def one_figure(row: Noted) -> list[str]:
    """The mean of a row's figures; a single one as it was typed."""
    values = row.values
    if len(values) == 1:
        last = row.readings[-1]
        same = last.unit == row.unit
        return [figure(values[0], last.value_typed, row.unit, row.step, as_typed=same)]
    return [mean_of(values, row.unit, row.step) or row.over]
