"""What a person does with readings: enter one, take one back."""

from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import IntegrityError

from plumb.core import isolation, seen
from plumb.core.decision import Thresholds
from plumb.core.problems import AsksBack, Conflict, NotThere, PlumbError, Problem
from plumb.core.quantities import KPA_PER, Pressure, parse_number, plain
from plumb.core.slips import Question, Scale, check_drop, check_value
from plumb.core.supply import STATES
from plumb.service.parts import factor_of, moment_slot, now
from plumb.service.sheet_view import entry_view, sheet_view
from plumb.service.sheets import injector_of, known_sheet, known_unit
from plumb.service.views import SheetView
from plumb.store import sheets as store
from plumb.store.records import ReadingRecord, WholeSheet
from plumb.store.session import transaction


@dataclass(frozen=True, slots=True, kw_only=True)
class NewReading:
    """A reading as it comes from a browser.

    ``id`` is made by the browser and makes saving it twice harmless; ``injector`` is the row: an
    injector, a state on the supply sheet, a step of the isolation board, or empty for a moment of a
    hold; ``pass_number`` None takes the next free pass; ``replaces`` names the reading it corrects;
    ``confirmed`` holds the codes of the questions that were answered with "I meant it".
    """

    id: str
    injector: str
    pass_number: int | None = None
    first: str | None = None
    second: str | None = None
    value: str | None = None
    at_s: str | None = None
    word: str | None = None
    spray: str | None = None
    mark: str | None = None
    sound: str | None = None
    fires_at: str | None = None
    note: str = ""
    replaces: str | None = None
    confirmed: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Figures:
    """What a reading brings, read: columns of the store, and the questions about them."""

    shape: str
    columns: dict[str, Any]
    questions: tuple[Question, ...] = ()
    typed: str = ""


def _refuse(
    path: str, rule: str, value: str = "", code: str = "does_not_fit", hint: str = ""
) -> PlumbError:
    return PlumbError(Problem(path=path, rule=rule, value=value, code=code, suggestion=hint))


def _burst(reading: NewReading, whole: WholeSheet) -> Figures:
    """Two pressures, or a mark that says there is no drop."""
    unit = whole.sheet.unit
    blank = reading.mark in {"none", "not_read"}
    if reading.second is None and not blank:
        field = "first" if reading.first is None else "second"
        raise _refuse(
            field, "type both pressures, or mark no response", "", "missing", "for example 50 26"
        )
    if reading.second is not None and (blank or reading.first is None):
        raise _refuse(
            "second",
            "a second reading needs its first, and no mark that says there is none",
            reading.second,
            "not_with_mark",
        )
    made: dict[str, Any] = {"sound": reading.sound}
    for name in ("first", "second"):
        text = getattr(reading, name)
        pressure = None if text is None else Pressure.typed(text, unit, name)
        made[f"{name}_typed"] = None if pressure is None else pressure.digits
        made[f"{name}_kpa"] = None if pressure is None else pressure.kpa
    if reading.fires_at is not None:
        made["fires_at_typed"] = Pressure.typed(reading.fires_at, unit, "fires_at").digits
    asked: list[Question] = []
    if reading.first is not None and reading.second is not None:
        asked = check_drop(reading.first, reading.second, _scale(whole, reading.injector))
    return Figures(
        shape="burst", columns=made, questions=tuple(asked),
        typed=f"{reading.first} {reading.second}",
    )  # fmt: skip


def _scale(whole: WholeSheet, row: str) -> Scale:
    """What the slip rules know: the gauge, and the other rows' figures."""
    factor = factor_of(whole.sheet.unit)
    labels = {i.id: i.label for i in whole.injectors}
    others = [
        (r.first_kpa if r.shape == "burst" else r.value)
        for r in whole.readings
        if r.shape == "point" or (labels.get(r.injector_id or 0) or r.slot) != row
    ]
    return Scale(
        unit=whole.sheet.unit,
        step=float(whole.sheet.gauge_step_typed),
        fuel_system=whole.fuel_system,
        starts=tuple(v / factor for v in others if v is not None),
    )


def _value(reading: NewReading, whole: WholeSheet) -> Figures:
    """One figure, or a mark that says why there is none."""
    unit = whole.sheet.unit
    allowed = {"not_read", "over" if entry_view(whole.sheet.kind).over else "none"}
    if whole.sheet.kind == "correction":
        allowed = {"not_read"}
    if whole.sheet.kind == "cranking_balance":
        allowed = set()
    if reading.mark is not None and reading.mark not in {*allowed, "read_late"}:
        raise _refuse("mark", "here a mark is " + " or ".join(sorted(allowed)), reading.mark)
    made: dict[str, Any] = {"spray": reading.spray}
    if reading.mark in allowed:
        if reading.value is not None:
            raise _refuse(
                "value", f"{reading.mark} stands for a missing figure", reading.value,
                "not_with_mark",
            )  # fmt: skip
        return Figures(shape="value", columns=made, typed=reading.mark or "")
    if reading.value is None:
        raise _refuse("value", "type the figure", "", "missing", "for example 12.4")
    made |= _one(reading.value, unit)
    scale = _scale(whole, reading.injector)
    if whole.sheet.kind == "injector_balance_running" and not scale.starts:
        scale = replace(scale, fuel_system="direct")
    signed = whole.sheet.kind == "correction"
    asked = [q for q in check_value(reading.value, scale) if not signed or q.code == "off_step"]
    return Figures(shape="value", columns=made, questions=tuple(asked), typed=reading.value)


def _one(text: str, unit: str) -> dict[str, Any]:
    """One figure as typed and in the core's unit."""
    if unit not in KPA_PER:
        number = parse_number(text, "value")
        least = -1000 if unit in {"mm3", "percent", "ms"} else 0
        if number < least or number > 1_000_000:
            raise _refuse("value", "a figure from 0 to 1000000", text, "below_zero")
        return {"value_typed": plain(number), "value": float(number)}
    pressure = Pressure.typed(text, unit, "value")
    return {"value_typed": pressure.digits, "value": pressure.kpa}


def _point(reading: NewReading, whole: WholeSheet) -> Figures:
    """A moment of a hold: seconds and pressure."""
    if reading.value is None or reading.at_s is None:
        raise _refuse("value", "type the pressure; the clock gives the time", "", "missing")
    at = parse_number(reading.at_s, "at_s")
    if not 0 <= at <= 100_000:
        raise _refuse("at_s", "seconds since the pump stopped, 0 to 100000", reading.at_s)
    made = {**_one(reading.value, whole.sheet.unit), "at_typed": plain(at), "at_s": float(at)}
    first = tuple(
        (r.value or 0.0) / factor_of(whole.sheet.unit) for r in whole.readings if r.shape == "point"
    )[:1]
    scale = replace(_scale(whole, ""), starts=first)
    rose = first and float(parse_number(reading.value)) > 1.6 * first[0]
    asked = [
        q for q in check_value(reading.value, scale) if rose or not first or q.code == "off_step"
    ]
    return Figures(shape="point", columns=made, questions=tuple(asked), typed=reading.value)


def _word(reading: NewReading, known: list[str]) -> Figures:
    if reading.word not in known:
        raise _refuse("word", "one of " + ", ".join(known), reading.word or "", "unknown_word")
    return Figures(shape="word", columns={"word": reading.word}, typed=reading.word or "")


def _read(reading: NewReading, whole: WholeSheet) -> tuple[Figures, int | None, str | None]:
    """The figures, and the place they are for: an injector's id, or a slot of the sheet."""
    kind = whole.sheet.kind
    if kind == "walk_round":
        raise _refuse("sheet", "the walk-round has no readings; change what is noted on it")
    if kind == "hold":
        if reading.word is None:
            return _point(reading, whole), None, moment_slot(reading.at_s or "0")
        rail = whole.sheet.conditions.get("rail", "low")
        isolation.board(((reading.injector, reading.word),), rail)
        return _word(reading, [reading.word]), None, reading.injector
    if kind == "supply_pressure":
        if reading.injector not in STATES:
            raise _refuse("injector", "a state: " + ", ".join(STATES), reading.injector)
        return _value(replace(reading, mark=None), whole), None, reading.injector
    place = injector_of(whole, reading.injector).id
    if kind in seen.WORDS:
        return _word(reading, list(seen.WORDS[kind])), place, None
    return (_burst if kind == "pressure_drop" else _value)(reading, whole), place, None


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
    once = figures.shape == "word" or place[1] is not None or whole.sheet.kind == "cranking_balance"
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
        if replaced is not None:
            return replaced.number
        return max(taken, default=0) + 1
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


_BLANK: dict[str, Any] = dict.fromkeys(("first_typed", "second_typed", "first_kpa", "second_kpa", "value_typed", "value", "at_typed", "at_s", "word", "spray", "sound", "fires_at_typed", "extras"))  # fmt: skip


def _record(
    reading: NewReading,
    whole: WholeSheet,
    figures: Figures,
    place: tuple[int | None, str | None],
    number: int,
) -> ReadingRecord:
    sheet = whole.sheet
    blank = figures.shape in {"word", "point"}
    return ReadingRecord(
        id=reading.id,
        sheet_id=sheet.id,
        vehicle_id=sheet.vehicle_id,
        injector_id=place[0],
        slot=place[1],
        shape=figures.shape,
        number=number,
        unit=sheet.unit,
        mark=None if blank or sheet.kind == "supply_pressure" else reading.mark,
        note=reading.note,
        taken_at=now(),
        live=1,
        replaces=reading.replaces,
        sequence=max((r.sequence for r in whole.readings), default=0) + 1,
        **(_BLANK | figures.columns),
    )


_SAME = (
    "injector_id", "slot", "first_typed", "second_typed", "value_typed", "at_typed", "word",
    "spray", "sound", "fires_at_typed", "mark", "note",
)  # fmt: skip


def _already(connection: Connection, reading: NewReading, whole: WholeSheet) -> bool:
    """Whether this very reading is kept; :class:`Conflict` when its id stands for another."""
    kept = next((r for r in whole.readings if r.id == reading.id), None) or store.reading_by_id(
        connection, reading.id
    )
    if kept is None:
        return False
    figures, injector_id, slot = _read(reading, whole)
    again = _record(reading, whole, figures, (injector_id, slot), kept.number)
    same = all(getattr(kept, name) == getattr(again, name) for name in _SAME)
    if kept.sheet_id == whole.sheet.id and same:
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
    figures, injector_id, slot = _read(reading, whole)
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
            newer = any(
                (r.injector_id, r.slot, r.number) == (kept.injector_id, kept.slot, kept.number)
                for r in whole.readings
                if r.id != reading_id
            )
            if kept.replaces is not None and not newer:
                store.set_live(connection, kept.replaces, live=True)
            store.touch_sheet(connection, sheet_id)
            whole = known_sheet(connection, sheet_id)
    return sheet_view(whole, thresholds, unit)
