"""How it is done: the card beside the rail sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

RAIL_GUIDE: Final = Guide(
    shows=("Whether the rail follows what is wanted of it, at idle, raised and cranking."),
    hides=("Which part fails: pump, valve, regulator and a large return all look alike here."),
    needs=(
        "a scan tool that shows wanted and actual together",
        "a recording of some seconds, where it surges",
    ),
    connect=(
        "Tool on the diagnostic socket. Nothing is opened: a jet at this pressure goes through skin.",
    ),
    steps=(
        "Read wanted and actual at the same moment.",
        "Idle, then raised, then cranking where it does not start.",
        "Record half a minute where the figures swing, or note the lowest and the highest.",
    ),
    look=(
        "Both swinging: the regulation. Actual alone: supply or regulator.",
        "Never above a threshold while cranking: the injectors are not let to open.",
    ),
    slips=(
        "Reading the two values seconds apart.",
        "Blaming injectors for corrections that move with the rail.",
    ),
    enough=("Each state once, and a recording where anything moves."),
    schools=("Ten per cent of wanted is a common limit; makers differ."),
)
