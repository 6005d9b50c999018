"""The hold: pump off, pressure against time; does it hold, and what will it be at the limit's time?

A leak through a seat obeys the root law of the orifice, so sqrt(p) falls on a straight line; its
slope is taken by Theil and Sen, whose median of pairs one bad reading cannot move.  A hot engine
makes the pressure rise for a while: heat soak, not a leak, and no leak rate is taken from a rising
part.

>>> points = tuple((t, (20.0 - 0.01 * t) ** 2) for t in (0.0, 10.0, 20.0, 30.0))
>>> found = analyse_hold(HoldSheet(series=points, step=1.0, limits=Limits(lost_at_most=50.0, within_s=60.0)))
>>> round(found.leak, 4), found.state.value
(0.01, 'in_plumb')
"""

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from plumb.core.compare.window_rule import outside_window
from plumb.core.measure.decision import Sides, State, Thresholds, chance_below, normal_below
from plumb.core.measure.finding import IN_PRESSURE, Finding
from plumb.core.measure.readings import Window
from plumb.core.measure.uncertainty import REACHES, reach, step_uncertainty
from plumb.core.procedures.hold.fit import Fit, fitted
from plumb.core.procedures.hold.isolation import Board, board
from plumb.core.procedures.hold.slope import theil_sen

KIND: Final = "hold"
COLLAPSE_SHARE: Final = 0.2
COLLAPSE_S: Final = 10.0
"""Less than a fifth left within 10 s is a collapse; common practice, no source."""
DUE: Final = {"low": (0.0, 10.0, 60.0, 300.0, 600.0, 1200.0), "high": (0.0, 10.0, 60.0)}
"""When a reading is asked for, s; common practice, no source."""
DRIP_KPA: Final = 8.0
"""A tip that drips takes at least so much from a rail in a minute: one drop in ten seconds, where the
hoses give 0.05 ml a psi, is five times that; common practice, no source."""
FARTHEST: Final = 3.0
"""A hold is called before its time no farther ahead than three times what its readings span; common practice, no
source."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """Both kinds of limit, kPa and s: so much lost at most in so long, so much left after so long.

    Either may be absent.
    """

    lost_at_most: float | None = None
    within_s: float | None = None
    left_at_least: float | None = None
    after_s: float | None = None
    source: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class HoldSheet:
    """What is put in: (seconds, kPa) by time, the gauge's step in kPa, limits, what was tried.

    ``rail`` is low or high; ``isolation`` are (step, outcome) pairs in the order they were tried;
    ``u_class`` is what the gauge's class adds to each pressure (kPa): it counts against what must be left, and
    cancels in what was lost.
    """

    series: tuple[tuple[float, float], ...]
    step: float
    limits: Limits = Limits()
    rail: str = "low"
    isolation: tuple[tuple[str, str], ...] = ()
    engine_c: float | None = None
    u_class: float = 0.0

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND


@dataclass(frozen=True, slots=True, kw_only=True)
class Foretold:
    """A pressure at a time (kPa, s) with its range, read off by interpolation or foretold."""

    at_s: float
    value: float
    low: float
    high: float
    read: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Leak:
    """sqrt(p) = a - k t over the falling part: k in sqrt(kPa)/s with its interval."""

    k: float
    low: float
    high: float
    start_s: float
    points: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Judged:
    """One limit: its name, the pressure that it asks to be left, the pressure then, the decision.

    ``probability_out`` is None where nothing can be foretold; ``too_early``: the readings are too few, or too
    short, or fall too unevenly, to speak for that time.
    """

    name: str
    at_s: float
    least_left: float
    then: Foretold
    state: State
    probability_out: float | None
    too_early: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class HoldResult:
    """What the sheet says.

    ``state`` is in plumb (holds), low (does not), unsettled, or not judged; ``peak`` (s, kPa) is
    where heat soak ended; ``collapsed``: gone within seconds; ``early``: called before its time; ``fit`` is the
    line by which what nobody has waited for is foretold.
    """

    sheet: HoldSheet
    leak_line: Leak | None
    fit: Fit | None
    judged: tuple[Judged, ...]
    state: State
    soaked: bool
    rising: bool
    peak: tuple[float, float] | None
    collapsed: bool
    early: bool
    board: Board
    findings: tuple[Finding, ...]
    thresholds: Thresholds

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND

    @property
    def leak(self) -> float:
        """The leak constant in sqrt(kPa)/s; 0 where none could be taken."""
        return self.leak_line.k if self.leak_line else 0.0

    @property
    def begun(self) -> bool:
        """Whether a pressure was read, or something tried."""
        return bool(self.sheet.series or self.sheet.isolation)

    @property
    def passed(self) -> bool:
        """It holds."""
        return self.state is State.IN_PLUMB

    @property
    def lost_a_minute(self) -> tuple[float, float, float]:
        """What it loses in a minute at first, kPa: most likely, at least, at most; noughts where unknown.

        By the root law dp/dt = 2 sqrt(p) k.
        """
        line = self.leak_line
        if line is None or not self.sheet.series:
            return 0.0, 0.0, 0.0
        start = next((p for t, p in sorted(self.sheet.series) if t >= line.start_s), 0.0)
        rate = 120.0 * math.sqrt(max(start, 0.0))
        return rate * line.k, rate * line.low, rate * line.high

    @property
    def small_leak(self) -> bool:
        """It holds by its limits, and yet loses more than one step, and than the gauge could misread."""
        falling = [
            p for t, p in sorted(self.sheet.series) if t >= (self.peak[0] if self.peak else 0.0)
        ]
        lost = falling[0] - falling[-1] if falling else 0.0
        more = lost > self.sheet.step * (1.0 + 1e-9)
        return self.passed and not self.rising and more and self.lost_a_minute[1] > 0.0

    @property
    def tight(self) -> bool:
        """What it may lose at most is less than a tip that drips would take."""
        known = self.leak_line is not None and not self.soaked
        return self.passed and known and self.lost_a_minute[2] < DRIP_KPA

    def due_after(self, seconds: float) -> float | None:
        """When the next reading is due after so many seconds; None once all were asked for."""
        if self.collapsed:
            return None
        wanted = sorted({*DUE[self.sheet.rail], *(j.at_s for j in self.judged)})
        last = max((j.at_s for j in self.judged), default=wanted[-1])
        read = {t for t, _ in self.sheet.series}
        for t in wanted:
            near = any(abs(t - r) <= max(2.0, 0.05 * t) for r in read)
            if t <= last and t >= seconds - max(2.0, 0.05 * t) and not near:
                return t
        return None


def analyse_hold(sheet: HoldSheet, thresholds: Thresholds = Thresholds()) -> HoldResult:
    """Judge a hold by its limits, as soon as the readings allow it."""
    series = tuple(sorted(sheet.series))
    u = step_uncertainty(sheet.step)
    soaked, rising, peak = _soak(series, u)
    start = peak[0] if peak else 0.0
    line = _leak_line(series, u, start)
    fit = None if rising else fitted([x for x in series if x[0] >= start], sheet.step)
    collapsed = _collapsed(series)
    known = _Known(sheet, series, fit, rising, thresholds)
    judged = tuple(known.judge(name, at_s, least) for name, at_s, least in _asked(sheet, series))
    states = {j.state for j in judged}
    state = State.NOT_JUDGED
    for worst in (State.LOW, State.UNSETTLED, State.IN_PLUMB):
        if worst in states:
            state = worst
            break
    if collapsed:
        state = State.LOW
    last = series[-1][0] if series else 0.0
    return HoldResult(
        sheet=sheet,
        leak_line=line,
        fit=fit,
        judged=judged,
        state=state,
        soaked=soaked,
        rising=rising,
        peak=peak,
        collapsed=collapsed,
        early=state in {State.IN_PLUMB, State.LOW} and any(j.at_s > last for j in judged),
        board=board(sheet.isolation, sheet.rail),
        findings=tuple(_finding(j, series) for j in judged),
        thresholds=thresholds,
    )


def _asked(
    sheet: HoldSheet, series: tuple[tuple[float, float], ...]
) -> list[tuple[str, float, float]]:
    """Each limit as (name, time, pressure that must be left)."""
    limits, made = sheet.limits, []
    if not series:
        return []
    if limits.lost_at_most is not None and limits.within_s is not None:
        made.append(("lost", limits.within_s, series[0][1] - limits.lost_at_most))
    after = limits.after_s if limits.after_s is not None else limits.within_s
    if limits.left_at_least is not None and after is not None:
        made.append(("left", after, limits.left_at_least))
    return made


def _soak(
    series: tuple[tuple[float, float], ...], u: float
) -> tuple[bool, bool, tuple[float, float] | None]:
    """Whether it rose beyond what the gauge could misread, still rises, and where it peaked."""
    if len(series) < 2:
        return False, False, None
    top = max(p for _, p in series)
    at = max(k for k, (_, p) in enumerate(series) if p == top)
    rose = top - series[0][1] > 2.0 * math.sqrt(2.0) * u
    return rose, rose and at == len(series) - 1, series[at] if rose else None


def _collapsed(series: tuple[tuple[float, float], ...]) -> bool:
    if len(series) < 2 or series[0][1] <= 0.0:
        return False
    begin, full = series[0]
    return any(p < COLLAPSE_SHARE * full and t - begin <= COLLAPSE_S for t, p in series[1:])


def _leak_line(series: tuple[tuple[float, float], ...], u: float, start: float) -> Leak | None:
    """The slope of sqrt(p) over the falling part, with the wider of two intervals.

    Theil and Sen's own interval says how the readings scatter; with few of them, or with ties of a
    coarse gauge, it is too narrow, so the gauge's step is put through the straight line as well.
    """
    part = [(t, p) for t, p in series if t >= start]
    if len(part) < 2:
        return None
    times = [t for t, _ in part]
    roots = [math.sqrt(max(p, 0.0)) for _, p in part]
    if len(part) > 2:
        slope, low, high = theil_sen(roots, times)
    else:
        slope = low = high = (roots[1] - roots[0]) / (times[1] - times[0])
    middle = sum(times) / len(times)
    sigma = max(u / (2.0 * math.sqrt(max(p, u))) for _, p in part)
    by_gauge = REACHES * sigma / math.sqrt(sum((t - middle) ** 2 for t in times))
    k = max(0.0, -slope)
    low_k = min(-high, k - by_gauge) if math.isfinite(high) else k - by_gauge
    high_k = max(-low, k + by_gauge) if math.isfinite(low) else k + by_gauge
    return Leak(k=k, low=max(0.0, low_k), high=max(0.0, high_k), start_s=start, points=len(part))


@dataclass(frozen=True, slots=True)
class _Known:
    """What the readings say of a pressure at a time, and of a limit then."""

    sheet: HoldSheet
    series: tuple[tuple[float, float], ...]
    fit: Fit | None
    rising: bool
    thresholds: Thresholds

    def judge(self, name: str, at_s: float, least: float) -> Judged:
        """One limit: so much must be left (kPa) after so many seconds."""
        then = self._then(at_s)
        # The gauge's class is common to what was and what is: it cancels in what was lost.
        beside = self._u if name == "lost" else self.sheet.u_class
        if then.read:
            told = outside_window(then.value, math.hypot(self._u, beside), Window(low=least))
            return Judged(
                name=name, at_s=at_s, least_left=least, then=then,
                state=told.state(self.thresholds), probability_out=told.out,
            )  # fmt: skip
        # What is lost already does not come back: only what is still there has to be foretold.
        u_now = math.hypot(self._u, beside)
        lost = 0.0 if self.rising else normal_below((least - self.series[-1][1]) / u_now)
        early = not self._may_be_foretold(at_s)
        ahead = 0.0 if early else self._below(at_s, least, beside)
        sides = Sides(max(lost, ahead), 0.0)
        state = sides.state(self.thresholds)
        early = early and state is not State.LOW
        return Judged(
            name=name, at_s=at_s, least_left=least, then=then,
            state=State.UNSETTLED if early else state, probability_out=None if early else sides.out,
            too_early=early and not self.rising,
        )  # fmt: skip

    @property
    def _u(self) -> float:
        return step_uncertainty(self.sheet.step)

    def _then(self, at_s: float) -> Foretold:
        """The pressure at a time, with a range of 95 %: interpolated inside the readings, foretold beyond them."""
        last_t, last_p = self.series[-1]
        beyond = reach(self._u)
        if at_s <= last_t:
            value = next(
                (
                    a + (b - a) * (at_s - s) / (t - s)
                    for (s, a), (t, b) in pairwise(self.series)
                    if s <= at_s <= t
                ),
                self.series[0][1],
            )
            return Foretold(
                at_s=at_s, value=value, low=value - beyond, high=value + beyond, read=True
            )
        if self.fit is None:
            # Nothing is known of how it will fall: it may lose all or hold all.
            return Foretold(at_s=at_s, value=last_p, low=0.0, high=last_p + beyond, read=False)
        value, low, high = self.fit.range_at(at_s)
        return Foretold(at_s=at_s, value=value, low=low, high=high, read=False)

    def _below(self, at_s: float, least: float, beside: float) -> float:
        """How likely less than ``least`` will be left, by the line."""
        if self.fit is None or least <= 0.0:
            return 0.0
        root = math.sqrt(least)
        u = math.hypot(self.fit.u_at(at_s), beside / (2.0 * root))
        return chance_below((root - self.fit.root_at(at_s)) / u, self.fit.degrees)

    def _may_be_foretold(self, at_s: float) -> bool:
        """Whether so many readings, over so long, may speak for a time that nobody has waited for."""
        if self.fit is None or self.fit.bent:
            return False
        start = self.series[-self.fit.points][0]
        return at_s - start <= FARTHEST * (self.series[-1][0] - start)


def _finding(judged: Judged, series: tuple[tuple[float, float], ...]) -> Finding:
    lost = judged.name == "lost"
    start = series[0][1]
    return Finding(
        injector="",
        quantity=judged.name,
        scale=IN_PRESSURE,
        state=judged.state,
        value=start - judged.then.value if lost else judged.then.value,
        reference=start - judged.least_left if lost else judged.least_left,
        deviation=None,
        # What was foretold has a range of its own, see ``Judged.then``.
        u=None,
        tolerance=None,
        probability_out=judged.probability_out,
        passes_to_settle=None,
        passes=len(series),
        agrees=False,
    )
