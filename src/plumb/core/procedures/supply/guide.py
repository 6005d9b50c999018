"""How it is done: the card beside the supply sheet, for who has not done it often.

Common practice, no source.
"""

from typing import Final

from plumb.core.procedures.guide import Guide

_SHOWS = "Whether the rail gets the pressure it should, standing, running and with the regulator’s hose off."
_NO_HOSE: Final = {
    "Take the hose off a regulator that has one: read again.": "",
    _SHOWS: "Whether the low side gives the high-pressure pump what it should.",
    "Gauge on the test port, hose away from belts and exhaust.": "Gauge on the low side’s test port or tee, hose away from belts and exhaust.",
}
"""Before a high-pressure pump there is no regulator with a vacuum hose."""

SUPPLY_GUIDE: Final = Guide(
    shows=_SHOWS,
    hides=(
        "Volume: a half-blocked filter can show the right pressure at idle. And nothing of the injectors."
    ),
    needs=(
        "a gauge that fits the rail’s test port, or a tee in the feed",
        "a container and rags",
        "the window of this engine",
    ),
    connect=(
        "Relieve the rail.",
        "Gauge on the test port, hose away from belts and exhaust.",
        "Let the air out into the container through the gauge’s valve.",
    ),
    steps=(
        "Key on, engine off: read once it stands still.",
        "Start: read at idle.",
        "Take the hose off a regulator that has one: read again.",
        "Cranking, where it does not start.",
    ),
    look=(
        "No pressure with a relay that clicks: the pump or its feed; the work on injectors stops here.",
        "A needle that trembles: air in the line, or a pump near its end.",
    ),
    slips=(
        "Reading while air is still in the gauge’s hose.",
        "Bridging the wrong relay pins.",
        "Judging a returnless rail by the limits of one with a return.",
    ),
    enough=("Each state was read twice and the two agree within a step of the gauge."),
    schools=(
        "To run the pump: key cycles; the controller’s own command by a scan tool; a fused link across the relay’s load contacts 30 and 87, never across its coil 85 and 86. All three give the same pressure; the link also shows whether the relay is at fault."
    ),
    drawings=(
        "gauge_on_rail",
        "relay_link",
    ),
    instead={"direct": _NO_HOSE, "common_rail": _NO_HOSE},
)
