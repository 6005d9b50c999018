"""What it would take to be sure: gauge, burst and passes that call an injector out which is off by so much.

An injector off by d is called out where its deviation lies so far beyond the tolerance T that the
probability of that reaches the call's (M4).  With u of the deviation this happens in a share
Φ((d − T)/u − z) of all sets, z = Φ⁻¹(0.95), more after few passes; the plan asks how small u must be, and what makes it so.

>>> rail = RailPlan(first=345.0, second=179.0, step=3.45, size=6)
>>> best = plans(rail, Aim(off=0.15, certainty=0.95))[0]
>>> best.certainty >= 0.95
True
"""

import math
from dataclasses import dataclass
from typing import Final

import scipy  # its parts load when first used: all at once cost every start a second

from plumb.core.compare.flow import flow_of, second_for
from plumb.core.compare.held import calls_at
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.uncertainty import PRIOR_RELATIVE

MOST_PASSES: Final = 5
LONGER: Final = (1.0, 1.25, 1.5, 2.0)
"""Bursts so many times as long are looked at; a longer one must not empty the rail."""
LEFT: Final = 0.10
"""So much of the first pressure stays in the rail at least."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RailPlan:
    """The rail as it is measured now: a good burst from ``first`` to ``second``, the gauge's ``step`` (kPa).

    ``size`` injectors; ``steps`` are other gauges that are to be had (kPa).
    """

    first: float
    second: float
    step: float
    size: int
    steps: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Aim:
    """An injector ``off`` by that fraction is to be called out with this ``certainty``."""

    off: float
    certainty: float
    tolerance: float = 0.10
    thresholds: Thresholds = Thresholds()


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """One way: gauge ``step`` and end of a good burst (kPa), ``longer`` than now, ``passes`` of everyone.

    ``u`` is of a deviation, as a fraction; ``bursts`` in all.
    """

    step: float
    second: float
    longer: float
    passes: int
    u: float
    certainty: float
    bursts: int


def deviation_u(first: float, second: float, step: float, *, passes: int, size: int) -> float:
    """U of an injector's deviation from the others: its own flow, and the mean of the rest.

    Each flow has the two readings' u (M1, M2) and the burst's own repeatability; means of ``passes``,
    compared with ``size`` − 1 others.
    """
    flow = flow_of(first, second, step)
    read = math.hypot(flow.u_first, flow.u_second) / flow.value
    one = math.hypot(read, PRIOR_RELATIVE) / math.sqrt(passes)
    return one * math.sqrt(1.0 + 1.0 / max(1, size - 1))


def certainty_of(u: float, aim: Aim, passes: int = 1) -> float:
    """In what share of all sets an injector off by that much is called out after so many passes of all.

    Early looks ask for more, as they do on the sheet (:func:`plumb.core.compare.held.calls_at`).
    """
    z = float(scipy.special.ndtri(calls_at(aim.thresholds, passes)))
    return float(scipy.special.ndtr((aim.off - aim.tolerance) / u - z))


def plans(rail: RailPlan, aim: Aim) -> list[Plan]:
    """Every way that reaches the aim and has none beside it that is as sure with less; fewest bursts first.

    Each gauge, each length of burst, with the fewest passes that do; a finer gauge or a longer burst
    that saves nothing is left out.
    """
    flow = flow_of(rail.first, rail.second, rail.step).value
    made: list[Plan] = []
    for step in sorted({rail.step, *rail.steps}, reverse=True):
        for longer in LONGER:
            second = second_for(rail.first, longer * flow)
            if second < max(LEFT * rail.first, 3.0 * step) and longer > 1.0:
                continue
            plan = _fewest(rail, aim, step, (second, longer))
            if plan is not None and not any(_as_good(other, plan) for other in made):
                made.append(plan)
    return sorted(made, key=lambda p: (p.bursts, p.longer, -p.step))


def _fewest(rail: RailPlan, aim: Aim, step: float, burst: tuple[float, float]) -> Plan | None:
    second, longer = burst
    for passes in range(1, MOST_PASSES + 1):
        u = deviation_u(rail.first, second, step, passes=passes, size=rail.size)
        certainty = certainty_of(u, aim, passes)
        if certainty >= aim.certainty:
            return Plan(
                step=step, second=second, longer=longer, passes=passes, u=u, certainty=certainty,
                bursts=passes * rail.size,
            )  # fmt: skip
    return None


def _as_good(one: Plan, other: Plan) -> bool:
    """Whether a coarser gauge and a shorter burst do with as few passes."""
    return one.step >= other.step and one.longer <= other.longer and one.passes <= other.passes
