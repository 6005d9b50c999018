"""Spells of cranking, seen in the current of the starter.

>>> watch = SpellWatch()
>>> seen = []
>>> for n in range(300):
...     t = n / 50.0
...     seen += watch.feed(t, 140.0 if 1.0 <= t < 4.0 else 0.0)
>>> [(e.begin, round(e.end, 2)) for e in seen if isinstance(e, Spell)]
[(1.0, 3.98)]
"""

from typing import Final

from plumb.core.capture.watch import GAP_S, Event, Moved, Spell, Watch

TURNS_A: Final = 40.0
"""No starter turns an engine on less; common practice, no source."""
QUIET_S: Final = 0.4
"""A spell has ended when the starter drew nothing for so long."""
SHORTEST_S: Final = 1.0
"""What was shorter is no spell to compare humps in."""


class SpellWatch(Watch):
    """Watches the starter's current (A)."""

    def __init__(self) -> None:
        super().__init__("still")
        self._begin: float | None = None
        self._last = self._at = 0.0

    def feed(self, t: float, value: float) -> tuple[Event, ...]:
        """One more sample."""
        if self._begin is not None and t - self._at > GAP_S:
            self._begin, self._at = None, t
            return (Moved("gap"), Moved("still"))
        self._at = t
        if value >= TURNS_A:
            self._last = t
            if self._begin is None:
                self._begin = t
                return (Moved("cranking"),)
            return ()
        if self._begin is None or t - self._last < QUIET_S:
            return ()
        begin, self._begin = self._begin, None
        if self._last - begin < SHORTEST_S:
            return (Moved("still"),)
        return (Spell(begin=begin, end=self._last), Moved("still"))
