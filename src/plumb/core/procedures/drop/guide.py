"""How it is done: the card beside the drop sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

DROP_GUIDE: Final = Guide(
    shows=("How much each injector passes in the same burst, against the others that agree."),
    hides=("A fault that all of them share, a bad spray, and a leak while it stands shut."),
    needs=(
        "a gauge on the rail that reads to half a psi or finer",
        "an injector pulse tester, or the controller’s own test",
        "a good 12 V supply for the tester",
    ),
    connect=(
        "Gauge as on the supply sheet, air let out.",
        "Tester on its own battery, its leads away from fuel.",
        "One injector at a time on the tester; the others stay unplugged or as the tester asks.",
    ),
    steps=(
        "Build the pressure up, stop the pump, wait until the needle stands.",
        "Read, pulse once, read again at once: type both.",
        "Let the pressure come back to nearly the same before the next.",
        "One burst a cylinder for each key cycle, then run the engine 10 to 20 s.",
    ),
    look=(
        "No drop: repeat on a good battery, then try its neighbour.",
        "A buzz or a click: it is driven.",
        "One that answers only at a lower pressure opens weakly: note where.",
    ),
    slips=(
        "Reading late, when the rail has crept.",
        "Two bursts into one cylinder without running the engine.",
        "A coarse gauge and a tight rule: Plumb says “not settled”.",
        "A burst that empties the rail: shorten it.",
    ),
    enough=(
        "Each read once, and nothing is left unsettled; two passes where it must hold in a dispute."
    ),
    schools=(
        "Mean of all, mean without the ends, the commonest drop, end pressures by eye: all are on the sheet side by side. The flow index is the one that a start pressure cannot fool."
    ),
    drawings=("gauge_on_rail",),
)
