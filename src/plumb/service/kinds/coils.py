"""The coils on the screen: by resistance, and under load."""

import math
from typing import Any, Final

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import decimals_for, rounded
from plumb.core.procedures.coils.analysis import RESISTANCE, VOLTAGE, Coil, CoilResult
from plumb.core.procedures.coils.analysis import at as at_temperature
from plumb.service.kinds.capturing import resting
from plumb.service.kinds.kind import At, ScreenKind
from plumb.service.kinds.knobs import (
    LOW_HIGH,
    SOURCE,
    SPREAD,
    Field,
    Get,
    Knob,
    or_none,
    window_words,
)
from plumb.service.kinds.shown import Noted, mean_of
from plumb.service.stored.gauges import Gauge
from plumb.service.views.sheet import ScaleView
from plumb.store.records import WholeSheet

_METER: Final = (
    Field("gauge.lead", "Resistance of the leads, {unit}"),
    Field("gauge.percent", "Accuracy, % of the reading"),
    Field("gauge.counts", "Accuracy, counts of the last digit"),
)


def _meter_words(get: Get) -> str:
    """What the leads add, and how accurate the meter is: ``0.2 ohm, ±0.8 % + 2 counts``."""
    parts = [f"{get('gauge.percent')} %"] if get("gauge.percent") else []
    if counts := get("gauge.counts"):
        parts.append(f"{counts} count{'s' * (counts != '1')}")
    accuracy = f", ±{' + '.join(parts)}" if parts else ""
    return or_none(get("gauge.lead"), "{unit}", "0 {unit}") + accuracy


def _coil(result: CoilResult, label: str) -> Coil | None:
    return next((c for c in result.coils if c.injector == label), None)


def cells(row: Noted, result: CoilResult) -> list[str]:
    """As read, and at 20 °C."""
    one = _coil(result, row.label)
    read = mean_of(row.values, row.unit, row.step) or row.over
    cold = one is not None and (result.sheet.corrects or result.sheet.kind == VOLTAGE)
    return [read, rounded(one.at_20, decimals_for(row.step) + 1) if one and cold else ""]


def hangs(finding: Finding, result: CoilResult, _unit: str) -> At:
    """By the figure that is held against the window."""
    one = _coil(result, finding.injector)
    if one is None or finding.state is State.OPEN:
        return None, None
    return one.held, math.hypot(one.u, one.u_common)


def scale(result: CoilResult, _unit: str) -> ScaleView:
    """The figures themselves, with the window as corridor, else what agrees."""
    window = result.sheet.window
    reference = result.compared.reference or 0.0
    low, high = window.low, window.high
    if low is None and high is None and reference:
        at = result.held_at_c
        held = at_temperature(reference, at) if at is not None else reference
        half = result.compared.tolerance or 0.0
        low, high = held - half, held + half
    if low is not None and high is not None:
        centre = (low + high) / 2.0
    else:
        centre = low or high or reference
    unit = "Ω" if result.sheet.kind == RESISTANCE else "V"
    places = decimals_for(float(f"{result.sheet.meter.step:.6g}"))
    return ScaleView(relative=False, unit=unit, centre=centre, low=low, high=high, decimals=places)


def more(_whole: WholeSheet, result: CoilResult, _unit: str) -> dict[str, Any]:
    """Who agrees, and what those read."""
    reference = result.compared.reference
    ohm = "Ω at 20 °C" if result.sheet.corrects else "Ω"
    unit = ohm if result.kind == RESISTANCE else "V"
    return {
        "agreeing": list(result.compared.agreeing),
        "agreeing_shown": "" if reference is None else f"{rounded(reference, 2)} {unit}",
    }


def cell(finding: Finding, result: CoilResult) -> str:
    """The figure, or that it is open."""
    if finding.state is State.OPEN:
        return "open"
    unit = "Ω" if result.kind == RESISTANCE else "V"
    return "" if finding.value is None else f"{finding.value:.2f} {unit}"


COIL_RESISTANCE = ScreenKind(
    code=RESISTANCE,
    gauge=Gauge(name="meter", unit="ohm", step="0.1"),
    capture=resting(
        "Probes on one coil after the other; each is read when the meter stands still.",
        least_steps=3.0,
    ),
    knobs=(
        Knob(
            "Window",
            (
                *LOW_HIGH,
                Field("window.from_c", "holds from, °C"),
                Field("window.to_c", "holds up to, °C"),
                SPREAD,
                SOURCE,
            ),
            window_words,
            "Empty temperatures: the window holds at 20 °C.",
            window=True,
        ),
        Knob(
            "Coils",
            (
                Field("temperature_c", "Coil temperature, °C"),
                Field("temperature_within_c", "known to ±, °C (empty: 5)"),
            ),
            lambda get: or_none(get("temperature_c"), "°C"),
            "Let a coil settle to the engine's temperature; copper rises by 4 % for each 10 °C.",
        ),
        Knob(
            "Leads",
            _METER,
            _meter_words,
            "Hold the tips together and read: that is what the leads add.",
        ),
    ),
    columns=("read", "at 20 °C"),
    cells=cells,
    hangs=hangs,
    scale=scale,
    cell=cell,
    more=more,
)

COIL_VOLTAGE = ScreenKind(
    code=VOLTAGE,
    gauge=Gauge(name="meter", unit="V", step="0.01"),
    knobs=(
        Knob("Window", (*LOW_HIGH, SPREAD, SOURCE), window_words, window=True),
        Knob(
            "Current",
            (Field("current_a", "Current, A"), Field("pulse_ms", "Pulse, ms")),
            lambda get: or_none(get("current_a"), "A"),
            "The same current and pulse for all.",
        ),
    ),
    columns=("volts",),
    hangs=hangs,
    scale=scale,
    cell=cell,
    more=more,
)
