"""How it is done: the card beside the tips sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

TIPS_GUIDE: Final = Guide(
    shows=("Whether a tip stays dry under pressure with nobody calling on it."),
    hides=("A leak that only comes hot, or only after it has worked."),
    needs=(
        "the rail lifted with the injectors in it, or a lamp and a mirror",
        "paper that shows a spot",
        "an extinguisher at hand",
    ),
    connect=(
        "Rail held down so that no injector can pop out.",
        "Ignition dead, battery leads away.",
    ),
    steps=(
        "Wipe every tip dry.",
        "Bring the rail up to pressure, pump off or on as the limit says.",
        "Watch for the time on the sheet; note dry, weeps, drips or pours.",
    ),
    look=(
        "A film that grows is a weep; a bead that falls is a drip.",
        "A wet O-ring looks like a wet tip: wipe and look again.",
    ),
    slips=(
        "Fuel that ran down from above.",
        "Cranking with the tips out: mist burns.",
    ),
    enough=("Every tip watched for the same time at the same pressure."),
    schools=(
        "Off the car a syringe barrel makes the adapter and an aerosol of cleaner the pressure: drips show, flow does not."
    ),
)
