"""What a person does with readings: enter one, take one back."""

from dataclasses import dataclass, replace

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import IntegrityError

from plumb.core.decision import Thresholds
from plumb.core.problems import AsksBack, Conflict, NotThere, PlumbError, Problem
from plumb.core.quantities import Pressure, kpa_per
from plumb.core.slips import Scale, check_drop
from plumb.service.analysis import sheet_view
from plumb.service.sheets import injector_of, known_sheet, known_unit, now
from plumb.service.views import SheetView
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


def _pressures(reading: NewReading, whole: WholeSheet) -> tuple[Pressure | None, Pressure | None]:
    """Both figures read, or the error that says which one does not fit."""
    unit = whole.sheet.unit
    blank = reading.mark in {"none", "not_read"}
    if reading.second is None and not blank:
        field = "first" if reading.first is None else "second"
        raise PlumbError(
            Problem(
                path=field,
                code="missing",
                suggestion="for example 50 26",
                rule="type both pressures, or mark no response",
            )
        )
    if reading.second is not None and (blank or reading.first is None):
        raise PlumbError(
            Problem(
                path="second",
                code="not_with_mark",
                value=reading.second,
                rule="a second reading needs its first, and no mark that says there is none",
            )
        )
    first = None if reading.first is None else Pressure.typed(reading.first, unit, "first")
    second = None if reading.second is None else Pressure.typed(reading.second, unit, "second")
    return first, second


def _ask(reading: NewReading, whole: WholeSheet, injector: InjectorRecord) -> None:
    """Raise :class:`AsksBack` when the figures look like a slip that nobody confirmed."""
    if reading.first is None or reading.second is None:
        return
    factor = kpa_per(whole.sheet.unit)
    starts = tuple(
        r.first_kpa / factor
        for r in whole.readings
        if r.first_kpa is not None and r.injector_id != injector.id
    )
    scale = Scale(
        unit=whole.sheet.unit,
        step=float(whole.sheet.gauge_step_typed),
        fuel_system=whole.fuel_system,
        starts=starts,
    )
    open_ = [
        q
        for q in check_drop(reading.first, reading.second, scale)
        if q.refused or q.code not in reading.confirmed
    ]
    if open_:
        raise AsksBack(
            Problem(
                path=q.field,
                rule=q.text,
                value=f"{reading.first} {reading.second}",
                code=q.code,
                suggestion=" ".join(q.suggestion) if q.suggestion else "",
                confirmable=not q.refused,
            )
            for q in open_
        )


def _pass_number(reading: NewReading, whole: WholeSheet, injector: InjectorRecord) -> int:
    taken = {
        r.number: r
        for r in whole.readings
        if r.injector_id == injector.id and r.id != reading.replaces
    }
    replaced = next((r for r in whole.readings if r.id == reading.replaces), None)
    if reading.replaces is not None and (replaced is None or replaced.injector_id != injector.id):
        raise Conflict(
            Problem(
                path="replaces",
                value=reading.replaces,
                code="gone",
                rule="the reading to be corrected is no longer there",
            )
        )
    if reading.pass_number is None:
        if replaced is not None:
            return replaced.number
        return max(taken, default=0) + 1
    other = taken.get(reading.pass_number)
    if other is not None:
        figures = f"{other.first_typed or '-'} {other.second_typed or other.mark or '-'}"
        raise Conflict(
            Problem(
                path="pass_number",
                code="slot_taken",
                value=figures,
                rule=f"injector {reading.injector} already has pass {reading.pass_number}",
                suggestion="keep it as another pass, or throw it away",
            )
        )
    return reading.pass_number


def _record(
    reading: NewReading,
    whole: WholeSheet,
    injector: InjectorRecord,
    number: int,
    pressures: tuple[Pressure | None, Pressure | None],
) -> ReadingRecord:
    first, second = pressures
    sheet = whole.sheet
    return ReadingRecord(
        id=reading.id,
        sheet_id=sheet.id,
        vehicle_id=sheet.vehicle_id,
        injector_id=injector.id,
        number=number,
        first_typed=None if first is None else first.digits,
        second_typed=None if second is None else second.digits,
        unit=sheet.unit,
        first_kpa=None if first is None else first.kpa,
        second_kpa=None if second is None else second.kpa,
        mark=reading.mark,
        sound=reading.sound,
        fires_at_typed=None,
        note=reading.note,
        taken_at=now(),
        live=1,
        replaces=reading.replaces,
        sequence=max((r.sequence for r in whole.readings), default=0) + 1,
        extras=None,
    )


def _same(kept: ReadingRecord, reading: NewReading, whole: WholeSheet) -> bool:
    """Whether a reading that is kept already says the same as the one that came again."""
    first, second = _pressures(reading, whole)
    labels = {i.id: i.label for i in whole.injectors}
    return (
        kept.sheet_id == whole.sheet.id
        and labels.get(kept.injector_id) == reading.injector
        and kept.first_typed == (None if first is None else first.digits)
        and kept.second_typed == (None if second is None else second.digits)
        and kept.mark == reading.mark
        and kept.sound == reading.sound
        and kept.note == reading.note
    )


def _already(connection: Connection, reading: NewReading, whole: WholeSheet) -> bool:
    """Whether this very reading is kept; :class:`Conflict` when its id stands for another."""
    kept = next((r for r in whole.readings if r.id == reading.id), None) or store.reading_by_id(
        connection, reading.id
    )
    if kept is None:
        return False
    if _same(kept, reading, whole):
        return True
    raise Conflict(
        Problem(
            path="id", value=reading.id, code="id_taken", rule="this id stands for another reading"
        )
    )


def save_reading(
    engine: Engine,
    sheet_id: int,
    reading: NewReading,
    thresholds: Thresholds,
    unit: str | None = None,
) -> SheetView:
    """Keep a reading and say what the sheet says now.

    The same id again changes nothing.  Raises :class:`AsksBack` for what looks like a slip,
    :class:`Conflict` when the pass is taken, :class:`PlumbError` when a figure does not fit.
    """
    known_unit(unit)
    try:
        with transaction(engine) as connection:
            whole = known_sheet(connection, sheet_id, lock=True)
            if any(r.id == reading.id for r in whole.readings):
                _already(connection, reading, whole)
                return sheet_view(whole, thresholds, unit)
            whole = _add(connection, reading, whole)
        store.remember(engine, whole)
    except IntegrityError:
        # The id is there, but not in force: it was taken back, or belongs to another sheet.
        with transaction(engine) as connection:
            whole = known_sheet(connection, sheet_id)
            if not _already(connection, reading, whole):
                raise
    return sheet_view(whole, thresholds, unit)


def _add(connection: Connection, reading: NewReading, whole: WholeSheet) -> WholeSheet:
    """Check and insert; the sheet as it is after it, without reading it again."""
    injector = injector_of(whole, reading.injector)
    pressures = _pressures(reading, whole)
    _ask(reading, whole, injector)
    number = _pass_number(reading, whole, injector)
    made = _record(reading, whole, injector, number, pressures)
    if reading.replaces is not None:
        store.set_live(connection, reading.replaces, live=False)
    store.add_readings(connection, [{f: getattr(made, f) for f in ReadingRecord.__slots__}])
    store.touch_sheet(connection, whole.sheet.id)
    kept = tuple(r for r in whole.readings if r.id != reading.replaces)
    return replace(
        whole, readings=(*kept, made), sheet=replace(whole.sheet, version=whole.sheet.version + 1)
    )


def take_back(
    engine: Engine, sheet_id: int, reading_id: str, thresholds: Thresholds, unit: str | None = None
) -> SheetView:
    """Take a reading back; the one it replaced comes into force again.  Twice is harmless."""
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id, lock=True)
        kept = store.reading_by_id(connection, reading_id)
        if kept is None or kept.sheet_id != sheet_id:
            raise NotThere(
                Problem(
                    path="reading",
                    rule="there is no such reading on this sheet",
                    value=reading_id,
                    code="no_such_reading",
                )
            )
        if kept.live:
            store.set_live(connection, reading_id, live=False)
            if kept.replaces is not None:
                store.set_live(connection, kept.replaces, live=True)
            store.touch_sheet(connection, sheet_id)
            whole = known_sheet(connection, sheet_id)
    return sheet_view(whole, thresholds, unit)
