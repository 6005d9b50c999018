"""How it is done: the card beside the hold sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

_HIGH: Final = {
    "the gauge of the supply sheet": "the rail’s own figure on a scan tool; the low side’s gauge for the low side",
    "hose clamps with smooth jaws": "",
    "Gauge as on the supply sheet.": "No gauge on the high side: its figure comes from the controller.",
    "Clamps at hand, not yet on.": "",
    "If it falls: build up again, clamp the supply right at shut-off.": "If it falls: never clamp or loosen a high-pressure pipe. Watch the returns one by one, then the control valve’s.",
    "Then the return, then both; look into the regulator’s hose, at the tips, around every union.": "Look around every union with a lamp and a piece of card, never with a hand.",
    "Holds with the supply clamped: the pump’s check valve.": "One return that runs on: that injector’s seat or valve.",
    "Holds with the return clamped: the regulator.": "The control valve’s return runs on: the control valve. Nothing runs: the pump’s outlet valve, or a union.",
    "Clamping seconds late, when the loss is over.": "",
    "A clamp that cracks an old hose: look at it again afterwards.": "",
}
"""On a high-pressure rail nothing is clamped: jets go through skin."""

HOLD_GUIDE: Final = Guide(
    shows=(
        "Whether the rail keeps its pressure with the pump off, and by clamping, where it goes."
    ),
    hides=(
        "An injector that leaks only while it works, and any leak smaller than the gauge’s step in the time you watch."
    ),
    needs=(
        "the gauge of the supply sheet",
        "hose clamps with smooth jaws",
        "a watch, or Plumb’s own",
    ),
    connect=(
        "Gauge as on the supply sheet.",
        "Clamps at hand, not yet on.",
    ),
    steps=(
        "Build the pressure up, stop the pump, note nought seconds.",
        "Note it at 10 s, 60 s, 5 min, and 20 min where the limit asks for it.",
        "If it falls: build up again, clamp the supply right at shut-off.",
        "Then the return, then both; look into the regulator’s hose, at the tips, around every union.",
    ),
    look=(
        "Gone within seconds: an injector stands open, or a line is off.",
        "It rises: a hot engine warms the fuel. That is no fault, and no leak can be told from it.",
        "Holds with the supply clamped: the pump’s check valve.",
        "Holds with the return clamped: the regulator.",
    ),
    slips=(
        "Clamping seconds late, when the loss is over.",
        "A clamp that cracks an old hose: look at it again afterwards.",
        "Watching two minutes where the limit speaks of twenty.",
    ),
    enough=(
        "The reading at the limit’s own time is there, or Plumb says the outcome is certain already."
    ),
    schools=(
        "Some allow so much lost in so long, others ask for so much left after so long. Both are the same leak; note the one your maker uses."
    ),
    drawings=("gauge_on_rail",),
    instead={"common_rail": _HIGH},
)
