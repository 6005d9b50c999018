"""How it is done: the card beside the correction sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

CORRECTION_GUIDE: Final = Guide(
    shows=(
        "How much more or less fuel the controller gives each cylinder so that all turn evenly."
    ),
    hides=("Whether the injector or the cylinder is weak: compression looks just the same."),
    needs=(
        "a scan tool",
        "a warm engine, all loads off",
    ),
    connect=("Tool on the diagnostic socket.",),
    steps=(
        "Let it idle until the figures stand still.",
        "Note each cylinder’s correction with its sign.",
        "Once more after a minute.",
    ),
    look=(
        "One high, all others a little low: that one is weak.",
        "Two high push all the rest down: who agrees is the reference, not the mean.",
        "All of them moving: the rail surges, settle that first.",
    ),
    slips=(
        "Reading a cold engine.",
        "Taking the sign the wrong way round: on some tools less is more.",
    ),
    enough=("Two readings a minute apart that agree."),
    schools=(
        "Three points, four points, five: the limit is the maker’s. What is beyond it is a cylinder, not yet an injector."
    ),
)
