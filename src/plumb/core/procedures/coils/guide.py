"""How it is done: the card beside the coils sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

COIL_RESISTANCE_GUIDE: Final = Guide(
    shows=("An open winding, shorted turns, and one that is unlike its neighbours."),
    hides=("A stuck needle, dirt, and a turn that shorts only when hot or under current."),
    needs=(
        "an ohm-meter that reads tenths",
        "its lead resistance, tips held together",
        "the engine’s temperature",
    ),
    connect=(
        "Unplug the injector.",
        "Tips on its two pins, either way round.",
    ),
    steps=(
        "Hold the tips together first and note what the leads show.",
        "Wait until the figure stands still, then note it.",
        "Note the temperature of the engine, not of the bay.",
    ),
    look=(
        "Nothing at all: open. Prove the meter on a neighbour.",
        "Far below the others: shorted turns; it can pull its whole bank down.",
    ),
    slips=(
        "Judging a hot coil by a cold limit: copper gains four parts in a thousand for each degree.",
        "Measuring through the loom, with a parallel injector on it.",
    ),
    enough=("All of a set in one sitting, at one temperature."),
    schools=(
        "Some judge by the window alone, others by the spread across the set. Plumb does both and says which one spoke."
    ),
)


COIL_VOLTAGE_GUIDE: Final = Guide(
    shows=(
        "Turns that short only under current: every coil gets the same current, the volts are compared."
    ),
    hides=("Everything that is not electrical."),
    needs=(
        "a supply that keeps its current",
        "a voltmeter",
        "a timer or a steady hand: seconds, not minutes",
    ),
    connect=(
        "Unplug, supply on the two pins, voltmeter on the same two.",
        "Leads away from any fuel.",
    ),
    steps=(
        "Set the current that the maker or the tester asks for.",
        "Two seconds each, note the volts, let go.",
        "The same time for every one.",
    ),
    look=(
        "Less voltage than the others: turns are shorted.",
        "More: a joint inside resists.",
    ),
    slips=(
        "Battery voltage held on a coil: it burns.",
        "Comparing coils of which the last is hot from trying.",
    ),
    enough=("All read within a minute of each other, with one current."),
    schools=(
        "Some take it in place of resistance, because it finds more; it also asks for more care."
    ),
)
