"""The figures of one reading as they come from a browser: read, checked, and asked about."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any, Final

from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.measure.quantities import KPA_PER, Pressure, parse_number, plain
from plumb.core.measure.slips import Question, Scale, check_drop, check_rise, check_value
from plumb.core.procedures import BY_CODE
from plumb.jobfile.kinds.kind import factor_of
from plumb.service.kinds.shims import shim_unit, typed_mm
from plumb.store.records import WholeSheet


@dataclass(frozen=True, slots=True, kw_only=True)
class NewReading:
    """A reading as it comes from a browser.

    ``id`` is made by the browser and makes saving it twice harmless; ``injector`` is the row: an
    injector, a state on the supply sheet, a step of the isolation board, or empty for a moment of a
    hold; ``pass_number`` None takes the next free pass; ``replaces`` names the reading it corrects;
    ``confirmed`` holds the codes of the questions that were answered with "as typed"; ``typed_as`` is
    what was typed where that was in another unit than the sheet's, ``by`` who took it, ``captured`` which
    instrument gave it and where in its stream.
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
    typed_as: str = ""
    by: str = ""
    captured: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Figures:
    """What a reading brings, read: columns of the store, and the questions about them."""

    shape: str
    columns: dict[str, Any]
    questions: tuple[Question, ...] = ()
    typed: str = ""
    mark: str | None = None


def refuse(
    path: str, rule: str, value: str = "", code: str = "does_not_fit", hint: str = ""
) -> PlumbError:
    """The error for something that cannot be a reading."""
    return PlumbError(Problem(path=path, rule=rule, value=value, code=code, suggestion=hint))


def burst(reading: NewReading, whole: WholeSheet) -> Figures:
    """Two pressures, or a mark that says there is no drop."""
    unit = whole.sheet.unit
    blank = reading.mark in {"none", "not_read"}
    if reading.second is None and not blank:
        field = "first" if reading.first is None else "second"
        raise refuse(
            field, "type both pressures, or mark no response", "", "missing", "for example 50 26"
        )
    if reading.second is not None and (blank or reading.first is None):
        raise refuse(
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
        typed=f"{reading.first} {reading.second}", mark=reading.mark,
    )  # fmt: skip


def pair(reading: NewReading, whole: WholeSheet) -> Figures:
    """What is wanted of a rail, and what is there: two pressures, either may be the greater."""
    unit = whole.sheet.unit
    made: dict[str, Any] = {}
    asked: list[Question] = []
    for name, called in (("first", "wanted"), ("second", "actual")):
        text = getattr(reading, name)
        if text is None:
            raise refuse(called, "type both: what is wanted, then what is there", "", "missing")
        pressure = Pressure.typed(text, unit, name)
        made |= {f"{name}_typed": pressure.digits, f"{name}_kpa": pressure.kpa}
        usual = Scale(unit=unit, step=0.0, fuel_system=whole.fuel_system, starts=())
        asked += check_value(text, usual, field=name)
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
        step=float(whole.sheet.gauge_step_typed or 0.0),
        fuel_system=whole.fuel_system,
        starts=tuple(v / factor for v in others if v is not None),
    )


def value(reading: NewReading, whole: WholeSheet) -> Figures:
    """One figure, or a mark that says why there is none."""
    unit = whole.sheet.unit
    entry = BY_CODE[whole.sheet.kind].entry
    allowed = entry.marks
    if entry.slots:
        # A state of the engine has its figure or none: whatever mark comes along says nothing.
        reading = replace(reading, mark=None)
    if reading.mark is not None and reading.mark not in {*allowed, "read_late"}:
        raise refuse("mark", "here a mark is " + " or ".join(sorted(allowed)), reading.mark)
    made: dict[str, Any] = {"spray": reading.spray}
    if reading.mark in allowed:
        if reading.value is not None:
            raise refuse(
                "value", f"{reading.mark} stands for a missing figure", reading.value,
                "not_with_mark",
            )  # fmt: skip
        return Figures(shape="value", columns=made, typed=reading.mark or "", mark=reading.mark)
    if reading.value is None:
        raise refuse("value", "type the figure", "", "missing", "for example 12.4")
    made |= _one(reading.value, unit, signed=entry.signed)
    scale = _scale(whole, reading.injector)
    if entry.like and not scale.starts:
        scale = replace(scale, fuel_system=entry.like)
    asked = [
        q for q in check_value(reading.value, scale) if not entry.signed or q.code == "off_step"
    ]
    return Figures(
        shape="value", columns=made, questions=tuple(asked), typed=reading.value, mark=reading.mark
    )


def stroke(reading: NewReading, whole: WholeSheet) -> Figures:
    """One stroke of the hand pump: its pressure, the shims inside, what was seen."""
    if reading.mark not in {None, "none"}:
        raise refuse("mark", "here a mark is none: no pressure builds", reading.mark or "")
    entry = BY_CODE[whole.sheet.kind].entry
    for name, known in (("sound", entry.sounds), ("seat", entry.seats)):
        word = getattr(reading, name)
        if word is not None and word not in known:
            raise refuse(name, "one of " + ", ".join(known), word, "unknown_word")
    made: dict[str, Any] = {
        "sound": reading.sound, "seat": reading.seat, "spray": reading.spray,
    }  # fmt: skip
    if reading.shim is not None:
        made["shim_typed"] = plain(typed_mm(reading.shim, shim_unit(whole)))
    if reading.mark == "none":
        if reading.value is not None:
            raise refuse(
                "value", "none stands for a missing figure", reading.value, "not_with_mark"
            )
        return Figures(shape="value", columns=made, typed="none", mark="none")
    if reading.value is None:
        raise refuse("value", "type the opening pressure", "", "missing", "for example 125.5")
    made |= _one(reading.value, whole.sheet.unit)
    asked = check_value(reading.value, _nozzle_scale(reading, whole))
    return Figures(
        shape="value", columns=made, questions=tuple(asked), typed=reading.value, mark=reading.mark
    )


def _nozzle_scale(reading: NewReading, whole: WholeSheet) -> Scale:
    """The other nozzles' pressures; alone on the sheet, those of this one."""
    scale = _scale(whole, reading.injector)
    return scale if scale.starts else _scale(whole, "")


def _one(text: str, unit: str, *, signed: bool = False) -> dict[str, Any]:
    """One figure as typed and in the core's unit."""
    if unit not in KPA_PER:
        number = parse_number(text, "value")
        least = -1000 if signed else 0
        if number < least or number > 1_000_000:
            raise refuse("value", f"a figure from {least} to 1000000", text, "below_zero")
        return {"value_typed": plain(number), "value": float(number)}
    pressure = Pressure.typed(text, unit, "value")
    return {"value_typed": pressure.digits, "value": pressure.kpa}


def point(reading: NewReading, whole: WholeSheet) -> Figures:
    """A moment of a hold: seconds and pressure."""
    if reading.value is None or reading.at_s is None:
        raise refuse("value", "type the pressure; the clock gives the time", "", "missing")
    at = parse_number(reading.at_s, "at_s")
    if not 0 <= at <= 100_000:
        raise refuse("at_s", "seconds since the pump stopped, 0 to 100000", reading.at_s)
    made = {**_one(reading.value, whole.sheet.unit), "at_typed": plain(at), "at_s": float(at)}
    first = tuple(
        (r.value or 0.0) / factor_of(whole.sheet.unit) for r in whole.readings if r.shape == "point"
    )[:1]
    scale = replace(_scale(whole, ""), starts=first)
    rose = first and float(parse_number(reading.value)) > 1.6 * first[0]
    asked = [
        q for q in check_value(reading.value, scale) if rose or not first or q.code == "off_step"
    ]
    another = _another_attempt(float(at), reading.value, first, whole)
    return Figures(
        shape="point", columns=made, questions=(*asked, *([another] if another else [])),
        typed=reading.value,
    )  # fmt: skip


def _another_attempt(
    at_s: float, typed: str, first: tuple[float, ...], whole: WholeSheet
) -> Question | None:
    """Whether a later moment of a hold stands so far above the one before it that the pump ran between."""
    factor = factor_of(whole.sheet.unit)
    before = [r for r in whole.readings if r.shape == "point" and (r.at_s or 0.0) < at_s]
    if not first or not before:
        return None
    last = max(before, key=lambda r: r.at_s or 0.0)
    return check_rise(
        float(parse_number(typed)),
        first[0],
        round((last.value or 0.0) / factor, 6),
        whole.sheet.unit,
    )


def word_of(reading: NewReading, known: Sequence[str]) -> Figures:
    """One word of those that are known."""
    if reading.word not in known:
        raise refuse("word", "one of " + ", ".join(known), reading.word or "", "unknown_word")
    return Figures(shape="word", columns={"word": reading.word}, typed=reading.word or "")


def seen(reading: NewReading, whole: WholeSheet) -> Figures:
    """One of the words of the sheet."""
    return word_of(reading, [w for w, _ in BY_CODE[whole.sheet.kind].entry.words])


def _ticks(reading: NewReading, whole: WholeSheet) -> Figures:  # noqa: ARG001  nothing is read
    raise refuse("sheet", f"{BY_CODE[whole.sheet.kind].title} has no readings; change what is "
                 "noted on it")  # fmt: skip


SHAPES: Final[dict[str, Callable[[NewReading, WholeSheet], Figures]]] = {
    "burst": burst,
    "pair": pair,
    "value": value,
    "stroke": stroke,
    "point": point,
    "words": seen,
    "form": _ticks,
}
"""How a reading is read by the shape of the sheet's entry."""
