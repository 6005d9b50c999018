"""How it is done: the card beside the returns sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

RETURNS_GUIDE: Final = Guide(
    shows=("How much each injector lets run back: a worn seat or valve inside."),
    hides=("What it injects. And an injector that is never driven returns little too."),
    needs=(
        "a set of equal tubes with scales",
        "clamps for the common return",
        "a watch",
    ),
    connect=(
        "Returns off their pipes, a tube on each, the common line clamped.",
        "Every hose home: an open return sprays.",
    ),
    steps=(
        "Idle for the time on the sheet, or crank in spells with rests for the starter.",
        "Stop, read all tubes at eye level, at once.",
        "Note the pressure that the rail reached, where it was cranked.",
    ),
    look=(
        "Much more than the low ones: worn inside; the rail cannot build.",
        "Nothing at all while others return: connection, or it is not driven.",
    ),
    slips=(
        "Half of the set bad, and the mean looks fine: the low group is the reference.",
        "Air in a hose read as fuel.",
    ),
    enough=("The least of them has filled a readable part of its tube."),
    schools=(
        "Twice the least, or a maker’s ml for a time and state: the maker’s figure goes first."
    ),
)
