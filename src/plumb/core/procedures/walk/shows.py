"""What the walk-round shows of each fault, and how often; common practice, no source."""

from typing import Final

from plumb.core.causes.shows import Shows

SHOWS: Final = (
    Shows(
        name="vacuum hose",
        columns=("hose_dry", "hose_wet"),
        sound=(0.995, 0.005),
        rows={"regulator_diaphragm": (0.15, 0.85)},
    ),
    Shows(
        name="connectors",
        columns=("connectors_good", "connectors_bad"),
        sound=(0.97, 0.03),
        rows={"command": (0.7, 0.3), "shared_feed": (0.9, 0.1)},
    ),
)
