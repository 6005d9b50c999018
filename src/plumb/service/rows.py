"""The rows of a sheet, and the scale their bobs hang on."""

import math
from datetime import datetime, timedelta
from typing import Final

from plumb.core import (
    coil,
    correction,
    cranking,
    drop,
    opening,
    returns,
    running,
    seen,
    supply,
    words,
)  # fmt: skip
from plumb.core.decision import State
from plumb.core.evidence import Result
from plumb.core.finding import Finding
from plumb.core.quantities import KPA_PER, decimals_for, decimals_shown, rounded, show_pressure
from plumb.core.words_opening import opening_under
from plumb.core.words_sheets import SUPPLY_NAMES, because_of, state_words
from plumb.service.nozzle_rows import nozzle_cells, nozzle_view, opening_scale
from plumb.service.nozzles import shim_unit, shown_shim
from plumb.service.parts import factor_of, now
from plumb.service.views import ReadingView, RowView, ScaleView
from plumb.store.records import InjectorRecord, ReadingRecord, WholeSheet

TONES: Final = {
    State.LOW: "low",
    State.HIGH: "high",
    State.UNSETTLED: "open",
    State.SPLIT: "open",
    State.NO_RESPONSE: "open",
    State.OPEN: "open",
}
COLUMNS: Final[dict[str, list[str]]] = {
    "pressure_drop": ["first", "second", "drop"],
    "injector_balance_running": ["rail drop"],
    "flow_bench": ["volume"],
    "coil_resistance": ["read", "at 20 °C"],
    "coil_voltage_drop": ["volts"],
    "supply_pressure": ["reads"],
    "correction": ["correction"],
    "cranking_balance": ["hump"],
    "return_volume": ["volume"],
    "opening_pressure": ["opens at", "shims"],
}
_EVAPORATED: Final = timedelta(hours=12)
"""After that long nobody counts the raw fuel of a burst any more; common practice, no source."""
_SETTLED: Final = frozenset({State.IN_PLUMB, State.LOW, State.HIGH, State.OPEN})


def reading_view(
    reading: ReadingRecord, unit: str, step: float, sheet_unit: str, length: str
) -> ReadingView:
    """One reading as typed and as shown; shims in ``length``."""
    figures = [
        figure(value, typed, unit, step, as_typed=unit == sheet_unit)
        for value, typed in (
            (reading.first_kpa, reading.first_typed),
            (reading.second_kpa, reading.second_typed),
            (reading.value, reading.value_typed),
        )
        if value is not None
    ]
    shown = " ".join(figures) or reading.word or (reading.mark or "").replace("_", " ")
    return ReadingView(
        id=reading.id,
        pass_number=reading.number,
        first_typed=reading.first_typed,
        second_typed=reading.second_typed,
        value_typed=reading.value_typed,
        shown=shown,
        mark=reading.mark,
        word=reading.word,
        sound=reading.sound,
        spray=reading.spray,
        fires_at=reading.fires_at_typed,
        seat=reading.seat,
        shim=shown_shim(reading.shim_typed, length),
        note=reading.note,
        taken=reading.taken_at.isoformat() + "Z",
    )


def show(value: float, unit: str, step: float) -> str:
    """A figure of the core with the gauge's digits: kPa in ``unit``, the rest as it is."""
    if unit in KPA_PER:
        return show_pressure(value, unit, step)
    return rounded(value, decimals_for(float(f"{step:.6g}")))


def figure(value: float, typed: str | None, unit: str, step: float, *, as_typed: bool) -> str:
    """As typed where it has more digits than the gauge allows, else with the gauge's digits."""
    shown = show(value, unit, step)
    if (
        as_typed
        and typed is not None
        and len(typed.partition(".")[2]) > len(shown.partition(".")[2])
    ):
        return typed
    return shown


def _mean(values: list[float], unit: str, step: float) -> str:
    """A mean of several with one digit more than one reading has."""
    if not values:
        return ""
    value = sum(values) / len(values)
    if len(values) == 1:
        return show(value, unit, step)
    places = decimals_shown(unit, step) if unit in KPA_PER else decimals_for(float(f"{step:.6g}"))
    return rounded(value / factor_of(unit), places + 1)


def _cells(
    mine: list[ReadingRecord], result: Result, label: str, unit: str, step: float
) -> list[str]:
    """The figures of one row under the sheet's columns."""
    if result.kind == drop.KIND:
        pairs = [
            (r.first_kpa, r.second_kpa)
            for r in mine
            if r.first_kpa is not None and r.second_kpa is not None
        ]
        if not pairs:
            return [
                show(mine[-1].first_kpa, unit, step) if mine and mine[-1].first_kpa else "",
                "",
                "",
            ]
        if len(pairs) == 1:
            last = next(r for r in mine if r.second_kpa is not None)
            same = last.unit == unit
            ends = [
                figure(v, t, unit, step, as_typed=same)
                for v, t in ((pairs[0][0], last.first_typed), (pairs[0][1], last.second_typed))
            ]
            return [*ends, show(pairs[0][0] - pairs[0][1], unit, step)]
        return [
            _mean([a for a, _ in pairs], unit, step),
            _mean([b for _, b in pairs], unit, step),
            _mean([a - b for a, b in pairs], unit, step),
        ]
    values = [r.value for r in mine if r.value is not None]
    if isinstance(result, coil.CoilResult) and result.sheet.kind == coil.RESISTANCE:
        one = next((c for c in result.coils if c.injector == label), None)
        read = _mean(values, unit, step) or ("over" if mine and mine[-1].mark == "over" else "")
        return [read, "" if one is None else rounded(one.at_20, decimals_for(step) + 1)]
    if isinstance(result, cranking.CrankingResult) and result.humps and not values:
        told = next(h for f in result.findings if f.injector == label for h in [f.value])
        return ["" if told is None else rounded(told, 0)]
    if isinstance(result, opening.OpeningResult):
        return nozzle_cells(result.nozzle(label), mine, unit, step, result.sheet.length)
    if len(values) == 1 and mine:
        return [figure(values[0], mine[-1].value_typed, unit, step, as_typed=mine[-1].unit == unit)]
    mean = _mean(values, unit, step)
    return [mean or ("over" if mine and mine[-1].mark == "over" else "")]


def _hangs(finding: Finding, result: Result, unit: str) -> tuple[float | None, float | None]:
    """Where a row's bob hangs on the sheet's scale, and its uncertainty there."""
    if isinstance(result, opening.OpeningResult):
        factor = factor_of(unit)
        if finding.value is None or finding.u is None:
            return None, None
        return finding.value / factor, finding.u / factor
    if isinstance(result, drop.DropResult):
        return _percent(finding.deviation), _percent(finding.u)
    if isinstance(result, coil.CoilResult):
        one = next((c for c in result.coils if c.injector == finding.injector), None)
        if one is None or finding.state is State.OPEN:
            return None, None
        return one.held, math.hypot(one.u, one.u_common)
    if isinstance(result, correction.CorrectionResult):
        return finding.value, finding.u
    if isinstance(result, cranking.CrankingResult | returns.ReturnResult):
        return _percent(finding.deviation), _percent(finding.u)
    if isinstance(result, supply.SupplyResult) and finding.value is not None:
        if finding.deviation is None or finding.u is None:
            return None, None
        # Each state has a window of its own: the bob hangs in hundredths of its half-width.
        half = finding.tolerance or 1.0
        return _percent(finding.deviation / half), _percent(finding.u / half)
    return None, None


def _percent(fraction: float | None) -> float | None:
    return None if fraction is None or not math.isfinite(fraction) else round(100.0 * fraction, 2)


def scale_view(result: Result, unit: str) -> ScaleView:
    """The scale: per cent of the reference, or the figures themselves with the window as corridor."""
    if isinstance(result, opening.OpeningResult):
        return opening_scale(result, unit)
    if isinstance(result, coil.CoilResult):
        return _coil_scale(result)
    if isinstance(result, drop.DropResult):
        limits = [f.tolerance for f in result.findings if f.tolerance is not None]
        half = round(100.0 * (max(limits) if limits else result.tolerance), 2)
        return ScaleView(relative=True, unit="%", centre=0.0, low=-half, high=half, decimals=0)
    if isinstance(result, correction.CorrectionResult):
        centre = result.compared.reference or 0.0
        return ScaleView(
            relative=False, unit={"percent": "%", "mm3": "mm³"}.get(result.sheet.unit, "ms"),
            centre=round(centre, 3), low=round(centre - result.apart, 3),
            high=round(centre + result.apart, 3), decimals=decimals_for(result.sheet.step) - 1,
        )  # fmt: skip
    if isinstance(result, cranking.CrankingResult):
        low = -100.0 * result.sheet.limit
        return ScaleView(relative=True, unit="%", centre=0.0, low=low, high=None, decimals=0)
    if isinstance(result, returns.ReturnResult):
        high = round(100.0 * returns.allowed_share(result.sheet, result.reference), 2)
        return ScaleView(relative=True, unit="%", centre=0.0, low=None, high=high, decimals=0)
    return ScaleView(
        relative=True, unit="% of the window", centre=0.0, low=-100.0, high=100.0, decimals=0
    )


def _coil_scale(result: coil.CoilResult) -> ScaleView:
    window = result.sheet.window
    reference = result.compared.reference or 0.0
    low, high = window.low, window.high
    if low is None and high is None and reference:
        at = result.held_at_c
        held = coil.at(reference, at) if at is not None else reference
        half = result.compared.tolerance or 0.0
        low, high = held - half, held + half
    if low is not None and high is not None:
        centre = (low + high) / 2.0
    else:
        centre = low or high or reference
    unit = "Ω" if result.sheet.kind == coil.RESISTANCE else "V"
    places = decimals_for(float(f"{result.sheet.meter.step:.6g}"))
    return ScaleView(relative=False, unit=unit, centre=centre, low=low, high=high, decimals=places)


def row_views(
    whole: WholeSheet, result: Result, unit: str, ran_at: datetime | None
) -> list[RowView]:
    """The rows of a sheet in reach order, or in working order on the supply sheet."""
    if result.kind in {"hold", "walk_round", "rail_pressure"}:
        return []
    if isinstance(result, supply.SupplyResult):
        return [_supply_row(f, whole, result, unit) for f in result.findings]
    findings = {f.injector: f for f in result.findings}
    return [_row(i, findings[i.label], whole, result, unit, ran_at) for i in whole.injectors]


def _supply_row(
    finding: Finding, whole: WholeSheet, result: supply.SupplyResult, unit: str
) -> RowView:
    mine = [r for r in whole.readings if r.slot == finding.injector]
    return _make(
        finding, (finding.injector, SUPPLY_NAMES[finding.injector]), mine, whole, result, unit
    )


def _row(
    injector: InjectorRecord,
    finding: Finding,
    whole: WholeSheet,
    result: Result,
    unit: str,
    ran_at: datetime | None,
) -> RowView:
    mine = sorted(
        (r for r in whole.readings if r.injector_id == injector.id), key=lambda r: r.number
    )
    raw = 0
    if result.kind == drop.KIND:
        since = max(ran_at or datetime.min, now() - _EVAPORATED)  # noqa: DTZ901  UTC without offset
        raw = sum(1 for r in mine if r.second_kpa is not None and r.taken_at > since)
    return _make(finding, (injector.label, ""), mine, whole, result, unit, injector, raw)


def _make(
    finding: Finding,
    names: tuple[str, str],
    mine: list[ReadingRecord],
    whole: WholeSheet,
    result: Result,
    unit: str,
    injector: InjectorRecord | None = None,
    raw: int = 0,
) -> RowView:
    step = whole.sheet.gauge_step
    at, u_at = _hangs(finding, result, unit)
    label, name = names
    return RowView(
        injector=label,
        name=name,
        cylinder=injector.cylinder if injector else 0,
        bank=injector.bank if injector else "",
        feed=injector.feed if injector else "",
        readings=[reading_view(r, unit, step, whole.sheet.unit, shim_unit(whole)) for r in mine],
        cells=_cells(mine, result, label, unit, step) if COLUMNS.get(result.kind) else [],
        state=finding.state.value,
        words=state_words(finding, result),
        under=_under(finding, result),
        tone=_tone(finding, result),
        at=at,
        u_at=u_at,
        settled=finding.state in _SETTLED,
        agrees=finding.agrees,
        passes_to_settle=finding.passes_to_settle,
        because=because_of(finding, result),
        raw=raw,
        nozzle=nozzle_view(result, label, unit, shim_unit(whole))
        if isinstance(result, opening.OpeningResult)
        else None,
    )


def _tone(finding: Finding, result: Result) -> str:
    if isinstance(result, seen.SeenResult) and finding.state is State.LOW:
        return "open"
    if isinstance(result, opening.OpeningResult) and result.nozzle(finding.injector).fault:
        return "high"
    return TONES.get(finding.state, "")


def _under(finding: Finding, result: Result) -> str:
    """The small line under the state."""
    if isinstance(result, drop.DropResult):
        text = words.under_state(finding)
        return text.replace("clogged or sticking?", "") if result.kind == running.RUNNING else text
    if isinstance(result, opening.OpeningResult):
        return opening_under(finding, result)
    if isinstance(result, coil.CoilResult) and finding.deviation is not None:
        side = "above" if finding.deviation > 0 else "below"
        return f"{words.percent(finding.deviation, 1)} % {side} the set"
    return ""
