"""From a checked sheet of the file to what the core analyses: kPa, ohm, V, ml, fractions."""

from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal
from typing import Any, Final

from plumb.core import (
    coil,
    correction,
    cranking,
    hold,
    opening,
    rail,
    returns,
    running,
    seen,
    supply,
    walk,
)  # fmt: skip
from plumb.core.bursts import Limits
from plumb.core.drop import DropReading, DropSheet, Expected
from plumb.core.job import Job, Sheet
from plumb.core.quantities import kpa_per
from plumb.core.readings import Mark, Seen, Value, Window
from plumb.core.rules import RuleChoice
from plumb.core.shims import Change
from plumb.jobfile.diesel import (
    CorrectionPart,
    CrankingPart,
    OpeningPart,
    RailPart,
    ReturnPart,
    SignedPart,
)
from plumb.jobfile.file import JobFile, SheetPart
from plumb.jobfile.models import DropSheetPart, ExpectedPart, RulePart
from plumb.jobfile.sheets import (
    CoilPart,
    CoilVoltagePart,
    CommandPart,
    FlowBenchPart,
    HoldPart,
    LimitsPart,
    RunningPart,
    SetLimitsPart,
    SupplyPart,
    TipPart,
    ValuePart,
    WalkPart,
)

Labels = tuple[str, ...]


def _scaled(value: Decimal | None, factor: float = 1.0) -> float | None:
    return None if value is None else float(value) * factor


def rule_choice(rule: RulePart, factor: float) -> RuleChoice:
    """The rule of a sheet for the core: fractions, and limits times ``factor``."""
    return RuleChoice(
        name=rule.name,
        label=rule.label,
        source=rule.source,
        limits=Limits(
            tolerance=_scaled(rule.tolerance_percent, 0.01),
            limit=_scaled(rule.limit, factor),
            reject=_scaled(rule.reject, factor),
            score=_scaled(rule.score),
            alpha=_scaled(rule.alpha),
            suspect=rule.suspect,
        ),
    )


def _expected(part: ExpectedPart | None, factor: float) -> Expected | None:
    if part is None:
        return None
    return Expected(drop=float(part.drop) * factor, source=part.source or "job file")


def _window(part: LimitsPart, factor: float = 1.0) -> Window:
    return Window(
        low=_scaled(part.low, factor),
        high=_scaled(part.high, factor),
        spread=_scaled(part.spread, factor) if isinstance(part, SetLimitsPart) else None,
        source=part.source,
    )


def _drop(sheet: DropSheetPart, injectors: Labels) -> DropSheet:
    factor = kpa_per(sheet.unit)
    return DropSheet(
        injectors=injectors,
        step=float(sheet.gauge.step) * factor,
        rule=rule_choice(sheet.rule, factor),
        expected=_expected(sheet.expected, factor),
        neighbour_proven=bool(sheet.neighbour_proven),
        supply_v=_scaled(sheet.supply_v),
        when=sheet.when,
        readings=tuple(
            DropReading(
                injector=r.injector,
                number=r.pass_,
                first=_scaled(r.first, factor),
                second=_scaled(r.second, factor),
                mark=Mark(r.mark) if r.mark else None,
                sound=r.sound,
                fires_at=_scaled(r.fires_at, factor),
            )
            for r in sheet.readings
        ),
    )


def _running(sheet: RunningPart, injectors: Labels) -> DropSheet:
    factor = kpa_per(sheet.unit)
    rail = _scaled(sheet.conditions.rail, factor)

    def reading(r: ValuePart) -> DropReading:
        burst = None if r.value is None else running.burst_of(float(r.value) * factor, rail)
        return DropReading(
            injector=r.injector,
            number=r.pass_,
            first=burst.first if burst else None,
            second=burst.second if burst else None,
            mark=Mark(r.mark) if r.mark else None,
        )

    return DropSheet(
        kind=running.RUNNING,
        injectors=injectors,
        step=float(sheet.gauge.step) * factor,
        rule=rule_choice(sheet.rule, factor),
        expected=_expected(sheet.expected, factor),
        readings=tuple(reading(r) for r in sheet.readings),
        outside=running.outside_running(
            low_side=_scaled(sheet.conditions.low_side, factor),
            lost=_scaled(sheet.conditions.lost_in_60_s, factor),
            rail=rail,
            unit=sheet.unit,
        ),
    )


def _bench(sheet: FlowBenchPart, injectors: Labels) -> DropSheet:
    return DropSheet(
        kind=running.FLOW_BENCH,
        linear=True,
        when=sheet.when,
        injectors=injectors,
        step=float(sheet.gauge.step),
        rule=rule_choice(sheet.rule, 1.0),
        expected=_expected(sheet.expected, 1.0),
        readings=tuple(
            DropReading(
                injector=r.injector,
                number=r.pass_,
                first=_scaled(r.value),
                second=None if r.value is None else 0.0,
                mark=Mark(r.mark) if r.mark else None,
                spray=r.spray,
            )
            for r in sheet.readings
        ),
    )


def _values(readings: Sequence[ValuePart | SignedPart]) -> tuple[Value, ...]:
    return tuple(
        Value(
            injector=r.injector,
            number=r.pass_,
            value=_scaled(r.value),
            mark=Mark(r.mark) if r.mark else None,
        )
        for r in readings
    )


def _coils(sheet: CoilPart | CoilVoltagePart, injectors: Labels) -> coil.CoilSheet:
    gauge = sheet.gauge
    meter = coil.Meter(
        step=float(gauge.step),
        lead=float(gauge.lead or 0),
        percent=float(gauge.percent or 0),
        counts=float(gauge.counts or 0),
    )
    if isinstance(sheet, CoilVoltagePart):
        return coil.CoilSheet(
            kind=coil.VOLTAGE,
            injectors=injectors,
            readings=_values(sheet.readings),
            meter=meter,
            window=_window(sheet.window),
            rule=rule_choice(sheet.rule, 1.0),
            current_a=_scaled(sheet.current_a),
        )
    within = _scaled(sheet.temperature_within_c)
    return coil.CoilSheet(
        injectors=injectors,
        readings=_values(sheet.readings),
        meter=meter,
        temperature_c=_scaled(sheet.temperature_c),
        temperature_half_width=coil.TEMPERATURE_HALF_WIDTH if within is None else within,
        window=_window(sheet.window),
        rule=rule_choice(sheet.rule, 1.0),
        window_from_c=_scaled(sheet.window.from_c),
        window_to_c=_scaled(sheet.window.to_c),
    )


def _supply(sheet: SupplyPart, _injectors: Labels) -> supply.SupplySheet:
    factor = kpa_per(sheet.unit)
    return supply.SupplySheet(
        readings=tuple((r.state, float(r.value) * factor) for r in sheet.readings),
        step=float(sheet.gauge.step) * factor,
        windows=tuple((name, _window(w, factor)) for name, w in sheet.windows.items()),
        pump=sheet.pump,
    )


def _hold(sheet: HoldPart, _injectors: Labels) -> hold.HoldSheet:
    factor, window = kpa_per(sheet.unit), sheet.window
    return hold.HoldSheet(
        series=tuple((float(p.t_s), float(p.value) * factor) for p in sheet.series),
        step=float(sheet.gauge.step) * factor,
        rail=sheet.rail,
        isolation=tuple((i.step, i.outcome) for i in sheet.isolation),
        engine_c=_scaled(sheet.engine.temperature_c),
        limits=hold.Limits(
            lost_at_most=_scaled(window.lost_at_most, factor),
            within_s=_scaled(window.within_s),
            left_at_least=_scaled(window.left_at_least, factor),
            after_s=_scaled(window.after_s),
            source=window.source,
        ),
    )


def _seen(sheet: CommandPart | TipPart, injectors: Labels) -> seen.SeenSheet:
    return seen.SeenSheet(
        kind=sheet.kind,
        injectors=injectors,
        readings=tuple(Seen(injector=r.injector, word=r.seen) for r in sheet.readings),
        place=sheet.place if isinstance(sheet, TipPart) else "",
        duration_s=_scaled(sheet.duration_s) if isinstance(sheet, TipPart) else None,
    )


def _walk(sheet: WalkPart, _injectors: Labels) -> walk.WalkSheet:
    return walk.WalkSheet(
        complaint=tuple(sheet.complaint),
        codes=tuple(sheet.codes),
        hose=sheet.hose,
        connectors=sheet.connectors,
    )


def _correction(sheet: CorrectionPart, injectors: Labels) -> correction.CorrectionSheet:
    return correction.CorrectionSheet(
        injectors=injectors,
        readings=_values(sheet.readings),
        step=float(sheet.gauge.step),
        unit=sheet.unit,
        apart=_scaled(sheet.window.apart),
        source=sheet.window.source,
    )


def _returns(sheet: ReturnPart, injectors: Labels) -> returns.ReturnSheet:
    return returns.ReturnSheet(
        injectors=injectors,
        readings=_values(sheet.readings),
        step=float(sheet.gauge.step),
        duration_s=_scaled(sheet.duration_s) or _scaled(sum(sheet.spells_s) or None),
        spells_s=tuple(float(s) for s in sheet.spells_s),
        rail_kpa=_scaled(sheet.rail, kpa_per(sheet.rail_unit)),
        state=sheet.state,
        high=_scaled(sheet.window.high),
        source=sheet.window.source,
        clamped=sheet.clamped,
    )


def _cranking(
    sheet: CrankingPart, injectors: Labels, cylinders: Mapping[str, int]
) -> cranking.CrankingSheet:
    """Humps are told by cylinder, everything else by injector."""
    humps = {r.cylinder: float(r.value) for r in sheet.readings}
    return cranking.CrankingSheet(
        cylinders=tuple((label, humps.get(cylinders.get(label, 0))) for label in injectors),
        step=float(sheet.gauge.step),
        trace=_crank_trace(sheet, injectors, cylinders),
    )


def _crank_trace(
    sheet: CrankingPart, injectors: Labels, cylinders: Mapping[str, int]
) -> cranking.CrankTrace | None:
    """Humps of a trace; with a sync the first is the first of the firing order."""
    if sheet.trace is None:
        return None
    by_cylinder = {cylinders.get(label, 0): label for label in injectors}
    order = sheet.firing_order or cranking.FIRING_ORDERS.get(len(injectors), ())
    labels = tuple(by_cylinder.get(c, "") for c in order)
    whole = len(labels) == len(injectors) and all(labels)
    return cranking.CrankTrace(
        cycles=tuple(tuple(float(h) for h in cycle) for cycle in sheet.trace.cycles),
        order=labels if sheet.trace.synced and whole else (),
    )


def _rail(sheet: RailPart, _injectors: Labels) -> rail.RailSheet:
    factor = kpa_per(sheet.unit)
    return rail.RailSheet(
        series=tuple(
            (float(p.t_s), float(p.wanted) * factor, float(p.actual) * factor) for p in sheet.series
        )
    )


def _opening(sheet: OpeningPart, injectors: Labels) -> opening.OpeningSheet:
    factor = kpa_per(sheet.unit)
    step = float(sheet.gauge.step) * factor
    return opening.OpeningSheet(
        injectors=injectors,
        step=step,
        window=_window(sheet.window, factor),
        form=sheet.nozzle.form,
        drawer=tuple(float(x) for x in sheet.shims_mm),
        strokes_each=sheet.strokes,
        when=sheet.when,
        unit=sheet.unit,
        length=sheet.shim_unit,
        learnt=tuple(
            Change(
                shim_mm=float(c.shim_mm), before=float(c.before) * factor,
                after=float(c.after) * factor, u=step / 12.0**0.5,
            )
            for c in sheet.learnt
        ),
        strokes=tuple(
            opening.Stroke(
                injector=r.injector, number=r.pass_, value=_scaled(r.value, factor),
                shim_mm=_scaled(r.shim_mm), seat=r.seat or "", sound=r.sound or "",
                spray=r.spray or "", mark=Mark(r.mark) if r.mark else None,
            )
            for r in sheet.readings
        ),
    )  # fmt: skip


_MAKE: Final[dict[str, Callable[[Any, Labels], Sheet]]] = {
    "walk_round": _walk,
    "supply_pressure": _supply,
    "hold": _hold,
    "command": _seen,
    "coil_resistance": _coils,
    "coil_voltage_drop": _coils,
    "pressure_drop": _drop,
    "injector_balance_running": _running,
    "tip_leak": _seen,
    "flow_bench": _bench,
    "correction": _correction,
    "return_volume": _returns,
    "rail_pressure": _rail,
    "opening_pressure": _opening,
}


def core_sheet(
    sheet: SheetPart, injectors: Labels, cylinders: Mapping[str, int] | None = None
) -> Sheet:
    """A sheet of the file for the core; ``cylinders`` by injector, for sheets told by cylinder."""
    if isinstance(sheet, CrankingPart):
        return _cranking(sheet, injectors, cylinders or {})
    return _MAKE[sheet.kind](sheet, injectors)


def core_job(file: JobFile) -> Job:
    """The whole job for the core."""
    labels = tuple(i.id for i in file.vehicle.injectors)
    cylinders = {i.id: i.cylinder for i in file.vehicle.injectors}
    return Job(
        injectors=labels,
        sheets=tuple((s.id, core_sheet(s, labels, cylinders)) for s in file.sheets),
        fuel_system=file.vehicle.fuel_system,
        feeds={i.id: i.feed for i in file.vehicle.injectors if i.feed},
        banks={i.id: i.bank for i in file.vehicle.injectors if i.bank},
        set_aside=frozenset(s.kind for s in file.job.set_aside),
    )
