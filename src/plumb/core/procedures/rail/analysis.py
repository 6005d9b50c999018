"""Rail pressure, wanted against actual.

From a trace bias, swing, strongest frequency, and whether it surges; from figures that were read,
whether it lies low or high in that state of the engine.

A rail that surges moves every cylinder's correction, so it is settled before any of them is judged.

>>> from math import sin, tau
>>> wave = tuple((k / 20, 30_000.0, 30_000.0 + 4_500.0 * sin(tau * 1.5 * k / 20)) for k in range(400))
>>> found = analyse_rail(RailSheet(series=wave))
>>> found.state, round(found.frequency_hz, 2)
('surges', 1.5)
"""

from dataclasses import dataclass, replace
from typing import Final

import numpy as np
import scipy  # its parts load when first used: all at once cost every start a second

from plumb.core.compare.window_rule import decide_window, outside_window
from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.finding import Finding, unread
from plumb.core.measure.readings import Window
from plumb.core.procedures.rail.rest import PERIODS, at_rest, periods
from plumb.core.procedures.rail.together import Together

KIND: Final = "rail_pressure"
STATES: Final = ("cranking", "idle", "raised")
NAMES: Final = {"cranking": "Cranking", "idle": "At idle", "raised": "A little above"}
"""The states of the engine in which figures are read, and what they are called."""
READ_TO: Final = 0.01
"""A figure of the controller is known to a hundredth of what is wanted; common practice, no source."""
BEYOND: Final = 0.10
"""So far from what is wanted is too far; common practice, no source."""
SHARE: Final = 0.05
"""So much of the time beyond it makes it a finding; common practice, no source."""
NOTHING: Final = 0.10
"""Below a tenth of what is wanted nothing was built up that an injector would open by; common practice, no source."""
LEAST_S: Final = 5.0
LEAST_POINTS: Final = 25
CLEAR: Final = 0.3
"""A frequency is named where it holds so much of the swing's power."""
HEARD: Final = 0.4
"""And up to so much of the sampling rate: nearer to half of it a faster one looks the same (Nyquist; common practice)."""
_SLOWEST_CYCLES: Final = 2.0

Series = tuple[tuple[float, float, float], ...]
Read = tuple[tuple[str, float, float], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class RailSheet:
    """What is put in: moments as (s, kPa wanted, kPa actual) in the order of time.

    ``read`` are figures as (state of the engine, kPa wanted, kPa actual), ``engine`` is the state in
    which the trace was taken.  ``seen`` are the lowest and the highest that somebody saw it go to and fro
    between while it idled, kPa; a trace tells better.  ``together`` are corrections that the same trace holds.
    """

    series: Series = ()
    read: Read = ()
    engine: str = "idle"
    seen: tuple[float, float] | None = None
    together: tuple[Together, ...] = ()

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND


@dataclass(frozen=True, slots=True, kw_only=True)
class RailResult:
    """What the sheet says.

    ``state`` is good, surges, low, high, unsettled, too_short or empty; of the trace where it is at rest
    ``bias`` is the median of actual less wanted, ``swing`` the width of the middle 90 % of it, kPa; ``beyond``
    the share of time more than a tenth of wanted away, ``swings_beyond`` the same after the bias is taken off,
    ``periods`` how often it goes to and fro; ``frequency_hz`` is None where no frequency stands out.
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
    periods: float = 0.0
    findings: tuple[Finding, ...] = ()

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND

    @property
    def begun(self) -> bool:
        """Whether there is any moment or figure of the rail."""
        return bool(self.sheet.series or self.sheet.read or self.sheet.seen)

    @property
    def by_figures(self) -> bool:
        """Whether what is said rests on figures that were read, and not on a trace."""
        return self.state not in {"", "too_short"} and not self.sheet.series

    @property
    def by_eye(self) -> bool:
        """Whether its swing was read by somebody who watched the figures."""
        return self.sheet.seen is not None and not self.sheet.series

    @property
    def off_in(self) -> str:
        """The state of the engine in which it lies off, empty where it does not."""
        off = {State.LOW: "low", State.HIGH: "high"}
        for f in self.findings:
            if off.get(f.state) == self.state:
                return f.place
        return self.sheet.engine if self.state in {"surges", "low", "high"} else ""

    @property
    def wanted_and_actual(self) -> tuple[float, float]:
        """What is wanted and where it stays, kPa: where a figure says that it lies off, the figure's."""
        read = next((f for f in self.findings if f.place == self.off_in), None)
        if read is None or read.reference is None or read.value is None:
            return self.wanted, self.wanted + self.bias
        return read.reference, read.value

    @property
    def next_to_nothing(self) -> bool:
        """It lies low because next to nothing builds up: no pump works at it, or nothing comes to the pump."""
        wanted, actual = self.wanted_and_actual
        return self.state == "low" and actual < NOTHING * wanted

    @property
    def passed(self) -> bool:
        """The rail follows what is wanted."""
        return self.state == "good"


def analyse_rail(sheet: RailSheet, thresholds: Thresholds = Thresholds()) -> RailResult:
    """Judge the rail: surging comes first, then a rail that lies low or high where it rests.

    Where the trace says nothing against it, figures that were read do.
    """
    traced = _of_trace(sheet, thresholds)
    last = {name: (wanted, actual) for name, wanted, actual in sheet.read}
    findings = tuple(_finding(name, *last[name], thresholds) for name in STATES if name in last)
    read = [f.state for f in findings]
    if sheet.seen is not None and not sheet.series:
        traced = _by_eye(sheet, sheet.seen, last, thresholds)
    state = traced.state
    if state in {"", "good", "too_short"} and read:
        if State.LOW in read:
            state = "low"
        elif State.HIGH in read:
            state = "high"
        elif State.UNSETTLED in read:
            state = "unsettled"
        else:
            state = "good"
    return replace(traced, state=state, findings=findings)


def _by_eye(
    sheet: RailSheet,
    seen: tuple[float, float],
    last: dict[str, tuple[float, float]],
    thresholds: Thresholds,
) -> RailResult:
    """What somebody saw it go between: it surges where that leaves its middle by more than the tenth that is allowed."""
    low, high = seen
    middle = (low + high) / 2.0
    wanted = last["idle"][0] if "idle" in last else middle
    made = _result(sheet, "", thresholds)
    surges = (high - low) / 2.0 > BEYOND * wanted > 0.0
    return replace(
        made, state="surges" if surges else "good", bias=middle - wanted, swing=high - low, wanted=wanted,
    )  # fmt: skip


def _finding(name: str, wanted: float, actual: float, thresholds: Thresholds) -> Finding:
    """A figure that was read, held against a tenth round what is wanted."""
    if wanted <= 0.0:
        # Nothing is wanted of the rail: there is nothing to hold it against.
        return replace(unread(name), value=actual, passes=1)
    u = READ_TO * wanted
    window = Window(low=(1.0 - BEYOND) * wanted, high=(1.0 + BEYOND) * wanted)
    return replace(
        unread(name),
        state=decide_window(actual, u, window, thresholds),
        value=actual, reference=wanted, deviation=actual / wanted - 1.0, u=READ_TO,
        tolerance=BEYOND, probability_out=outside_window(actual, u, window).out, passes=1,
    )  # fmt: skip


def _of_trace(sheet: RailSheet, thresholds: Thresholds) -> RailResult:
    rows = np.asarray(sheet.series, dtype=float).reshape(-1, 3)
    t, wanted, actual = rows[:, 0], rows[:, 1], rows[:, 2]
    duration = float(t[-1] - t[0]) if len(t) else 0.0
    if not len(t):
        return _result(sheet, "", thresholds)
    rest = at_rest(t, actual, wanted, cranking=sheet.engine == "cranking")
    t, wanted, error = t[rest], wanted[rest], (actual - wanted)[rest]
    bias = float(np.median(error))
    limit = BEYOND * np.maximum(wanted, 1e-9)
    low, high = np.percentile(error, (5.0, 95.0))
    made = RailResult(
        sheet=sheet, state="too_short", bias=bias, swing=float(high - low),
        wanted=float(np.median(wanted)), beyond=float(np.mean(np.abs(error) > limit)),
        swings_beyond=float(np.mean(np.abs(error - bias) > limit)),
        frequency_hz=_strongest(t, error) if len(t) >= LEAST_POINTS else None,
        periods=periods(error - bias, limit), duration_s=duration, thresholds=thresholds,
    )  # fmt: skip
    if duration < LEAST_S or len(rows) < LEAST_POINTS:
        return made
    return replace(made, state=_state(made))


def _state(made: RailResult) -> str:
    """What a trace says: by its median it lies off; else it surges, or leaves what is wanted without a rhythm."""
    off = abs(made.bias) > BEYOND * made.wanted
    swings = made.swings_beyond > SHARE and made.periods >= PERIODS
    if swings and not (off and made.sheet.engine == "cranking"):
        # A rail that surges round a wrong pressure is put right there first.
        return "surges"
    if off:
        return "low" if made.bias < 0.0 else "high"
    return "unsettled" if made.beyond > SHARE else "good"


def _result(sheet: RailSheet, state: str, thresholds: Thresholds) -> RailResult:
    return RailResult(
        sheet=sheet, state=state, bias=0.0, swing=0.0, wanted=0.0, beyond=0.0, swings_beyond=0.0,
        frequency_hz=None, duration_s=0.0, thresholds=thresholds,
    )  # fmt: skip


def _strongest(t: "np.ndarray", error: "np.ndarray") -> float | None:
    """The strongest frequency of the swing on an even grid; None where none stands out, or it is too fast for it."""
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
    if frequencies[best] > HEARD * rate:
        return None
    near = power[max(0, best - 2) : best + 3].sum() / power.sum()
    if near < CLEAR:
        return None
    weights = power[max(0, best - 1) : best + 2]
    return float((frequencies[max(0, best - 1) : best + 2] * weights).sum() / weights.sum())
