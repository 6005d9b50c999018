"""The running balance on the screen."""

from plumb.core.procedures.running.analysis import KIND
from plumb.service.kinds.compared import bob, corridor, more, scale, waits
from plumb.service.kinds.kind import ScreenKind, hangs_by_share
from plumb.service.kinds.knobs import ENGINE, Field, Knob, expected, or_none

RUNNING = ScreenKind(
    code=KIND,
    knobs=(
        Knob(
            "Entry",
            (
                Field("conditions.low_side", "Low side, {unit}"),
                Field("conditions.lost_in_60_s", "Low side lost in 60 s, {unit}"),
                Field("conditions.rail", "Rail at idle, {unit}"),
            ),
            lambda get: or_none(get("conditions.rail"), "{unit} rail"),
            "Asked for: low side 46 to 84 psi and at most 5 psi lost in a minute, rail 276 to 725 "
            "psi at idle.",
        ),
        ENGINE,
        expected("Rail drop of one injector"),
    ),
    columns=("rail drop",),
    hangs=hangs_by_share,
    scale=scale,
    more=more,
    flows=True,
    corridor=corridor,
    bob=bob,
    waits=waits,
    rank=3,
)
