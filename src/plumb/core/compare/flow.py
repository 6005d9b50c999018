"""The flow index: what an injector passed, whatever pressure the burst started from.

Through an orifice flow goes with the root of the pressure, and a shut rail of constant compliance
then obeys dp/dt = -k sqrt(p), so f = sqrt(p1) - sqrt(p2) is proportional to k times the burst.
A plain drop is not: the same injector takes more from a higher start.

>>> one = flow_index(47.0, 37.0)
>>> [round(p - second_for(p, one), 1) for p in (40, 46, 47, 48, 52)]
[9.2, 9.9, 10.0, 10.1, 10.5]

Source: Torricelli's law as solved in Kreyszig, Advanced Engineering Mathematics, 10th ed., 1.3.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

from plumb.core.measure.uncertainty import step_uncertainty


def flow_index(first: float, second: float) -> float:
    """sqrt(first) - sqrt(second), in the root of whatever unit both pressures are in (>= 0)."""
    return math.sqrt(first) - math.sqrt(second)


def second_for(first: float, flow: float) -> float:
    """The end pressure at which an injector of this flow index stops, from ``first``.

    Never below zero: there the rail has run empty.
    """
    root = max(0.0, math.sqrt(first) - flow)
    return root * root


@dataclass(frozen=True, slots=True, kw_only=True)
class Flow:
    """The flow index of one burst: value, what each reading adds to its uncertainty, limits.

    ``value``, ``u_first``, ``u_second`` are in sqrt(kPa).  ``bound`` is true when the rail ran
    empty and the value is only a lower bound.  ``drop`` and ``u_drop`` are in kPa, as is the gauge's ``step``.
    """

    first: float
    second: float
    step: float
    value: float
    u_first: float
    u_second: float
    drop: float
    u_drop: float
    bound: bool


@lru_cache(maxsize=1 << 14)
def flow_of(first: float, second: float, step: float, *, read_late: bool = False) -> Flow:
    """Flow index of a burst from ``first`` to ``second`` (kPa) on a gauge with ``step`` (kPa).

    Near zero the slope 1/(2 sqrt(p)) runs away; the pressure it is taken at is held at half a
    step, the lowest that the gauge can tell from nothing.  Kept, because a dial shows few figures and
    each of them again and again.
    """
    u_one = step_uncertainty(step)
    u_two = step_uncertainty(step, read_late=read_late)
    floor = step / 2.0
    return Flow(
        first=first,
        second=second,
        step=step,
        value=flow_index(first, second),
        u_first=u_one / (2.0 * math.sqrt(max(first, floor))),
        u_second=u_two / (2.0 * math.sqrt(max(second, floor))),
        drop=first - second,
        u_drop=math.hypot(u_one, u_two),
        bound=second <= step,
    )


def linear_flow(value: float, step: float) -> Flow:
    """A quantity that is proportional to what passed (a volume), in the shape of a flow."""
    u = step_uncertainty(step)
    return Flow(
        first=value, second=0.0, step=step, value=value, u_first=u, u_second=0.0, drop=value, u_drop=u,
        bound=False,
    )  # fmt: skip


def tolerance_in_flow(first: float, second: float, tolerance: float) -> float:
    """What +-``tolerance`` of pressure means in flow on this rail, as a fraction of the flow.

    The second reading is moved by the tolerance both ways; half of the change is the answer.

    >>> [round(100 * tolerance_in_flow(a, b, 1.5), 1) for a, b in ((46, 36), (43, 29), (50, 26))]
    [16.0, 11.9, 7.5]
    """
    flow = flow_index(first, second)
    if flow <= 0.0:
        return math.inf
    low = math.sqrt(max(0.0, second - tolerance))
    high = math.sqrt(second + tolerance)
    return (high - low) / 2.0 / flow


def tolerance_in_pressure(first: float, second: float, fraction: float) -> float:
    """The opposite of :func:`tolerance_in_flow`: what +-``fraction`` of flow is in pressure."""
    flow = flow_index(first, second)
    more = second - second_for(first, flow * (1.0 + fraction))
    less = second_for(first, max(0.0, flow * (1.0 - fraction))) - second
    return (more + less) / 2.0
