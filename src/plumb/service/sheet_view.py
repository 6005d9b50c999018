"""A stored sheet with everything a screen shows of it."""

import math
from dataclasses import replace
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any, Final
from zlib import crc32

from plumb.core import (
    coil,
    correction,
    cranking,
    drop,
    hold,
    isolation,
    opening,
    rail,
    returns,
    seen,
    walk,
)  # fmt: skip
from plumb.core.bursts import Limits, Outcome
from plumb.core.care import CARE, HOW
from plumb.core.decision import Thresholds
from plumb.core.evidence import Result
from plumb.core.explain import Line, explain
from plumb.core.explain_sheets import explain_sheet
from plumb.core.next_step import NextStep, next_step
from plumb.core.quantities import KPA_PER, rounded
from plumb.core.rules import RULES
from plumb.core.running import FLOW_BENCH, RUNNING, SPRAYS
from plumb.core.words_next import TITLES, step_words
from plumb.core.words_sheets import headline_of, notes_of
from plumb.service.analysis import analysed, compared
from plumb.service.conditions import knob_views
from plumb.service.nozzles import SEATS, STROKE_SOUNDS, shim_unit
from plumb.service.parts import factor_of, has_rule
from plumb.service.rows import COLUMNS, row_views, scale_view, show
from plumb.service.views import (
    EntryView,
    ForetoldView,
    FormView,
    GaugeView,
    HoldView,
    LineView,
    NextView,
    OptionView,
    PlaceView,
    PointView,
    RuleOfSheetView,
    RuleView,
    SheetView,
    SpanView,
    TryView,
    WorkingView,
)
from plumb.store.records import WholeSheet

_KEYS: Final = {
    "blinks": "b", "weak": "w", "dark": "d", "steady": "s",
    "dry": "d", "weeps": "w", "drips": "r", "pours": "p",
}  # fmt: skip
_ONE_VALUE: Final = frozenset({coil.RESISTANCE, coil.VOLTAGE, RUNNING, FLOW_BENCH})


@lru_cache(maxsize=256)
def limit_words(limits: Limits, unit: str, sign: str = "\u00b1") -> str:
    """The limits of a rule in short: +-1.5 psi."""
    factor = factor_of(unit)
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


def _rule_view(outcome: Outcome, result: drop.DropResult, unit: str) -> RuleView:
    spec = RULES[outcome.rule]
    chosen = outcome.rule == result.sheet.rule.name
    limits = result.sheet.rule.effective() if chosen else spec.defaults
    shown = "psi" if unit not in KPA_PER and not chosen else unit
    return RuleView(
        code=spec.code,
        title=spec.title,
        decides=spec.decides,
        limits=limit_words(
            limits, shown, "at most " if spec.code == "within_each_other" else "\u00b1"
        ),
        source=(result.sheet.rule.source if chosen else "") or spec.source,
        applies=outcome.applies,
        reason=outcome.reason,
        caution=outcome.caution,
        reject=list(outcome.reject),
        repeat=list(outcome.repeat),
        chosen=chosen,
    )


def _rule_of(whole: WholeSheet) -> RuleOfSheetView:
    sheet = whole.sheet
    if sheet.kind in {coil.RESISTANCE, coil.VOLTAGE} or not has_rule(sheet.kind):
        return RuleOfSheetView(code="", title="", limits={}, source="")
    limits = {
        k: f"{v:f}" if hasattr(v, "normalize") else str(v)
        for k, v in sheet.rule_limits.items()
        if k not in {"label", "source"} and v is not None
    }
    title = sheet.rule_limits.get("label") or RULES[sheet.rule_name].title
    return RuleOfSheetView(
        code=sheet.rule_name, title=title, limits=limits, source=sheet.rule_limits.get("source", "")
    )


def gauge_of(whole: WholeSheet) -> GaugeView:
    """The gauge as the sheet keeps it."""
    sheet = whole.sheet
    meter: dict[str, Any] = sheet.conditions.get("meter") or {}
    return GaugeView(
        id=0,
        name=sheet.gauge_name,
        unit=sheet.unit,
        step=sheet.gauge_step_typed,
        **{k: f"{v:f}" for k, v in meter.items()},
    )


def _options(words: tuple[str, ...]) -> list[OptionView]:
    return [OptionView(code=w, label=w) for w in words]


def entry_view(kind: str, units: tuple[str, str] = ("", ""), strokes: int = 0) -> EntryView:
    """How readings of a kind are typed; ``units`` of its two figures, strokes asked of each row."""
    shape = {
        "hold": "point", "walk_round": "form", "pressure_drop": "burst",
        opening.KIND: "stroke", rail.KIND: "trace",
    }.get(kind)  # fmt: skip
    if shape is None:
        shape = "words" if kind in seen.WORDS else "value"
    figures = {
        "burst": ["first", "second"], "point": ["pressure"], "stroke": ["opens", "shims"],
    }.get(shape, [])  # fmt: skip
    if shape == "value":
        figures = {
            coil.RESISTANCE: ["coil"], coil.VOLTAGE: ["drop"], FLOW_BENCH: ["volume"],
            RUNNING: ["drop"], correction.KIND: ["correction"], cranking.KIND: ["hump"],
            returns.KIND: ["volume"],
        }.get(kind, ["pressure"])  # fmt: skip
    return EntryView(
        shape=shape,
        figures=figures,
        units=[units[1] if name == "shims" else units[0] for name in figures],
        sounds=_options(STROKE_SOUNDS) if kind == opening.KIND else [],
        seats=_options(SEATS) if kind == opening.KIND else [],
        strokes=strokes,
        words=[OptionView(code=w, label=w, key=_KEYS[w]) for w in seen.WORDS.get(kind, {})],
        sprays=_options(SPRAYS) if kind in {FLOW_BENCH, opening.KIND} else [],
        burst_marks=shape == "burst",
        over=kind in {coil.RESISTANCE, coil.VOLTAGE},
    )


def next_view(step: NextStep | None, result: Result | None) -> NextView | None:
    """The next step in words."""
    if step is None:
        return None
    advice = step_words(step, compared(result) if result is not None else None)
    return NextView(
        kind=step.kind,
        injectors=list(step.injectors),
        passes=step.passes,
        minutes=round(step.minutes, 1),
        isolation=step.isolation,
        title=advice.title,
        text=advice.text,
    )


def ran_at(whole: WholeSheet) -> datetime | None:
    """When the engine last ran between bursts, as it was noted on the sheet."""
    runs = ((whole.sheet.extras or {}).get("sheet") or {}).get("x-engine-runs") or []
    if not runs:
        return None
    return datetime.fromisoformat(str(runs[-1])).astimezone(UTC).replace(tzinfo=None)


def sheet_view(whole: WholeSheet, thresholds: Thresholds, unit: str | None = None) -> SheetView:
    """A stored sheet with everything a screen shows, pressures in ``unit``."""
    sheet = whole.sheet
    shown = unit if unit is not None and sheet.unit in KPA_PER else sheet.unit
    result = _told_in(analysed(whole, thresholds), shown)
    flow = compared(result)
    last_run = ran_at(whole)
    rows = row_views(whole, result, shown, last_run)
    return SheetView(
        id=sheet.id,
        key=sheet.key,
        job_number=whole.job_number,
        kind=sheet.kind,
        title=TITLES[sheet.kind],
        sub=HOW[sheet.kind],
        care=CARE[sheet.kind],
        version=sheet.version,
        taken=sheet.taken_typed,
        unit=shown,
        fuel_system=whole.fuel_system,
        gauge=gauge_of(whole),
        rule=_rule_of(whole),
        knobs=knob_views(whole),
        columns=COLUMNS.get(sheet.kind, []),
        entry=entry_view(
            sheet.kind,
            (sheet.unit, shim_unit(whole)),
            result.sheet.strokes_each if isinstance(result, opening.OpeningResult) else 0,
        ),
        scale=scale_view(result, shown),
        rows=rows,
        headline=[SpanView(text=s.text, tone=s.tone) for s in headline_of(result, shown)],
        notes=list(notes_of(result, shown)),
        rules=[_rule_view(o, flow, shown) for o in flow.rules] if flow else [],
        next=next_view(next_step(flow), flow) if flow else None,
        agreeing=_agreeing(result),
        agreeing_shown=_agreeing_shown(result, shown),
        split=flow.split if flow else False,
        passed=result.passed,
        measured=_measured(rows, result),
        reference=None
        if flow is None or flow.flow.reference is None or flow.sheet.linear
        else flow.flow.reference / math.sqrt(factor_of(sheet.unit)),
        limit_in_flow=_limit_in_flow(flow, shown) if flow else "",
        hold=_hold_view(whole, result, shown) if isinstance(result, hold.HoldResult) else None,
        form=_form_view(whole),
        engine_ran_at=last_run.isoformat() + "Z" if last_run else "",
        saved_at=max((r.taken_at for r in whole.readings), default=sheet.taken_at).isoformat()
        + "Z",
        learnt=f"{crc32(repr(whole.learnt).encode()):x}" if whole.learnt else "",
    )


def _told_in(result: Result, unit: str) -> Result:
    """The result with its words in ``unit``: those on nozzles name pressures all over."""
    if isinstance(result, opening.OpeningResult):
        return replace(result, sheet=replace(result.sheet, unit=unit))
    return result


def _measured(rows: list[Any], result: Result) -> int:
    if isinstance(result, drop.DropResult):
        return result.measured
    if isinstance(result, hold.HoldResult):
        return len(result.sheet.series)
    if isinstance(result, walk.WalkResult):
        return int(result.begun)
    if isinstance(result, rail.RailResult):
        return len(result.sheet.series)
    if isinstance(result, cranking.CrankingResult) and result.humps:
        return len(result.humps)
    return sum(1 for r in rows if r.readings)


def _agreeing(result: Result) -> list[str]:
    if isinstance(result, drop.DropResult):
        return list(result.flow.agreeing)
    return list(result.compared.agreeing) if isinstance(result, coil.CoilResult) else []


def _agreeing_shown(result: Result, unit: str) -> str:
    """What those that agree read: the mean drop, or the mean resistance."""
    if isinstance(result, coil.CoilResult):
        reference = result.compared.reference
        if reference is None:
            return ""
        where = (
            "Ω at 20 °C"
            if result.sheet.corrects
            else {"coil_resistance": "Ω"}.get(result.kind, "V")
        )
        return f"{rounded(reference, 2)} {where}"
    if not isinstance(result, drop.DropResult) or result.split:
        return ""
    mean = result.mean_drop_of_agreeing()
    return "" if mean is None else f"{show(mean, unit, result.sheet.step)} {unit}"


def _limit_in_flow(result: drop.DropResult, unit: str) -> str:
    if result.limit_in_flow is None or not math.isfinite(result.limit_in_flow):
        return ""
    limit = limit_words(Limits(limit=RULES["plain_mean"].defaults.limit), unit)
    return f"{limit} on this rail is \u00b1{rounded(100 * result.limit_in_flow, 1)} % of flow."


def _form_view(whole: WholeSheet) -> FormView | None:
    if whole.sheet.kind not in {"walk_round", "supply_pressure"}:
        return None
    kept = whole.sheet.conditions
    return FormView(
        complaint=list(kept.get("complaint", [])),
        codes=list(kept.get("codes", [])),
        hose=kept.get("hose", ""),
        connectors=kept.get("connectors", ""),
        note=kept.get("note", ""),
        pump=kept.get("pump", ""),
        complaints=[OptionView(code=c, label=w) for c, w in walk.COMPLAINTS.items()],
    )


def _hold_view(whole: WholeSheet, result: hold.HoldResult, unit: str) -> HoldView:
    factor = factor_of(unit)
    step = whole.sheet.gauge_step
    points = sorted((r for r in whole.readings if r.shape == "point"), key=lambda r: r.at_s or 0.0)
    begun = next((r for r in points if not r.at_s), None)
    last = points[-1].at_s if points else None
    return HoldView(
        points=[
            PointView(
                id=r.id, t_s=r.at_s or 0.0, value=(r.value or 0.0) / factor,
                shown=show(r.value or 0.0, unit, step), note=r.note,
            )
            for r in points
        ],
        limits=[
            ForetoldView(
                name=j.name, at_s=j.at_s, least_left=j.least_left / factor,
                value=j.then.value / factor, low=j.then.low / factor, high=j.then.high / factor,
                read=j.then.read, state=j.state.value, shown=show(j.then.value, unit, step),
            )
            for j in result.judged
        ],
        state=result.state.value,
        begun_at=begun.taken_at.isoformat() + "Z" if begun else "",
        due_s=result.due_after(last if last is not None else -1.0),
        line=_leak_words(result, unit),
        settled_early=result.early,
        tries=_tries(whole, result),
        places=_places(result),
        contradiction=result.board.contradiction,
    )  # fmt: skip


def _leak_words(result: hold.HoldResult, unit: str) -> str:
    line = result.leak_line
    if line is None or result.rising:
        return ""
    k = line.k * 60.0 / math.sqrt(factor_of(unit))
    return f"Loses {rounded(k, 3)} √{unit} a minute, by {line.points} readings."


def _tries(whole: WholeSheet, result: hold.HoldResult) -> list[TryView]:
    kept = {r.slot: r for r in whole.readings if r.shape == "word"}
    outcomes = dict(result.board.tried)
    proposal = result.board.next_step
    return [
        TryView(
            step=s.code,
            title=s.title,
            outcomes=list(s.leaves),
            outcome=outcomes.get(s.code, ""),
            reading_id=kept[s.code].id if s.code in kept else "",
            proposed=proposal is not None and proposal.step == s.code,
            minutes=s.minutes,
        )
        for s in isolation.STEPS[result.sheet.rail]
    ]


def _places(result: hold.HoldResult) -> list[PlaceView]:
    struck = {s.source: s.because for s in result.board.struck}
    return [
        PlaceView(source=code, name=name, struck=code in struck, because=struck.get(code, ""))
        for code, name in isolation.SOURCES[result.sheet.rail].items()
    ]


def line_view(line: Line) -> LineView:
    """One figure of how it was worked out."""
    return LineView(
        label=line.label,
        figure=line.figure,
        unit=line.unit,
        formula=line.formula,
        source=line.source,
    )


def working_view(whole: WholeSheet, thresholds: Thresholds, unit: str | None = None) -> WorkingView:
    """How a stored sheet was worked out."""
    shown = unit if unit is not None and whole.sheet.unit in KPA_PER else whole.sheet.unit
    result = _told_in(analysed(whole, thresholds), shown)
    flow = compared(result)
    if flow is not None and not flow.sheet.linear:
        working = explain(flow, shown)
    else:
        working = explain_sheet(result, shown)
    return WorkingView(
        version=whole.sheet.version,
        shared=[line_view(x) for x in working.shared],
        injectors={label: [line_view(x) for x in lines] for label, lines in working.injectors},
    )
