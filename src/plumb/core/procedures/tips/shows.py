"""What the tips show of each fault, and how often; common practice, no source."""

from typing import Final

from plumb.core.causes.shows import Shows

SHOWS: Final = (
    Shows(
        name="tip",
        columns=("tip_dry", "tip_weeps", "tip_drips", "tip_pours"),
        sound=(0.97, 0.027, 0.002, 0.001),
        rows={
            "leaks_at_tip": (0.05, 0.35, 0.58, 0.02),
            "stuck_open": (0.01, 0.0, 0.09, 0.9),
            "gives_more": (0.9, 0.1, 0.0, 0.0),
        },
    ),
)
