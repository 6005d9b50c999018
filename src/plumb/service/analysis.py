"""From a stored sheet to what the core analyses, and from there to what a screen shows."""

import math
from decimal import Decimal
from functools import lru_cache
from typing import Any

from plumb.core import words
from plumb.core.bursts import Limits, Outcome
from plumb.core.decision import State, Thresholds
from plumb.core.drop import (
    DropReading,
    DropResult,
    DropSheet,
    Expected,
    Finding,
    Mark,
    analyse_drop,
)
from plumb.core.explain import Line, explain
from plumb.core.job import verdicts_of
from plumb.core.next_step import next_step
from plumb.core.quantities import decimals_shown, kpa_per, plain, rounded, show_pressure
from plumb.core.rules import RULES, RuleChoice
from plumb.core.verdict import Verdict
from plumb.service.views import (
    AdviceView,
    ConditionsView,
    GaugeView,
    LineView,
    NextView,
    ReadingView,
    RowView,
    RuleView,
    SheetView,
    SpanView,
    WorkingView,
)
from plumb.store.records import InjectorRecord, ReadingRecord, SheetRecord, WholeSheet

_LIMIT_FIELDS = ("limit", "reject")
TONES = {
    State.LOW: "low",
    State.HIGH: "high",
    State.UNSETTLED: "open",
    State.SPLIT: "open",
    State.NO_RESPONSE: "open",
}


def digits(value: Any) -> str | None:  # noqa: ANN401  a JSON number or nothing
    """A stored JSON number as the digits that were typed."""
    if value is None:
        return None
    return plain(value) if isinstance(value, Decimal) else str(value)


def rule_choice(sheet: SheetRecord) -> RuleChoice:
    """The rule of a stored sheet for the core: fractions and kPa."""
    stored, factor = sheet.rule_limits, kpa_per(sheet.unit)

    def number(name: str, scale: float) -> float | None:
        value = stored.get(name)
        return None if value is None else float(value) * scale

    return RuleChoice(
        name=sheet.rule_name,
        label=stored.get("label", ""),
        source=stored.get("source", ""),
        limits=Limits(
            tolerance=number("tolerance_percent", 0.01),
            limit=number("limit", factor),
            reject=number("reject", factor),
            score=number("score", 1.0),
            alpha=number("alpha", 1.0),
            suspect=stored.get("suspect"),
        ),
    )


def core_sheet(whole: WholeSheet) -> DropSheet:
    """A stored sheet for the core."""
    sheet = whole.sheet
    labels = {i.id: i.label for i in whole.injectors}
    expected = sheet.conditions.get("expected")
    return DropSheet(
        injectors=tuple(i.label for i in whole.injectors),
        step=sheet.gauge_step,
        rule=rule_choice(sheet),
        expected=None
        if not expected
        else Expected(
            drop=float(expected["drop"]) * kpa_per(sheet.unit),
            source=expected.get("source") or "this sheet",
        ),
        neighbour_proven=bool(sheet.conditions.get("neighbour_proven")),
        readings=tuple(
            DropReading(
                injector=labels[r.injector_id],
                number=r.number,
                first=r.first_kpa,
                second=r.second_kpa,
                mark=Mark(r.mark) if r.mark else None,
            )
            for r in whole.readings
        ),
    )


def conditions_view(sheet: SheetRecord) -> ConditionsView:
    """The conditions of a stored sheet."""
    stored = sheet.conditions
    burst, engine = stored.get("burst") or {}, stored.get("engine") or {}
    expected = stored.get("expected") or {}
    return ConditionsView(
        gauge=GaugeView(id=0, name=sheet.gauge_name, unit=sheet.unit, step=sheet.gauge_step_typed),
        pulses=burst.get("pulses"),
        on_ms=digits(burst.get("on_ms")),
        engine_state=engine.get("state", "key_on_engine_off"),
        engine_temperature_c=digits(engine.get("temperature_c")),
        supply_v=digits(stored.get("supply_v")),
        neighbour_proven=bool(stored.get("neighbour_proven")),
        expected_drop=digits(expected.get("drop")),
        expected_source=expected.get("source", ""),
        rule=sheet.rule_name,
        rule_title=RULES[sheet.rule_name].title,
        rule_limits={
            k: digits(v) or ""
            for k, v in sheet.rule_limits.items()
            if k not in {"label", "source"} and v is not None
        },
        rule_source=sheet.rule_limits.get("source", ""),
    )


def _reading_view(reading: ReadingRecord, unit: str, step: float) -> ReadingView:
    first, second = reading.first_kpa, reading.second_kpa
    as_typed = reading.unit == unit
    return ReadingView(
        id=reading.id,
        pass_number=reading.number,
        first_typed=reading.first_typed,
        second_typed=reading.second_typed,
        first=""
        if first is None
        else _figure(first, reading.first_typed, unit, step, as_typed=as_typed),
        second=""
        if second is None
        else _figure(second, reading.second_typed, unit, step, as_typed=as_typed),
        drop="" if first is None or second is None else show_pressure(first - second, unit, step),
        mark=reading.mark,
        sound=reading.sound,
        note=reading.note,
        taken=reading.taken_at.isoformat() + "Z",
    )


def _figure(kpa: float, typed: str | None, unit: str, step: float, *, as_typed: bool) -> str:
    """As typed where it has more digits than the gauge allows, else with the gauge's digits."""
    shown = show_pressure(kpa, unit, step)
    if (
        as_typed
        and typed is not None
        and len(typed.partition(".")[2]) > len(shown.partition(".")[2])
    ):
        return typed
    return shown


def _row(
    injector: InjectorRecord,
    whole: WholeSheet,
    finding: Finding,
    result: DropResult,
    verdict: Verdict,
    unit: str,
) -> RowView:
    mine = sorted(
        (r for r in whole.readings if r.injector_id == injector.id), key=lambda r: r.number
    )
    step = whole.sheet.gauge_step
    views = [_reading_view(r, unit, step) for r in mine]
    firsts = [r.first_kpa for r in mine if r.first_kpa is not None and r.second_kpa is not None]
    seconds = [r.second_kpa for r in mine if r.second_kpa is not None]
    several = len(firsts) > 1

    def mean(values: list[float]) -> str:
        if not values:
            return ""
        value = sum(values) / len(values)
        if not several:
            return show_pressure(value, unit, step)
        return rounded(value / kpa_per(unit), decimals_shown(unit, step) + 1)

    return RowView(
        injector=injector.label,
        cylinder=injector.cylinder,
        bank=injector.bank,
        feed=injector.feed,
        readings=views,
        first=mean(firsts) if several else (views[-1].first if views else ""),
        second=mean(seconds) if several else (views[-1].second if views else ""),
        drop=mean([a - b for a, b in zip(firsts, seconds, strict=True)]),
        state=finding.state.value,
        words=words.STATE_WORDS[finding.state]
        if finding.passes or finding.state is not State.NOT_JUDGED
        else "",
        under=words.under_state(finding),
        tone=TONES.get(finding.state, ""),
        deviation_percent=_percent(finding.deviation),
        uncertainty_percent=_percent(finding.u),
        settled=finding.state in {State.IN_PLUMB, State.LOW, State.HIGH},
        agrees=finding.agrees,
        passes_to_settle=finding.passes_to_settle,
        because=words.because(finding, result),
        condition=verdict.condition,
        action=verdict.action,
    )


def _percent(fraction: float | None) -> float | None:
    return None if fraction is None or not math.isfinite(fraction) else round(100.0 * fraction, 2)


@lru_cache(maxsize=256)
def _limit_words(limits: Limits, unit: str, sign: str = "\u00b1") -> str:
    """The limits of a rule in short: +-1.5 psi."""
    factor = kpa_per(unit)
    places = {"psi": 1, "kPa": 1, "bar": 2, "MPa": 3}.get(unit, 2)
    if limits.limit is not None and limits.reject is not None:
        return (
            f"over {rounded(limits.limit / factor, places)} repeat, "
            f"{rounded(limits.reject / factor, places)} {unit} reject"
        )
    if limits.limit is not None:
        return f"{sign}{rounded(limits.limit / factor, places)} {unit}"
    if limits.tolerance is not None:
        return f"\u00b1{limits.tolerance * 100:g} %"
    if limits.score is not None:
        return f"beyond {limits.score:g}"
    return f"\u03b1 {limits.alpha:g}" if limits.alpha is not None else ""


def _rule_view(outcome: Outcome, result: DropResult, unit: str) -> RuleView:
    spec = RULES[outcome.rule]
    chosen = outcome.rule == result.sheet.rule.name
    limits = result.sheet.rule.effective() if chosen else spec.defaults
    return RuleView(
        code=spec.code,
        title=spec.title,
        decides=spec.decides,
        limits=_limit_words(
            limits, unit, "at most " if spec.code == "within_each_other" else "\u00b1"
        ),
        source=(result.sheet.rule.source if chosen else "") or spec.source,
        applies=outcome.applies,
        reason=outcome.reason,
        caution=outcome.caution,
        reject=list(outcome.reject),
        repeat=list(outcome.repeat),
        chosen=chosen,
    )


def analysed(whole: WholeSheet, thresholds: Thresholds) -> DropResult:
    """The core's result of a stored sheet."""
    return analyse_drop(core_sheet(whole), thresholds)


def sheet_view(whole: WholeSheet, thresholds: Thresholds, unit: str | None = None) -> SheetView:
    """A stored sheet with everything a screen shows, pressures in ``unit``."""
    sheet = whole.sheet
    shown = unit or sheet.unit
    result = analysed(whole, thresholds)
    verdicts = verdicts_of(result)
    by_label = dict(verdicts)
    findings = {f.injector: f for f in result.findings}
    step = next_step(result)
    advice = words.step_words(step, result) if step else None
    return SheetView(
        id=sheet.id,
        key=sheet.key,
        job_number=whole.job_number,
        kind=sheet.kind,
        version=sheet.version,
        taken=sheet.taken_typed,
        unit=shown,
        fuel_system=whole.fuel_system,
        conditions=conditions_view(sheet),
        rows=[
            _row(i, whole, findings[i.label], result, by_label[i.label], shown)
            for i in whole.injectors
        ],
        headline=[SpanView(text=s.text, tone=s.tone) for s in words.headline(result)],
        advice=[AdviceView(title=a.title, text=a.text) for a in words.before_condemning(verdicts)],
        notes=list(words.notes(result, shown)),
        rules=[_rule_view(o, result, shown) for o in result.rules],
        next=None
        if step is None or advice is None
        else NextView(
            injectors=list(step.injectors),
            passes=step.passes,
            minutes=step.minutes,
            title=advice.title,
            text=advice.text,
        ),
        agreeing=list(result.flow.agreeing),
        agreeing_drop=_agreeing_drop(result, shown),
        split=result.split,
        passed=result.passed,
        measured=result.measured,
        reference=None
        if result.flow.reference is None
        else result.flow.reference / math.sqrt(kpa_per(sheet.unit)),
        corridor_percent=_corridor(result),
        limit_in_flow=_limit_in_flow(result, shown),
        saved_at=max((r.taken_at for r in whole.readings), default=sheet.taken_at).isoformat()
        + "Z",
    )


def _corridor(result: DropResult) -> float:
    """Half-width of the tolerance that the sheet's rule draws, in per cent."""
    limits = [f.tolerance for f in result.findings if f.tolerance is not None]
    return round(100.0 * (max(limits) if limits else result.tolerance), 2)


def _agreeing_drop(result: DropResult, unit: str) -> str:
    members = set(result.flow.agreeing)
    drops = [
        o.value
        for outcome in result.rules
        if outcome.rule == "plain_mean"
        for o in outcome.rows
        if o.injector in members
    ]
    if not drops:
        return ""
    return show_pressure(sum(drops) / len(drops), unit, result.sheet.step)


def _limit_in_flow(result: DropResult, unit: str) -> str:
    if result.limit_in_flow is None or not math.isfinite(result.limit_in_flow):
        return ""
    limit = _limit_words(Limits(limit=RULES["plain_mean"].defaults.limit), unit)
    return f"{limit} on this rail is \u00b1{rounded(100 * result.limit_in_flow, 1)} % of flow."


def _line(line: Line) -> LineView:
    return LineView(
        label=line.label,
        figure=line.figure,
        unit=line.unit,
        formula=line.formula,
        source=line.source,
    )


def working_view(whole: WholeSheet, thresholds: Thresholds, unit: str | None = None) -> WorkingView:
    """How a stored sheet was worked out."""
    working = explain(analysed(whole, thresholds), unit or whole.sheet.unit)
    return WorkingView(
        version=whole.sheet.version,
        shared=[_line(x) for x in working.shared],
        injectors={label: [_line(x) for x in lines] for label, lines in working.injectors},
    )
