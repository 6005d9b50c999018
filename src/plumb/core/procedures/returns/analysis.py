"""Return volumes (back-leakage): whoever returns much more than its neighbours is worn inside.

More than half of a set may be bad, so the reference is the low group: the lowest and all within
one and a half times of it.

>>> found = analyse_returns(ReturnSheet(injectors=tuple("1234"), step=1.0, duration_s=60.0,
...     readings=tuple(Value(injector=str(n), number=1, value=v)
...     for n, v in enumerate((52.0, 12.0, 49.0, 61.0), 1))))
>>> [f.injector for f in found.findings if f.state is State.HIGH], found.rests_on_one
(['1', '3', '4'], True)
"""

import math
from dataclasses import dataclass
from typing import Final

from plumb.core.compare.renewed import Renewed, held_by_others, voters
from plumb.core.compare.window_rule import outside_window
from plumb.core.measure.decision import State, Thresholds, normal_below
from plumb.core.measure.finding import SHARE, Finding, all_in_plumb
from plumb.core.measure.readings import Mark, Value, Window
from plumb.core.measure.uncertainty import step_uncertainty

KIND: Final = "return_volume"
LOW_GROUP: Final = 1.5
RATIO: Final = 2.0
"""The low group reaches to 1.5 times the lowest; twice its mean is too much; common practice."""
REPEATS_TO: Final = 0.05
"""A volume comes again to a twentieth of it; common practice, no source."""
DROPS_ML: Final = 1.0
"""What clings to hose and tube, or drips in late: a nearly dry tube is known no better; common practice, no source."""
LONE: Final = 0.35
"""A low group of one may itself return too little: it is known to a third of itself; common practice, no source."""
TIMING_S: Final = 1.0
"""A spell is timed to about a second; common practice, no source."""
LONGEST_SPELL_S: Final = 30.0
"""Longer than that a starter is cranked in spells; common practice, no source."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ReturnSheet:
    """What is put in: volumes in ml, the tubes' step, the spells in s, limits.

    ``state`` is idle or cranking; ``spells_s`` are the cranking spells where they were noted, and
    add up to ``duration_s``; ``high`` is a maker's limit in ml for that time; ``clamped`` says that
    the common return was clamped; ``renewed`` were worked on before.
    """

    injectors: tuple[str, ...]
    readings: tuple[Value, ...]
    step: float
    duration_s: float | None = None
    spells_s: tuple[float, ...] = ()
    state: str = "idle"
    high: float | None = None
    source: str = ""
    ratio: float = RATIO
    clamped: bool | None = None
    rail_kpa: float | None = None
    renewed: Renewed = ()

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND

    @property
    def longest_s(self) -> float:
        """The longest time at once (s): one of the spells, or all of it where none are noted."""
        return max(self.spells_s, default=self.duration_s or 0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReturnResult:
    """What the sheet says; ``low_group`` are the labels it rests on, ``reference`` their mean (ml).

    ``rates`` are ml a minute by injector where the time is known; ``none`` return nothing while
    others do; ``over`` had a tube that ran over, whose volume nobody knows.
    """

    sheet: ReturnSheet
    findings: tuple[Finding, ...]
    low_group: tuple[str, ...]
    reference: float | None
    rates: tuple[tuple[str, float], ...]
    none: tuple[str, ...]
    over: tuple[str, ...]
    thresholds: Thresholds

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND

    @property
    def begun(self) -> bool:
        """Whether anything was read."""
        return bool(self.sheet.readings)

    @property
    def rests_on_one(self) -> bool:
        """Only one injector returns little, and no maker's limit says more: all hangs on that one."""
        return self.sheet.high is None and len(self.low_group) == 1 and len(self.findings) > 1

    @property
    def passed(self) -> bool:
        """Every injector was read and is in plumb."""
        return all_in_plumb(self.findings)


def analyse_returns(sheet: ReturnSheet, thresholds: Thresholds = Thresholds()) -> ReturnResult:
    """Judge each volume against the maker's limit where there is one, else against the low group."""
    volumes = _volumes(sheet)
    live = {k: v for k, v in volumes.items() if v > 0.0}
    none = tuple(k for k, v in volumes.items() if v <= 0.0 and live)
    labels = tuple(live)
    asked = {labels[k]: live[labels[k]] for k in voters(labels, sheet.renewed)}
    lowest = min(asked.values(), default=0.0)
    low = tuple(k for k, v in asked.items() if v <= LOW_GROUP * lowest + 1e-9)
    # One volume against itself says nothing; only a limit can judge it.
    compared = len(volumes) > 1 or sheet.high is not None
    reference = sum(live[k] for k in low) / len(low) if low and compared else None
    findings = tuple(
        _finding(label, volumes.get(label), sheet, reference, low, none, thresholds)
        for label in sheet.injectors
    )
    return ReturnResult(
        sheet=sheet,
        findings=held_by_others(findings, sheet.renewed, anchored=sheet.high is not None),
        low_group=low,
        reference=reference,
        rates=tuple(
            (k, v / sheet.duration_s * 60.0) for k, v in volumes.items() if sheet.duration_s
        ),
        none=none,
        over=tuple(k for k in sheet.injectors if k not in volumes and _ran_over(sheet, k)),
        thresholds=thresholds,
    )


def _ran_over(sheet: ReturnSheet, label: str) -> bool:
    return any(r.injector == label and r.mark is Mark.OVER for r in sheet.readings)


def allowed_share(sheet: ReturnSheet, reference: float | None) -> float:
    """How far above the reference a volume may lie: to the maker's limit, else to the ratio."""
    if sheet.high is not None and reference:
        return sheet.high / reference - 1.0
    return sheet.ratio - 1.0


def _volumes(sheet: ReturnSheet) -> dict[str, float]:
    made: dict[str, float] = {}
    for label in sheet.injectors:
        mine = [r for r in sheet.readings if r.injector == label]
        values = [r.value for r in mine if r.value is not None]
        if values:
            made[label] = sum(values) / len(values)
        elif any(r.mark is Mark.NONE for r in mine):
            made[label] = 0.0
    return made


def volume_uncertainty(volume: float, step: float) -> float:
    """One standard uncertainty of a volume, ml: the tube's step, how it repeats, what clings and drips."""
    return math.hypot(step_uncertainty(step), REPEATS_TO * volume, DROPS_ML)


def _too_much(
    volume: float, reference: float, sheet: ReturnSheet, count: int, *, member: bool
) -> float:
    """How likely a volume is above so many times the reference, the mean of ``count`` tubes.

    Not as a ratio: one of a few drops has no even spread.  A ``member`` moves the mean along by its share.
    """
    most, u_own = sheet.ratio, volume_uncertainty(volume, sheet.step)
    alone = LONE * reference if count == 1 and not member else 0.0
    u_ref = math.hypot(volume_uncertainty(reference, sheet.step) / math.sqrt(count), alone)
    shared = 2.0 * most / count * u_own**2 if member else 0.0
    u = math.sqrt(max(u_own**2 + (most * u_ref) ** 2 - shared, DROPS_ML**2))
    return normal_below((volume - most * reference) / u)


def _against_limit(
    volume: float, sheet: ReturnSheet, thresholds: Thresholds
) -> tuple[State, float]:
    """A volume (ml) against the maker's limit; here the clock's error counts."""
    timing = TIMING_S / math.sqrt(3.0) * math.sqrt(max(1, len(sheet.spells_s)))
    time_share = timing / sheet.duration_s if sheet.duration_s else 0.0
    u = math.hypot(step_uncertainty(sheet.step), volume * time_share)
    window = Window(high=sheet.high)
    told = outside_window(volume, u, window)
    return told.state(thresholds), told.out


def _finding(
    label: str,
    volume: float | None,
    sheet: ReturnSheet,
    reference: float | None,
    low: tuple[str, ...],
    none: tuple[str, ...],
    thresholds: Thresholds,
) -> Finding:
    state, out, u_ratio, ratio = State.NOT_JUDGED, None, None, None
    if volume is not None and reference:
        ratio = volume / reference
        u_ref = volume_uncertainty(reference, sheet.step) / math.sqrt(len(low))
        u_own = volume_uncertainty(volume, sheet.step)
        # One clock times all tubes together: its error cancels in the ratio.
        u_ratio = math.hypot(u_own, ratio * u_ref) / reference
        if label in none:
            state = State.NO_RESPONSE
        elif sheet.high is not None:
            state, out = _against_limit(volume, sheet, thresholds)
        else:
            out = _too_much(volume, reference, sheet, len(low), member=label in low)
            state = (
                State.HIGH if out >= thresholds.call
                else State.IN_PLUMB if out <= thresholds.clear else State.UNSETTLED
            )  # fmt: skip
    return Finding(
        injector=label,
        quantity=KIND,
        scale=SHARE,
        state=state,
        value=volume,
        reference=reference,
        deviation=None if ratio is None else ratio - 1.0,
        u=u_ratio,
        tolerance=allowed_share(sheet, reference),
        probability_out=out,
        passes_to_settle=None,
        passes=sum(1 for r in sheet.readings if r.injector == label),
        agrees=label in low,
    )
