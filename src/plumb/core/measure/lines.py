"""How it was worked out: one line a figure, so that a person can redo it by hand.

>>> Line(label="flow index", figure="1.9498", unit="√psi").label
'flow index'
"""

from dataclasses import dataclass
from typing import Final

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.quantities import rounded
from plumb.core.measure.readings import Window

STEP_SOURCE: Final = "JCGM 100:2008, F.2.2.1"
"""Where the uncertainty of a gauge's step is from."""
DECISION_SOURCE: Final = "JCGM 106:2012"
COMMON: Final = "common practice, no source"


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """One figure: what it is, its value and unit, the formula with numbers, the source."""

    label: str
    figure: str
    unit: str = ""
    formula: str = ""
    source: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Working:
    """The lines of the set, and those of each injector by label."""

    shared: tuple[Line, ...] = ()
    injectors: tuple[tuple[str, tuple[Line, ...]], ...] = ()


def step_line(step: float, unit: str, label: str = "step") -> Line:
    """The instrument's smallest step, and what it makes of the uncertainty."""
    return Line(
        label=label, figure=f"{step:g}", unit=unit, formula="u = step / √12", source=STEP_SOURCE
    )


def class_lines(u_class: float, factor: float, unit: str) -> tuple[Line, ...]:
    """What the gauge's class adds to each pressure, in the unit that is shown; none where it is not known."""
    if not u_class:
        return ()
    return (
        Line(
            label="u of the gauge's class",
            figure=rounded(u_class / factor, 3),
            unit=unit,
            formula="class × span / √3; common to all readings, it counts against windows alone",
            source="JCGM 100:2008, 4.3.7",
        ),
    )


def decision_lines(thresholds: Thresholds, out: float | None) -> tuple[Line, ...]:
    """How likely it is outside, against both thresholds; none where nothing was decided."""
    if out is None:
        return ()
    return (
        Line(
            label="probability outside",
            figure=rounded(out, 3),
            formula=f"normal distribution; {thresholds.call:g} calls, {thresholds.clear:g} clears",
            source=DECISION_SOURCE,
        ),
    )


def called_line(thresholds: Thresholds, out: float | None) -> Line:
    """How likely it is outside, where only calling out matters."""
    return Line(
        label="probability outside",
        figure=rounded(out or 0.0, 3),
        formula=f"normal distribution; {thresholds.call:g} calls",
        source=DECISION_SOURCE,
    )


def window_lines(window: Window, unit: str, where: str = "") -> tuple[Line, ...]:
    """A window with who says so; none where no limit is stated."""
    if not window.stated:
        return ()
    low = "" if window.low is None else f"{window.low:g}"
    high = "" if window.high is None else f"{window.high:g}"
    return (
        Line(
            label="window", figure=f"{low}–{high}", unit=unit, formula=where,
            source=window.source or "this sheet",
        ),
    )  # fmt: skip
