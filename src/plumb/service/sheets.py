"""What a person does with a sheet: look at it, change its conditions, start another."""

from dataclasses import dataclass, field
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any, Final

from pydantic import ValidationError
from sqlalchemy import Connection, Engine

from plumb.core.decision import Thresholds
from plumb.core.job import ROUTES
from plumb.core.problems import Conflict, NotThere, PlumbError, Problem
from plumb.core.quantities import kpa_per, parse_number
from plumb.jobfile.diesel import CrankingPart
from plumb.jobfile.file import PARTS, SheetPart
from plumb.jobfile.models import RulePart
from plumb.jobfile.reading import problems_of, sheet_problems
from plumb.service.conditions import put
from plumb.service.nozzles import with_learnt
from plumb.service.parts import sheet_columns, sheet_json
from plumb.service.sheet_view import sheet_view, working_view
from plumb.service.views import SheetView, WorkingView
from plumb.store import jobs as job_store
from plumb.store import sheets as store
from plumb.store.records import InjectorRecord, JobRecord, VehicleRecord, WholeSheet
from plumb.store.session import transaction


@dataclass(frozen=True, slots=True, kw_only=True)
class Gauge:
    """A gauge as typed: name, unit, step, and for a meter its leads and accuracy."""

    name: str
    unit: str
    step: str
    lead: str = ""
    percent: str = ""
    counts: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetChange:
    """New conditions of a sheet; what is None stays as it is.

    ``put`` are typed texts by the key of the job file; an empty text takes a value away.
    """

    gauge: Gauge | None = None
    rule: RulePart | None = None
    put: dict[str, str] = field(default_factory=dict)


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
    return with_learnt(connection, whole)


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
    data = put(sheet_json(whole), sheet.kind, change.put)
    if change.gauge is not None:
        data["gauge"] = {**(data.get("gauge") or {}), **gauge_json(change.gauge)}
        data["unit"] = change.gauge.unit
    if change.rule is not None:
        _check_rule(whole, change.rule)
        data["rule"] = {
            "name": change.rule.name,
            **change.rule.model_dump(exclude={"name"}, exclude_none=True, exclude_defaults=True),
        }
    part = checked(data)
    if isinstance(part, CrankingPart):
        cylinders = {i.cylinder for i in whole.injectors}
        wrong = list(sheet_problems(part, {i.label for i in whole.injectors}, "sheet", cylinders))
        if wrong:
            raise PlumbError(wrong)
    new = sheet_columns(part, sheet.job_id, sheet.vehicle_id)
    return {name: new[name] for name in _COLUMNS if new[name] != getattr(sheet, name)}


def _check_rule(whole: WholeSheet, rule: RulePart) -> None:
    if "rule" not in PARTS[whole.sheet.kind].model_fields:
        raise PlumbError(
            Problem(
                path="rule", rule="no rule decides on this sheet", value=rule.name, code="no_rule"
            )
        )
    if rule.suspect is not None:
        injector_of(whole, rule.suspect)


def gauge_json(gauge: Gauge) -> dict[str, Any]:
    """A gauge as the job file has it."""
    made: dict[str, Any] = {"name": gauge.name, "step": typed_step(gauge.step)}
    for name in ("lead", "percent", "counts"):
        text = getattr(gauge, name)
        if text:
            made[name] = parse_number(text, f"gauge.{name}")
    return made


def checked(data: dict[str, Any]) -> SheetPart:
    """A part of the job file from JSON; :class:`PlumbError` with every problem, by its key."""
    try:
        return PARTS[data["kind"]].model_validate(data)
    except ValidationError as error:
        raise PlumbError(problems_of(error)) from error


COARSEST_KPA = 20.0
_DEFAULT_GAUGES = {
    "coil_resistance": ("meter", "ohm", "0.1"),
    "coil_voltage_drop": ("meter", "V", "0.01"),
    "flow_bench": ("tubes", "ml", "1"),
    "return_volume": ("tubes", "ml", "1"),
    "correction": ("controller", "mm3", "0.1"),
    "cranking_balance": ("clamp", "percent", "1"),
    "opening_pressure": ("bench pump", "bar", "0.5"),
}


def start_sheet(connection: Connection, job: JobRecord, vehicle: VehicleRecord, kind: str,
                gauge: Gauge | None, request_id: str) -> int:  # fmt: skip
    """Begin an empty sheet of a kind; its id.  Without a gauge the last one of its unit is taken.

    Raises :class:`PlumbError` for a kind that this fuel system does not have.
    """
    route = ROUTES.get(vehicle.fuel_system, ())
    if kind not in route:
        raise PlumbError(
            Problem(
                path="kind",
                value=kind,
                code="no_procedure",
                rule="the sheets for this fuel system are " + ", ".join(route),
            )
        )
    data: dict[str, Any] = {"kind": kind, "id": _free_key(connection, job.id)}
    fields = PARTS[kind].model_fields
    if "gauge" in fields:
        chosen = gauge or _usual_gauge(connection, job.id, kind)
        data |= {"unit": chosen.unit, "gauge": gauge_json(chosen)}
    elif "unit" in fields:
        data["unit"] = "bar"
    if kind == "opening_pressure":
        data |= _last_drawer(connection)
    if kind == "hold" and vehicle.fuel_system == "common_rail":
        data["rail"] = "high"
    data |= {name: [] for name in ("readings",) if name in fields}
    values = sheet_columns(checked(data), job.id, vehicle.id)
    return store.add_sheet(connection, {**values, "request_id": request_id})


_FEW: Final = 20
"""So many sheets back a drawer of shims is looked for."""


def _newest_nozzles(connection: Connection) -> list[WholeSheet]:
    """The shop's last few opening sheets, newest first."""
    stamps = store.stamps_of_kind(connection, "opening_pressure")[-_FEW:]
    return store.sheets_by_id(connection, [s.id for s in stamps])[::-1]


def _last_drawer(connection: Connection) -> dict[str, Any]:
    """The shims in the drawer as the shop last noted them, and the unit they are told in."""
    for whole in _newest_nozzles(connection):
        kept = whole.sheet.conditions
        if kept.get("shims_mm"):
            return {k: kept[k] for k in ("shims_mm", "shim_unit") if k in kept}
    return {}


def _usual_gauge(connection: Connection, job_id: int, kind: str) -> Gauge:
    """The gauge of the job's last sheet of this kind of unit, else the shelf's first, else plain."""
    wanted = _DEFAULT_GAUGES.get(kind, ("dial", "psi", "0.5"))
    pressure = kind not in _DEFAULT_GAUGES

    def fits(unit: str) -> bool:
        return unit == wanted[1] or (pressure and unit in {"psi", "kPa", "bar", "MPa", "kgf/cm2"})

    if kind == "opening_pressure":
        # A dial from the rail does not reach so far: only the pump's own gauge will do.
        return _pump_gauge(connection, wanted)

    for whole in reversed(store.sheets_of(connection, job_id)):
        if whole.sheet.unit and fits(whole.sheet.unit):
            meter = whole.sheet.conditions.get("meter") or {}
            return Gauge(
                name=whole.sheet.gauge_name, unit=whole.sheet.unit,
                step=whole.sheet.gauge_step_typed, **{k: str(v) for k, v in meter.items()},
            )  # fmt: skip
    for shelf in job_store.gauges(connection):
        # A hand pump's gauge is too coarse for any rail: 3 psi and more a step.
        if fits(shelf.unit) and (not pressure or shelf.step <= COARSEST_KPA):
            more = {k: str(v) for k, v in (shelf.extras or {}).items()}
            return Gauge(name=shelf.name, unit=shelf.unit, step=shelf.step_typed, **more)
    return Gauge(name=wanted[0], unit=wanted[1], step=wanted[2])


def _pump_gauge(connection: Connection, wanted: tuple[str, str, str]) -> Gauge:
    """The gauge of the hand pump as it was last used."""
    for whole in _newest_nozzles(connection):
        kept = whole.sheet
        return Gauge(name=kept.gauge_name, unit=kept.unit, step=kept.gauge_step_typed)
    return Gauge(name=wanted[0], unit=wanted[1], step=wanted[2])


def new_sheet(
    engine: Engine,
    number: str,
    request_id: str,
    kind: str,
    gauge: Gauge | None,
    thresholds: Thresholds,
) -> SheetView:
    """A new, empty sheet on a job; the same request again gives the same sheet."""
    with transaction(engine) as connection:
        job, vehicle = known_job(connection, number, lock=True)
        sheet_id = store.sheet_by_request(connection, request_id)
        if sheet_id is None:
            sheet_id = start_sheet(connection, job, vehicle, kind, gauge, request_id)
        whole = known_sheet(connection, sheet_id)
    return sheet_view(whole, thresholds)


def engine_ran(
    engine: Engine, sheet_id: int, thresholds: Thresholds, unit: str | None = None
) -> SheetView:
    """Note that the engine ran between bursts, so that raw fuel was burnt and the key was turned."""
    known_unit(unit)
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id, lock=True)
        extras = dict(whole.sheet.extras or {})
        kept = dict(extras.get("sheet") or {})
        at = datetime.now(UTC).isoformat(timespec="milliseconds")
        kept["x-engine-runs"] = [*(kept.get("x-engine-runs") or []), at][-200:]
        extras["sheet"] = kept
        store.change_sheet(connection, sheet_id, {"extras": extras})
        whole = known_sheet(connection, sheet_id)
    return sheet_view(whole, thresholds, unit)


def _free_key(connection: Connection, job_id: int) -> str:
    keys = store.sheet_keys(connection, job_id)
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
