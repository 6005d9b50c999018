"""The figures of one reading as they come from a browser: read, checked, and asked about."""

from dataclasses import dataclass, replace
from typing import Any

from plumb.core import isolation, seen
from plumb.core.problems import PlumbError, Problem
from plumb.core.quantities import KPA_PER, Pressure, parse_number, plain
from plumb.core.slips import Question, Scale, check_drop, check_value
from plumb.core.supply import STATES
from plumb.service.nozzles import SEATS, STROKE_SOUNDS, shim_unit, typed_mm
from plumb.service.parts import factor_of, moment_slot
from plumb.service.sheet_view import entry_view
from plumb.service.sheets import injector_of
from plumb.store.records import WholeSheet


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
    seat: str | None = None
    shim: str | None = None
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


def _stroke(reading: NewReading, whole: WholeSheet) -> Figures:
    """One stroke of the hand pump: its pressure, the shims inside, what was seen."""
    if reading.mark not in {None, "none"}:
        raise _refuse("mark", "here a mark is none: no pressure builds", reading.mark or "")
    for name, known in (("sound", STROKE_SOUNDS), ("seat", SEATS)):
        word = getattr(reading, name)
        if word is not None and word not in known:
            raise _refuse(name, "one of " + ", ".join(known), word, "unknown_word")
    made: dict[str, Any] = {
        "sound": reading.sound, "seat": reading.seat, "spray": reading.spray,
    }  # fmt: skip
    if reading.shim is not None:
        made["shim_typed"] = plain(typed_mm(reading.shim, shim_unit(whole)))
    if reading.mark == "none":
        if reading.value is not None:
            raise _refuse(
                "value", "none stands for a missing figure", reading.value, "not_with_mark"
            )
        return Figures(shape="value", columns=made, typed="none")
    if reading.value is None:
        raise _refuse("value", "type the opening pressure", "", "missing", "for example 125.5")
    made |= _one(reading.value, whole.sheet.unit)
    asked = check_value(reading.value, _nozzle_scale(reading, whole))
    return Figures(shape="value", columns=made, questions=tuple(asked), typed=reading.value)


def _nozzle_scale(reading: NewReading, whole: WholeSheet) -> Scale:
    """The other nozzles' pressures; alone on the sheet, those of this one."""
    scale = _scale(whole, reading.injector)
    return scale if scale.starts else _scale(whole, "")


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


def read_figures(reading: NewReading, whole: WholeSheet) -> tuple[Figures, int | None, str | None]:
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
    if kind == "rail_pressure":
        raise _refuse("sheet", "the rail's pressure comes as a trace; bring in its CSV")
    read = {"pressure_drop": _burst, "opening_pressure": _stroke}.get(kind, _value)
    return read(reading, whole), place, None
