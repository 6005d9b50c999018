"""The return volumes on the screen."""

from decimal import Decimal
from typing import Any

from sqlalchemy import Connection

from plumb.core.measure.quantities import plain
from plumb.core.procedures.kind import Setting
from plumb.core.procedures.returns.analysis import KIND, ReturnResult, allowed_share
from plumb.service.kinds.capturing import resting
from plumb.service.kinds.kind import ScreenKind, cell_of_value, hangs_by_share
from plumb.service.kinds.knobs import SOURCE, Field, Get, Knob, or_none
from plumb.service.stored.gauges import Gauge
from plumb.service.views.sheet import ScaleView


def _spell(get: Get) -> str:
    spells = [Decimal(x) for x in get("spells_s").split()]
    time = get("duration_s") or (plain(sum(spells, Decimal(0))) if spells else "")
    rail = f", rail {get('rail')} {get('rail_unit') or 'bar'}" if get("rail") else ""
    return f"{get('state') or 'idle'} {or_none(time, 's', '')}".strip() + rail


def scale(result: ReturnResult, _unit: str) -> ScaleView:
    """Per cent above the low group; only one that returns much leans."""
    high = round(100.0 * allowed_share(result.sheet, result.reference), 2)
    return ScaleView(relative=True, unit="%", centre=0.0, low=None, high=high, decimals=0)


def begins_with(_connection: Connection, setting: Setting) -> dict[str, Any]:
    """An engine that does not start is cranked."""
    return {} if setting.starts else {"state": "cranking"}


RETURNS = ScreenKind(
    code=KIND,
    gauge=Gauge(name="tubes", unit="ml", step="1"),
    begins_with=begins_with,
    knobs=(
        Knob(
            "Spell",
            (
                Field("state", "Engine", "choice", (("idle", "idling"), ("cranking", "cranked"))),
                Field("duration_s", "Timed for, s"),
                Field("spells_s", "or cranked in spells of, s, with a space between", "spells"),
                Field("rail", "Rail pressure reached"),
                Field(
                    "rail_unit",
                    "in",
                    "choice",
                    (("bar", "bar"), ("MPa", "MPa"), ("psi", "psi"), ("kPa", "kPa")),
                ),
                Field("clamped", "The common return is clamped", "yes"),
            ),
            _spell,
            "Cranked in several spells with rests for the starter: they add up. An empty time "
            "takes the sum of the spells.",
        ),
        Knob(
            "Limit",
            (Field("window.high", "At most in that time, {unit}"), SOURCE),
            lambda get: or_none(get("window.high"), "{unit}", "twice the low group"),
            "A maker's limit comes before the comparison.",
            window=True,
        ),
    ),
    capture=resting(
        "Put one tube after the other on the scale; each is read when it stands still.",
        least_steps=5.0,
    ),
    columns=("volume",),
    hangs=hangs_by_share,
    scale=scale,
    cell=cell_of_value,
    rank=5,
)
