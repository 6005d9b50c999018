"""A figure that comes to rest: probes on a coil, a tube on a scale.

>>> watch = RestWatch(step=0.1, least=0.5)
>>> seen = []
>>> for n in range(60):
...     seen += watch.feed(n / 20.0, 0.0 if n < 10 else 14.2)
>>> [round(e.value, 1) for e in seen if isinstance(e, Rested)]
[14.2]
"""

import math
from typing import Final

import numpy as np

from plumb.core.capture.watch import Event, Moved, Rested, Watch, noise_of

REST_S: Final = 1.2
"""So long a figure has to stand still; common practice, no source."""
AWAY_STEPS: Final = 5.0
"""A figure that moved by more steps than that is another one."""


class RestWatch(Watch):
    """Watches for figures above ``least`` that stand still; between two of them it goes away."""

    def __init__(self, *, step: float, least: float) -> None:
        super().__init__("empty_hand")
        self._step, self._least = step, least
        self._taken = 0.0

    def feed(self, t: float, value: float) -> tuple[Event, ...]:
        """One more sample."""
        there = math.isfinite(value) and value > self._least
        if not there:
            self._samples.clear()
            return self._move("empty_hand")
        if not self._samples.add(t, value):
            return (Moved("gap"), *self._move("empty_hand"))
        if self._state == "take_away":
            if abs(value - self._taken) <= self._away():
                return ()
            # Straight from one to the next: what counts begins here.
            self._samples.clear()
            self._samples.add(t, value)
            return self._move("coming_to_rest")
        if not self._samples.lasts(REST_S):
            return self._move("coming_to_rest")
        v = self._samples.last(REST_S)
        grain = max(self._step, 4.0 * noise_of(v))
        if float(np.ptp(v)) > 1.01 * grain:
            return self._move("coming_to_rest")
        self._taken = float(v.mean())
        u = max(self._step / math.sqrt(12.0), float(v.std(ddof=1)) / math.sqrt(len(v)))
        rested = Rested(value=self._taken, u=u, begin=t - REST_S, end=t)
        return (rested, *self._move("take_away"))

    def kick(self, t: float) -> tuple[Event, ...]:
        """The next one is on now, though its figure is like the last."""
        del t
        self._samples.clear()
        return self._move("coming_to_rest") if self._state == "take_away" else ()

    def _away(self) -> float:
        return max(AWAY_STEPS * self._step, 0.05 * self._taken)
