"""How it is done: the card beside the scan sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

SCAN_GUIDE: Final = Guide(
    shows=(
        "How the controller corrects the mixture at idle and at raised speed, bank by bank, and which cylinders it counts misfires on."
    ),
    hides=(
        "A single injector: one that is clogged hides in the trim of its bank. A misfire counter says where, not why."
    ),
    needs=(
        "a scan tool that shows live values",
        "a warm engine that idles",
    ),
    connect=("Tool on the diagnostic socket, engine at working temperature, all loads off.",),
    steps=(
        "Read long and short trims of each bank at idle.",
        "Hold 2,500 a minute for half a minute and read them again.",
        "Read the misfire counters, or let them count for two minutes.",
    ),
    look=(
        "Rich or lean on one bank only: something of that bank.",
        "Lean at idle and right above it: air that was not measured.",
        "Right at idle and lean above: too little fuel gets there.",
    ),
    slips=(
        "Reading before the engine is warm.",
        "Taking the sum of long and short at two different moments.",
        "Trusting counters that were cleared a minute ago.",
    ),
    enough=("Four trims a bank, taken in one sitting, and counters that ran for a known time."),
    schools=(
        "Some add long and short and look at the sum alone; Plumb keeps both, because only the long one lasts."
    ),
)
