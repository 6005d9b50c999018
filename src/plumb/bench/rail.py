"""A simulated rail: one burst, from a start pressure to what a gauge of some step shows.

The ideal rail obeys dp/dt = -k sqrt(p) exactly.  The others differ from it, as real ones do: the
compliance grows or shrinks with pressure (C ~ p^a, solved in closed form), pressure seeps away
meanwhile, and the second reading is taken late, so that it has crept.

>>> rail = Rail(start=50.0, end=26.0)
>>> round(rail.second(50.0, 1.0), 3)
26.0
"""

from dataclasses import dataclass

import numpy as np

from plumb.bench.physics import fallen


@dataclass(frozen=True, slots=True, kw_only=True)
class Rail:
    """A rail on which a good injector takes ``start`` to ``end`` (psi).

    ``bend`` is the exponent a of the compliance, ``seep`` the pressure lost in a burst by other
    ways, as a fraction of the drop, ``creep`` the scatter of late second readings (psi).
    """

    start: float
    end: float
    bend: float = 0.0
    seep: float = 0.0
    creep: float = 0.0

    def second(self, first: float, flow: float) -> float:
        """Pressure after a burst by an injector that passes ``flow`` times what a good one does."""
        power = self.bend + 0.5
        whole = self.start**power - self.end**power
        left = fallen(first, by=flow * whole, bend=self.bend)
        return max(0.0, left - self.seep * (self.start - self.end))


LONG_BURSTS = ((43.0, 27.0), (46.0, 26.0), (50.0, 26.0), (55.0, 20.0), (55.0, 14.0))
"""Start and end pressures (psi) where the burst takes a third of the pressure or more."""

SHORT_BURSTS = ((46.0, 36.0), (43.0, 29.0))
"""Start and end pressures (psi) where it takes less: a 0.5 psi gauge is coarse for these."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Truth:
    """One set: the rail, each injector's true flow (1 is good) and which are bad."""

    rail: Rail
    flows: tuple[float, ...]
    bad: frozenset[int]


@dataclass(frozen=True, slots=True, kw_only=True)
class Setup:
    """What is simulated: the gauge's ``step`` (psi), rails to draw from (start and end, psi), sizes of sets.

    ``scatter`` is how far starts wander (psi); ``tolerance`` is what is allowed: good injectors lie
    within 0.6 of it (normal, a quarter of it, cut), bad ones are off by 1.2 of it or more; ``passes``
    are taken of everyone before any rule judges.
    """

    step: float
    ideal: bool = True
    rails: tuple[tuple[float, float], ...] = LONG_BURSTS
    sizes: tuple[int, ...] = (3, 4, 5, 6, 8)
    scatter: float = 0.7
    tolerance: float = 0.10
    passes: int = 1


def draw_truth(rng: np.random.Generator, setup: Setup) -> Truth:
    """A set: half of the sets healthy, else fewer than half bad; seven in ten bad ones give less.

    "Off" counts from the mean of the good ones of the set, because a comparison can know no other.
    """
    count = int(rng.choice(setup.sizes))
    most = (count - 1) // 2
    bad = int(rng.integers(1, most + 1)) if rng.random() < 0.5 else 0
    which = frozenset(int(i) for i in rng.choice(count, size=bad, replace=False))
    good = [_good_flow(rng, setup.tolerance) for _ in range(count)]
    healthy = [g for k, g in enumerate(good) if k not in which]
    mean = sum(healthy) / len(healthy)
    flows = tuple(
        mean * _bad_flow(rng, setup.tolerance) if k in which else g for k, g in enumerate(good)
    )
    start, end = setup.rails[int(rng.integers(len(setup.rails)))]
    # One rail that is told is that rail; of many, each lies somewhere about its figures.
    about = min(1.0, len(setup.rails) - 1.0)
    start += about * float(rng.uniform(-3.0, 3.0))
    end += about * float(rng.uniform(-1.0, 1.0))
    if setup.ideal:
        return Truth(rail=Rail(start=start, end=end), flows=flows, bad=which)
    rail = Rail(
        start=start,
        end=end,
        bend=float(rng.uniform(-0.3, 0.3)),
        seep=float(rng.uniform(0.0, 0.03)),
        creep=0.1,
    )
    return Truth(rail=rail, flows=flows, bad=which)


def _bad_flow(rng: np.random.Generator, tolerance: float) -> float:
    least = 1.2 * tolerance
    low, high = max(0.40, 2.0 * tolerance), max(0.30, 2.0 * tolerance)
    return float(
        1.0 - rng.uniform(least, min(0.95, low))
        if rng.random() < 0.7
        else 1.0 + rng.uniform(least, high)
    )


def _good_flow(rng: np.random.Generator, tolerance: float) -> float:
    while True:
        off = float(rng.normal(0.0, 0.25 * tolerance))
        if abs(off) <= 0.6 * tolerance:
            return 1.0 + off


def burst(
    rng: np.random.Generator, truth: Truth, injector: int, setup: Setup, higher: float = 0.0
) -> tuple[float, float]:
    """One burst as the gauge shows it (psi): the start, so much ``higher``, wanders, the burst repeats to 1 %."""
    step = setup.step
    first = max(step, truth.rail.start + higher + float(rng.normal(0.0, setup.scatter)))
    flow = truth.flows[injector] * float(rng.normal(1.0, 0.01))
    second = truth.rail.second(first, flow) + float(rng.normal(0.0, 1.0)) * truth.rail.creep
    return round(first / step) * step, max(0.0, round(second / step) * step)
