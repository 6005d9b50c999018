"""How it is done: the card beside the flow bench sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

FLOW_BENCH_GUIDE: Final = Guide(
    shows=("Volume in a fixed time, standing open or pulsed, and the picture of the spray."),
    hides=("How it behaves hot, on its own driver, under the engine’s vibration."),
    needs=(
        "a bench with tubes, test fluid, an extractor",
        "the same fluid and pressure for all",
    ),
    connect=(
        "New O-rings, injectors seated straight.",
        "Bleed the bench before the first run.",
    ),
    steps=(
        "Run once to wet everything, empty the tubes.",
        "The same time and pressure for each set; read at eye level.",
        "Note the spray: even, streaky, a stream, none.",
        "After cleaning run it again in the same way.",
    ),
    look=(
        "A tube more than a twentieth off its neighbours.",
        "A stream instead of a cone: a good volume that burns badly.",
    ),
    slips=(
        "Reading froth.",
        "Comparing a cleaned one with others that were not run again.",
    ),
    enough=("Before and after cleaning, same fluid, same pressure, same time."),
    schools=(
        "Static volume shows the nozzle, pulsed volume the needle: those who sell one number usually sell the first."
    ),
)
