"""What a person does with a sheet: look at it, change its conditions, start another."""

from dataclasses import dataclass
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from sqlalchemy import Connection, Engine

from plumb.core.decision import Thresholds
from plumb.core.problems import Conflict, NotThere, PlumbError, Problem
from plumb.core.quantities import kpa_per, parse_number
from plumb.jobfile.models import (
    BurstPart,
    DropSheetPart,
    EnginePart,
    ExpectedPart,
    GaugePart,
    RulePart,
)
from plumb.service.analysis import sheet_view, working_view
from plumb.service.views import SheetView, WorkingView
from plumb.store import jobs as job_store
from plumb.store import sheets as store
from plumb.store.records import InjectorRecord, JobRecord, VehicleRecord, WholeSheet
from plumb.store.session import transaction


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetChange:
    """New conditions of a sheet; what is None stays as it is."""

    unit: str | None = None
    gauge: GaugePart | None = None
    burst: BurstPart | None = None
    engine: EnginePart | None = None
    rule: RulePart | None = None
    expected: ExpectedPart | None = None
    no_expected: bool = False
    supply_v: Decimal | None = None
    neighbour_proven: bool | None = None


def now() -> datetime:
    """The time now, UTC, as the store keeps it."""
    return datetime.now(UTC).replace(tzinfo=None)


def known_sheet(connection: Connection, sheet_id: int, *, lock: bool = False) -> WholeSheet:
    """A sheet with everything on it; :class:`NotThere` when there is none."""
    whole = store.whole_sheet(connection, sheet_id, lock=lock)
    if whole is None:
        raise NotThere(
            Problem(
                path="sheet",
                rule="there is no such sheet",
                value=str(sheet_id),
                code="no_such_sheet",
            )
        )
    return whole


def show_sheet(
    engine: Engine, sheet_id: int, thresholds: Thresholds, unit: str | None = None
) -> SheetView:
    """A sheet as it is now; :class:`NotThere` when there is none."""
    known_unit(unit)
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
    return sheet_view(whole, thresholds, unit)


def show_working(
    engine: Engine, sheet_id: int, thresholds: Thresholds, unit: str | None = None
) -> WorkingView:
    """How a sheet was worked out."""
    known_unit(unit)
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
    return working_view(whole, thresholds, unit)


def known_job(
    connection: Connection, number: str, *, lock: bool = False
) -> tuple[JobRecord, VehicleRecord]:
    """A job and its vehicle; :class:`NotThere` when there is none of that number."""
    found = job_store.job_by_number(connection, number, lock=lock)
    if found is None:
        raise no_such_job(number)
    return found


def no_such_job(number: str) -> NotThere:
    """The error for a job that is not there."""
    return NotThere(
        Problem(path="job", rule="there is no such job", value=number, code="no_such_job")
    )


def known_unit(unit: str | None) -> None:
    """Refuse a unit that is none; None is the gauge's own."""
    if unit is not None:
        kpa_per(unit, "unit")


def injector_of(whole: WholeSheet, label: str) -> InjectorRecord:
    """The injector of that label; :class:`PlumbError` with the labels there are."""
    for one in whole.injectors:
        if one.label == label:
            return one
    known = ", ".join(i.label for i in whole.injectors)
    raise PlumbError(
        Problem(
            path="injector",
            rule=f"an injector of this engine: {known}",
            value=label,
            code="unknown_injector",
        )
    )


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
        values = _changed(whole, change)
        if values:
            store.change_sheet(connection, sheet_id, values)
            whole = known_sheet(connection, sheet_id)
    return sheet_view(whole, thresholds, unit)


def _changed(whole: WholeSheet, change: SheetChange) -> dict[str, Any]:
    sheet = whole.sheet
    values: dict[str, Any] = {}
    unit = change.unit or sheet.unit
    if unit != sheet.unit:
        if whole.readings:
            raise PlumbError(
                Problem(
                    path="unit",
                    value=unit,
                    code="has_readings",
                    rule=f"this sheet's readings were typed in {sheet.unit}; start a new sheet for a "
                    "gauge in another unit",
                )
            )
        kpa_per(unit, "unit")
        values["unit"] = unit
    if change.gauge is not None:
        values |= gauge_columns(change.gauge, unit)
    elif unit != sheet.unit:
        raise PlumbError(
            Problem(path="gauge", rule="another unit needs the gauge's step in it", code="missing")
        )
    if change.rule is not None:
        if change.rule.suspect is not None:
            injector_of(whole, change.rule.suspect)
        values |= rule_columns(change.rule)
    conditions = _conditions(sheet.conditions, change)
    if conditions != sheet.conditions:
        values["conditions"] = conditions
    return values


def gauge_columns(gauge: GaugePart, unit: str) -> dict[str, Any]:
    """The gauge as a sheet keeps it: copied, so that the shelf may change."""
    return {
        "gauge_name": gauge.name,
        "gauge_step_typed": str(gauge.step),
        "gauge_step": float(gauge.step) * kpa_per(unit),
    }


def rule_columns(rule: RulePart) -> dict[str, Any]:
    """The rule as a sheet keeps it."""
    limits = rule.model_dump(exclude={"name"}, exclude_none=True, exclude_defaults=True)
    return {"rule_name": rule.name, "rule_limits": limits}


def _conditions(old: dict[str, Any], change: SheetChange) -> dict[str, Any]:
    made = dict(old)
    for name, part in (
        ("burst", change.burst),
        ("engine", change.engine),
        ("expected", change.expected),
    ):
        if part is not None:
            made[name] = part.model_dump(exclude_none=True)
    if change.no_expected:
        made.pop("expected", None)
    if change.supply_v is not None:
        made["supply_v"] = change.supply_v
    if change.neighbour_proven is not None:
        made["neighbour_proven"] = change.neighbour_proven
    return made


def sheet_columns(part: DropSheetPart, job_id: int, vehicle_id: int) -> dict[str, Any]:
    """A sheet of a job file as the store keeps it."""
    conditions = part.model_dump(
        include={"burst", "engine", "expected", "supply_v", "neighbour_proven"},
        exclude_none=True,
        exclude_defaults=True,
    )
    taken = part.taken or datetime.now(UTC).isoformat(timespec="seconds")
    return {
        "job_id": job_id,
        "vehicle_id": vehicle_id,
        "key": part.id,
        "kind": part.kind,
        "version": 1,
        "taken_typed": taken,
        "taken_at": instant(taken),
        "unit": part.unit,
        **gauge_columns(part.gauge, part.unit),
        **rule_columns(part.rule),
        "conditions": conditions,
        "extras": both_kept(sheet=part.kept(), gauge=part.gauge.kept()),
    }


def both_kept(**parts: dict[str, Any] | None) -> dict[str, Any] | None:
    """The ``x-...`` keys of several parts under their names, None when there are none."""
    return {name: kept for name, kept in parts.items() if kept} or None


def instant(text: str) -> datetime:
    """An ISO time with offset as the store keeps it: UTC without offset."""
    return datetime.fromisoformat(text).astimezone(UTC).replace(tzinfo=None)


def new_sheet(
    engine: Engine,
    number: str,
    request_id: str,
    gauge: GaugePart,
    unit: str,
    thresholds: Thresholds,
) -> SheetView:
    """A new, empty drop sheet on a job; the same request again gives the same sheet."""
    with transaction(engine) as connection:
        job, vehicle = known_job(connection, number, lock=True)
        sheet_id = store.sheet_by_request(connection, request_id)
        if sheet_id is None:
            part = DropSheetPart(
                kind="pressure_drop",
                id=_free_key(connection, job.id),
                unit=unit,
                gauge=gauge,
                readings=[],
            )
            values = sheet_columns(part, job.id, vehicle.id)
            sheet_id = store.add_sheet(connection, {**values, "request_id": request_id})
        whole = known_sheet(connection, sheet_id)
    return sheet_view(whole, thresholds)


def _free_key(connection: Connection, job_id: int) -> str:
    keys = {whole.sheet.key for whole in store.sheets_of(connection, job_id)}
    number = len(keys) + 1
    while f"s{number}" in keys:
        number += 1
    return f"s{number}"


def typed_step(text: str) -> Decimal:
    """A gauge's step as typed; above zero."""
    step = parse_number(text, "step")
    if step <= 0:
        raise PlumbError(
            Problem(
                path="step", rule="a gauge's step is above zero", value=text, code="not_positive"
            )
        )
    return step
