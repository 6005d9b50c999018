"""The shelf: gauges, windows, rules of the shop, layouts.  A sheet copies what it takes."""

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from pydantic import ValidationError
from sqlalchemy import Engine
from sqlalchemy.exc import IntegrityError

from plumb.core.measure.problems import Conflict, NotThere, PlumbError, Problem
from plumb.core.measure.quantities import UNITS, parse_typed, plain
from plumb.core.measure.uncertainty import ASSUMED_CLASS, MOST_CLASS
from plumb.core.procedures import BY_CODE
from plumb.devices.address import address_of, command_of
from plumb.jobfile.finishing import PricesPart
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.kinds.kind import factor_of
from plumb.jobfile.models import RulePart
from plumb.jobfile.reading import problems_of
from plumb.service.kinds.conditions import fields_of, put
from plumb.service.kinds.typed_units import figure_in
from plumb.service.stored.gauges import FIGURES, Gauge, shown, typed_step
from plumb.service.stored.parts import checked, units_of
from plumb.service.views.job import ShelfView
from plumb.service.views.sheet import GaugeView
from plumb.store import jobs as store
from plumb.store import sheets as sheet_store
from plumb.store.records import GaugeRecord, ShelfRecord
from plumb.store.session import retried, transaction

_BOX_LIMITS = {"pulses": (1, 1000), "on_ms": (1, 2000)}
_RULE_NUMBERS = ("tolerance_percent", "limit", "reject", "score", "alpha")


def _gauge_view(gauge: GaugeRecord) -> GaugeView:
    return GaugeView(
        id=gauge.id, name=gauge.name, unit=gauge.unit, step=gauge.step_typed,
        address=gauge.address, command=gauge.command, **shown(gauge.extras, gauge.unit),
    )  # fmt: skip


@retried
def list_gauges(engine: Engine) -> list[GaugeView]:
    """The gauges on the shelf."""
    with transaction(engine) as connection:
        return [_gauge_view(g) for g in store.gauges(connection)]


def _gauge_values(gauge: Gauge) -> dict[str, Any]:
    step = typed_step(gauge.step)
    if gauge.unit not in UNITS:
        raise PlumbError(
            Problem(
                path="unit", rule="the unit is one of " + ", ".join(UNITS), value=gauge.unit,
                code="unknown_unit",
            )
        )  # fmt: skip
    if not gauge.name.strip():
        raise PlumbError(Problem(path="name", rule="name the gauge", code="missing"))
    extras: dict[str, Any] = {
        name: parse_typed(text, name) for name in FIGURES if (text := getattr(gauge, name).strip())
    }
    for name, value in extras.items():
        if value < 0:
            raise PlumbError(
                Problem(path=name, rule="not below zero", value=str(value), code="below_zero")
            )
    extras |= _class_of(gauge, extras)
    address = gauge.address.strip()
    return {
        "address": address_of(address).text if address else "",
        "command": command_of(gauge.command, gauge.unit) if gauge.command.strip() else "",
        "name": gauge.name.strip(),
        "unit": gauge.unit,
        "step_typed": str(step),
        "step": float(step) * factor_of(gauge.unit),
        "extras": extras or None,
    }


def _class_of(gauge: Gauge, figures: Mapping[str, Decimal]) -> dict[str, str]:
    """Whether it is a dial or digital; a class says nothing without its span."""
    for name in ("class_percent", "span"):
        if name in figures and figures[name] <= 0:
            raise PlumbError(
                Problem(path=name, rule="above zero", value=str(figures[name]), code="not_positive")
            )
    if "class_percent" in figures and "span" not in figures:
        raise PlumbError(
            Problem(path="span", rule="a class is a share of the span: say how far the gauge goes",
                    code="missing")
        )  # fmt: skip
    if figures.get("class_percent", 0) > MOST_CLASS:
        raise PlumbError(
            Problem(path="class_percent", rule=f"a class is {MOST_CLASS} % at most",
                    value=str(figures["class_percent"]), code="too_high")
        )  # fmt: skip
    if gauge.reads not in {"", *ASSUMED_CLASS}:
        raise PlumbError(
            Problem(path="reads", rule="dial or digital", value=gauge.reads, code="unknown_word")
        )
    return {"reads": gauge.reads} if gauge.reads else {}


def _taken(what: str, name: str) -> Conflict:
    return Conflict(
        Problem(path="name", rule=f"there is a {what} of that name", value=name, code="name_taken")
    )


def _gone(what: str, entry_id: int) -> NotThere:
    return NotThere(
        Problem(
            path="id", rule=f"there is no such {what}", value=str(entry_id), code="no_such_entry"
        )
    )


@retried
def add_gauge(engine: Engine, gauge: Gauge) -> GaugeView:
    """Put a gauge on the shelf; :class:`Conflict` when the name is taken."""
    values = _gauge_values(gauge)
    try:
        with transaction(engine) as connection:
            gauge_id = store.add_gauge(connection, values)
            return next(_gauge_view(g) for g in store.gauges(connection) if g.id == gauge_id)
    except IntegrityError:
        raise _taken("gauge", gauge.name) from None


@retried
def change_gauge(engine: Engine, gauge_id: int, gauge: Gauge) -> GaugeView:
    """Change a gauge of the shelf; sheets that used it keep what they copied."""
    values = _gauge_values(gauge)
    try:
        with transaction(engine) as connection:
            store.change_gauge(connection, gauge_id, values)
            found = [g for g in store.gauges(connection) if g.id == gauge_id]
    except IntegrityError:
        raise _taken("gauge", gauge.name) from None
    if not found:
        raise _gone("gauge", gauge_id)
    return _gauge_view(found[0])


@retried
def drop_gauge(engine: Engine, gauge_id: int) -> None:
    """Take a gauge off the shelf."""
    with transaction(engine) as connection:
        if not store.drop_gauge(connection, gauge_id):
            raise _gone("gauge", gauge_id)


def _view(entry: ShelfRecord) -> ShelfView:
    if entry.what == "layout":
        injectors = entry.body["injectors"]
        values = {
            str(i["id"]): ", ".join(
                x
                for x in (
                    f"bank {i['bank']}" if i.get("bank") else "",
                    f"feed {i['feed']}" if i.get("feed") else "",
                )
                if x
            )
            for i in injectors
        }
    else:
        values = {k: str(v) for k, v in entry.body.items()}
    return ShelfView(
        id=entry.id, what=entry.what, name=entry.name, kind=entry.kind, unit=entry.unit,
        values=values,
    )  # fmt: skip


@retried
def list_shelf(engine: Engine, what: str | None = None) -> list[ShelfView]:
    """Windows, rules and layouts, by name."""
    with transaction(engine) as connection:
        return [_view(e) for e in store.shelf(connection, what)]


def _window_values(kind: str, unit: str, values: dict[str, str]) -> dict[str, str]:
    """A window's typed texts, checked by the model of the sheet it is for."""
    known = fields_of(kind)
    typed = {k: v.strip() for k, v in values.items() if v.strip()}
    for key, text in typed.items():
        if key not in known or not key.startswith(("window", "windows", "expected")):
            raise PlumbError(
                Problem(path=key, rule=f"no limit of {kind}", value=text, code="unknown_condition")
            )
        if known[key].kind == "number":
            typed[key] = plain(figure_in(text, known[key].unit(unit), key))
    if not any(known[k].kind == "number" for k in typed):
        raise PlumbError(Problem(path="values", rule="a limit is needed", code="missing"))
    if unit not in units_of(kind):
        raise PlumbError(
            Problem(path="unit", rule=f"a unit of {kind}", value=unit, code="unknown_unit")
        )
    _try_window(kind, unit, typed)
    return typed


def _try_window(kind: str, unit: str, typed: dict[str, str]) -> None:
    """Put the texts on an empty sheet of the kind: what does not fit there does not fit here."""
    data = put({"kind": kind, "id": "s", "unit": unit, "gauge": {"step": 1}}, kind, typed)
    if "readings" in FILE_KINDS[kind].model.model_fields:
        data["readings"] = []
    checked(data)


def rule_part(typed: Mapping[str, str]) -> RulePart:
    """A rule's typed texts as the file has it; :class:`PlumbError` for what does not fit."""
    raw = {k: parse_typed(v, k) if k in _RULE_NUMBERS else v for k, v in typed.items()}
    try:
        return RulePart.model_validate(raw)
    except ValidationError as error:
        raise PlumbError(problems_of(error)) from error


def _rule_values(values: dict[str, str]) -> dict[str, str]:
    """A rule's typed texts, checked by the model of the file."""
    typed = {k: v.strip() for k, v in values.items() if v.strip()}
    rule_part(typed)
    return typed


def _price_values(values: dict[str, str]) -> dict[str, str]:
    """Prices as typed, checked by the model of the file."""
    typed = {k: v.strip() for k, v in values.items() if v.strip()}
    raw = {k: v.upper() if k == "currency" else parse_typed(v, k) for k, v in typed.items()}
    if not raw:
        raise PlumbError(Problem(path="values", rule="a price is needed", code="missing"))
    try:
        PricesPart.model_validate(raw)
    except ValidationError as error:
        raise PlumbError(problems_of(error)) from error
    return {k: v if isinstance(v, str) else plain(v) for k, v in raw.items()}


def _box_values(values: dict[str, str]) -> dict[str, str]:
    """A burst box as typed: its address, and the burst it gives where a sheet says none."""
    typed = {k: v.strip() for k, v in values.items() if v.strip()}
    for key, text in typed.items():
        if key in _BOX_LIMITS:
            low, high = _BOX_LIMITS[key]
            if not low <= parse_typed(text, key) <= high:
                rule = f"between {low} and {high}"
                raise PlumbError(Problem(path=key, rule=rule, value=text, code="out_of_range"))
        elif key != "address":
            raise PlumbError(
                Problem(path=key, rule="no part of a burst box", value=text, code="unknown_key")
            )
    return {**typed, "address": address_of(typed.get("address", "")).text}


def _body(entry: ShelfView) -> dict[str, Any]:
    if not entry.name.strip():
        raise PlumbError(Problem(path="name", rule="name the entry", code="missing"))
    if entry.what == "box":
        return dict(_box_values(entry.values))
    if entry.what == "rule":
        return dict(_rule_values(entry.values))
    if entry.what == "price":
        return dict(_price_values(entry.values))
    if entry.kind not in BY_CODE:
        raise PlumbError(
            Problem(path="kind", rule="a kind of sheet", value=entry.kind, code="no_procedure")
        )
    return dict(_window_values(entry.kind, entry.unit, entry.values))


@retried
def keep(engine: Engine, entry: ShelfView) -> ShelfView:
    """Put a window, a rule or prices on the shelf, or change them where ``id`` is not 0."""
    values = {
        "what": entry.what, "name": entry.name.strip(), "kind": entry.kind, "unit": entry.unit,
        "body": _body(entry),
    }  # fmt: skip
    try:
        with transaction(engine) as connection:
            if entry.id:
                store.change_on_shelf(connection, entry.id, values)
                entry_id = entry.id
            else:
                entry_id = store.add_to_shelf(connection, values)
            found = [e for e in store.shelf(connection) if e.id == entry_id]
    except IntegrityError:
        raise _taken(entry.what, entry.name) from None
    if not found:
        raise _gone("entry", entry.id)
    return _view(found[0])


@retried
def keep_layout(engine: Engine, name: str, vehicle_id: int) -> ShelfView:
    """Keep a vehicle's cylinders, banks and feeds as a layout for the next one of its make."""
    if not name.strip():
        raise PlumbError(Problem(path="name", rule="name the layout", code="missing"))
    try:
        with transaction(engine) as connection:
            if store.vehicle_by_id(connection, vehicle_id) is None:
                raise _gone("vehicle", vehicle_id)
            injectors = [
                {
                    "id": i.label,
                    "cylinder": i.cylinder,
                    "bank": i.bank,
                    "feed": i.feed,
                    "set": i.set_name,
                }
                for i in sheet_store.injectors_of(connection, vehicle_id)
            ]
            values = {
                "what": "layout", "name": name.strip(), "kind": "", "unit": "",
                "body": {"injectors": injectors},
            }  # fmt: skip
            entry_id = store.add_to_shelf(connection, values)
            return next(_view(e) for e in store.shelf(connection) if e.id == entry_id)
    except IntegrityError:
        raise _taken("layout", name) from None


@retried
def drop(engine: Engine, entry_id: int) -> None:
    """Take an entry off the shelf."""
    with transaction(engine) as connection:
        if not store.drop_from_shelf(connection, entry_id):
            raise _gone("entry", entry_id)
