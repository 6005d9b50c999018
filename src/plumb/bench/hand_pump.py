"""A hand pump with a nozzle on it: a quick lift, a slow one to the opening, a fall, and what the seat holds.

>>> pump = HandPump()
>>> end = pump.stroke(0.0, 17_500.0, "dry")
>>> max(pump.pressure(n / 100.0) for n in range(int(100 * end))) > 17_400.0
True
"""

import math
from typing import Final

FAST_S: Final = 1.0
SLOW_KPA_S: Final = 700.0
REST_S: Final = 2.0
LIFTED: Final = 0.8
"""So much of the opening pressure is reached at once."""
LEFT: Final = 0.86
"""So much is left when the nozzle has shut again."""
LEAKS: Final = {"dry": 0.0, "damp": 0.02, "wet": 0.15}
"""What a seat loses of the rest in a second."""


class HandPump:
    """Its pressure (kPa) at any moment (s) of the last stroke, which ``opens`` the nozzle at so much."""

    def __init__(self) -> None:
        self._begun, self.opens, self._leak = -math.inf, 0.0, 0.0

    def stroke(self, t: float, opens: float, seat: str) -> float:
        """Begin one; gives back when it will have ended."""
        self._begun, self.opens, self._leak = t, opens, LEAKS[seat]
        return t + FAST_S + (1.0 - LIFTED) * opens / SLOW_KPA_S + REST_S

    def pressure(self, t: float) -> float:
        """What its gauge would show, if it were perfect; nought when the handle was let go."""
        at, opens = t - self._begun, self.opens
        if at < FAST_S:
            return LIFTED * opens * at / FAST_S
        rise = LIFTED * opens + SLOW_KPA_S * (at - FAST_S)
        if rise < opens:
            return rise
        rest = at - FAST_S - (1.0 - LIFTED) * opens / SLOW_KPA_S
        return 0.0 if rest > REST_S else LEFT * opens * math.exp(-self._leak * rest)
