"""The supply pressure on the screen: a row a state of the engine."""

from typing import Any, Final

from plumb.core.measure.finding import Finding
from plumb.core.procedures.supply.analysis import KIND, NAMES, SupplyResult
from plumb.service.kinds.kind import At, ScreenKind
from plumb.service.kinds.knobs import ENGINE, Field, Knob, between, or_none
from plumb.service.kinds.shown import hundredths
from plumb.service.stored.gauges import Gauge
from plumb.service.views.sheet import FormView
from plumb.store.records import WholeSheet


def _window_knob(state: str, name: str) -> Knob:
    """The window of one state."""
    return Knob(
        name,
        (
            Field(f"windows.{state}.low", "Lower limit, {unit}"),
            Field(f"windows.{state}.high", "Upper limit, {unit}"),
            Field(f"windows.{state}.source", "Who says so", "text"),
        ),
        lambda get: (
            between(get, f"windows.{state}.low", f"windows.{state}.high", "{unit}") or "unknown"
        ),
        window=True,
        slot=state,
    )


def hangs(finding: Finding, _result: SupplyResult, _unit: str) -> At:
    """Each state has a window of its own: the bob hangs in hundredths of its half-width."""
    if finding.deviation is None or finding.u is None:
        return None, None
    half = finding.tolerance or 1.0
    return hundredths(finding.deviation / half), hundredths(finding.u / half)


def more(whole: WholeSheet, _result: SupplyResult, _unit: str) -> dict[str, Any]:
    """What was heard of the pump."""
    return {
        "form": FormView(
            complaint=[], codes=[], hose="", connectors="", note="",
            pump=whole.sheet.conditions.get("pump", ""),
            complaints=[], told="", looked_at=[], looked=None, low_by_eye=[],
        )
    }  # fmt: skip


LOW_SIDE: Final = Gauge(name="low-side gauge", unit="bar", step="0.1")
"""Before a high-pressure pump another gauge hangs than on its rail."""

PUMP_FEED: Final = Knob(
    "Volts at the pump",
    (Field("pump_v", "Volts at its plug, connected, while it should run, V"),),
    lambda get: or_none(get("pump_v"), "V"),
    "Near the battery's volts the feed is good; none, or few, and it is not the pump.",
)

SUPPLY = ScreenKind(
    code=KIND,
    gauge_on={
        "common_rail": LOW_SIDE,
        "direct": LOW_SIDE,
    },
    knobs=(*(_window_knob(state, name) for state, name in NAMES.items()), ENGINE, PUMP_FEED),
    form=(Field("pump", "Pump", "text"),),
    columns=("reads",),
    names=NAMES,
    hangs=hangs,
    more=more,
)
