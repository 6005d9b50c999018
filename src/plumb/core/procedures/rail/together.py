"""Rail and corrections over one time: which corrections go with the rail's swing, and which by themselves.

A controller that hunts moves every cylinder at once; a cylinder of its own moves alone.

>>> import numpy as np
>>> t = np.arange(0.0, 20.0, 0.05)
>>> rail = 30.0 * np.sin(2.0 * np.pi * 0.7 * t)
>>> round(goes_with(rail, -0.1 * np.roll(rail, 6), 20.0), 2)
1.0
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

LAG_S: Final = 1.0
"""A controller answers within a second; common practice, no source."""
GOES: Final = 0.7
"""From this correlation on, half of what moves a correction (0.7 squared) is the rail."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Together:
    """One cylinder's correction beside the rail: its swing (middle 90 %), and how far it goes with the rail's (0 to 1)."""

    injector: str
    swing: float
    with_rail: float

    @property
    def goes(self) -> bool:
        """Whether most of its swing is the rail's."""
        return self.with_rail >= GOES


def goes_with(error: np.ndarray, correction: np.ndarray, rate_hz: float) -> float:
    """The largest correlation, whatever its sign, of two channels of one grid within a second of each other."""
    a, b = error - error.mean(), correction - correction.mean()
    most = max(1, min(len(a) // 4, round(LAG_S * rate_hz)))
    best = 0.0
    for lag in range(-most, most + 1):
        x, y = (a[lag:], b[: len(b) - lag]) if lag >= 0 else (a[:lag], b[-lag:])
        size = float(np.sqrt((x @ x) * (y @ y)))
        if size > 0.0:
            best = max(best, abs(float(x @ y)) / size)
    return best


def beside_the_rail(
    error: np.ndarray, corrections: dict[str, np.ndarray], rate_hz: float
) -> tuple[Together, ...]:
    """Each correction beside the rail's error, all on one grid."""
    made = []
    for injector, values in corrections.items():
        low, high = np.percentile(values, (5.0, 95.0))
        with_rail = goes_with(error, values, rate_hz)
        made.append(Together(injector=injector, swing=float(high - low), with_rail=with_rail))
    return tuple(made)
