"""Bursts as they happen: rest, fall, rest; then both readings as a pressure log has them (M13).

>>> watch = BurstWatch(step=0.7)
>>> seen = []
>>> for n in range(250):
...     t = n / 25.0
...     seen += watch.feed(t, 300.0 if t < 4.0 else max(180.0, 300.0 - 120.0 * (t - 4.0)))
>>> [e.state for e in seen if isinstance(e, Moved)]
['steady', 'falling', 'settling', 'steady']
>>> [(round(e.burst.first), round(e.burst.second)) for e in seen if isinstance(e, BurstSeen)]
[(300, 180)]
"""

from typing import Final

import numpy as np

from plumb.core.capture.watch import (
    GAP_S,
    LONG_GAP_S,
    BurstSeen,
    Event,
    Moved,
    Watch,
    line_through,
    noise_of,
)
from plumb.core.measure.problems import PlumbError
from plumb.core.traces.pressure_log import LONGEST_S, REST_S, find_bursts

STEADY_S: Final = 1.0
"""So long a rest is waited for before a burst is asked for; common practice, no source."""
AFTER_S: Final = 2.0
"""So long what follows a burst is read."""
FLAT_S: Final = 0.4
"""A fall has ended when nothing fell for so long: longer than the pauses between pulses."""
FEW: Final = 4
"""Fewer samples tell nothing of a slope."""
LEAST_FALL: Final = 0.015
"""A fall begins with so much of the pressure, or four steps, or eight times the noise."""
LEAST_BURST: Final = 0.06
"""A fall that took less of the pressure is the pump going off."""
DISTURBS: Final = 0.1
"""What moves the rail by so much of the burst ends the reading of what follows: the pump, another burst."""
DRIFTS: Final = 0.02
"""At rest the pressure moves by less than so much of itself a second."""


class BurstWatch(Watch):
    """Watches a rail's pressure (kPa) for bursts; ``step`` is its gauge's."""

    def __init__(self, step: float) -> None:
        super().__init__("waiting")
        self._step = step
        self._began = self._ended = 0.0
        self._rest = 0.0
        self._since_rest = -np.inf

    def feed(self, t: float, value: float) -> tuple[Event, ...]:
        """One more sample."""
        # A rail that rests before a pause and after it has rested meanwhile; one that fell has not.
        gap_s = GAP_S if self._state == "falling" else LONG_GAP_S
        if not self._samples.add(t, value, gap_s):
            self._state = "waiting"
            return (Moved("gap"),)
        return {
            "waiting": self._waiting, "steady": self._steady, "falling": self._falling,
            "settling": self._settling,
        }[self._state](t, value)  # fmt: skip

    def _grain(self, values: np.ndarray) -> float:
        """What a figure may move by without meaning anything."""
        return max(2.0 * self._step, 5.0 * noise_of(values))

    def _at_rest(self) -> bool:
        if not self._samples.lasts(STEADY_S):
            return False
        t, v = self._samples.since(self._samples.t[-1] - STEADY_S)
        value, _, slope = line_through(t, v, float(t[-1]))
        flat = abs(slope) <= max(DRIFTS * abs(value), self._grain(v)) and value > 4.0 * self._step
        return flat and float(np.ptp(v - slope * (t - t[-1]))) <= 2.0 * self._grain(v)

    def _waiting(self, t: float, _value: float) -> tuple[Event, ...]:
        if t - self._since_rest < STEADY_S or not self._at_rest():
            return ()
        self._rest = float(np.median(self._samples.last(STEADY_S)))
        return self._move("steady")

    def _fall(self) -> float:
        noise = noise_of(self._samples.last(STEADY_S))
        return max(4.0 * self._step, 8.0 * noise, LEAST_FALL * self._rest)

    def _steady(self, t: float, value: float) -> tuple[Event, ...]:
        v = self._samples.last(2.0 * STEADY_S)
        # The rest as it was a moment ago: a slow leak carries it along, a burst must not.
        older = v[: max(3, len(v) - 4)]
        limit = self._fall()
        rest = float(np.median(older[-12:]))
        if value < rest - limit and v[-2] < rest - 0.5 * limit:
            self._rest, self._began = rest, t
            return self._move("falling")
        if abs(value - rest) > limit and abs(v[-2] - rest) > limit:
            self._since_rest = t
            return self._move("waiting")
        return ()

    def _falling(self, t: float, _value: float) -> tuple[Event, ...]:
        if t - self._began > LONGEST_S:
            self._state, self._since_rest = "waiting", t
            return (Moved("slow_fall"),)
        v = self._samples.last(FLAT_S)
        if len(v) < FEW:
            # The figures paused just now.
            return ()
        half = len(v) // 2
        moved = float(v[:half].mean() - v[half:].mean())
        so_far = self._rest - float(v.mean())
        if moved > max(0.5 * self._step, 0.02 * so_far):
            return ()
        self._ended = t - FLAT_S
        return self._move("settling")

    def _settling(self, t: float, value: float) -> tuple[Event, ...]:
        v = self._samples.last(FLAT_S)
        level = float(np.median(v[:-2])) if len(v) > 4 else value
        disturbed = abs(value - level) > DISTURBS * (self._rest - level)
        if t - self._ended < AFTER_S and not disturbed:
            return ()
        return self._read(t, disturbed=disturbed)

    def _read(self, t: float, *, disturbed: bool) -> tuple[Event, ...]:
        """Look at the whole of it as a log: the burst that was seen is in there, or it was none."""
        times, values = self._samples.since(self._began - REST_S - 0.3)
        if disturbed:
            # The last few samples are of whatever disturbed it.
            times, values = times[:-3], values[:-3]
        self._state, self._since_rest = "waiting", (t if disturbed else -np.inf)
        try:
            log = find_bursts(times, values, step=self._step)
        except PlumbError:
            return (Moved("small_fall"),)
        near = [
            b for b in log.bursts if b.end_s > self._began - 0.5 and b.start_s < self._ended + 0.2
        ]
        if not near:
            return (Moved("small_fall"),)
        burst = max(near, key=lambda b: b.first - b.second)
        if burst.first - burst.second < LEAST_BURST * burst.first:
            return (Moved("small_fall"),)
        return (BurstSeen(burst),)
