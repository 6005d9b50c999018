"""The flow bench on the screen."""

from plumb.core.procedures.flow_bench.analysis import KIND
from plumb.service.kinds.compared import bob, corridor, more, scale, waits
from plumb.service.kinds.kind import ScreenKind, hangs_by_share
from plumb.service.kinds.knobs import WHEN, Field, Knob, expected, or_none
from plumb.service.stored.gauges import Gauge

FLOW_BENCH = ScreenKind(
    code=KIND,
    gauge=Gauge(name="tubes", unit="ml", step="1"),
    knobs=(
        Knob(
            "Bench",
            (
                Field("mode", "Mode", "choice", (("static", "static"), ("pulsed", "pulsed"))),
                Field("duration_s", "For, s"),
            ),
            lambda get: f"{get('mode') or 'pulsed'} {or_none(get('duration_s'), 's', '')}".strip(),
        ),
        WHEN,
        expected("Volume"),
    ),
    columns=("volume",),
    hangs=hangs_by_share,
    scale=scale,
    more=more,
    flows=True,
    corridor=corridor,
    bob=bob,
    waits=waits,
    rank=4,
)
