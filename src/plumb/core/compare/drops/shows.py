"""What a sheet that compares injectors shows of each fault, and how often.

Common practice, no source; the benches of :mod:`plumb.bench` hold it against simulated engines.
"""

from typing import Final

from plumb.core.causes.shows import Shows

_ROWS: Final = {
    "gives_less": (0.04, 0.0, 0.94, 0.01, 0.01),
    "gives_more": (0.07, 0.93, 0.0, 0.0, 0.0),
    "leaks_at_tip": (0.65, 0.35, 0.0, 0.0, 0.0),
    "stuck_open": (0.15, 0.65, 0.0, 0.0, 0.2),
    "no_response": (0.01, 0.0, 0.06, 0.02, 0.91),
    "opens_weakly": (0.15, 0.0, 0.5, 0.2, 0.15),
    "intermittent": (0.4, 0.0, 0.1, 0.48, 0.02),
    "coil_open": (0.005, 0.0, 0.005, 0.0, 0.99),
    "coil_shorted": (0.15, 0.0, 0.5, 0.05, 0.3),
    "coil_out_of_window": (0.7, 0.0, 0.28, 0.01, 0.01),
    "bad_spray": (0.93, 0.02, 0.05, 0.0, 0.0),
}
"""In plumb, high, low, its passes disagree, nothing at all."""

BY_BURST: Final = {
    "command": (0.94, 0.0, 0.03, 0.01, 0.02),
    "shared_feed": (0.5, 0.0, 0.2, 0.0, 0.3),
}
"""A tester of its own needs no command; one that works through the car's plugs does."""
BY_ENGINE: Final = {
    "command": (0.2, 0.0, 0.3, 0.1, 0.4),
    "shared_feed": (0.1, 0.0, 0.4, 0.05, 0.45),
    "compression": (0.8, 0.1, 0.1, 0.0, 0.0),
}
"""While the engine runs, the controller opens it."""


def flow_table(prefix: str, **more: tuple[float, ...]) -> Shows:
    """How each injector gives against those that agree; ``more`` are rows of this sort of sheet."""
    return Shows(
        name=f"{prefix} flow",
        measures="flow",
        columns=tuple(f"{prefix}_{x}" for x in ("in_plumb", "high", "low", "intermittent", "none")),
        sound=(0.993, 0.003, 0.003, 0.0005, 0.0005),
        rows={**_ROWS, **more},
    )


AGAIN: Final = Shows(
    name="pass after pass",
    columns=("passes_agree", ""),
    sound=(0.999, 0.001),
    rows={"intermittent": (0.4, 0.6)},
)
"""One that sticks now and then seldom reads the same twice."""

WAKES: Final = Shows(
    name="how it wakes",
    columns=("two_passes", "fires_late answered_late"),
    sound=(0.995, 0.005),
    rows={
        "opens_weakly": (0.4, 0.6),
        "intermittent": (0.7, 0.3),
        "no_response": (0.9, 0.1),
        "coil_out_of_window": (0.8, 0.2),
    },
)
"""One that answers late or opens only once the rail has bled down."""

SET: Final = Shows(
    name="the set as a whole",
    columns=("set_as_expected", "set_high", "set_low"),
    sound=(0.94, 0.03, 0.03),
    rows={
        "all_clogged": (0.05, 0.0, 0.95),
        "supply": (0.3, 0.0, 0.7),
        "regulator": (0.4, 0.4, 0.2),
        "outside_leak": (0.8, 0.0, 0.2),
    },
)
"""The set against what is expected of it."""

SPRAY: Final = Shows(
    name="spray",
    columns=("spray_even", "spray_bad"),
    sound=(0.97, 0.03),
    rows={"bad_spray": (0.05, 0.95), "gives_less": (0.6, 0.4), "leaks_at_tip": (0.5, 0.5)},
)
"""The spray on the flow bench."""
