"""What the lamp at the plug shows of each fault, and how often; common practice, no source."""

from typing import Final

from plumb.core.causes.shows import Shows

SHOWS: Final = (
    Shows(
        name="lamp",
        columns=("command_good", "command_weak", "command_steady", "command_dark"),
        sound=(0.985, 0.005, 0.005, 0.005),
        rows={
            "command": (0.05, 0.15, 0.1, 0.7),
            "shared_feed": (0.04, 0.16, 0.0, 0.8),
            "coil_shorted": (0.85, 0.1, 0.0, 0.05),
        },
    ),
)
