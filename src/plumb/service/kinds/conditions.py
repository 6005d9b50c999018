"""Conditions that are typed: put in their places in a sheet's JSON, and read from there.

The kinds say what can be set on which sheet; the job file's models say what fits.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from decimal import Decimal
from typing import Any, Final

from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.measure.quantities import parse_number, plain
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.kinds.knobs import SET, Field
from plumb.service.kinds.shims import shown_shim, typed_mm
from plumb.service.kinds.typed_units import figure_in
from plumb.store.records import WholeSheet

SHIM: Final = "shim"
SHIMS: Final = "shims"


def at(data: dict[str, Any], key: str) -> Any:  # noqa: ANN401  a JSON value
    """What stands under a key with dots, None where nothing does."""
    for name in key.split("."):
        if not isinstance(data, dict) or name not in data:
            return None
        data = data[name]
    return data


def text_of(value: Any) -> str:  # noqa: ANN401  a JSON value
    """A JSON value as it is typed."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else ""
    if isinstance(value, list):
        return " ".join(text_of(v) for v in value)
    return plain(value) if isinstance(value, Decimal) else str(value)


def shown(data: dict[str, Any], field: Field, length: str) -> str:
    """The text of a field as it is typed; shims in ``length``."""
    value = at(data, field.key)
    if field.kind in {SHIM, SHIMS}:
        values = [value] if field.kind == SHIM and value is not None else value or []
        return " ".join(shown_shim(text_of(v), length) for v in values)
    return text_of(value)


def fields_of(kind: str) -> dict[str, Field]:
    """Every field that can be set on a kind of sheet, by key."""
    mine = SCREEN_KINDS[kind]
    knobs = (f for knob in mine.knobs for f in knob.fields)
    return {f.key: f for f in (*knobs, *mine.form, SET)}


@contextmanager
def in_words_of(whole: WholeSheet) -> Iterator[None]:
    """Tell what does not fit by the names that stand on the screen, not by keys of the file."""
    try:
        yield
    except PlumbError as error:
        fields = fields_of(whole.sheet.kind)
        names = {key: f.label.partition(",")[0] for key, f in fields.items()}
        names |= {
            f.key.rpartition(".")[0]: knob.name
            for knob in SCREEN_KINDS[whole.sheet.kind].knobs
            for f in knob.fields
            if "." in f.key
        }
        names |= {
            "gauge.step": "Step of the gauge", "gauge": "Gauge", "gauge.span": "Full scale",
            "gauge.class_percent": "Class of the gauge",
        }  # fmt: skip
        raise PlumbError(
            [
                replace(p, path=names.get(p.path.removeprefix("file."), p.path))
                for p in error.problems
            ]
        ) from error


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
        place[name] = figure_in(text, field.unit(str(made.get("unit", ""))), field.key)
    elif field.kind == "whole":
        number = parse_number(text, field.key)
        if number != number.to_integral_value():
            raise PlumbError(
                Problem(path=field.key, rule="a whole number", value=text, code="not_whole")
            )
        place[name] = int(number)
    elif field.kind == "words":
        place[name] = text.split()
    elif field.kind in {"numbers", "spells"}:
        numbers = [parse_number(t, field.key) for t in text.split()]
        place[name] = numbers
    elif field.kind == "wholes":
        place[name] = [
            int(n) if n == int(n) else n for n in (parse_number(t, field.key) for t in text.split())
        ]
    elif field.kind in {SHIM, SHIMS}:
        length = str(made.get("shim_unit") or "mm")
        several = [typed_mm(t, length, field.key) for t in text.split()]
        place[name] = several[0] if field.kind == SHIM else several
    else:
        place[name] = True if field.kind == "yes" else text
