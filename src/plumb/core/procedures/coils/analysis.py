"""Coils: resistance brought to one temperature, lead resistance taken off, then compared.

Copper: R(T) = R20 (1 + 0.00393 (T - 20)), IEC 60028.  A coil that reads 15.3 ohm at 90 degC is a
12.0 ohm coil; judged raw against 11 to 14 ohm it would be thrown away.

>>> round(at_20(15.3012, 90.0), 3)
12.0
>>> range_of_tester(1.6), range_of_tester(12.0)
('high', 'low')
"""

import math
from collections import Counter
from dataclasses import dataclass, replace
from typing import Final

from plumb.core.compare.bursts import BurstSet, Decision, Injected
from plumb.core.compare.flow import linear_flow
from plumb.core.compare.renewed import Renewed, held_by_others
from plumb.core.compare.rules import RuleChoice, rule
from plumb.core.compare.window_rule import DEFAULT_SHARE, Absolute, Item, View, judge
from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.finding import SHARE, Finding, all_in_plumb
from plumb.core.measure.readings import Mark, Value, Window
from plumb.core.measure.uncertainty import SQRT12

RESISTANCE: Final = "coil_resistance"
VOLTAGE: Final = "coil_voltage_drop"
COPPER: Final = 0.00393
"""Temperature coefficient of annealed copper at 20 degC, IEC 60028."""
TEMPERATURE_HALF_WIDTH: Final = 5.0
"""Unless stated, the coil's own temperature is known to +-5 degC; common practice, no source."""
HIGH_RANGE_UP_TO: Final = 1.8
"""Ohm, up to which the tester's high, current-regulated range is used; common practice."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Meter:
    """The meter: step, lead resistance, +-(percent + counts); all in the sheet's unit."""

    step: float
    lead: float = 0.0
    percent: float = 0.0
    counts: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class CoilSheet:
    """What is put in.  ``temperature_c`` None: not known, compared as read.

    ``window_from_c`` and ``window_to_c`` say at which coil temperatures the window holds; both None:
    at 20 degC.  On a voltage drop sheet nothing is corrected, and ``current_a`` is what was sent.
    ``rule`` decides between neighbours where the shop does not want those that agree; its limits
    are in ohm or V.  ``renewed`` were replaced before.
    """

    kind: str = RESISTANCE
    injectors: tuple[str, ...]
    readings: tuple[Value, ...]
    meter: Meter
    temperature_c: float | None = None
    temperature_half_width: float = TEMPERATURE_HALF_WIDTH
    window: Window = Window()
    window_from_c: float | None = None
    window_to_c: float | None = None
    current_a: float | None = None
    rule: RuleChoice | None = None
    renewed: Renewed = ()

    @property
    def corrects(self) -> bool:
        """Whether a temperature correction is made."""
        return self.kind == RESISTANCE and self.temperature_c is not None


@dataclass(frozen=True, slots=True, kw_only=True)
class Coil:
    """One coil: mean as read, without the leads, at 20 degC, and as held against the window."""

    injector: str
    passes: int
    read: float
    net: float
    at_20: float
    held: float
    u: float
    u_common: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CoilResult:
    """What the sheet says: findings in reach order and everything they rest on.

    ``held_at_c`` is the temperature at which the window was held against; ``shorted`` names coils
    far too low; ``range`` is the tester's current range for this set.
    """

    sheet: CoilSheet
    coils: tuple[Coil, ...]
    compared: Absolute
    findings: tuple[Finding, ...]
    shorted: tuple[str, ...]
    held_at_c: float | None
    range: str | None
    thresholds: Thresholds

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return self.sheet.kind

    @property
    def begun(self) -> bool:
        """Whether any coil was read."""
        return bool(self.sheet.readings)

    @property
    def passed(self) -> bool:
        """Every coil was measured and is in plumb."""
        return all_in_plumb(self.findings)


def at_20(resistance: float, temperature_c: float) -> float:
    """The resistance of a copper coil at 20 degC from that at another temperature (IEC 60028)."""
    return resistance / (1.0 + COPPER * (temperature_c - 20.0))


def at(resistance_20: float, temperature_c: float) -> float:
    """The resistance of a copper coil at a temperature from that at 20 degC (IEC 60028)."""
    return resistance_20 * (1.0 + COPPER * (temperature_c - 20.0))


def range_of_tester(resistance: float) -> str:
    """The tester's current range for a coil: ``high`` up to 1.8 ohm, ``low`` above."""
    return "high" if resistance <= HIGH_RANGE_UP_TO else "low"


def held_at(sheet: CoilSheet) -> float | None:
    """The temperature at which the window is compared: the nearest at which it is valid."""
    if not sheet.corrects or sheet.temperature_c is None:
        return None
    low = 20.0 if sheet.window_from_c is None else sheet.window_from_c
    high = low if sheet.window_to_c is None else sheet.window_to_c
    if sheet.window_from_c is None and sheet.window_to_c is not None:
        low = min(20.0, sheet.window_to_c)
    return min(max(sheet.temperature_c, low), high)


def _coil(label: str, mine: list[float], sheet: CoilSheet, where: float | None) -> Coil | None:
    if not mine:
        return None
    meter, count = sheet.meter, len(mine)
    read = sum(mine) / count
    net = read - meter.lead
    cold = at_20(net, sheet.temperature_c) if sheet.corrects and sheet.temperature_c else net
    held = at(cold, where) if where is not None else net
    scale = cold / net if net > 0.0 else 1.0
    # The meter's class is one and the same error on all coils of the sheet; its step is not.
    meter_class = (meter.percent / 100.0 * read + meter.counts * meter.step) / math.sqrt(3.0)
    unknown = sheet.temperature_half_width / math.sqrt(3.0) if sheet.corrects else 0.0
    return Coil(
        injector=label,
        passes=count,
        read=read,
        net=net,
        at_20=cold,
        held=held,
        u=meter.step / SQRT12 * scale / math.sqrt(count),
        u_common=math.hypot(meter_class * scale, cold * COPPER * unknown),
    )


def _coils(sheet: CoilSheet, where: float | None) -> tuple[Coil, ...]:
    """Every coil that has a figure, in reach order."""
    values: dict[str, list[float]] = {label: [] for label in sheet.injectors}
    for r in sheet.readings:
        if r.value is not None and r.injector in values:
            values[r.injector].append(r.value)
    made = (_coil(label, mine, sheet, where) for label, mine in values.items())
    return tuple(c for c in made if c is not None)


def analyse_coils(sheet: CoilSheet, thresholds: Thresholds = Thresholds()) -> CoilResult:
    """Judge resistances or voltage drops of a set of coils."""
    where = held_at(sheet)
    counts = Counter(r.injector for r in sheet.readings)
    coils = _coils(sheet, where)
    open_ = _open(sheet)
    live = tuple(c for c in coils if c.injector not in open_)
    compared = judge(
        [
            Item(label=c.injector, value=c.at_20, u=c.u, u_common=c.u_common, in_window=c.held)
            for c in live
        ],
        sheet.window,
        thresholds,
        _share(sheet),
        sheet.renewed,
    )
    compared = _by_rule(sheet, live, compared)
    shorted = _shorted(sheet, live, compared)
    by_label = {v.item.label: v for v in compared.views}
    findings = tuple(
        _finding(
            label,
            sheet,
            by_label.get(label),
            compared,
            label in open_,
            label in shorted,
            counts[label],
        )
        for label in sheet.injectors
    )
    reference = compared.reference
    is_ohm = sheet.kind == RESISTANCE and reference is not None
    return CoilResult(
        sheet=sheet,
        coils=coils,
        compared=compared,
        findings=held_by_others(findings, sheet.renewed, anchored=sheet.window.stated),
        shorted=shorted,
        held_at_c=where,
        range=range_of_tester(reference) if is_ohm and reference is not None else None,
        thresholds=thresholds,
    )


def _share(sheet: CoilSheet) -> float:
    """How far from those that agree a coil may lie, as a share of them, where no spread is given."""
    stated = sheet.rule.limits.tolerance if sheet.rule is not None else None
    return DEFAULT_SHARE if stated is None else stated


_DECIDES: Final = {Decision.KEEP: State.IN_PLUMB, Decision.REPEAT: State.UNSETTLED}


def _by_rule(sheet: CoilSheet, live: tuple[Coil, ...], compared: Absolute) -> Absolute:
    """Another rule of the table between neighbours; a window that has called a coil stands."""
    if sheet.rule is None or sheet.rule.name == "flow_index" or not live:
        return compared
    injected = tuple(
        Injected(c.injector, (linear_flow(c.at_20, sheet.meter.step),) * c.passes) for c in live
    )
    outcome = rule(sheet.rule.name).judge(
        BurstSet(injected=injected, step=sheet.meter.step), sheet.rule.effective()
    )
    if not outcome.applies:
        return compared
    called = {
        r.injector: _DECIDES.get(r.decision, State.LOW if r.deviation < 0.0 else State.HIGH)
        for r in outcome.rows
    }
    views = tuple(
        v if v.by_window else v._replace(state=called.get(v.item.label, v.state))
        for v in compared.views
    )
    return replace(compared, views=views)


def _open(sheet: CoilSheet) -> set[str]:
    """Coils whose last reading is an overload: no current passes."""
    last: dict[str, Value] = {}
    for reading in sorted(sheet.readings, key=lambda r: r.number):
        if reading.mark is not Mark.NOT_READ:
            last[reading.injector] = reading
    return {label for label, r in last.items() if r.mark is Mark.OVER}


def _shorted(sheet: CoilSheet, live: tuple[Coil, ...], compared: Absolute) -> tuple[str, ...]:
    """Coils below half of the window, or of those that agree: turns are shorted."""
    if sheet.kind != RESISTANCE:
        return ()
    low = sheet.window.low
    few = len(compared.agreeing) < 2
    limit = low / 2.0 if low is not None else (
        None if few or compared.reference is None else compared.reference / 2.0
    )  # fmt: skip
    return tuple(c.injector for c in live if limit is not None and c.held < limit)


def _finding(
    label: str,
    sheet: CoilSheet,
    view: View | None,
    compared: Absolute,
    is_open: bool,  # noqa: FBT001  read together with the next one
    is_short: bool,  # noqa: FBT001
    passes: int,
) -> Finding:
    quantity = "resistance_20" if sheet.kind == RESISTANCE else "voltage_drop"
    reference = compared.reference
    held = view.deviation if view is not None and reference else None
    state = State.OPEN if is_open else State.NOT_JUDGED if view is None else view.state
    return Finding(
        injector=label,
        quantity=quantity,
        scale=SHARE,
        state=State.LOW if is_short else state,
        value=None if view is None else view.item.value,
        reference=reference,
        deviation=None if held is None or not reference else held / reference,
        u=None if held is None or view is None or not reference else view.u_deviation / reference,
        tolerance=None if compared.tolerance is None or not reference
        else compared.tolerance / reference,
        probability_out=None if view is None else view.probability_out,
        passes_to_settle=None,
        passes=passes,
        agrees=view is not None and view.agrees,
        u_value=None if view is None else math.hypot(view.item.u, view.item.u_common),
    )  # fmt: skip
