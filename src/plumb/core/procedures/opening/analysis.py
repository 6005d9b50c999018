"""Opening ("pop") pressure of mechanical nozzles on a hand pump, and the shims that move it.

A nozzle is stroked slowly a few times; the mean of the strokes is held against the window and the
set.  Strokes with another shim inside begin a new setting, so that each change of shims leaves its
before and after.  A seat that wets or a spray that is bad is not cured by a shim, and is told so.

>>> strokes = tuple(Stroke(injector="1", number=n, value=11_600.0, shim_mm=1.0) for n in (1, 2, 3))
>>> found = analyse_opening(OpeningSheet(injectors=("1",), strokes=strokes, step=50.0,
...     window=Window(low=12_200.0, high=13_200.0), drawer=(0.02, 0.05, 0.10, 0.20)))
>>> found.findings[0].state.value, found.nozzles[0].plan.added
('low', (0.05,))
"""

import math
from dataclasses import dataclass, replace
from itertools import groupby, pairwise
from typing import Final

from plumb.core.compare.renewed import Renewed, held_by_others
from plumb.core.compare.window_rule import Absolute, Item, View, decide_window, judge
from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.finding import IN_PRESSURE, Finding, all_in_plumb, with_carried
from plumb.core.measure.readings import Mark, Window
from plumb.core.measure.uncertainty import step_uncertainty
from plumb.core.procedures.opening.held import Held
from plumb.core.procedures.opening.shims import (
    COMMONLY,
    Change,
    Plan,
    Sensitivity,
    aim,
    learn,
    nearest,
    plan,
    wanted_mm,
)

KIND: Final = "opening_pressure"
SEAT_BELOW_KPA: Final = 2000.0
"""The seat is held about 20 bar below opening; common practice, no source."""
LOOKS: Final = ("seat", "sound", "spray")
"""What is looked at beside the pressure; none of them is good before it was seen."""
STROKE_KPA: Final = 30.0
PRIOR_DEGREES: Final = 4
"""Slow strokes repeat to that, whatever the gauge can show, until so many say otherwise; common practice, no source."""


ALIKE: Final = 3
"""So many nozzles that are off together are a set."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Stroke:
    """One slow stroke: opening pressure in kPa, the shims inside in mm, and what was seen.

    ``seat`` is dry, damp or wet, ``sound`` chatters, weak or silent, ``spray`` even, streaky,
    stream or none; empty where nobody looked.  ``mark`` none: no pressure builds.
    """

    injector: str
    number: int
    value: float | None
    shim_mm: float | None = None
    seat: str = ""
    sound: str = ""
    spray: str = ""
    mark: Mark | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class OpeningSheet:
    """What is put in: strokes, the gauge's step and the window in kPa, the shims at hand in mm.

    ``form`` is pintle or hole; ``maker`` what a shim buys by its maker, ``learnt`` are changes of shims on this nozzle type elsewhere;
    ``carried`` and ``read_before`` are nozzles that an earlier sheet read, ``renewed`` those that were
    worked on before, see the drop's.
    ``unit`` is the gauge's, ``length`` (mm, thou) the one that shims are told in; ``held`` is how fast they lose pressure,
    ``u_class`` what the gauge's class adds to each pressure (kPa): it counts against the window alone.
    """

    injectors: tuple[str, ...]
    strokes: tuple[Stroke, ...]
    step: float
    window: Window = Window()
    form: str = ""
    drawer: tuple[float, ...] = ()
    maker: Sensitivity | None = None
    learnt: tuple[Change, ...] = ()
    when: str = ""
    unit: str = "bar"
    length: str = "mm"
    carried: tuple[tuple[str, str], ...] = ()
    read_before: tuple[str, ...] = ()
    renewed: Renewed = ()
    held: Held | None = None
    u_class: float = 0.0

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """What one stack of shims gave: the mean of its strokes and its u, kPa."""

    shim_mm: float | None
    mean: float
    u: float
    strokes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Nozzle:
    """One nozzle: its settings, oldest first, what was seen last, and the shims planned.

    ``fault`` is seat_wet, seat_damp, loses, spray_bad or empty: with one, shims are not the cure.
    ``wanted_mm`` is the change to the middle of the window where the nozzle is out of it, ``nearest``
    what the drawer can do where no stack of it lands there.
    """

    injector: str
    settings: tuple[Setting, ...]
    seat: str
    sound: str
    spray: str
    fault: str
    plan: Plan | None
    wanted_mm: float | None
    nearest: Plan | None = None

    @property
    def unseen(self) -> tuple[str, ...]:
        """What nobody has looked at since it was set: seat, sound, spray."""
        return tuple(name for name in LOOKS if not getattr(self, name))


@dataclass(frozen=True, slots=True, kw_only=True)
class OpeningResult:
    """What the sheet says; low opens early, high opens late."""

    sheet: OpeningSheet
    compared: Absolute
    findings: tuple[Finding, ...]
    nozzles: tuple[Nozzle, ...]
    sensitivity: Sensitivity
    changes: tuple[tuple[str, Change], ...]
    scatter: float
    thresholds: Thresholds

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND

    @property
    def begun(self) -> bool:
        """Whether any nozzle was stroked."""
        return bool(self.sheet.strokes)

    @property
    def split(self) -> bool:
        """Two groups of one size stand against each other, and no window decides."""
        return self.compared.split and not self.sheet.window.stated

    @property
    def off_alike(self) -> bool:
        """All of three nozzles or more are out on one side, and nearer to each other than to the window.

        That many wear alike less often than a dial is off; common practice, no source.
        """
        read = [f for f in self.findings if f.value is not None]
        sides = {f.state for f in read}
        if len(read) < ALIKE or sides not in ({State.LOW}, {State.HIGH}):
            return False
        low, high = (limit(f.value or 0.0 for f in read) for limit in (min, max))
        window = self.sheet.window
        edge = window.low if sides == {State.LOW} else window.high
        away = 0.0 if edge is None else max(edge - high, low - edge)
        return high - low <= max(away, 2.0 * self.sheet.step)

    @property
    def passed(self) -> bool:
        """Every nozzle was stroked, is in plumb, and none has another fault."""
        return all_in_plumb(self.findings)

    def nozzle(self, injector: str) -> Nozzle:
        """The nozzle of that label."""
        return next(n for n in self.nozzles if n.injector == injector)


def analyse_opening(sheet: OpeningSheet, thresholds: Thresholds = Thresholds()) -> OpeningResult:
    """Judge each nozzle by its last setting against the window and the set; plan its shims."""
    scatter = _scatter(sheet)
    settings = {label: _settings(label, sheet, scatter) for label in sheet.injectors}
    items = [
        Item(label=label, value=mine[-1].mean, u=mine[-1].u, u_common=sheet.u_class)
        for label, mine in settings.items()
        if mine
    ]
    compared = judge(items, sheet.window, thresholds, renewed=sheet.renewed)
    views = {v.item.label: v for v in compared.views}
    changes = tuple((label, c) for label, mine in settings.items() for c in _changes(mine))
    sensitivity = learn((*sheet.learnt, *(c for _, c in changes)), sheet.maker or COMMONLY)
    judged = tuple(
        _finding(label, views.get(label), settings[label], sheet, compared, (scatter, thresholds))
        for label in sheet.injectors
    )
    judged = held_by_others(judged, sheet.renewed, anchored=sheet.window.stated)
    findings = with_carried(judged, sheet.carried)
    nozzles = tuple(
        _nozzle(f, settings[f.injector], sheet, _aimed(f, findings, sheet), sensitivity)
        for f in findings
    )
    return OpeningResult(
        sheet=sheet,
        compared=compared,
        findings=tuple(replace(f, ails=n.fault) for f, n in zip(findings, nozzles, strict=True)),
        nozzles=nozzles,
        sensitivity=sensitivity,
        changes=changes,
        scatter=scatter,
        thresholds=thresholds,
    )


def _aimed(finding: Finding, findings: tuple[Finding, ...], sheet: OpeningSheet) -> Window:
    """Where this nozzle would be set, beside those that are in plumb."""
    others = [
        f.value for f in findings
        if f is not finding and f.state is State.IN_PLUMB and f.value is not None
    ]  # fmt: skip
    return aim(sheet.window, others)


def _strokes(label: str, sheet: OpeningSheet) -> list[Stroke]:
    mine = [s for s in sheet.strokes if s.injector == label]
    return sorted(mine, key=lambda s: s.number)


def _groups(label: str, sheet: OpeningSheet) -> list[tuple[float | None, list[float]]]:
    """The strokes of a nozzle by the shims inside; a stroke without one goes with those before."""
    made: list[tuple[float | None, float]] = []
    inside: float | None = None
    for s in _strokes(label, sheet):
        inside = inside if s.shim_mm is None else s.shim_mm
        if s.value is not None:
            made.append((inside, s.value))
    return [(shim, [v for _, v in run]) for shim, run in groupby(made, key=lambda x: x[0])]


def _scatter(sheet: OpeningSheet) -> float:
    """How strokes repeat, kPa: pooled over all settings, beginning from how this test usually does."""
    square, degrees = PRIOR_DEGREES * STROKE_KPA**2, PRIOR_DEGREES
    for label in sheet.injectors:
        for _, values in _groups(label, sheet):
            mean = sum(values) / len(values)
            square += sum((v - mean) ** 2 for v in values)
            degrees += len(values) - 1
    return math.sqrt(square / degrees)


def _settings(label: str, sheet: OpeningSheet, scatter: float) -> tuple[Setting, ...]:
    u_step = step_uncertainty(sheet.step)
    return tuple(
        Setting(
            shim_mm=shim,
            mean=sum(values) / len(values),
            u=math.hypot(u_step, scatter / math.sqrt(len(values))),
            strokes=len(values),
        )
        for shim, values in _groups(label, sheet)
    )


def _changes(settings: tuple[Setting, ...]) -> list[Change]:
    return [
        Change(
            shim_mm=b.shim_mm - a.shim_mm, before=a.mean, after=b.mean,
            u=math.sqrt((a.u**2 + b.u**2) / 2.0),
        )
        for a, b in pairwise(settings)
        if a.shim_mm is not None and b.shim_mm is not None
    ]  # fmt: skip


def _finding(
    label: str,
    view: View | None,
    settings: tuple[Setting, ...],
    sheet: OpeningSheet,
    compared: Absolute,
    known: tuple[float, Thresholds],
) -> Finding:
    mine = _strokes(label, sheet)
    silent = view is None and any(s.mark is Mark.NONE for s in mine)
    state = State.NO_RESPONSE if silent else State.NOT_JUDGED if view is None else view.state
    return Finding(
        injector=label,
        quantity=KIND,
        scale=IN_PRESSURE,
        state=state,
        value=settings[-1].mean if settings else None,
        reference=compared.reference if len(compared.views) > 1 else None,
        deviation=None if view is None else view.deviation,
        u=settings[-1].u if settings else None,
        u_value=math.hypot(settings[-1].u, sheet.u_class) if settings and sheet.u_class else None,
        tolerance=compared.tolerance,
        probability_out=None if view is None else view.probability_out,
        passes_to_settle=_more(settings[-1], sheet, known) if state is State.UNSETTLED else None,
        passes=len(mine),
        agrees=view is not None and view.agrees,
    )


def _more(now: Setting, sheet: OpeningSheet, known: tuple[float, Thresholds]) -> int | None:
    """How many more strokes settle it against the window if the mean stays; None: none of five."""
    scatter, thresholds = known
    u_step = step_uncertainty(sheet.step)
    for more in range(1, 6):
        u = math.hypot(u_step, scatter / math.sqrt(now.strokes + more), sheet.u_class)
        if decide_window(now.mean, u, sheet.window, thresholds) in _SETTLES:
            return more
    return None


_SETTLES: Final = frozenset({State.LOW, State.HIGH, State.IN_PLUMB})


def _last(mine: list[Stroke], name: str) -> str:
    """What was seen last; an empty look changes nothing."""
    return next((word for s in reversed(mine) if (word := getattr(s, name))), "")


def _before(mine: list[Stroke], place: int) -> float | None:
    """The shims that were noted last before a stroke."""
    return next((s.shim_mm for s in reversed(mine[:place]) if s.shim_mm is not None), None)


def _nozzle(
    finding: Finding,
    settings: tuple[Setting, ...],
    sheet: OpeningSheet,
    aimed: Window,
    s: Sensitivity,
) -> Nozzle:
    mine = _strokes(finding.injector, sheet)
    fault = ""
    if (was := _last(mine, "seat")) in {"wet", "damp"}:
        fault = f"seat_{was}"
    elif sheet.held is not None and sheet.held.too_fast(finding.injector):
        fault = "loses"
    elif _last(mine, "spray") not in {"", "even"}:
        fault = "spray_bad"
    # Taken apart and set anew, it is looked at anew; a fault stands until it was seen to be gone.
    changed = max((k for k, s in enumerate(mine) if s.shim_mm not in {None, _before(mine, k)}),
                  default=0)  # fmt: skip
    seat, sound, spray = (_last(mine[changed:], name) for name in ("seat", "sound", "spray"))
    out = finding.state in {State.LOW, State.HIGH} and bool(settings)
    planned, wanted, near = None, None, None
    if out and not fault:
        now = settings[-1]
        wanted = wanted_mm(now.mean, aimed, s)
        u = math.hypot(now.u, sheet.u_class)
        planned = plan(now.mean, u, now.shim_mm, sheet.drawer, aimed, s)
        if planned is None:
            near = nearest(now.mean, u, now.shim_mm, sheet.drawer, aimed, s)
    return Nozzle(
        injector=finding.injector, settings=settings, seat=seat, sound=sound, spray=spray,
        fault=fault, plan=planned, wanted_mm=wanted, nearest=near,
    )  # fmt: skip
