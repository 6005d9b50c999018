"""Rail pressure, wanted against actual: bias, swing, strongest frequency, and whether it surges.

A rail that surges moves every cylinder's correction, so it is settled before any of them is judged.

>>> from math import sin, tau
>>> wave = tuple((k / 20, 30_000.0, 30_000.0 + 4_500.0 * sin(tau * 1.5 * k / 20)) for k in range(400))
>>> found = analyse_rail(RailSheet(series=wave))
>>> found.state, round(found.frequency_hz, 2)
('surges', 1.5)
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy  # its parts load when first used: all at once cost every start a second

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.finding import Finding

KIND: Final = "rail_pressure"
BEYOND: Final = 0.10
"""So far from what is wanted is too far; common practice, no source."""
SHARE: Final = 0.05
"""So much of the time beyond it makes it a finding; common practice, no source."""
LEAST_S: Final = 5.0
LEAST_POINTS: Final = 25
CLEAR: Final = 0.3
"""A frequency is named where it holds so much of the swing's power."""
_SLOWEST_CYCLES: Final = 2.0

Series = tuple[tuple[float, float, float], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class RailSheet:
    """What is put in: moments as (s, kPa wanted, kPa actual), in the order of time."""

    series: Series

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND


@dataclass(frozen=True, slots=True, kw_only=True)
class RailResult:
    """What the sheet says.

    ``state`` is good, surges, low, high, too_short or empty; ``bias`` the median of actual less
    wanted, ``swing`` the width of the middle 90 % of it, kPa; ``beyond`` the share of time more
    than a tenth of wanted away, ``swings_beyond`` the same after the bias is taken off;
    ``frequency_hz`` is None where no frequency stands out.
    """

    sheet: RailSheet
    state: str
    bias: float
    swing: float
    wanted: float
    beyond: float
    swings_beyond: float
    frequency_hz: float | None
    duration_s: float
    thresholds: Thresholds

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND

    @property
    def begun(self) -> bool:
        """Whether there is any moment of the rail."""
        return bool(self.sheet.series)

    @property
    def findings(self) -> tuple[Finding, ...]:
        """None: the rail belongs to no injector."""
        return ()

    @property
    def passed(self) -> bool:
        """The rail follows what is wanted."""
        return self.state == "good"


def analyse_rail(sheet: RailSheet, thresholds: Thresholds = Thresholds()) -> RailResult:
    """Judge the rail: surging comes first, then a rail that lies low or high throughout."""
    rows = np.asarray(sheet.series, dtype=float).reshape(-1, 3)
    t, wanted, actual = rows[:, 0], rows[:, 1], rows[:, 2]
    duration = float(t[-1] - t[0]) if len(t) else 0.0
    if not len(t):
        return _result(sheet, "", thresholds)
    error = actual - wanted
    bias = float(np.median(error))
    limit = BEYOND * np.maximum(wanted, 1e-9)
    beyond = float(np.mean(np.abs(error) > limit))
    swings = float(np.mean(np.abs(error - bias) > limit))
    low, high = np.percentile(error, (5.0, 95.0))
    state = "good"
    if duration < LEAST_S or len(t) < LEAST_POINTS:
        state = "too_short"
    elif swings > SHARE:
        state = "surges"
    elif beyond > SHARE:
        state = "low" if bias < 0 else "high"
    return RailResult(
        sheet=sheet, state=state, bias=bias, swing=float(high - low),
        wanted=float(np.median(wanted)), beyond=beyond, swings_beyond=swings,
        frequency_hz=_strongest(t, error) if len(t) >= LEAST_POINTS else None,
        duration_s=duration, thresholds=thresholds,
    )  # fmt: skip


def _result(sheet: RailSheet, state: str, thresholds: Thresholds) -> RailResult:
    return RailResult(
        sheet=sheet, state=state, bias=0.0, swing=0.0, wanted=0.0, beyond=0.0, swings_beyond=0.0,
        frequency_hz=None, duration_s=0.0, thresholds=thresholds,
    )  # fmt: skip


def _strongest(t: "np.ndarray", error: "np.ndarray") -> float | None:
    """The strongest frequency of the swing on an even grid; None where none stands out."""
    count = len(t)
    span = float(t[-1] - t[0])
    even = np.interp(np.linspace(t[0], t[-1], count), t, error)
    rate = (count - 1) / span
    frequencies, power = scipy.signal.periodogram(
        scipy.signal.detrend(even), fs=rate, window="hann"
    )
    heard = frequencies >= _SLOWEST_CYCLES / span
    if not np.any(heard) or float(power[heard].sum()) <= 0.0:
        return None
    best = int(np.flatnonzero(heard)[np.argmax(power[heard])])
    near = power[max(0, best - 2) : best + 3].sum() / power.sum()
    if near < CLEAR:
        return None
    weights = power[max(0, best - 1) : best + 2]
    return float((frequencies[max(0, best - 1) : best + 2] * weights).sum() / weights.sum())
