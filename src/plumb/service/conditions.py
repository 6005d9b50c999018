"""The conditions of each kind of sheet as knobs: what they show, and the fields behind them.

The table of knobs says what can be set on which sheet; the job file's models say what fits.
"""

from decimal import Decimal
from typing import Any, Final

from plumb.core.problems import PlumbError, Problem
from plumb.core.quantities import parse_number, plain
from plumb.service.knobs import KNOBS, Field
from plumb.service.nozzles import shim_unit, shown_shim, typed_mm
from plumb.service.views import FieldView, KnobView, OptionView
from plumb.store.records import WholeSheet


def _at(data: dict[str, Any], key: str) -> Any:  # noqa: ANN401  a JSON value
    for name in key.split("."):
        if not isinstance(data, dict) or name not in data:
            return None
        data = data[name]
    return data


def _text(value: Any) -> str:  # noqa: ANN401  a JSON value
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else ""
    if isinstance(value, list):
        return " ".join(_text(v) for v in value)
    return plain(value) if isinstance(value, Decimal) else str(value)


def knob_views(whole: WholeSheet) -> list[KnobView]:
    """The knobs of a stored sheet, figures as typed."""
    sheet = whole.sheet
    data = {**sheet.conditions, "gauge": sheet.conditions.get("meter") or {}}

    length = shim_unit(whole)

    def get(key: str) -> str:
        value = _at(data, key)
        if key == "shims_mm":
            return " ".join(shown_shim(_text(v), length) for v in value or [])
        return _text(value)

    return [
        KnobView(
            name=knob.name,
            value=knob.shows(get).replace("{unit}", sheet.unit),
            note=knob.note,
            window=knob.window,
            fields=[
                FieldView(
                    key=f.key,
                    label=f.label.replace("{unit}", sheet.unit).replace("{shim}", length),
                    kind=f.kind,
                    value=get(f.key),
                    options=[OptionView(code=c, label=w) for c, w in f.options],
                )
                for f in knob.fields
            ],
        )
        for knob in KNOBS[sheet.kind]
    ]


_FORM: Final = (
    Field("complaint", "Complaint", "words"),
    Field("codes", "Codes", "words"),
    Field("hose", "Vacuum hose", "text"),
    Field("connectors", "Connectors", "text"),
    Field("note", "Note", "text"),
    Field("pump", "Pump", "text"),
)


def fields_of(kind: str) -> dict[str, Field]:
    """Every field that can be set on a kind of sheet, by key."""
    made = {f.key: f for knob in KNOBS[kind] for f in knob.fields}
    names = {"walk_round": {"complaint", "codes", "hose", "connectors", "note"},
             "supply_pressure": {"pump"}}.get(kind, set())  # fmt: skip
    return made | {f.key: f for f in _FORM if f.key in names}


def put(data: dict[str, Any], kind: str, changes: dict[str, str]) -> dict[str, Any]:
    """A sheet's JSON with typed texts put in their places; an empty text takes a value away.

    Raises :class:`PlumbError` for a key that this kind does not have, and for what is no number.
    """
    known = fields_of(kind)
    made: dict[str, Any] = {k: dict(v) if isinstance(v, dict) else v for k, v in data.items()}
    # The unit that shims are told in comes before the shims themselves.
    for key, text in sorted(changes.items(), key=lambda c: c[0] != "shim_unit"):
        if key not in known:
            raise PlumbError(
                Problem(
                    path=key,
                    rule="this sheet has " + (", ".join(known) or "no conditions"),
                    value=text,
                    code="unknown_condition",
                )
            )
        _put_one(made, known[key], text.strip())
    if isinstance(made.get("expected"), dict) and "drop" not in made["expected"]:
        made.pop("expected")
    return made


def _put_one(made: dict[str, Any], field: Field, text: str) -> None:
    *parents, name = field.key.split(".")
    place = made
    for parent in parents:
        place[parent] = dict(place.get(parent) or {})
        place = place[parent]
    if text == "" and field.kind != "words":
        place.pop(name, None)
    elif field.kind == "number":
        place[name] = parse_number(text, field.key)
    elif field.kind == "whole":
        number = parse_number(text, field.key)
        if number != number.to_integral_value():
            raise PlumbError(
                Problem(path=field.key, rule="a whole number", value=text, code="not_whole")
            )
        place[name] = int(number)
    elif field.kind == "words":
        place[name] = text.split()
    elif field.kind == "numbers":
        numbers = [parse_number(t, field.key) for t in text.split()]
        whole = field.key == "firing_order"
        place[name] = [int(n) if whole and n == int(n) else n for n in numbers]
    elif field.kind == "shims":
        length = str(made.get("shim_unit") or "mm")
        place[name] = [typed_mm(t, length, field.key) for t in text.split()]
    else:
        place[name] = True if field.kind == "yes" else text
