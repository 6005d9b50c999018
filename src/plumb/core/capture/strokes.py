"""Strokes of a hand pump: the pressure climbs slowly, and falls at once when the nozzle opens.

>>> watch = StrokeWatch(step=10.0)
>>> seen = []
>>> for n in range(100):
...     t = n / 25.0
...     seen += watch.feed(t, 12_000.0 + 1000.0 * t if t < 3.0 else 13_000.0)
>>> [round(e.value, -2) for e in seen if isinstance(e, Opened)]
[15000.0]
"""

import math
from typing import Final

import numpy as np

from plumb.core.capture.watch import Event, Moved, Opened, Watch, line_through

FALLS: Final = 0.03
"""An opening takes at least so much of the pressure, at once."""
AT_ONCE_S: Final = 0.13
STAYS: Final = 0.5
"""A nozzle shuts again long before half of the pressure is gone; below that the handle was let go."""
STAYS_S: Final = 0.25
APART_S: Final = 1.0
"""Openings nearer to each other are the chatter of one."""
LEAST_KPA: Final = 2_000.0
"""No nozzle opens below 20 bar; common practice, no source."""
LINE_S: Final = 0.5


class StrokeWatch(Watch):
    """Watches a hand pump's gauge (kPa) for openings."""

    def __init__(self, step: float) -> None:
        super().__init__("waiting")
        self._step = step
        self._top = self._top_at = 0.0
        self._last = -math.inf
        self._fell_at: float | None = None

    def feed(self, t: float, value: float) -> tuple[Event, ...]:
        """One more sample."""
        if not self._samples.add(t, value):
            self._top, self._fell_at = 0.0, None
            self._state = "waiting"
            return (Moved("gap"),)
        if value >= self._top:
            self._top, self._top_at, self._fell_at = value, t, None
            if value > LEAST_KPA and self._climbs():
                return self._move("rising")
            return ()
        fallen = self._top - value > max(FALLS * self._top, 3.0 * self._step)
        if self._state == "rising":
            return self._falls(t, value, fallen=fallen)
        if fallen:
            self._top, self._top_at = value, t
        return ()

    def _falls(self, t: float, value: float, *, fallen: bool) -> tuple[Event, ...]:
        """Whether it opened, was let go, or only gave way a little."""
        since = t - self._top_at
        if not fallen:
            return ()
        if self._fell_at is None:
            self._fell_at = t if since <= AT_ONCE_S else math.inf
        if t - self._fell_at < STAYS_S and self._fell_at < math.inf:
            return ()
        opened = self._fell_at < math.inf and value > STAYS * self._top
        chatter = self._top_at - self._last <= APART_S
        seen = self._opened() if opened and not chatter else None
        self._top, self._top_at, self._fell_at = value, t, None
        if seen is None:
            return self._move("waiting")
        return (seen, *self._move("opened"))

    def _climbs(self) -> bool:
        v = self._samples.last(LINE_S)
        return len(v) >= 4 and float(v[-1] - v[0]) > 3.0 * self._step

    def _opened(self) -> Opened:
        """The top lies between the last sample below it and the first after it: half a sample on."""
        self._last = self._top_at
        t, v = self._samples.since(self._top_at - LINE_S)
        before = t <= self._top_at
        value, u, slope = line_through(t[before], v[before], self._top_at)
        spacing = float(np.median(np.diff(t)))
        climbed = max(0.0, slope) * spacing
        top = max(value, self._top - 2.0 * self._step) + 0.5 * climbed
        return Opened(value=top, u=math.hypot(u, climbed / math.sqrt(12.0)), at=self._top_at)
