"""How the rail follows what is wanted with each fault, and how often; common practice, no source."""

from typing import Final

from plumb.core.causes.shows import Shows

SHOWS: Final = (
    Shows(
        name="rail",
        columns=("rail_good", "rail_high", "rail_low", "rail_none", "rail_surges"),
        sound=(0.955, 0.015, 0.013, 0.002, 0.015),
        rows={
            "rail_control": (0.05, 0.15, 0.23, 0.02, 0.55),
            # A pump that stands still, or is fed nothing, builds up nothing: a rail that comes half way has one.
            "pump": (0.02, 0.0, 0.1, 0.88, 0.0),
            "supply": (0.3, 0.0, 0.5, 0.1, 0.1),
            "returns_too_much": (0.4, 0.0, 0.58, 0.02, 0.0),
            "control_valve": (0.25, 0.0, 0.5, 0.1, 0.15),
            "pump_outlet_valve": (0.35, 0.0, 0.5, 0.1, 0.05),
            "unions": (0.45, 0.0, 0.52, 0.03, 0.0),
            "leaks_at_tip": (0.6, 0.0, 0.4, 0.0, 0.0),
            "stuck_open": (0.15, 0.0, 0.8, 0.05, 0.0),
        },
    ),
)
