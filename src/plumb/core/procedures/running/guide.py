"""How it is done: the card beside the running sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

RUNNING_GUIDE: Final = Guide(
    shows=(
        "How far the rail falls when each injector is shut off for a moment while the engine idles."
    ),
    hides=(
        "An engine that does not idle; and at high pressure small differences drown in the rail’s own noise."
    ),
    needs=(
        "a tester that shuts one injector off and reads the rail",
        "rail and low side inside their limits",
    ),
    connect=(
        "Tester on the diagnostic socket.",
        "Nothing is opened.",
    ),
    steps=(
        "Let it idle warm, all loads off.",
        "Shut one, read the drop, let the rail recover for some seconds.",
        "The same for each.",
    ),
    look=(
        "Less drop: that injector gave less.",
        "All small: the rail recovers faster than the tester reads.",
    ),
    slips=(
        "Going on before the rail has recovered.",
        "A fan that comes on half-way.",
    ),
    enough=("Two passes that agree."),
    schools=(
        "Some testers print per cent of the mean; note the pressure, and let Plumb find who agrees."
    ),
)
