"""The tips on the screen: a word a row."""

from plumb.core.compare.seen import state
from plumb.core.procedures.tips.analysis import KIND
from plumb.service.kinds.kind import ScreenKind
from plumb.service.kinds.knobs import Field, Knob, or_none

TIPS = ScreenKind(
    code=KIND,
    gauge=None,
    knobs=(
        Knob(
            "Watched",
            (
                Field(
                    "place",
                    "Where",
                    "choice",
                    (("", "not said"), ("on_car", "on the car"), ("off_car", "off the car")),
                ),
                Field("duration_s", "Watched for, s"),
            ),
            lambda get: (
                " ".join(
                    x
                    for x in (get("place").replace("_", " "), or_none(get("duration_s"), "s", ""))
                    if x
                )
                or "?"
            ),
        ),
    ),
    cell=state,
)
