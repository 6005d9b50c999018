"""What the humps of starter current show of each fault, and how often; common practice, no source."""

from typing import Final

from plumb.core.causes.shows import Shows

SHOWS: Final = (
    Shows(
        name="hump",
        columns=("cranking_in_plumb", "cranking_low"),
        sound=(0.995, 0.005),
        rows={"compression": (0.06, 0.94)},
    ),
    Shows(
        name="humps without a name",
        at_places=False,
        columns=("", "cranking_uneven"),
        sound=(0.985, 0.015),
        rows={"compression": (0.06, 0.94), "timing": (0.9, 0.1)},
    ),
)
