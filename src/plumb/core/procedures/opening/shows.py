"""What a nozzle shows on the hand pump with each fault, and how often; common practice, no source."""

from typing import Final

from plumb.core.causes.shows import Shows

SHOWS: Final = (
    Shows(
        name="opening pressure",
        columns=("opens_in_plumb", "opens_low", "opens_high", "opens_none"),
        sound=(0.989, 0.006, 0.004, 0.001),
        rows={
            "opens_early": (0.04, 0.96, 0.0, 0.0),
            "opens_late": (0.05, 0.0, 0.95, 0.0),
            "no_response": (0.05, 0.0, 0.05, 0.9),
            "seat_leaks": (0.8, 0.18, 0.0, 0.02),
        },
    ),
    Shows(
        name="seat",
        columns=("nozzle_seat_dry", "nozzle_seat_damp", "nozzle_seat_wet"),
        sound=(0.99, 0.008, 0.002),
        rows={"seat_leaks": (0.05, 0.25, 0.7)},
    ),
    Shows(
        name="pressure held",
        columns=("nozzle_holds", "nozzle_loses"),
        sound=(0.97, 0.03),
        rows={"seat_leaks": (0.3, 0.7)},
    ),
    Shows(
        name="spray and sound",
        columns=("nozzle_sprays", "nozzle_silent", "nozzle_spray_bad"),
        sound=(0.98, 0.015, 0.005),
        rows={"bad_spray": (0.05, 0.05, 0.9), "seat_leaks": (0.6, 0.2, 0.2)},
    ),
)
