"""How it is done: the card beside the opening sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

OPENING_GUIDE: Final = Guide(
    shows=("The pressure at which a mechanical nozzle opens, its sound, its spray and its seat."),
    hides=("How it behaves at the speed of an engine."),
    needs=(
        "a hand pump with a gauge, test fluid",
        "shims, a torque wrench",
        "goggles, gloves, an extractor: the jet goes through skin",
    ),
    connect=(
        "Nozzle on the pump’s pipe, tip into the closed jar.",
        "Bleed the pipe with the union loose, then tighten.",
    ),
    steps=(
        "Some fast strokes to clear it.",
        "One slow stroke a second: read where the needle falls.",
        "Hold 20 bar below for 10 s and look at the tip.",
        "Change the shim, tighten to its torque, stroke again.",
    ),
    look=(
        "A chatter is a free needle.",
        "One straight cone from a pintle, even jets from holes.",
        "A needle that sinks while you hold: the seat.",
    ),
    slips=(
        "Stroking fast: the gauge lags.",
        "A body tightened more than its torque: the pressure moves.",
        "Setting one right and its neighbours not.",
    ),
    enough=("Three strokes that agree, dry seat, good spray, all of an engine set to one value."),
    schools=(
        "0.01 mm is worth about 2.35 bar by common practice; your own changes on this type of nozzle teach Plumb better."
    ),
    drawings=("hand_pump",),
)
