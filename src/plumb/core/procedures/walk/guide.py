"""How it is done: the card beside the walk sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

_HIDES = "Nothing about what an injector gives; a quiet pump or a dry hose rules out less than it seems to."
_ENOUGH = "Complaint, hose, connectors and codes are each noted, even as “good” or “none”."
_DIESEL: Final = {
    "Take the hose off the pressure regulator and look into it.": "",
    "Fuel standing in the regulator’s hose: its diaphragm is torn.": "",
    "Slight dampness there: tell the owner, go on.": "",
    _HIDES: "Nothing about what an injector gives; a quiet pump rules out less than it seems to.",
    _ENOUGH: "Complaint, connectors and codes are each noted, even as “good” or “none”.",
}
_MECHANICAL: Final = {
    **_DIESEL,
    "codes read out, where there is a controller": "",
    "Read the codes and write them down before anything clears them.": "",
    "Pull each connector lightly: a clip that is not home comes off on the road.": "",
    "Listen for the pump with the key on; smell at the rail and at the tailpipe.": "Look at pipes, unions and the leak-off for wet spots; smell at the tailpipe.",
    "Clearing codes first.": "",
    _ENOUGH: "The complaint is noted, and what was seen.",
}
"""A diesel has no regulator that a vacuum hose leads to, a mechanical one no codes."""

WALK_GUIDE: Final = Guide(
    shows=(
        "What can be seen, heard and smelt before a tool is fitted, and what the owner complains of in words that Plumb can weigh."
    ),
    hides=_HIDES,
    needs=(
        "a lamp that stays cool",
        "the owner’s own words",
        "codes read out, where there is a controller",
    ),
    steps=(
        "Ask when it happens: cold, hot, at idle, under load, after parking.",
        "Read the codes and write them down before anything clears them.",
        "Pull each connector lightly: a clip that is not home comes off on the road.",
        "Take the hose off the pressure regulator and look into it.",
        "Listen for the pump with the key on; smell at the rail and at the tailpipe.",
    ),
    look=(
        "Fuel standing in the regulator’s hose: its diaphragm is torn.",
        "Slight dampness there: tell the owner, go on.",
        "Cracked hoses and a loose clamp explain many a rough idle.",
    ),
    slips=(
        "Clearing codes first.",
        "Taking a pump that runs for a pump that delivers.",
        "Writing down what the last workshop said instead of what the owner felt.",
    ),
    enough=_ENOUGH,
    instead={"common_rail": _DIESEL, "mechanical_diesel": _MECHANICAL},
    schools=(
        "Some read codes last, so that no code leads them by the nose; then at least note that there are any."
    ),
)
