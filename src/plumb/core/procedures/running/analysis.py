"""Balance while idling, on direct injection: the tester shuts one injector for a moment.

It reports the rail's drop.  It is compared as a burst from the rail's pressure; the drops are small
beside it, so the root law is nearly a straight line there.  The engine must be inside the entry
conditions, or the readings say nothing of the injectors.

>>> outside_running(low_side=300.0, lost=0.0, rail=4000.0)
('the low side is at 300 kPa, asked for 317 to 579',)
"""

from dataclasses import dataclass
from typing import Final

from plumb.core.measure.quantities import KPA_PER, rounded

KIND: Final = "injector_balance_running"
PSI: Final = KPA_PER["psi"]

LOW_SIDE: Final = (46.0 * PSI, 84.0 * PSI)
LOST_AT_MOST: Final = 5.0 * PSI
RAIL: Final = (276.0 * PSI, 725.0 * PSI)
"""Entry conditions at idle; common practice, no source."""
SCATTER: Final = 0.06
"""How one reading of this test scatters, of itself: the engine is never quite still; common practice, no source."""
USUAL_TOLERANCE: Final = 0.20
"""So far from those that agree; 25 to 33 % apart is a sound engine yet; common practice, no source."""
USUAL_RAIL: Final = 500.0 * PSI
"""Taken as the rail's pressure where none was noted: the middle of what is asked for."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Burst:
    """A rail drop as a burst: from the rail's pressure to what was left, both kPa."""

    first: float
    second: float


def burst_of(drop: float, rail: float | None) -> Burst:
    """The burst that a reported drop (kPa) means on a rail at ``rail`` kPa."""
    start = max(rail or USUAL_RAIL, drop)
    return Burst(first=start, second=start - drop)


def outside_running(
    *,
    low_side: float | None,
    lost: float | None,
    rail: float | None,
    unit: str = "kPa",
) -> tuple[str, ...]:
    """What is outside the entry conditions, in words; pressures in kPa, told in ``unit``."""
    made = []

    def told(kpa: float) -> str:
        return rounded(kpa / KPA_PER[unit], 0 if unit in {"psi", "kPa"} else 1)

    for name, value, (low, high) in (
        ("the low side is", low_side, LOW_SIDE),
        ("the rail is", rail, RAIL),
    ):
        if value is not None and not low <= value <= high:
            made.append(f"{name} at {told(value)} {unit}, asked for {told(low)} to {told(high)}")
    if lost is not None and lost > LOST_AT_MOST + 1e-9:
        made.append(
            f"the low side loses {told(lost)} {unit} in a minute, at most {told(LOST_AT_MOST)}"
        )
    return tuple(made)
