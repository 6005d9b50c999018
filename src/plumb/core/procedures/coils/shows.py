"""What the coils show of each fault, by resistance and under load; common practice, no source."""

from typing import Final

from plumb.core.causes.shows import Shows

_ROWS: Final = {
    "coil_open": (0.003, 0.0, 0.0, 0.997),
    "coil_shorted": (0.02, 0.05, 0.93, 0.0),
    "coil_out_of_window": (0.07, 0.9, 0.03, 0.0),
    "intermittent": (0.95, 0.04, 0.0, 0.01),
}
"""Good, out of its window, far too low, no current."""
_SOUND: Final = (0.993, 0.005, 0.001, 0.001)

SHOWS_OHM: Final = (
    Shows(
        name="ohms", measures="coil", rows=_ROWS, sound=_SOUND,
        columns=("coil_good", "coil_out", "coil_short", "coil_open"),
    ),
)  # fmt: skip
SHOWS_VOLT: Final = (
    Shows(
        name="volts", measures="coil", rows=_ROWS, sound=_SOUND,
        columns=("volts_good", "volts_out", "coil_short", "coil_open"),
    ),
)  # fmt: skip
