"""Deciding one injector: how likely is it out of tolerance, and would more passes settle it?

The deviation d has an uncertainty u(d); the probability that the true deviation lies outside
+-T is taken from the normal distribution (JCGM 106:2012, 8), or from Student's t where u(d) itself rests on
few passes (JCGM 100:2008, G.3).  An injector is called where *one side* has 0.95, cleared where both together
have 0.05 at most, and between the two Plumb says "not settled" and how many passes would settle it.

>>> round(probability_out(0.1222, 0.0160, 0.10), 3)
0.917
>>> decide(-0.25, 0.013, 0.10).value
'low'
"""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import Final, NamedTuple

import scipy  # its parts load when first used: all at once cost every start a second

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


class Sides(NamedTuple):
    """Probabilities that the true value lies below what is allowed, and above it."""

    below: float
    above: float

    @property
    def out(self) -> float:
        """Of lying outside on either side."""
        return self.below + self.above

    def state(self, thresholds: Thresholds = Thresholds()) -> State:
        """Called for the side that is likely enough by itself: two halves of a doubt are no call."""
        if max(self) >= thresholds.call:
            return State.LOW if self.below > self.above else State.HIGH
        return State.IN_PLUMB if self.out <= thresholds.clear else State.UNSETTLED


def normal_below(z: float) -> float:
    """P(Z <= z) of the standard normal distribution."""
    return 0.5 * math.erfc(-z / math.sqrt(2.0))


def chance_below(z: float, degrees: float = math.inf) -> float:
    """P(T <= z) of Student's t with so many degrees of freedom; of the normal distribution without any end.

    >>> round(chance_below(2.776, 4), 3), round(chance_below(1.96), 3)
    (0.975, 0.975)
    """
    if math.isinf(degrees):
        return normal_below(z)
    return float(scipy.special.stdtr(degrees, z))


def sides(
    value: float,
    u: float,
    low: float | None,
    high: float | None,
    degrees: float = math.inf,
) -> Sides:
    """How likely the true value lies below ``low`` and above ``high`` (None: no such limit); one unit."""
    if u <= 0.0:
        below = low is not None and value < low
        return Sides(float(below), float(high is not None and value > high))
    return Sides(
        0.0 if low is None else chance_below((low - value) / u, degrees),
        0.0 if high is None else chance_below((value - high) / u, degrees),
    )


def effective_degrees(parts: Iterable[tuple[float, float]]) -> float:
    """Degrees of freedom of a combined uncertainty: (u of a part, its degrees) each (JCGM 100:2008, G.4.1).

    Welch and Satterthwaite; a part that is known exactly has degrees without end.

    >>> round(effective_degrees([(1.0, 4.0), (1.0, math.inf)]), 6)
    16.0
    """
    known = [(u * u, degrees) for u, degrees in parts]
    doubt = sum(v * v / degrees for v, degrees in known if not math.isinf(degrees))
    total = sum(v for v, _ in known)
    return total * total / doubt if doubt > 0.0 else math.inf


def probability_out(deviation: float, u: float, tolerance: float) -> float:
    """Probability that the true deviation lies outside +-``tolerance``; all three in one unit."""
    return sides(deviation, u, -tolerance, tolerance).out


def decide(
    deviation: float, u: float, tolerance: float, thresholds: Thresholds = Thresholds()
) -> State:
    """In plumb, low, high or unsettled."""
    return sides(deviation, u, -tolerance, tolerance).state(thresholds)


def passes_to_settle(state_after: Callable[[int], State]) -> int | None:
    """Fewest further passes (1 to 5) that would settle it if the mean stayed; None: none would.

    ``state_after(k)`` is what ``k`` more passes would come to.
    """
    for more in range(1, MOST_PASSES + 1):
        if state_after(more) is not State.UNSETTLED:
            return more
    return None
