"""What the corrections show of each fault, and how often; common practice, no source."""

from typing import Final

from plumb.core.causes.shows import Shows

SHOWS: Final = (
    Shows(
        name="correction",
        columns=("correction_in_plumb", "correction_low", "correction_high"),
        sound=(0.984, 0.008, 0.008),
        rows={
            "gives_less": (0.07, 0.0, 0.93),
            "gives_more": (0.08, 0.92, 0.0),
            "leaks_at_tip": (0.6, 0.4, 0.0),
            "stuck_open": (0.1, 0.8, 0.1),
            "no_response": (0.05, 0.0, 0.95),
            "compression": (0.1, 0.0, 0.9),
            "command": (0.1, 0.0, 0.9),
            "coil_open": (0.05, 0.0, 0.95),
            "coil_shorted": (0.2, 0.0, 0.8),
            "returns_too_much": (0.75, 0.05, 0.2),
            "rail_control": (0.7, 0.15, 0.15),
            "timing": (0.9, 0.05, 0.05),
        },
    ),
)
"""A high figure: the controller gives more to a weak cylinder, whatever makes it weak."""
