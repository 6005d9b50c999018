"""Deciding one injector: how likely is it out of tolerance, and would more passes settle it?

The deviation d has an uncertainty u(d); the probability that the true deviation lies outside
+-T is taken from the normal distribution (JCGM 106:2012, 8).  Beyond 0.95 it is called, below 0.05
it is cleared, and between the two Plumb says "not settled" and how many passes would settle it.

>>> round(probability_out(0.1222, 0.0160, 0.10), 3)
0.917
>>> decide(-0.25, 0.013, 0.10).value
'low'
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

MOST_PASSES: Final = 5


class State(StrEnum):
    """What one injector reads as on one sheet (codes of the job file)."""

    IN_PLUMB = "in_plumb"
    LOW = "low"
    HIGH = "high"
    NO_RESPONSE = "no_response"
    UNSETTLED = "unsettled"
    INTERMITTENT = "intermittent"
    SPLIT = "split"
    OPEN = "open"
    NOT_JUDGED = "not_judged"


@dataclass(frozen=True, slots=True, kw_only=True)
class Thresholds:
    """From which probability on an injector is called, and up to which it is cleared."""

    call: float = 0.95
    clear: float = 0.05


def normal_below(z: float) -> float:
    """P(Z <= z) of the standard normal distribution."""
    return 0.5 * math.erfc(-z / math.sqrt(2.0))


def probability_out(deviation: float, u: float, tolerance: float) -> float:
    """Probability that the true deviation lies outside +-``tolerance``; all three in one unit."""
    if u <= 0.0:
        return 1.0 if abs(deviation) > tolerance else 0.0
    return normal_below((-tolerance - deviation) / u) + normal_below((deviation - tolerance) / u)


def decide(
    deviation: float, u: float, tolerance: float, thresholds: Thresholds = Thresholds()
) -> State:
    """In plumb, low, high or unsettled."""
    return state_of(probability_out(deviation, u, tolerance), deviation, thresholds)


def state_of(out: float, deviation: float, thresholds: Thresholds = Thresholds()) -> State:
    """What a probability of lying outside comes to; the sign says on which side."""
    if out >= thresholds.call:
        return State.LOW if deviation < 0.0 else State.HIGH
    return State.IN_PLUMB if out <= thresholds.clear else State.UNSETTLED


def passes_to_settle(
    deviation: float,
    u_after: Callable[[int], float],
    tolerance: float,
    thresholds: Thresholds = Thresholds(),
) -> int | None:
    """Fewest further passes (1 to 5) that would settle it if the mean stayed; None: none would.

    ``u_after(k)`` is the uncertainty of the deviation with ``k`` more passes.
    """
    for more in range(1, MOST_PASSES + 1):
        if decide(deviation, u_after(more), tolerance, thresholds) is not State.UNSETTLED:
            return more
    return None
