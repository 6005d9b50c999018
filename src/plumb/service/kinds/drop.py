"""The drop sheet on the screen: both readings, the drop, raw fuel, bursts of a log."""

from datetime import datetime, timedelta
from typing import Any, Final

from plumb.core.compare.drops.sheet import DropResult
from plumb.core.procedures.drop.analysis import KIND
from plumb.service.kinds.compared import bob, corridor, more, scale, waits
from plumb.service.kinds.kind import RowOf, ScreenKind, hangs_by_share
from plumb.service.kinds.knobs import WHEN, Field, Get, Knob, expected, or_none
from plumb.service.kinds.pressure_log import bursts, log
from plumb.service.kinds.shown import Noted, figure, mean_of, show
from plumb.service.kinds.tracing import Tracing
from plumb.service.stored.parts import now

_EVAPORATED: Final = timedelta(hours=12)
"""After that long nobody counts the raw fuel of a burst any more; common practice, no source."""


def _burst(get: Get) -> str:
    if not get("burst.pulses"):
        return get("when").replace("_", " ") or "?"
    when = f", {get('when').replace('_', ' ')}" if get("when") else ""
    return f"{get('burst.pulses')} × {get('burst.on_ms') or '?'} ms{when}"


def cells(row: Noted, _result: DropResult) -> list[str]:
    """First, second and drop; the means of several passes with one digit more."""
    pairs = [
        (r.first_kpa, r.second_kpa)
        for r in row.readings
        if r.first_kpa is not None and r.second_kpa is not None
    ]
    if not pairs:
        return [
            show(row.readings[-1].first_kpa, row.unit, row.step)
            if row.readings and row.readings[-1].first_kpa
            else "",
            "",
            "",
        ]
    if len(pairs) == 1:
        last = next(r for r in row.readings if r.second_kpa is not None)
        same = last.unit == row.unit
        ends = [
            figure(v, t, row.unit, row.step, as_typed=same)
            for v, t in ((pairs[0][0], last.first_typed), (pairs[0][1], last.second_typed))
        ]
        return [*ends, show(pairs[0][0] - pairs[0][1], row.unit, row.step)]
    return [
        mean_of([a for a, _ in pairs], row.unit, row.step),
        mean_of([b for _, b in pairs], row.unit, row.step),
        mean_of([a - b for a, b in pairs], row.unit, row.step),
    ]


def more_of_row(row: RowOf, _result: DropResult) -> dict[str, Any]:
    """How many bursts' fuel no run of the engine has burnt yet."""
    since = max(row.ran_at or datetime.min, now() - _EVAPORATED)  # noqa: DTZ901  UTC, no offset
    burst = [r for r in row.readings if r.second_kpa is not None and r.taken_at > since]
    return {"raw": len(burst)}


DROP = ScreenKind(
    code=KIND,
    knobs=(
        Knob(
            "Burst",
            (
                Field("burst.pulses", "Pulses", "whole"),
                Field("burst.on_ms", "On time of each, ms"),
                WHEN.fields[0],
            ),
            _burst,
            "The same burst for every injector. Longer if the gauge is coarse, shorter if the rail "
            "runs empty.",
        ),
        Knob(
            "Engine",
            (
                Field("engine.temperature_c", "Engine temperature, °C"),
                Field("supply_v", "Supply of the tester, V"),
                Field(
                    "neighbour_proven", "A neighbour on another engine answered this tester", "yes"
                ),
            ),
            lambda get: or_none(get("engine.temperature_c"), "°C"),
        ),
        expected("Drop of one burst"),
    ),
    trace=Tracing(words="Bring in a pressure log", find=log, many=True, bursts=bursts),
    columns=("first", "second", "drop"),
    cells=cells,
    more_of_row=more_of_row,
    hangs=hangs_by_share,
    scale=scale,
    more=more,
    flows=True,
    corridor=corridor,
    bob=bob,
    waits=waits,
    rank=2,
)
