"""What is expected of a set: what a maker or an earlier sound set says, and how the set lies against it.

>>> said = Expected(drop=24.0, source="the maker")
>>> round(expected_flow(said, (49.0, 25.0), linear=False), 3)
2.0
"""

import math
from dataclasses import dataclass
from datetime import date
from typing import Final

from plumb.core.compare.flow import flow_index
from plumb.core.compare.flow_rule import FlowJudgement

BETWEEN_SESSIONS: Final = 0.02
"""What the flow of a whole set shifts from one session to the next, as one u; common practice, no source."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Expected:
    """The drop (kPa) that a window or an earlier sheet foretells, and who says so.

    ``since`` is the day of an earlier set whose drop it is; None for what a maker says.
    """

    drop: float
    source: str
    since: date | None = None


def against(
    flow: FlowJudgement, expected: float | None, said: Expected | None
) -> tuple[float, float] | None:
    """The set's own deviation from what is expected, as (deviation, u); None where nothing is."""
    if not expected or not flow.reference or flow.alone:
        return None
    # A sound set, too, gives a little else on another day.
    shift = BETWEEN_SESSIONS if said is not None and said.since is not None else 0.0
    return flow.reference / expected - 1.0, math.hypot(flow.u_reference / expected, shift)


def expected_flow(
    said: Expected | None, pressures: tuple[float, float] | None, *, linear: bool
) -> float | None:
    """The flow index that the expected drop means from this rail's start pressure; linear, the drop itself."""
    if said is None:
        return None
    if linear:
        return said.drop
    if pressures is None or said.drop >= pressures[0]:
        return None
    return flow_index(pressures[0], pressures[0] - said.drop)
