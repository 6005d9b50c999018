"""A burst of a virtual engine: when its injector is open, and what truly happened in it.

>>> burst = Burst(injector=0, begin=1.0, pulses=2, width=0.01, period=0.02, flow=1.0, first=300.0, ml=0.0)
>>> burst.is_open(1.0), burst.is_open(1.005), burst.is_open(1.015), round(burst.end, 3)
(False, True, False, 1.03)
"""

import math
from dataclasses import dataclass
from typing import Final

NEEDLE_S: Final = 0.001
"""What a needle takes to lift, off every pulse."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Fired:
    """What truly happened in a burst: when (s), the rail at both ends (kPa), and what came out (ml).

    ``raw``: fuel of an earlier burst still lay in that cylinder, unburnt.
    """

    injector: int
    begin: float
    end: float
    first: float
    second: float
    ml: float
    raw: bool = False


@dataclass(slots=True, kw_only=True)
class Burst:
    """A burst that goes on: ``flow`` 1 is a good injector, ``first`` and ``ml`` are from its beginning."""

    injector: int
    begin: float
    pulses: int
    width: float
    period: float
    flow: float
    first: float
    ml: float

    @property
    def end(self) -> float:
        """When its last pulse ends."""
        return self.begin + (self.pulses - 1) * self.period + self.width

    def edge_after(self, t: float) -> float:
        """The next moment the injector opens or shuts."""
        n = max(0, math.floor((t - self.begin) / self.period + 1e-9))
        for k in (n, n + 1):
            opens = self.begin + k * self.period + NEEDLE_S
            for edge in (opens, self.begin + k * self.period + self.width):
                if edge > t + 1e-9 and k < self.pulses:
                    return edge
        return self.end

    def is_open(self, t: float) -> bool:
        """Whether fuel flows just after ``t``."""
        n = math.floor((t - self.begin) / self.period + 1e-9)
        into = t - self.begin - n * self.period
        return 0 <= n < self.pulses and NEEDLE_S - 1e-9 <= into < self.width - 1e-9
