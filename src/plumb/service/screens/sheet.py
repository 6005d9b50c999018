"""A sheet on the screen: its head, its rows, what it says, and how that was worked out."""

from datetime import UTC, datetime
from typing import Any, Final
from zlib import crc32

from plumb.core.compare.rules import RULES
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.lines import Line
from plumb.core.measure.quantities import KPA_PER
from plumb.core.measure.text import by_word, listed, ordinal
from plumb.core.procedures import BY_CODE
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.kinds.shims import shim_unit
from plumb.service.kinds.tracing import Tracing
from plumb.service.screens.entry import entry_view
from plumb.service.screens.knobs import knob_views
from plumb.service.screens.rows import row_views
from plumb.service.stored.analysis import analysed
from plumb.service.stored.gauges import shown
from plumb.service.stored.parts import has_rule, setting_of, under, units_of
from plumb.service.views.sheet import (
    AgainView,
    GaugeView,
    LineView,
    RuleOfSheetView,
    SheetView,
    SpanView,
    TracedView,
    WorkingView,
)
from plumb.store.records import WholeSheet


def _rule_of(whole: WholeSheet) -> RuleOfSheetView:
    sheet = whole.sheet
    if not BY_CODE[sheet.kind].compares or not has_rule(sheet.kind):
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
    return GaugeView(
        id=0,
        name=sheet.gauge_name,
        unit=sheet.unit,
        step=sheet.gauge_step_typed,
        **shown(sheet.conditions.get("meter"), sheet.unit),
    )


def ran_at(whole: WholeSheet) -> datetime | None:
    """When the engine last ran between bursts, as it was noted on the sheet."""
    runs = under(whole.sheet.extras, "sheet").get("x-engine-runs") or []
    if not runs:
        return None
    return datetime.fromisoformat(str(runs[-1])).astimezone(UTC).replace(tzinfo=None)


def again_of(whole: WholeSheet) -> AgainView | None:
    """That it is a repeat, with its reason where one was given; None for the first of its kind."""
    if whole.place < 2:
        return None
    when = str(whole.sheet.conditions.get("when", "")).replace("_", " ")
    kept = under(whole.sheet.extras, "sheet")
    return AgainView(
        number=whole.place,
        words=ordinal(whole.place),
        taken=whole.sheet.taken_typed,
        reason=when or str(kept.get("x-because", "")),
    )


def carried_words(whole: WholeSheet) -> str:
    """Whose figures were carried over from earlier sheets, and from which."""
    by_origin = by_word(whole.carried.labels)
    said = "; ".join(f"{listed(labels)} {origin}" for origin, labels in by_origin.items())
    return f"Carried over: {said}." if said else ""


def _shown_in(whole: WholeSheet, unit: str | None) -> str:
    """The unit that figures are shown in: the one asked for where they are pressures."""
    return unit if unit is not None and whole.sheet.unit in KPA_PER else whole.sheet.unit


_NOTHING_MORE: Final[dict[str, Any]] = {
    "rules": [], "next": None, "agreeing": [], "agreeing_shown": "", "split": False,
    "reference": None, "limit_in_flow": "", "hold": None, "form": None,
}  # fmt: skip
"""What only some kinds of sheet have to show."""


def _traced(tracing: Tracing | None) -> TracedView | None:
    return TracedView(words=tracing.words, logs=tracing.many) if tracing else None


def _head(whole: WholeSheet) -> dict[str, Any]:
    """Which sheet it is, on which engine, and the how manieth of its kind."""
    sheet, told = whole.sheet, BY_CODE[whole.sheet.kind].told(setting_of(whole))
    return {
        "id": sheet.id, "key": sheet.key, "job_number": whole.job_number, "kind": sheet.kind,
        "title": BY_CODE[sheet.kind].title, "sub": told.how, "care": told.care,
        "version": sheet.version, "closed": whole.closed, "again": again_of(whole),
        "carried": carried_words(whole), "taken": sheet.taken_typed,
        "by": str(under(sheet.extras, "sheet").get("x-by", "")),
        "fuel_system": whole.fuel_system, "starts": whole.starts,
    }  # fmt: skip


def sheet_view(whole: WholeSheet, thresholds: Thresholds, unit: str | None = None) -> SheetView:
    """A stored sheet with everything a screen shows, pressures in ``unit``."""
    sheet, shown = whole.sheet, _shown_in(whole, unit)
    screen = SCREEN_KINDS[sheet.kind]
    kind, result = screen.kind, analysed(whole, thresholds)
    last_run = ran_at(whole)
    rows = row_views(whole, result, shown, last_run)
    last_taken = max((r.taken_at for r in whole.readings), default=sheet.taken_at)
    measured = sum(1 for r in rows if r.readings)
    own = {**_NOTHING_MORE, "measured": measured, **screen.more(whole, result, shown)}
    return SheetView(
        **_head(whole),
        unit=shown,
        units=units_of(sheet.kind),
        gauge=gauge_of(whole),
        rule=_rule_of(whole),
        knobs=knob_views(whole),
        columns=list(screen.columns),
        entry=entry_view(
            sheet.kind, (sheet.unit, shim_unit(whole)), int(sheet.conditions.get("strokes") or 3)
        ),
        scale=screen.scale(result, shown),
        rows=rows,
        headline=[SpanView(text=s.text, tone=s.tone) for s in kind.headline(result, shown)],
        notes=list(kind.notes(result, shown)),
        passed=result.passed,
        traced=_traced(screen.trace),
        engine_ran_at=last_run.isoformat() + "Z" if last_run else "",
        saved_at=last_taken.isoformat() + "Z",
        learnt=f"{crc32(repr(whole.learnt).encode()):x}" if whole.learnt else "",
        **own,
    )


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
    shown, result = _shown_in(whole, unit), analysed(whole, thresholds)
    working = BY_CODE[whole.sheet.kind].working(result, shown)
    return WorkingView(
        version=whole.sheet.version,
        shared=[line_view(x) for x in working.shared],
        injectors={label: [line_view(x) for x in lines] for label, lines in working.injectors},
    )
