"""What the supply pressure shows of each fault, and how often; common practice, no source."""

from typing import Final

from plumb.core.causes.shows import Shows

SHOWS: Final = (
    Shows(
        name="supply",
        columns=("supply_good", "supply_high", "regulator_dead", "supply_low", "no_supply"),
        sound=(0.965, 0.01, 0.005, 0.018, 0.002),
        rows={
            "pump": (0.0, 0.0, 0.0, 0.07, 0.93),
            "supply": (0.07, 0.0, 0.0, 0.93, 0.0),
            "regulator": (0.15, 0.35, 0.2, 0.3, 0.0),
            "regulator_diaphragm": (0.45, 0.15, 0.3, 0.1, 0.0),
            "outside_leak": (0.7, 0.0, 0.0, 0.3, 0.0),
        },
    ),
)
