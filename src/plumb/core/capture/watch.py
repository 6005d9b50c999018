"""What every watch gives back, and the samples that it remembers.

A watch is fed one sample after the other and tells what it makes of them; it knows no clock but that
of the samples.  After a gap it begins anew: what happened meanwhile nobody saw.
"""

import math
from abc import ABC, abstractmethod
from collections import deque
from dataclasses import dataclass, field
from typing import Final

import numpy as np

from plumb.core.traces.pressure_log import TracedBurst

GAP_S: Final = 0.6
"""Samples farther apart than that, while something happens: what it was is not known."""
LONG_GAP_S: Final = 2.0
"""After so long nothing is known at all: a burst may have come and gone."""
KEPT_S: Final = 30.0


@dataclass(frozen=True, slots=True)
class Moved:
    """The watch sees something else now: ``state`` is a code of :data:`STATES`."""

    state: str


@dataclass(frozen=True, slots=True)
class BurstSeen:
    """A burst, read; ``burst.doubtful`` says whether it is to be done again."""

    burst: TracedBurst


@dataclass(frozen=True, slots=True, kw_only=True)
class Rested:
    """A figure that came to rest: its mean and u, from when to when (s)."""

    value: float
    u: float
    begin: float
    end: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Opened:
    """A nozzle opened: the highest pressure of the stroke and its u (kPa), and when (s)."""

    value: float
    u: float
    at: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Moment:
    """A moment of a hold: ``at_s`` after shut-off, the pressure then and its u (kPa)."""

    at_s: float
    value: float
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Spell:
    """A spell of cranking, from when to when (s)."""

    begin: float
    end: float


Event = Moved | BurstSeen | Rested | Opened | Moment | Spell

STATES: Final = {
    "waiting": "waits until it rests",
    "steady": "at rest: ready for the burst",
    "falling": "a burst",
    "settling": "reads what follows",
    "small_fall": "a small fall, taken for the pump going off: no burst",
    "slow_fall": "falls too slowly for a burst",
    "gap": "the figures stopped: whatever happened meanwhile was not seen",
    "empty_hand": "waits for a figure",
    "coming_to_rest": "comes to rest",
    "take_away": "taken: go on to the next one",
    "rising": "a stroke",
    "opened": "it opened",
    "pump_runs": "waits until the pump is shut off",
    "holding": "the clock runs",
    "still": "waits for the starter",
    "cranking": "cranking",
}
"""What a watch sees, in words."""


@dataclass(slots=True)
class Samples:
    """The last samples, and what can be told of them quickly."""

    kept_s: float = KEPT_S
    t: deque[float] = field(default_factory=deque)
    v: deque[float] = field(default_factory=deque)

    def add(self, t: float, value: float, gap_s: float = GAP_S) -> bool:
        """One more; False where there was a gap before it, and then it is the first again."""
        whole = not self.t or 0.0 <= t - self.t[-1] <= gap_s
        if not whole:
            self.clear()
        self.t.append(t)
        self.v.append(value)
        while self.t[0] < t - self.kept_s:
            self.t.popleft()
            self.v.popleft()
        return whole

    def clear(self) -> None:
        """Forget them."""
        self.t.clear()
        self.v.clear()

    def last(self, seconds: float) -> np.ndarray:
        """The figures of the last so many seconds."""
        since = self.t[-1] - seconds
        made: list[float] = []
        for t, v in zip(reversed(self.t), reversed(self.v), strict=True):
            if t < since:
                break
            made.append(v)
        return np.array(made[::-1])

    def lasts(self, seconds: float) -> bool:
        """Whether so many seconds are there."""
        return bool(self.t) and self.t[-1] - self.t[0] >= seconds - 1e-6

    def since(self, begin: float) -> tuple[np.ndarray, np.ndarray]:
        """Times and figures from ``begin`` on."""
        t, v = np.array(self.t), np.array(self.v)
        at = t >= begin
        return t[at], v[at]


class Watch(ABC):
    """Looks at figures one by one, and remembers what it saw last."""

    def __init__(self, state: str) -> None:
        self._samples = Samples()
        self._state = state

    @abstractmethod
    def feed(self, t: float, value: float) -> tuple[Event, ...]:
        """One more sample, at ``t`` (s, rising)."""

    def kick(self, t: float) -> tuple[Event, ...]:  # noqa: ARG002  most see what they wait for
        """Somebody says that what it waits for happened now."""
        return ()

    def _move(self, state: str) -> tuple[Event, ...]:
        """It sees something else now; the same again is not told."""
        if state == self._state:
            return ()
        self._state = state
        return (Moved(state),)


def noise_of(values: np.ndarray) -> float:
    """Scatter of figures from sample to sample, whatever line they follow."""
    if len(values) < 5:
        return 0.0
    bends = np.diff(values, 2)
    return 1.4826 * float(np.median(np.abs(bends - np.median(bends)))) / math.sqrt(6.0)


def line_through(t: np.ndarray, values: np.ndarray, at: float) -> tuple[float, float, float]:
    """A straight line through figures: its value at a moment, u of that, and its slope a second."""
    x = t - at
    n = len(x)
    if n < 3:
        return float(values.mean()), 0.0, 0.0
    middle = float(x.mean())
    spread = float(((x - middle) ** 2).sum())
    slope = float(((x - middle) * (values - values.mean())).sum()) / spread
    value = float(values.mean()) - slope * middle
    left = values - (value + slope * x)
    rms = float(np.sqrt((left**2).sum() / (n - 2)))
    return value, rms * float(np.sqrt(1.0 / n + middle**2 / spread)), slope
