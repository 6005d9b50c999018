"""What the hold and its board show of each fault, and how often; common practice, no source.

The board's tables are made from its steps: an outcome that leaves a source is what it would show.
"""

from typing import Final

from plumb.core.causes.shows import Shows
from plumb.core.procedures.hold.facts import PREFIX
from plumb.core.procedures.hold.isolation import STEPS, outcome_fact

_OF_THE_BOARD: Final = {"injectors": ("leaks_at_tip", "stuck_open"),
                        "injector_seats": ("leaks_at_tip", "stuck_open", "returns_too_much")}  # fmt: skip
"""Sources of the board that are an injector's."""
_SURE: Final = 0.96
"""How often a step shows what its source brings about."""
_CALM: Final = ("holds", "dry", "steady")
"""Outcomes that a rail without a leak would show."""

_GOOD: Final = ("good", "soaks", "small_leak")
"""What passes: a little that is lost inside the limit makes nothing likelier."""


def _hold(name: str, prefix: str, rows: dict[str, tuple[float, ...]]) -> Shows:
    """How one side holds; faults of the other side have no row."""
    return Shows(
        name=name,
        columns=(" ".join(f"{prefix}_{x}" for x in _GOOD), f"{prefix}_lost", f"{prefix}_collapsed"),
        sound=(0.975, 0.02, 0.005),
        rows=rows,
    )


_LOW: Final = _hold(
    "hold", PREFIX["low"],
    {
        "supply_check_valve": (0.08, 0.82, 0.1),
        "regulator": (0.45, 0.5, 0.05),
        "regulator_diaphragm": (0.5, 0.45, 0.05),
        "cold_start_injector": (0.2, 0.75, 0.05),
        "outside_leak": (0.2, 0.65, 0.15),
        "leaks_at_tip": (0.52, 0.46, 0.02),
        "stuck_open": (0.0, 0.1, 0.9),
        "pump": (0.3, 0.6, 0.1),
    },
)  # fmt: skip
_HIGH: Final = _hold(
    "hold of the high side", PREFIX["high"],
    {
        "pump_outlet_valve": (0.1, 0.8, 0.1),
        "control_valve": (0.2, 0.7, 0.1),
        "unions": (0.15, 0.75, 0.1),
        "leaks_at_tip": (0.52, 0.46, 0.02),
        "stuck_open": (0.0, 0.1, 0.9),
        "returns_too_much": (0.4, 0.55, 0.05),
        "pump": (0.3, 0.6, 0.1),
    },
)  # fmt: skip


def _boards() -> tuple[Shows, ...]:
    made = []
    for rail, steps in STEPS.items():
        for step in steps:
            calm = next(o for o in step.leaves if o in _CALM)
            other = next(o for o in step.leaves if o != calm)
            rows: dict[str, tuple[float, ...]] = {}
            for outcome, left in step.leaves.items():
                row = (_SURE, 1.0 - _SURE) if outcome == calm else (1.0 - _SURE, _SURE)
                for source in left:
                    rows |= dict.fromkeys(_OF_THE_BOARD.get(source, (source,)), row)
            made.append(
                Shows(
                    name=f"{rail} {step.code}",
                    columns=tuple(outcome_fact(rail, step.code, o) for o in (calm, other)),
                    sound=(0.99, 0.01),
                    rows=rows,
                    later=True,
                )
            )
    return tuple(made)


BOARD: Final = _boards()
SHOWS: Final = (_LOW, _HIGH, *BOARD)
"""How the rail holds, and every step of the board."""
