"""A hold as it happens: the clock starts when the pump is shut off, and each reading is taken when due.

The pump's going off is told (``kick``), or seen: the pressure leaves the plateau it had and does not
come back.  A rail that holds for ever leaves nothing, so then it has to be told.

>>> watch = HoldWatch(step=0.5, due=(0.0, 10.0))
>>> seen = []
>>> for n in range(400):
...     t = n / 25.0
...     seen += watch.feed(t, 300.0 if t < 4.0 else 300.0 - 2.0 * (t - 4.0))
>>> [(e.at_s, round(e.value)) for e in seen if isinstance(e, Moment)]
[(0.0, 300), (10.0, 280)]
"""

import math
from typing import Final

import numpy as np

from plumb.core.capture.watch import Event, Moment, Moved, Watch, line_through, noise_of

PLATEAU_S: Final = 2.0
GONE_S: Final = 1.0
"""A pressure that stays below its plateau for so long has left it."""
READ_S: Final = 1.0
"""Each reading is a line through so long, carried to its moment."""


class HoldWatch(Watch):
    """Watches a shut rail (kPa); ``due`` are the moments (s) to read at, in order."""

    def __init__(self, *, step: float, due: tuple[float, ...]) -> None:
        super().__init__("waiting")
        self._step, self._due = step, list(due)
        self._shut: float | None = None
        self._plateau: tuple[float, float] | None = None
        self._left: float | None = None
        self._level = 0.0

    def feed(self, t: float, value: float) -> tuple[Event, ...]:
        """One more sample."""
        if not self._samples.add(t, value):
            # The clock goes on: what is due later is read all the same.
            self._plateau = self._left = None
            return (Moved("gap"), *((Moved("holding"),) if self._shut is not None else ()))
        if self._shut is None:
            return self._wait(t, value)
        return self._read(t)

    def kick(self, t: float) -> tuple[Event, ...]:
        """The pump was shut off just now."""
        if self._shut is not None or not self._samples.t:
            return ()
        return self._begin(t)

    def _wait(self, t: float, value: float) -> tuple[Event, ...]:
        if self._plateau is None:
            v = self._samples.last(PLATEAU_S)
            grain = max(2.0 * self._step, 5.0 * noise_of(v))
            if (
                self._samples.lasts(PLATEAU_S)
                and float(np.ptp(v)) <= 2.0 * grain
                and v.mean() > 4.0 * grain
            ):
                self._plateau, self._level = (float(v.min()), grain), float(v.mean())
                return (Moved("pump_runs"),)
            return ()
        floor, grain = self._plateau
        if value >= floor - grain:
            self._left = None
            if value > floor + 4.0 * grain:
                self._plateau = None
            return ()
        self._left = self._left or t
        return self._begin(self._shut_off(self._left)) if t - self._left >= GONE_S else ()

    def _shut_off(self, left: float) -> float:
        """When the pump went off: where the fall, carried back, meets the plateau."""
        times, values = self._samples.since(left)
        value, _, slope = line_through(times, values, left)
        back = (self._level - value) / -slope if slope < 0.0 else 0.0
        return max(left - min(max(0.0, back), PLATEAU_S), self._samples.t[0])

    def _begin(self, t: float) -> tuple[Event, ...]:
        times, values = self._samples.since(t - READ_S)
        before = values[times <= t]
        self._shut = t
        made: list[Event] = [Moved("holding")]
        if self._due and self._due[0] <= 0.0:
            self._due.pop(0)
            # Where the figures had stopped by then the clock runs all the same.
            if len(before):
                value = float(np.median(before))
                made.append(Moment(at_s=0.0, value=value, u=self._step / math.sqrt(12.0)))
        return (*made, *self._read(self._samples.t[-1]))

    def _read(self, t: float) -> tuple[Event, ...]:
        assert self._shut is not None  # noqa: S101  only called once it is
        made: list[Event] = []
        while self._due and t >= self._shut + self._due[0]:
            at_s = self._due.pop(0)
            times, values = self._samples.since(self._shut + at_s - READ_S)
            value, u, _ = line_through(times, values, self._shut + at_s)
            least = self._step / math.sqrt(12.0)
            late = t - self._shut - at_s > READ_S
            # What was due while the figures had stopped is not made up.
            if not late:
                made.append(Moment(at_s=at_s, value=max(0.0, value), u=max(u, least)))
        return tuple(made)
