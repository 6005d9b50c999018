"""How it is done: the card beside the command sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

COMMAND_GUIDE: Final = Guide(
    shows=("Whether each injector is told to open: the lamp blinks with the driver."),
    hides=("Strength: a lamp blinks with a wire that can no longer carry an injector’s current."),
    needs=(
        "a test lamp made for injector plugs, or a small lamp on two leads",
        "a second person, or a remote starter switch",
    ),
    connect=(
        "Unplug the injector, lamp into its plug.",
        "On high-voltage drivers (direct injection, common rail) use only what the maker allows: never a bare lamp or a bare hand.",
    ),
    steps=(
        "Crank, or let it run on the others.",
        "Note blinks, weak, dark or steady.",
        "Go through all of them, the good ones too: they prove the lamp.",
    ),
    look=(
        "Two partners of one feed alike: the feed, its fuse or its driver.",
        "Steady: a wire that is shorted to ground, or a driver that has failed on.",
    ),
    slips=(
        "A lamp that needs more current than the driver gives.",
        "Blaming the injector for a dark lamp.",
    ),
    enough=("Every plug was tried with the same lamp on the same battery."),
    schools=(
        "Some leave the injector plugged and listen with a rod; a click proves command and movement at once, and no click proves neither."
    ),
    drawings=("lamp_at_plug",),
)
