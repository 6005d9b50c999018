"""What a person does on a sheet: enter a reading, take one back, change the conditions."""

from dataclasses import dataclass, replace
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import IntegrityError

from plumb.core.decision import Thresholds
from plumb.core.problems import AsksBack, Conflict, NotThere, PlumbError, Problem
from plumb.core.quantities import Pressure, kpa_per, parse_number
from plumb.core.slips import Scale, check_drop
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
from plumb.store.records import InjectorRecord, ReadingRecord, WholeSheet
from plumb.store.session import transaction


@dataclass(frozen=True, slots=True, kw_only=True)
class NewReading:
    """A reading as it comes from a browser.

    ``id`` is made by the browser and makes saving it twice harmless; ``pass_number`` None takes
    the next free pass; ``replaces`` names the reading it corrects; ``confirmed`` holds the codes
    of the questions that were answered with "I meant it".
    """

    id: str
    injector: str
    pass_number: int | None = None
    first: str | None = None
    second: str | None = None
    mark: str | None = None
    sound: str | None = None
    note: str = ""
    replaces: str | None = None
    confirmed: tuple[str, ...] = ()


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


def _sheet(connection: Connection, sheet_id: int, *, lock: bool = False) -> WholeSheet:
    whole = store.whole_sheet(connection, sheet_id, lock=lock)
    if whole is None:
        raise NotThere(Problem(path="sheet", rule="there is no such sheet", value=str(sheet_id),
                               code="no_such_sheet"))
    return whole


def show_sheet(engine: Engine, sheet_id: int, thresholds: Thresholds,
               unit: str | None = None) -> SheetView:
    """A sheet as it is now; :class:`NotThere` when there is none."""
    _known_unit(unit)
    with transaction(engine) as connection:
        whole = _sheet(connection, sheet_id)
    return sheet_view(whole, thresholds, unit)


def show_working(engine: Engine, sheet_id: int, thresholds: Thresholds,
                 unit: str | None = None) -> WorkingView:
    """How a sheet was worked out."""
    _known_unit(unit)
    with transaction(engine) as connection:
        whole = _sheet(connection, sheet_id)
    return working_view(whole, thresholds, unit)


def _known_unit(unit: str | None) -> None:
    if unit is not None:
        kpa_per(unit, "unit")


def _injector(whole: WholeSheet, label: str) -> InjectorRecord:
    for one in whole.injectors:
        if one.label == label:
            return one
    known = ", ".join(i.label for i in whole.injectors)
    raise PlumbError(Problem(path="injector", rule=f"an injector of this engine: {known}",
                             value=label, code="unknown_injector"))


def _pressures(reading: NewReading, whole: WholeSheet) -> tuple[Pressure | None, Pressure | None]:
    """Both figures read, or the error that says which one does not fit."""
    unit = whole.sheet.unit
    blank = reading.mark in {"none", "not_read"}
    if reading.second is None and not blank:
        field = "first" if reading.first is None else "second"
        raise PlumbError(Problem(path=field, code="missing", suggestion="for example 50 26",
                                 rule="type both pressures, or mark no response"))
    if reading.second is not None and (blank or reading.first is None):
        raise PlumbError(Problem(path="second", code="not_with_mark", value=reading.second,
                                 rule="a second reading needs its first, and no mark that says "
                                      "there is none"))
    first = None if reading.first is None else Pressure.typed(reading.first, unit, "first")
    second = None if reading.second is None else Pressure.typed(reading.second, unit, "second")
    return first, second


def _ask(reading: NewReading, whole: WholeSheet, injector: InjectorRecord) -> None:
    """Raise :class:`AsksBack` when the figures look like a slip that nobody confirmed."""
    if reading.first is None or reading.second is None:
        return
    factor = kpa_per(whole.sheet.unit)
    starts = tuple(r.first_kpa / factor for r in whole.readings
                   if r.first_kpa is not None and r.injector_id != injector.id)
    scale = Scale(unit=whole.sheet.unit, step=float(whole.sheet.gauge_step_typed),
                  fuel_system=whole.fuel_system, starts=starts)
    open_ = [q for q in check_drop(reading.first, reading.second, scale)
             if q.refused or q.code not in reading.confirmed]
    if open_:
        raise AsksBack(
            Problem(path=q.field, rule=q.text, value=f"{reading.first} {reading.second}",
                    code=q.code, suggestion=" ".join(q.suggestion) if q.suggestion else "",
                    confirmable=not q.refused)
            for q in open_)


def _pass_number(reading: NewReading, whole: WholeSheet, injector: InjectorRecord) -> int:
    taken = {r.number: r for r in whole.readings
             if r.injector_id == injector.id and r.id != reading.replaces}
    replaced = next((r for r in whole.readings if r.id == reading.replaces), None)
    if reading.replaces is not None and (
            replaced is None or replaced.injector_id != injector.id):
        raise Conflict(Problem(path="replaces", value=reading.replaces, code="gone",
                               rule="the reading to be corrected is no longer there"))
    if reading.pass_number is None:
        if replaced is not None:
            return replaced.number
        return max(taken, default=0) + 1
    other = taken.get(reading.pass_number)
    if other is not None:
        figures = f"{other.first_typed or '-'} {other.second_typed or other.mark or '-'}"
        raise Conflict(Problem(
            path="pass_number", code="slot_taken", value=figures,
            rule=f"injector {reading.injector} already has pass {reading.pass_number}",
            suggestion="keep it as another pass, or throw it away"))
    return reading.pass_number


def _record(reading: NewReading, whole: WholeSheet, injector: InjectorRecord,
            number: int) -> ReadingRecord:
    first, second = _pressures(reading, whole)
    sheet = whole.sheet
    return ReadingRecord(
        id=reading.id, sheet_id=sheet.id, vehicle_id=sheet.vehicle_id, injector_id=injector.id,
        number=number, first_typed=first and first.digits, second_typed=second and second.digits,
        unit=sheet.unit, first_kpa=first and first.kpa, second_kpa=second and second.kpa,
        mark=reading.mark, sound=reading.sound, fires_at_typed=None, note=reading.note,
        taken_at=now(), live=1, replaces=reading.replaces,
        sequence=max((r.sequence for r in whole.readings), default=0) + 1, extras=None,
    )


def _same(kept: ReadingRecord, reading: NewReading, whole: WholeSheet) -> bool:
    """Whether a reading that is kept already says the same as the one that came again."""
    first, second = _pressures(reading, whole)
    labels = {i.id: i.label for i in whole.injectors}
    return (kept.sheet_id == whole.sheet.id and labels.get(kept.injector_id) == reading.injector
            and kept.first_typed == (first and first.digits)
            and kept.second_typed == (second and second.digits) and kept.mark == reading.mark
            and kept.sound == reading.sound and kept.note == reading.note)


def _already(connection: Connection, reading: NewReading, whole: WholeSheet) -> bool:
    """Whether this very reading is kept; :class:`Conflict` when its id stands for another."""
    kept = (next((r for r in whole.readings if r.id == reading.id), None)
            or store.reading_by_id(connection, reading.id))
    if kept is None:
        return False
    if _same(kept, reading, whole):
        return True
    raise Conflict(Problem(path="id", value=reading.id, code="id_taken",
                           rule="this id stands for another reading"))


def save_reading(engine: Engine, sheet_id: int, reading: NewReading, thresholds: Thresholds,
                 unit: str | None = None) -> SheetView:
    """Keep a reading and say what the sheet says now.

    The same id again changes nothing.  Raises :class:`AsksBack` for what looks like a slip,
    :class:`Conflict` when the pass is taken, :class:`PlumbError` when a figure does not fit.
    """
    _known_unit(unit)
    try:
        with transaction(engine) as connection:
            whole = _sheet(connection, sheet_id, lock=True)
            if any(r.id == reading.id for r in whole.readings):
                _already(connection, reading, whole)
                return sheet_view(whole, thresholds, unit)
            whole = _add(connection, reading, whole)
    except IntegrityError:
        # The id is there, but not in force: it was taken back, or belongs to another sheet.
        with transaction(engine) as connection:
            whole = _sheet(connection, sheet_id)
            if not _already(connection, reading, whole):
                raise
    return sheet_view(whole, thresholds, unit)


def _add(connection: Connection, reading: NewReading, whole: WholeSheet) -> WholeSheet:
    """Check and insert; the sheet as it is after it, without reading it again."""
    injector = _injector(whole, reading.injector)
    _pressures(reading, whole)
    _ask(reading, whole, injector)
    number = _pass_number(reading, whole, injector)
    made = _record(reading, whole, injector, number)
    if reading.replaces is not None:
        store.set_live(connection, reading.replaces, live=False)
    store.add_readings(connection, [{f: getattr(made, f) for f in ReadingRecord.__slots__}])
    store.touch_sheet(connection, whole.sheet.id)
    kept = tuple(r for r in whole.readings if r.id != reading.replaces)
    return replace(whole, readings=(*kept, made),
                   sheet=replace(whole.sheet, version=whole.sheet.version + 1))


def take_back(engine: Engine, sheet_id: int, reading_id: str, thresholds: Thresholds,
              unit: str | None = None) -> SheetView:
    """Take a reading back; the one it replaced comes into force again.  Twice is harmless."""
    with transaction(engine) as connection:
        whole = _sheet(connection, sheet_id, lock=True)
        kept = store.reading_by_id(connection, reading_id)
        if kept is None or kept.sheet_id != sheet_id:
            raise NotThere(Problem(path="reading", rule="there is no such reading on this sheet",
                                   value=reading_id, code="no_such_reading"))
        if kept.live:
            store.set_live(connection, reading_id, live=False)
            if kept.replaces is not None:
                store.set_live(connection, kept.replaces, live=True)
            store.touch_sheet(connection, sheet_id)
            whole = _sheet(connection, sheet_id)
    return sheet_view(whole, thresholds, unit)


def change_sheet(engine: Engine, sheet_id: int, version: int, change: SheetChange,
                 thresholds: Thresholds, unit: str | None = None) -> SheetView:
    """Change a sheet's conditions; :class:`Conflict` when someone changed it meanwhile."""
    with transaction(engine) as connection:
        whole = _sheet(connection, sheet_id, lock=True)
        if whole.sheet.version != version:
            raise Conflict(Problem(
                path="version", value=str(version), code="newer_there",
                rule=f"the sheet was changed meanwhile and is at version {whole.sheet.version}"))
        values = _changed(whole, change)
        if values:
            store.change_sheet(connection, sheet_id, values)
            whole = _sheet(connection, sheet_id)
    return sheet_view(whole, thresholds, unit)


def _changed(whole: WholeSheet, change: SheetChange) -> dict[str, Any]:
    sheet = whole.sheet
    values: dict[str, Any] = {}
    unit = change.unit or sheet.unit
    if unit != sheet.unit:
        if whole.readings:
            raise PlumbError(Problem(
                path="unit", value=unit, code="has_readings",
                rule=f"this sheet's readings were typed in {sheet.unit}; start a new sheet for a "
                     "gauge in another unit"))
        kpa_per(unit, "unit")
        values["unit"] = unit
    if change.gauge is not None:
        values |= gauge_columns(change.gauge, unit)
    elif unit != sheet.unit:
        raise PlumbError(Problem(path="gauge", rule="another unit needs the gauge's step in it",
                                 code="missing"))
    if change.rule is not None:
        if change.rule.suspect is not None:
            _injector(whole, change.rule.suspect)
        values |= rule_columns(change.rule)
    conditions = _conditions(sheet.conditions, change)
    if conditions != sheet.conditions:
        values["conditions"] = conditions
    return values


def gauge_columns(gauge: GaugePart, unit: str) -> dict[str, Any]:
    """The gauge as a sheet keeps it: copied, so that the shelf may change."""
    return {"gauge_name": gauge.name, "gauge_step_typed": str(gauge.step),
            "gauge_step": float(gauge.step) * kpa_per(unit)}


def rule_columns(rule: RulePart) -> dict[str, Any]:
    """The rule as a sheet keeps it."""
    limits = rule.model_dump(exclude={"name"}, exclude_none=True, exclude_defaults=True)
    return {"rule_name": rule.name, "rule_limits": limits}


def _conditions(old: dict[str, Any], change: SheetChange) -> dict[str, Any]:
    made = dict(old)
    for name, part in (("burst", change.burst), ("engine", change.engine),
                       ("expected", change.expected)):
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
        exclude_none=True, exclude_defaults=True)
    taken = part.taken or datetime.now(UTC).isoformat(timespec="seconds")
    return {
        "job_id": job_id, "vehicle_id": vehicle_id, "key": part.id, "kind": part.kind,
        "version": 1, "taken_typed": taken, "taken_at": instant(taken), "unit": part.unit,
        **gauge_columns(part.gauge, part.unit), **rule_columns(part.rule),
        "conditions": conditions, "extras": part.kept(),
    }


def instant(text: str) -> datetime:
    """An ISO time with offset as the store keeps it: UTC without offset."""
    return datetime.fromisoformat(text).astimezone(UTC).replace(tzinfo=None)


def new_sheet(engine: Engine, number: str, request_id: str, gauge: GaugePart, unit: str,
              thresholds: Thresholds) -> SheetView:
    """A new, empty drop sheet on a job; the same request again gives the same sheet."""
    with transaction(engine) as connection:
        found = job_store.job_by_number(connection, number, lock=True)
        if found is None:
            raise NotThere(Problem(path="job", rule="there is no such job", value=number,
                                   code="no_such_job"))
        job, vehicle = found
        sheet_id = store.sheet_by_request(connection, request_id)
        if sheet_id is None:
            ids = store.sheet_ids(connection, job.id)
            part = DropSheetPart(kind="pressure_drop", id=_free_key(connection, ids), unit=unit,  # type: ignore[arg-type]
                                 gauge=gauge, readings=[])
            values = sheet_columns(part, job.id, vehicle.id)
            sheet_id = store.add_sheet(connection, {**values, "request_id": request_id})
        whole = _sheet(connection, sheet_id)
    return sheet_view(whole, thresholds)


def _free_key(connection: Connection, ids: list[int]) -> str:
    keys = {w.sheet.key for i in ids if (w := store.whole_sheet(connection, i))}
    number = len(keys) + 1
    while f"s{number}" in keys:
        number += 1
    return f"s{number}"


def typed_step(text: str) -> Decimal:
    """A gauge's step as typed; above zero."""
    step = parse_number(text, "step")
    if step <= 0:
        raise PlumbError(Problem(path="step", rule="a gauge's step is above zero", value=text,
                                 code="not_positive"))
    return step
