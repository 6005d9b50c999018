"""A job on the screen: its route, its next step, its verdict."""

from collections.abc import Mapping, Sequence
from typing import Final

from plumb.core import drop, hold, opening, running, seen
from plumb.core.decision import State, Thresholds
from plumb.core.evidence import Result, has_readings, newest
from plumb.core.job import ROUTES, JobResult
from plumb.core.next_step import next_step
from plumb.core.quantities import show_pressure
from plumb.core.suspicions import NOT_RULED_OUT
from plumb.core.verdict import Verdict
from plumb.core.words_next import TITLES, before_condemning
from plumb.core.words_sheets import headline_of, state_words
from plumb.core.words_verdict import (
    ACTION_WORDS,
    CONDITION_WORDS,
    TONE,
    assumed,
    one_or_all,
    ruled_out,
    sentence,
)
from plumb.service.analysis import compared, weighed
from plumb.service.job_views import JobView, KnotView, VerdictRowView, VerdictView
from plumb.service.rows import row_views
from plumb.service.sheet_view import next_view, ran_at
from plumb.service.vehicles import vehicle_view
from plumb.service.views import AdviceView, RowView, SpanView
from plumb.store.records import InjectorRecord, JobRecord, VehicleRecord, WholeSheet

_OPTIONAL: Final = frozenset({"coil_voltage_drop", "flow_bench"})
_MATRIX: Final = (
    "command", "coil_resistance", "coil_voltage_drop", "pressure_drop", "injector_balance_running",
    "tip_leak", "flow_bench", "correction", "cranking_balance", "return_volume",
    "opening_pressure",
)  # fmt: skip
_HEADS: Final = {
    "coil_resistance": "Coil at 20 °C",
    "coil_voltage_drop": "Under load",
    "pressure_drop": "Flow against the set",
    "injector_balance_running": "Idling",
}


def job_view(
    job: JobRecord,
    vehicle: VehicleRecord,
    injectors: tuple[InjectorRecord, ...],
    sheets: list[WholeSheet],
    thresholds: Thresholds,
) -> JobView:
    """A job with its vehicle, its route, what comes next and what it all says."""
    result = weighed(job, vehicle.fuel_system, injectors, sheets, thresholds)
    there = newest(result.sheets)
    step = result.next_step
    on = there[step.kind][1] if step and step.kind in there else None
    return JobView(
        number=job.number,
        opened=job.opened_typed,
        closed=job.closed_at is not None,
        complaint=job.complaint,
        codes=list(job.codes),
        distance_km=job.distance_typed,
        vehicle=vehicle_view(vehicle, injectors),
        route=route(job, vehicle, sheets, result),
        next=next_view(step, on),
        verdict=verdict_view(injectors, sheets, result),
    )


def route(
    job: JobRecord, vehicle: VehicleRecord, sheets: list[WholeSheet], result: JobResult
) -> list[KnotView]:
    """The knots in working order: sheets that are there, and those that could be begun.

    What nobody needs yet is left out: the flow bench and the loaded coil test until they are asked
    for or begun; once the supply has failed, nothing behind it is offered as next.
    """
    aside = {s["kind"]: str(s["reason"]) for s in job.set_aside or ()}
    by_key = dict(result.sheets)
    wanted = result.next_step.kind if result.next_step else ""
    knots: list[KnotView] = []
    for kind in ROUTES.get(vehicle.fuel_system, ()):
        mine = [w for w in sheets if w.sheet.kind == kind]
        knots += [_there(w, by_key[w.sheet.key], n, result) for n, w in enumerate(mine)]
        if not mine and (kind not in _OPTIONAL or kind == wanted or kind in aside):
            state = "aside" if kind in aside else "next" if kind == wanted else "open"
            sub = aside.get(kind, _why_cold(kind, result) if state == "open" else "next")
            knots.append(
                KnotView(sheet_id=0, key="", kind=kind, title=TITLES[kind], sub=sub, state=state)
            )
    return knots


def _why_cold(kind: str, result: JobResult) -> str:
    """A word on a knot that waits: cold work on a hot engine."""
    if kind != "coil_resistance":
        return ""
    hot = any(
        isinstance(r, hold.HoldResult) and (r.sheet.engine_c or 0.0) > 60.0
        for _, r in result.sheets
    )
    return "engine hot: corrected, or tomorrow" if hot else "cold engine"


def _there(whole: WholeSheet, sheet: Result, position: int, result: JobResult) -> KnotView:
    flow = compared(sheet)
    waits = next_step(flow) is not None if flow is not None else False
    unfinished = isinstance(sheet, hold.HoldResult) and sheet.state is State.UNSETTLED
    step = result.next_step
    asked = step is not None and step.kind == whole.sheet.kind
    begun = has_readings(sheet)
    state = "now" if not begun or waits or unfinished or asked else "done"
    return KnotView(
        sheet_id=whole.sheet.id,
        key=whole.sheet.key,
        kind=whole.sheet.kind,
        title=TITLES[whole.sheet.kind] + (" again" if position else ""),
        sub=knot_words(whole, sheet),
        state=state,
    )


def knot_words(whole: WholeSheet, sheet: Result) -> str:
    """A line under a knot: how far it is, or what it says."""
    if not has_readings(sheet):
        return "nothing noted yet"
    flow = compared(sheet)
    if flow is None:
        text = "".join(s.text for s in headline_of(sheet, whole.sheet.unit)).rstrip(".")
        return text.split(":")[0] if len(text) > 44 else text
    measured = sum(1 for f in flow.findings if f.passes or f.state is State.NO_RESPONSE)
    unsettled = sum(1 for f in flow.findings if f.state is State.UNSETTLED)
    out = {State.LOW, State.HIGH, State.NO_RESPONSE, State.SPLIT}
    leaning = sum(1 for f in flow.findings if f.state in out)
    text = f"{measured} of {len(whole.injectors)}"
    if unsettled:
        text += f", {unsettled} to repeat"
    return text + (f", {leaning} out" if leaning else "")


def verdict_view(
    injectors: tuple[InjectorRecord, ...],
    sheets: list[WholeSheet],
    result: JobResult,
) -> VerdictView:
    """The verdict screen: sentence, matrix, ruled out, assumed."""
    there = newest(result.sheets)
    kinds: list[str] = [k for k in _MATRIX if k in there]
    by_key = {w.sheet.key: w for w in sheets}
    rows = {
        kind: {
            r.injector: r
            for r in row_views(
                by_key[there[kind][0]], there[kind][1], by_key[there[kind][0]].sheet.unit,
                ran_at(by_key[there[kind][0]]),
            )
        }
        for kind in kinds
    }  # fmt: skip
    flow = next((k for k in (drop.KIND, running.RUNNING, running.FLOW_BENCH) if k in kinds), None)
    measured = compared(there[flow][1]) if flow else None
    verdicts = dict(result.verdicts)
    return VerdictView(
        sentence=[SpanView(text=s.text, tone=s.tone) for s in sentence(result)],
        sub=_sub(sheets, result),
        columns=[_HEADS.get(k, TITLES[k]) for k in kinds],
        chart=kinds.index(flow) if flow else None,
        corridor_percent=round(100.0 * measured.tolerance, 2) if measured else 10.0,
        rows=[
            _verdict_row(i, verdicts[i.label], kinds, rows, flow, there, result)
            for i in injectors
            if i.label in verdicts
        ],
        causes=[words for _, words in result.causes],
        ruled_out=[AdviceView(title=a.title, text=a.text) for a in ruled_out(result)],
        assumed=list(assumed(result)),
        advice=[AdviceView(title=a.title, text=a.text) for a in before_condemning(result.verdicts)]
        + (
            [AdviceView(title="One or the set", text=text)]
            if (text := one_or_all(result.verdicts))
            else []
        ),
    )


def _sub(sheets: list[WholeSheet], result: JobResult) -> str:
    count = sum(len(w.readings) for w in sheets)
    open_ = sum(1 for _, v in result.verdicts if v.condition == "not_settled")
    begun = sum(1 for _, r in result.sheets if has_readings(r))
    left = f"{open_} not settled" if open_ else "nothing left unsettled"
    return f"{begun} sheet{'s' * (begun != 1)}, {count} readings, {left}"


def _verdict_row(
    injector: InjectorRecord,
    verdict: Verdict,
    kinds: Sequence[str],
    rows: Mapping[str, Mapping[str, RowView]],
    flow: str | None,
    there: dict[str, tuple[str, Result]],
    result: JobResult,
) -> VerdictRowView:
    label = injector.label
    hung = rows[flow].get(label) if flow else None
    return VerdictRowView(
        injector=label,
        bank=injector.bank,
        feed=injector.feed,
        cells=[_cell(kind, label, there[kind][1]) for kind in kinds],
        at=hung.at if hung else None,
        u_at=hung.u_at if hung else None,
        tone=TONE.get(verdict.condition, ""),
        condition=verdict.condition,
        condition_words=CONDITION_WORDS[verdict.condition],
        action=verdict.action,
        action_words=ACTION_WORDS[verdict.action],
        because=verdict.because,
        evidence=[f.text for f in result.facts_about(label)],
        not_ruled_out=[NOT_RULED_OUT[c] for c in verdict.not_ruled_out],
        ruled_out=[NOT_RULED_OUT[c] for c in verdict.ruled_out],
        rows=list(verdict.fired),
        contradictions=[c.text for c in verdict.contradictions],
    )


def _cell(kind: str, label: str, sheet: Result) -> str:
    """What one sheet shows of one injector, in a word or a figure."""
    finding = next((f for f in sheet.findings if f.injector == label), None)
    if finding is None:
        return ""
    if kind in seen.WORDS:
        return state_words(finding, sheet)
    if finding.state is State.OPEN:
        return "open"
    if kind == "coil_resistance":
        return "" if finding.value is None else f"{finding.value:.2f} Ω"
    if kind == "coil_voltage_drop":
        return "" if finding.value is None else f"{finding.value:.2f} V"
    if finding.state is State.NO_RESPONSE:
        return "no response"
    if kind in {"correction", "return_volume", "cranking_balance"}:
        return "" if finding.value is None else f"{finding.value:g}".replace("-", "−")
    if isinstance(sheet, opening.OpeningResult):
        unit, step = sheet.sheet.unit, sheet.sheet.step
        return "" if finding.value is None else f"{show_pressure(finding.value, unit, step)} {unit}"
    if finding.deviation is None:
        return ""
    return f"{100 * finding.deviation:+.1f} %".replace("-", "−")
