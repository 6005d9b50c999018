"""What a person does with readings: enter one, take one back."""

from collections.abc import Collection
from dataclasses import replace
from decimal import Decimal
from typing import Any, Final

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import IntegrityError

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import AsksBack, Conflict, NotThere, Problem
from plumb.core.measure.quantities import parse_number, plain
from plumb.core.procedures import BY_CODE
from plumb.core.procedures.kind import Entry
from plumb.jobfile.kinds.kind import moment_slot
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.kinds.entry import SHAPES, Figures, NewReading, refuse
from plumb.service.kinds.shims import shim_unit
from plumb.service.kinds.typed_units import with_units
from plumb.service.screens.sheet import sheet_view
from plumb.service.stored.known import injector_of, known_sheet, known_unit, still_open
from plumb.service.stored.others import with_carried
from plumb.service.stored.parts import filled, now, own_slots
from plumb.service.views.sheet import SheetView
from plumb.store import sheets as store
from plumb.store.actor import signed
from plumb.store.records import ReadingRecord, WholeSheet
from plumb.store.session import retried, transaction

MOST_PASSES: Final = 99
"""As many as the job file numbers; no set needs a tenth of them."""


def _ask(reading: NewReading, figures: Figures) -> None:
    """Raise :class:`AsksBack` when the figures look like a slip that nobody confirmed."""
    open_ = [q for q in figures.questions if q.refused or q.code not in reading.confirmed]
    if open_:
        raise AsksBack(
            Problem(
                path=q.field,
                rule=q.text,
                value=figures.typed,
                code=q.code,
                suggestion=" ".join(q.suggestion).strip() if q.suggestion else "",
                confirmable=not q.refused,
            )
            for q in open_
        )


def _replaced(
    reading: NewReading, whole: WholeSheet, figures: Figures, place: tuple[int | None, str | None]
) -> str | None:
    """What a reading takes the place of: words, states, moments and humps are noted once each."""
    once = figures.shape == "word" or place[1] is not None or BY_CODE[whole.sheet.kind].entry.once
    if reading.replaces is not None or not once:
        return reading.replaces
    same = [r for r in whole.readings if (r.injector_id, r.slot) == place]
    return same[-1].id if same else None


def _pass_number(
    reading: NewReading, whole: WholeSheet, place: tuple[int | None, str | None]
) -> int:
    taken = {
        r.number: r
        for r in whole.readings
        if (r.injector_id, r.slot) == place and r.id != reading.replaces
    }
    replaced = next((r for r in whole.readings if r.id == reading.replaces), None)
    wrong = replaced is None or (replaced.injector_id, replaced.slot) != place
    if reading.replaces is not None and wrong:
        raise Conflict(
            Problem(
                path="replaces",
                value=reading.replaces,
                code="gone",
                rule="the reading to be corrected is no longer there",
            )
        )
    if reading.pass_number is None:
        return _next_pass(taken) if replaced is None else replaced.number
    other = taken.get(reading.pass_number)
    if other is not None:
        figures = (
            other.value_typed
            or f"{other.first_typed or '-'} {other.second_typed or other.mark or '-'}"
        )
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


def _next_pass(taken: Collection[int]) -> int:
    """One above the highest that is taken; :class:`PlumbError` when that is one too many."""
    number = max(taken, default=0) + 1
    if number > MOST_PASSES:
        rule = f"a row takes {MOST_PASSES} passes: correct one, or begin a new sheet"
        raise refuse("pass_number", rule, str(number), "too_many_passes")
    return number


_BLANK: dict[str, Any] = dict.fromkeys(("first_typed", "second_typed", "first_kpa", "second_kpa", "value_typed", "value", "at_typed", "at_s", "word", "spray", "sound", "fires_at_typed", "seat", "shim_typed", "extras"))  # fmt: skip


def _record(
    reading: NewReading,
    whole: WholeSheet,
    figures: Figures,
    place: tuple[int | None, str | None],
    number: int,
) -> ReadingRecord:
    sheet = whole.sheet
    return ReadingRecord(
        id=reading.id,
        sheet_id=sheet.id,
        vehicle_id=sheet.vehicle_id,
        injector_id=place[0],
        slot=place[1],
        shape=figures.shape,
        number=number,
        unit=sheet.unit,
        mark=figures.mark,
        note=reading.note,
        taken_at=now(),
        live=1,
        replaces=reading.replaces,
        sequence=max((r.sequence for r in whole.readings), default=0) + 1,
        **(_BLANK | figures.columns),
    )


_SAME = (
    "injector_id", "slot", "first_typed", "second_typed", "value_typed", "at_typed", "word",
    "spray", "sound", "fires_at_typed", "seat", "shim_typed", "mark", "note",
)  # fmt: skip


def _figures(
    connection: Connection, reading: NewReading, whole: WholeSheet
) -> tuple[Figures, int | None, str | None]:
    """The figures and their place; a stroke that is corrected keeps its shims unless told others."""
    screen = SCREEN_KINDS[whole.sheet.kind]
    entry = screen.kind.entry
    injector_id, slot = _place(reading, whole, entry)
    figures = (screen.read or SHAPES[entry.shape])(reading, whole)
    beside = filled(
        **{"x-typed": reading.typed_as, "x-by": signed(reading.by), "x-captured": reading.captured},
        supply_v=_driven_by(connection, reading, whole, figures),
    )
    if beside:
        figures = replace(figures, columns=figures.columns | {"extras": beside})
    if reading.shim is None and reading.replaces and entry.shape == "stroke":
        corrected = store.reading_by_id(connection, reading.replaces)
        if corrected is not None:
            shims = {"shim_typed": corrected.shim_typed}
            figures = replace(figures, columns=figures.columns | shims)
    return figures, injector_id, slot


def _driven_by(
    connection: Connection, reading: NewReading, whole: WholeSheet, figures: Figures
) -> Decimal | None:
    """What the tester has now; one that is only noted upon keeps what it was taken with."""
    volts = whole.sheet.conditions.get("supply_v")
    was = store.reading_by_id(connection, reading.replaces) if reading.replaces else None
    if was is not None and all(
        getattr(was, name) == figures.columns.get(name) for name in ("first_typed", "second_typed")
    ):
        volts = (was.extras or {}).get("supply_v")
    return None if volts is None else Decimal(str(volts))


def _place(reading: NewReading, whole: WholeSheet, entry: Entry) -> tuple[int | None, str | None]:
    """The row a reading is for: an injector's id, or a slot of the sheet."""
    if entry.shape == "point":
        if reading.word is not None:
            return None, reading.injector
        return None, moment_slot(plain(parse_number(reading.at_s or "0", "at_s")))
    if entry.slots:
        if reading.injector not in entry.slots:
            raise refuse("injector", "a state: " + ", ".join(entry.slots), reading.injector)
        return None, reading.injector
    if entry.shape == "form":
        return None, None
    if reading.injector in own_slots(whole):
        return None, reading.injector
    return injector_of(whole, reading.injector).id, None


def _already(connection: Connection, reading: NewReading, whole: WholeSheet) -> bool:
    """Whether this very reading is kept; :class:`Conflict` when its id stands for another."""
    kept = next((r for r in whole.readings if r.id == reading.id), None) or store.reading_by_id(
        connection, reading.id
    )
    if kept is None:
        return False
    figures, injector_id, slot = _figures(connection, reading, whole)
    again = _record(reading, whole, figures, (injector_id, slot), kept.number)
    same = all(getattr(kept, name) == getattr(again, name) for name in _SAME)
    if kept.sheet_id == whole.sheet.id and same:
        return True
    raise Conflict(
        Problem(
            path="id", value=reading.id, code="id_taken", rule="this id stands for another reading"
        )
    )


@retried
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
            whole = known_sheet(connection, sheet_id, lock=True, though_closed=True)
            reading = with_units(reading, whole.sheet.unit, shim_unit(whole))
            if any(r.id == reading.id for r in whole.readings):
                _already(connection, reading, whole)
                return sheet_view(whole, thresholds, unit)
            still_open(closed=whole.closed, number=whole.job_number)
            whole = with_carried(connection, add_reading(connection, reading, whole))
        store.remember(engine, whole)
    except IntegrityError:
        # The id is there, but not in force: it was taken back, or belongs to another sheet.
        with transaction(engine) as connection:
            whole = known_sheet(connection, sheet_id)
            reading = with_units(reading, whole.sheet.unit, shim_unit(whole))
            if not _already(connection, reading, whole):
                raise
    return sheet_view(whole, thresholds, unit)


def add_reading(connection: Connection, reading: NewReading, whole: WholeSheet) -> WholeSheet:
    """Check and insert; the sheet as it is after it, without reading it again."""
    figures, injector_id, slot = _figures(connection, reading, whole)
    place = (injector_id, slot)
    _ask(reading, figures)
    reading = replace(reading, replaces=_replaced(reading, whole, figures, place))
    number = _pass_number(reading, whole, place)
    made = _record(reading, whole, figures, place, number)
    if reading.replaces is not None:
        store.set_live(connection, reading.replaces, live=False)
    store.add_readings(connection, [{f: getattr(made, f) for f in ReadingRecord.__slots__}])
    store.touch_sheet(connection, whole.sheet.id)
    kept = tuple(r for r in whole.readings if r.id != reading.replaces)
    return replace(
        whole, readings=(*kept, made), sheet=replace(whole.sheet, version=whole.sheet.version + 1)
    )


@retried
def take_back(
    engine: Engine,
    sheet_id: int,
    reading_id: str,
    thresholds: Thresholds,
    unit: str | None = None,
    *,
    altogether: bool = False,
) -> SheetView:
    """Take a reading back; the one it replaced comes into force again, unless ``altogether``.

    Twice is harmless.
    """
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
            newer = any(
                (r.injector_id, r.slot, r.number) == (kept.injector_id, kept.slot, kept.number)
                for r in whole.readings
                if r.id != reading_id
            )
            if kept.replaces is not None and not newer and not altogether:
                store.set_live(connection, kept.replaces, live=True)
            store.touch_sheet(connection, sheet_id)
            whole = known_sheet(connection, sheet_id)
    return sheet_view(whole, thresholds, unit)
