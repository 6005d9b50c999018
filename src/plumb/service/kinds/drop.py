"""The drop sheet on the screen: both readings, the drop, raw fuel, bursts of a log."""

from datetime import datetime, timedelta
from typing import Any, Final

from plumb.core.compare.drops.driven import DRIVERS
from plumb.core.compare.drops.sheet import DropResult
from plumb.core.procedures.drop.analysis import KIND
from plumb.service.kinds.capturing import BURSTS
from plumb.service.kinds.compared import bob, corridor, more, scale, waits
from plumb.service.kinds.kind import RowOf, ScreenKind, hangs_by_share
from plumb.service.kinds.knobs import WHEN, Field, Get, Knob, expected, or_none
from plumb.service.kinds.pressure_log import bursts, log
from plumb.service.kinds.shown import Noted, figure, finer, show
from plumb.service.kinds.tracing import Tracing
from plumb.service.stored.parts import now

_EVAPORATED: Final = timedelta(hours=12)
"""After that long nobody counts the raw fuel of a burst any more; common practice, no source."""


def _burst(get: Get) -> str:
    if not get("burst.pulses"):
        return get("when").replace("_", " ") or "?"
    when = f", {get('when').replace('_', ' ')}" if get("when") else ""
    return f"{get('burst.pulses')} × {get('burst.on_ms') or '?'} ms{when}"


def cells(row: Noted, result: DropResult) -> list[str]:
    """First, second and drop; the means of several passes with one digit more."""
    # Worked out with the sheet: the means of a row with ninety passes are not taken once more.
    given = next((i for i in result.bursts.injected if i.label == row.label), None)
    if given is not None and not row.readings:
        return [show(x, row.unit, row.step) for x in (given.first, given.second, given.drop)]
    if given is not None and given.passes > 1:
        return [finer(x, row.unit, row.step) for x in (given.first, given.second, given.drop)]
    # Of one that fell silent later, the last burst that it gave.
    for r in reversed(row.readings):
        if r.first_kpa is not None and r.second_kpa is not None:
            ends = [
                figure(v, t, row.unit, row.step, as_typed=r.unit == row.unit)
                for v, t in ((r.first_kpa, r.first_typed), (r.second_kpa, r.second_typed))
            ]
            return [*ends, show(r.first_kpa - r.second_kpa, row.unit, row.step)]
    first = row.readings[-1].first_kpa if row.readings else None
    return [show(first, row.unit, row.step) if first else "", "", ""]


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
                Field(
                    "burst.driven_by",
                    "What opens the injector",
                    "choice",
                    (("", "not said"), *DRIVERS.items()),
                ),
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
    capture=BURSTS,
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
