"""How the coils were worked out."""

from typing import Final

from plumb.core.measure.lines import (
    STEP_SOURCE,
    Line,
    Working,
    decision_lines,
    step_line,
    window_lines,
)
from plumb.core.measure.quantities import rounded
from plumb.core.procedures.coils.analysis import RESISTANCE, Coil, CoilResult

_COPPER: Final = "IEC 60028"


def working(result: CoilResult, _unit: str) -> Working:
    """Meter, leads, temperature, who agrees, and each coil."""
    unit = "Ω" if result.kind == RESISTANCE else "V"
    out = {f.injector: f.probability_out for f in result.findings}
    return Working(
        shared=(*_meter_lines(result, unit), *_set_lines(result, unit)),
        injectors=tuple(
            (
                c.injector,
                (
                    *_coil_lines(c, result, unit),
                    *decision_lines(result.thresholds, out[c.injector]),
                ),
            )
            for c in result.coils
        ),
    )


def _meter_lines(result: CoilResult, unit: str) -> list[Line]:
    """The meter, its leads, the coils' temperature and the window."""
    sheet = result.sheet
    shared = [
        step_line(sheet.meter.step, unit, "meter step"),
        Line(label="leads", figure=f"{sheet.meter.lead:g}", unit=unit, formula="taken off each reading"),
    ]  # fmt: skip
    if sheet.corrects and sheet.temperature_c is not None:
        shared.append(
            Line(
                label="coil temperature",
                figure=f"{sheet.temperature_c:g} ±{sheet.temperature_half_width:g}",
                unit="°C",
                formula="R₂₀ = R / (1 + 0.00393 (T − 20))",
                source=_COPPER,
            )
        )
    at = f"compared at {result.held_at_c:g} °C" if result.held_at_c is not None else ""
    return [*shared, *window_lines(sheet.window, unit, at)]


def _set_lines(result: CoilResult, unit: str) -> list[Line]:
    """Who agrees, the reference, and how far the set spreads."""
    compared, shared = result.compared, list[Line]()
    if compared.reference is not None:
        shared += [
            Line(label="who agrees", figure=", ".join(compared.agreeing),
                 formula=f"largest group within ±{rounded(compared.group.half_width, 2)} {unit}"
                 if compared.group else ""),
            Line(label="reference", figure=rounded(compared.reference, 3), unit=unit),
        ]  # fmt: skip
    if compared.spread is not None:
        shared.append(
            Line(label="spread of the set", figure=rounded(compared.spread, 2), unit=unit)
        )
    return shared


def _coil_lines(one: Coil, result: CoilResult, unit: str) -> tuple[Line, ...]:
    sheet = result.sheet
    lines = [
        Line(
            label="as read", figure=rounded(one.read, 3), unit=unit, formula=f"mean of {one.passes}"
        ),
        Line(label="without leads", figure=rounded(one.net, 3), unit=unit),
    ]
    if sheet.corrects:
        lines.append(
            Line(label="at 20 °C", figure=rounded(one.at_20, 3), unit=unit,
                 formula=f"{rounded(one.net, 3)} / (1 + 0.00393 × {(sheet.temperature_c or 20) - 20:g})",
                 source=_COPPER)
        )  # fmt: skip
        if result.held_at_c is not None:
            lines.append(
                Line(label=f"at {result.held_at_c:g} °C", figure=rounded(one.held, 3), unit=unit,
                     formula="held against the window")
            )  # fmt: skip
    lines += [
        Line(label="u of its own", figure=rounded(one.u, 3), unit=unit, source=STEP_SOURCE),
        Line(label="u common to all", figure=rounded(one.u_common, 3), unit=unit,
             formula="meter's class and coil temperature; counts against the window only"),
    ]  # fmt: skip
    return tuple(lines)
