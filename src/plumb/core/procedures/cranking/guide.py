"""How it is done: the card beside the cranking sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

CRANKING_GUIDE: Final = Guide(
    shows=("Even compression, by the current the starter draws in each stroke."),
    hides=("How high the compression is: all equally tired look even."),
    needs=(
        "a clamp for direct current round all starter cables",
        "a recorder or a scope that writes CSV",
        "an engine that is kept from starting",
    ),
    connect=(
        "Clamp round the cable or all of them, arrow towards the starter.",
        "Fuel or injection off as the maker says; gearbox in neutral.",
    ),
    steps=(
        "Zero the clamp.",
        "Crank a couple of seconds, record, rest the starter.",
        "Bring the file in, or note the humps by hand.",
    ),
    look=(
        "A low hump that comes again in every cycle: that cylinder.",
        "One once only: noise.",
    ),
    slips=(
        "A battery that sags: the last strokes look weak.",
        "A clamp round one of two cables.",
    ),
    enough=("Six cycles or more without a fault in the recording."),
    schools=(
        "Without a sync signal the humps have no numbers: even is even all the same, and that is often all one needs."
    ),
)
