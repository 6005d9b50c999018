"""How the supply pressure was worked out."""

from plumb.core.measure.lines import (
    STEP_SOURCE,
    Line,
    Working,
    class_lines,
    decision_lines,
    window_lines,
)
from plumb.core.measure.quantities import KPA_PER, rounded, show_pressure
from plumb.core.measure.readings import Window
from plumb.core.measure.uncertainty import step_uncertainty
from plumb.core.procedures.supply.analysis import SupplyResult


def working(result: SupplyResult, unit: str) -> Working:
    """Each state of the engine against its window."""
    step, factor = result.sheet.step, KPA_PER[unit]
    windows = dict(result.sheet.windows)
    rows = []
    for f in result.findings:
        if f.value is None:
            continue
        w = windows.get(f.place, Window())
        scaled = Window(
            low=None if w.low is None else round(w.low / factor, 4),
            high=None if w.high is None else round(w.high / factor, 4),
            source=w.source,
        )
        rows.append(
            (
                f.place,
                (
                    Line(label="reads", figure=show_pressure(f.value, unit, step), unit=unit),
                    *window_lines(scaled, unit),
                    *decision_lines(result.thresholds, f.probability_out),
                ),
            )
        )
    u = step_uncertainty(step) / factor
    shared = (
        Line(
            label="u of a reading",
            figure=rounded(u, 3),
            unit=unit,
            formula="step / √12",
            source=STEP_SOURCE,
        ),
        *class_lines(result.sheet.u_class, factor, unit),
    )
    return Working(shared=shared, injectors=tuple(rows))
