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
import scipy  # its parts load when first used: all at once cost every start a second

LAG_S: Final = 1.0
"""A controller answers within a second; common practice, no source."""
GOES: Final = 0.7
"""From this correlation on, half of what moves a correction (0.7 squared) is the rail."""

_ROUNDING: Final = 1e-6


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
    count = len(a)
    most = max(1, min(count // 4, round(LAG_S * rate_hz)))
    # By transforms: lag by lag, a trace of two million samples would take half a minute.
    lags = np.arange(-most, most + 1)
    both = scipy.signal.correlate(a, b, mode="full", method="fft")[count - 1 + lags]
    size = np.sqrt(np.clip(_squares(a, lags) * _squares(b, -lags), 0.0, None))
    # What is nothing but rounding beside the whole says nothing.
    told = size > _ROUNDING * float(np.linalg.norm(a) * np.linalg.norm(b))
    return float(np.max(np.abs(both[told]) / size[told], initial=0.0))


def _squares(values: np.ndarray, lags: np.ndarray) -> np.ndarray:
    """The sum of squares of what a channel has in common with another that is shifted by each lag."""
    upto = np.concatenate(([0.0], np.cumsum(values**2)))
    count = len(values)
    made: np.ndarray = upto[count + np.minimum(lags, 0)] - upto[np.maximum(lags, 0)]
    return made


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
