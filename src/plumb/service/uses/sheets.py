"""What a person does with a sheet: look at it, change its conditions, note that the engine ran."""

from dataclasses import dataclass, field, replace
from typing import Any

from sqlalchemy import Connection, Engine

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import Conflict, NotThere, PlumbError, Problem
from plumb.jobfile.models import RulePart
from plumb.jobfile.reading import sheet_problems
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.kinds.conditions import in_words_of, put
from plumb.service.screens.rows import passes_of
from plumb.service.screens.sheet import sheet_view, working_view
from plumb.service.stored.analysis import analysed
from plumb.service.stored.gauges import Gauge, gauge_json
from plumb.service.stored.known import injector_of, known_sheet, known_unit
from plumb.service.stored.parts import (
    checked,
    engine_of,
    has_rule,
    now_typed,
    sheet_columns,
    sheet_json,
)
from plumb.service.views.sheet import ReadingView, SheetView, WorkingView
from plumb.store import sheets as store
from plumb.store.records import WholeSheet
from plumb.store.session import retried, transaction


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetChange:
    """New conditions of a sheet; what is None stays as it is.

    ``put`` are typed texts by the key of the job file; an empty text takes a value away.
    """

    gauge: Gauge | None = None
    rule: RulePart | None = None
    put: dict[str, str] = field(default_factory=dict)


@retried
def show_sheet(
    engine: Engine, sheet_id: int, thresholds: Thresholds, unit: str | None = None
) -> SheetView:
    """A sheet as it is now; :class:`NotThere` when there is none."""
    known_unit(unit)
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
    return sheet_view(whole, thresholds, unit)


@retried
def show_working(
    engine: Engine, sheet_id: int, thresholds: Thresholds, unit: str | None = None
) -> WorkingView:
    """How a sheet was worked out."""
    known_unit(unit)
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
    return working_view(whole, thresholds, unit)


@retried
def show_passes(
    engine: Engine, sheet_id: int, row: str, unit: str | None = None
) -> list[ReadingView]:
    """Every reading of a row, by pass; :class:`NotThere` when the sheet has no such row."""
    known_unit(unit)
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
    found = passes_of(whole, row, unit or whole.sheet.unit)
    if found is None:
        raise NotThere(
            Problem(path="row", rule="there is no such row on this sheet", value=row,
                    code="no_such_row")
        )  # fmt: skip
    return found


@retried
def change_sheet(
    engine: Engine,
    sheet_id: int,
    version: int,
    change: SheetChange,
    thresholds: Thresholds,
    unit: str | None = None,
) -> SheetView:
    """Change a sheet's conditions; :class:`Conflict` when someone changed it meanwhile."""
    with transaction(engine) as connection:
        if "codes" in change.put:
            store.hold_job_of(connection, sheet_id)
        whole = known_sheet(connection, sheet_id, lock=True)
        if whole.sheet.version != version:
            raise Conflict(
                Problem(
                    path="version",
                    value=str(version),
                    code="newer_there",
                    rule=f"the sheet was changed meanwhile and is at version {whole.sheet.version}",
                )
            )
        along = {} if change.put.keys() == {"set"} else SCREEN_KINDS[whole.sheet.kind].along(whole)
        change = replace(change, put={**along, **change.put} if change.put else {})
        values = _changed(whole, change)
        if values:
            store.change_sheet(connection, sheet_id, values)
            if "codes" in change.put:
                store.put_codes(connection, whole.sheet.job_id, _codes_of(whole, values))
            if "complaint" in change.put:
                # What an engine that does not start is told holds for all of its sheets.
                store.touch_sheets_of(connection, whole.sheet.job_id)
            whole = known_sheet(connection, sheet_id)
    return sheet_view(whole, thresholds, unit)


def _codes_of(whole: WholeSheet, values: dict[str, Any]) -> list[str]:
    conditions = values.get("conditions", whole.sheet.conditions)
    return list(conditions.get("codes", ()))


_COLUMNS = (
    "unit", "gauge_name", "gauge_step_typed", "gauge_step", "rule_name", "rule_limits", "conditions",
)  # fmt: skip


def _changed(whole: WholeSheet, change: SheetChange) -> dict[str, Any]:
    """The columns that the change touches; the whole sheet is checked as a file's would be."""
    sheet = whole.sheet
    if change.gauge is not None and change.gauge.unit != sheet.unit and whole.readings:
        raise PlumbError(
            Problem(
                path="unit",
                value=change.gauge.unit,
                code="has_readings",
                rule=f"this sheet's readings were typed in {sheet.unit}; start a new sheet for a "
                "gauge in another unit",
            )
        )
    if (name := change.put.get("set")) and name not in whole.sets:
        known = ", ".join(s for s in whole.sets if s) or "none"
        raise PlumbError(
            Problem(path="set", rule=f"a set of this engine: {known}", value=name, code="no_set")
        )
    with in_words_of(whole):
        return _checked(whole, change)


def _checked(whole: WholeSheet, change: SheetChange) -> dict[str, Any]:
    sheet = whole.sheet
    data = put(sheet_json(whole), sheet.kind, change.put)
    if change.gauge is not None:
        # Another gauge brings its own leads and class; what a file said of the old one beside them stays.
        kept = {k: v for k, v in (data.get("gauge") or {}).items() if k.startswith("x-")}
        data["gauge"] = {**kept, **gauge_json(change.gauge)}
        data["unit"] = change.gauge.unit
    if change.rule is not None:
        _check_rule(whole, change.rule)
        data["rule"] = {
            "name": change.rule.name,
            **change.rule.model_dump(exclude={"name"}, exclude_none=True, exclude_defaults=True),
        }
    part = checked(data)
    if wrong := list(sheet_problems(part, engine_of(whole), "sheet")):
        raise PlumbError(wrong)
    new = sheet_columns(part, sheet.job_id, sheet.vehicle_id)
    return {name: new[name] for name in _COLUMNS if new[name] != getattr(sheet, name)}


def _check_rule(whole: WholeSheet, rule: RulePart) -> None:
    if not has_rule(whole.sheet.kind):
        raise PlumbError(
            Problem(
                path="rule", rule="no rule decides on this sheet", value=rule.name, code="no_rule"
            )
        )
    if rule.suspect is not None:
        injector_of(whole, rule.suspect)


def empty_or_refused(connection: Connection, whole: WholeSheet, thresholds: Thresholds) -> None:
    """:class:`Conflict` for a sheet on which something was noted, taken back or brought in."""
    noted = whole.readings or analysed(whole, thresholds).begun
    if noted or store.ever_noted(connection, whole.sheet.id):
        raise Conflict(
            Problem(
                path="sheet", value=whole.sheet.key, code="has_readings",
                rule="something was noted on this sheet: it is kept, and can be set aside",
            )
        )  # fmt: skip


@retried
def drop_sheet(engine: Engine, sheet_id: int, thresholds: Thresholds) -> None:
    """Take a sheet away on which nothing was ever noted; :class:`Conflict` where something was."""
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id, lock=True)
        empty_or_refused(connection, whole, thresholds)
        store.drop_sheet(connection, sheet_id)


@retried
def engine_ran(
    engine: Engine, sheet_id: int, thresholds: Thresholds, unit: str | None = None
) -> SheetView:
    """Note that the engine ran between bursts, so that raw fuel was burnt and the key was turned."""
    known_unit(unit)
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id, lock=True)
        extras = dict(whole.sheet.extras or {})
        kept = dict(extras.get("sheet") or {})
        at = now_typed("milliseconds")
        kept["x-engine-runs"] = [*(kept.get("x-engine-runs") or []), at][-200:]
        extras["sheet"] = kept
        store.change_sheet(connection, sheet_id, {"extras": extras})
        whole = known_sheet(connection, sheet_id)
    return sheet_view(whole, thresholds, unit)
