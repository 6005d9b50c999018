"""How one injector is held against the others: itself left out, and no surer than its readings and passes are.

A reference that holds the injector in doubt leans towards it (a fourth of it in a set of four), so the mean of the
others decides.  Few passes tell little of how bursts scatter: Student's t, a second pass before anybody is called
near the limit, and less of the error at each look where one reads on until it is settled.
"""

import math
from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache
from statistics import fmean
from typing import Final, NamedTuple

import scipy  # its parts load when first used: all at once cost every start a second

from plumb.core.compare.bursts import Injected
from plumb.core.measure.decision import (
    Sides,
    State,
    Thresholds,
    effective_degrees,
    normal_below,
    sides,
)
from plumb.core.measure.uncertainty import Repeatability, sample_sd

NEAR: Final = 3.0
"""Nobody is called by one pass, or while the scatter is not known, who lies nearer to the limit than so many
standard uncertainties."""
KNOWN: Final = 2
"""Repeats of so many bursts tell how they scatter; before that the members of the set may lie apart by it."""
MOST_LOOKS: Final = 8
"""After so many passes nobody is read again: then the whole of the error may be spent."""


@lru_cache(maxsize=64)
def calls_at(thresholds: Thresholds, passes: int) -> float:
    """From which probability on one is called who was read so often, and may be read again until it is settled.

    Whoever reads on gives chance more than one try.  Early looks ask for more: z grows with the root of what is yet
    to come (O'Brien and Fleming 1979, Biometrics 35, 549-556, as spent by Lan and DeMets 1983; from memory), up to
    that of one pass.

    >>> [round(calls_at(Thresholds(), n), 3) for n in (1, 4, 8, 9)]
    [0.999, 0.99, 0.95, 0.95]
    """
    z = float(scipy.special.ndtri(thresholds.call))
    return max(thresholds.call, normal_below(min(z * math.sqrt(MOST_LOOKS / passes), NEAR)))


class Held(NamedTuple):
    """What decides on an injector: how it lies against those that agree, itself left out.

    ``deviation`` and all four parts of its uncertainty are fractions of what the others give; ``read`` and
    ``of_others_read`` come from the gauge, ``scattered`` and ``of_others_scattered`` from burst to burst, which is
    known with so many ``degrees``.  ``apart`` is how far the others lie about their mean, where nobody was
    read twice: until then it may be scatter.  ``wanders``: bursts begin now here, now there, so that a further one is
    news to the gauge.
    """

    deviation: float
    read: float
    scattered: float
    of_others_read: float
    of_others_scattered: float
    degrees: float
    passes: int
    situations: int
    of_others_passes: float
    wanders: bool
    own_degrees: int
    apart: float = 0.0

    def u(self, own: int = 0, of_others: int = 0, *, other_starts: bool = False) -> float:
        """One standard uncertainty, with so many more passes if the means stayed."""
        return math.hypot(*(u for u, _ in self.parts(own, of_others, other_starts=other_starts)))

    def parts(
        self, own: int = 0, of_others: int = 0, *, other_starts: bool = False
    ) -> tuple[tuple[float, float], ...]:
        """What the gauge adds, and what the scatter does: one u each, with its degrees of freedom."""
        n, m = self.passes, self.situations
        news = m + own if other_starts or self.wanders else m
        others = math.sqrt(self.of_others_passes / (self.of_others_passes + of_others))
        read = math.hypot(self.read * math.sqrt(m / news), self.of_others_read * others)
        scattered = math.hypot(
            self.scattered * math.sqrt(n / (n + own)), self.of_others_scattered * others
        )
        return (read, math.inf), (scattered, self.degrees + own + of_others)

    def state(
        self,
        tolerance: float,
        thresholds: Thresholds,
        own: int = 0,
        of_others: int = 0,
        *,
        other_starts: bool = False,
    ) -> State:
        """In plumb, low, high or unsettled, with so many more passes if the means stayed."""
        told = self.sides(tolerance, own, of_others, other_starts=other_starts)
        state = told.state(replace(thresholds, call=calls_at(thresholds, self.passes + own)))
        called = state in {State.LOW, State.HIGH}
        return State.UNSETTLED if called and self._may_be_chance(tolerance, own) else state

    def sides(
        self, tolerance: float, own: int = 0, of_others: int = 0, *, other_starts: bool = False
    ) -> Sides:
        """How likely it lies outside, on either side."""
        parts = self.parts(own, of_others, other_starts=other_starts)
        u = math.hypot(*(u for u, _ in parts))
        return sides(self.deviation, u, -tolerance, tolerance, effective_degrees(parts))

    def _may_be_chance(self, tolerance: float, own: int) -> bool:
        """Nearer to the limit than three standard uncertainties, after one pass, or while nobody knows the scatter."""
        n = self.passes + own
        if n > 1 and self.own_degrees + own >= KNOWN:
            return False
        (read, _), (scattered, _) = self.parts(own)
        u = math.hypot(read, max(scattered, self.apart / math.sqrt(n)))
        return abs(self.deviation) - tolerance < NEAR * u


class Others:
    """Those that agree, as what each injector is held against: the mean of all of them but itself.

    ``read`` is what the gauge adds to each injector's flow, as a fraction of it; ``members`` are the places of those
    that agree; ``reference`` is what is compared with where nobody does; ``wanders``: see the set of bursts.
    """

    def __init__(
        self,
        injected: Sequence[Injected],
        read: Sequence[float],
        members: Sequence[int],
        s: Repeatability,
        reference: float,
        *,
        wanders: bool,
    ) -> None:
        self._read, self._members, self._s, self._reference = read, members, s, reference
        self._injected, self._wanders = injected, wanders
        # What the passes themselves show counts where it is more than the prior lets on.
        self._relative = max(s.relative, s.own if s.own_degrees >= KNOWN else 0.0)

    def of(self, k: int) -> Held:
        """What decides on the k-th."""
        one, relative = self._injected[k], self._relative
        others = [m for m in self._members if m != k]
        rows = [self._injected[m] for m in others]
        alone = not others and bool(self._members)
        # The only one of its group is what the others are held against, and lies where it lies.
        reference = one.flow if alone else self._reference
        if others:
            reference = sum(r.flow for r in rows) / len(rows)
        # Taken at deviation nought for all, so that a strong and a weak injector are treated alike.
        read = math.hypot(*(self._read[m] * self._injected[m].flow for m in others))
        scattered = math.hypot(*(relative / math.sqrt(r.passes) for r in rows))
        share = 0.0 if alone else max(one.flow / reference, 1e-9)
        count = max(1, len(others))
        return Held(
            deviation=one.flow / reference - 1.0,
            read=self._read[k] * share,
            scattered=relative / math.sqrt(one.passes) * share,
            of_others_read=read / reference / count,
            of_others_scattered=scattered / count,
            degrees=self._s.degrees,
            passes=one.passes,
            situations=one.news(wanders=self._wanders),
            of_others_passes=sum(r.passes for r in rows) / count or 1.0,
            wanders=self._wanders,
            own_degrees=self._s.own_degrees,
            apart=_apart_from_each_other([r.flow for r in rows]),
        )


def _apart_from_each_other(flows: Sequence[float]) -> float:
    """How one lies about the mean of the others, as a fraction; nought where fewer than two are there."""
    if len(flows) < 2:
        return 0.0
    return sample_sd(flows) / fmean(flows) * math.sqrt(1.0 + 1.0 / len(flows))
