"""What comes back from each injector with each fault, and how often; common practice, no source."""

from typing import Final

from plumb.core.causes.shows import Shows

SHOWS: Final = (
    Shows(
        name="return",
        columns=("returns_in_plumb", "returns_high", "returns_none"),
        sound=(0.988, 0.01, 0.002),
        rows={
            "returns_too_much": (0.05, 0.95, 0.0),
            "stuck_open": (0.7, 0.25, 0.05),
            "no_response": (0.6, 0.05, 0.35),
            "command": (0.5, 0.0, 0.5),
            "coil_open": (0.4, 0.0, 0.6),
            "opens_early": (0.93, 0.07, 0.0),
        },
    ),
)
