"""What trims and misfire counts show of each fault, and how often; common practice, no source."""

from typing import Final

from plumb.core.causes.codes import CLASSES
from plumb.core.causes.shows import Shows

_COUNTED: Final = {code: (1.0 - often, often) for code, often in CLASSES["misfire_of"][1].items()}
SHOWS: Final = (
    Shows(
        name="trims",
        columns=(
            "trims_good",
            "trims_rich_at_idle",
            "trims_rich",
            "trims_lean_at_idle",
            "trims_lean_with_load",
            "trims_lean",
        ),
        sound=(0.95, 0.01, 0.01, 0.01, 0.01, 0.01),
        rows={
            "air": (0.2, 0.0, 0.0, 0.7, 0.0, 0.1),
            "supply": (0.15, 0.0, 0.0, 0.0, 0.7, 0.15),
            "all_clogged": (0.15, 0.0, 0.0, 0.0, 0.35, 0.5),
            "gives_less": (0.65, 0.0, 0.0, 0.0, 0.2, 0.15),
            "gives_more": (0.6, 0.1, 0.3, 0.0, 0.0, 0.0),
            "leaks_at_tip": (0.5, 0.45, 0.05, 0.0, 0.0, 0.0),
            "stuck_open": (0.1, 0.2, 0.7, 0.0, 0.0, 0.0),
            "regulator": (0.5, 0.1, 0.3, 0.0, 0.1, 0.0),
            "regulator_diaphragm": (0.25, 0.7, 0.05, 0.0, 0.0, 0.0),
            "cold_start_injector": (0.3, 0.6, 0.1, 0.0, 0.0, 0.0),
            "no_response": (0.6, 0.0, 0.0, 0.0, 0.0, 0.4),
            "coil_open": (0.6, 0.0, 0.0, 0.0, 0.0, 0.4),
            "command": (0.65, 0.0, 0.0, 0.0, 0.0, 0.35),
            "shared_feed": (0.4, 0.0, 0.0, 0.0, 0.0, 0.6),
            "ignition": (0.65, 0.0, 0.0, 0.0, 0.0, 0.35),
            "outside_leak": (0.8, 0.0, 0.0, 0.0, 0.2, 0.0),
            "other": (0.7, 0.05, 0.1, 0.05, 0.0, 0.1),
        },
    ),
    Shows(
        name="misfire counts",
        measures="misfires of a cylinder",
        columns=("misfire_none", "misfire_counted"),
        sound=(0.985, 0.015),
        rows=_COUNTED,
        at_places=True,
    ),
    Shows(
        name="misfires of many",
        columns=("", "misfires_many"),
        sound=(0.99, 0.01),
        rows=dict.fromkeys(
            ("supply", "all_clogged", "rail_control", "air", "timing", "other"), (0.85, 0.15)
        ),
    ),
)
"""How the trims lie, and whose cylinder misfires."""
