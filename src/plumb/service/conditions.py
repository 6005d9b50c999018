"""The conditions of each kind of sheet as knobs: what they show, and the fields behind them.

One table says what can be set on which sheet; the job file's models say what fits.
"""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from typing import Any, Final

from plumb.core.problems import PlumbError, Problem
from plumb.core.quantities import parse_number, plain
from plumb.service.views import FieldView, KnobView, OptionView
from plumb.store.records import WholeSheet

Get = Callable[[str], str]


@dataclass(frozen=True, slots=True)
class Field:
    """One field: its key in the job file, its label, and number, whole, text, choice, yes, words."""

    key: str
    label: str
    kind: str = "number"
    options: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, slots=True)
class Knob:
    """A knob: its name, its fields, and what it shows (from the fields' texts)."""

    name: str
    fields: tuple[Field, ...]
    shows: Callable[[Get], str]
    note: str = ""
    window: bool = False


def _or(text: str, unit: str = "", none: str = "?") -> str:
    return f"{text} {unit}".strip() if text else none


def _between(get: Get, low: str, high: str, unit: str) -> str:
    if get(low) and get(high):
        return f"{get(low)}–{get(high)} {unit}"
    if get(low):
        return f"from {get(low)} {unit}"
    return f"up to {get(high)} {unit}" if get(high) else ""


def _window(get: Get) -> str:
    parts = [_between(get, "window.low", "window.high", "{unit}")]
    if get("window.from_c") or get("window.to_c"):
        parts.append(f"at {_between(get, 'window.from_c', 'window.to_c', '°C')}")
    if get("window.spread"):
        parts.append(f"spread {get('window.spread')}")
    return ", ".join(p for p in parts if p) or "unknown"


def _limits(get: Get) -> str:
    made = []
    if get("window.lost_at_most"):
        made.append(
            f"{get('window.lost_at_most')} {{unit}} lost in {_time(get('window.within_s'))}"
        )
    if get("window.left_at_least"):
        made.append(
            f"{get('window.left_at_least')} {{unit}} left after "
            f"{_time(get('window.after_s') or get('window.within_s'))}"
        )
    return ", ".join(made) or "unknown"


def _time(typed: str) -> str:
    seconds = Decimal(typed or 0)
    return f"{(seconds / 60).normalize():f} min" if seconds >= 120 else f"{typed} s"


_ENGINE: Final = Knob(
    "Engine",
    (Field("engine.temperature_c", "Engine temperature, °C"),),
    lambda get: _or(get("engine.temperature_c"), "°C"),
)
_WHEN: Final = Knob(
    "When",
    (
        Field("when", "Before or after cleaning", "choice",
              (("", "not said"), ("before_cleaning", "before cleaning"),
               ("after_cleaning", "after cleaning"))),
    ),
    lambda get: get("when").replace("_", " ") or "first time",
)  # fmt: skip
_SOURCE: Final = Field("window.source", "Who says so", "text")
_SPREAD: Final = Field("window.spread", "Largest difference across the set, {unit}")
_LOW_HIGH: Final = (
    Field("window.low", "Lower limit, {unit}"),
    Field("window.high", "Upper limit, {unit}"),
)
_METER: Final = (
    Field("gauge.lead", "Resistance of the leads, {unit}"),
    Field("gauge.percent", "Accuracy, % of the reading"),
    Field("gauge.counts", "Accuracy, counts of the last digit"),
)


def _burst(get: Get) -> str:
    if not get("burst.pulses"):
        return get("when").replace("_", " ") or "?"
    when = f", {get('when').replace('_', ' ')}" if get("when") else ""
    return f"{get('burst.pulses')} × {get('burst.on_ms') or '?'} ms{when}"


def _expected(what: str) -> Knob:
    return Knob(
        "Expected",
        (
            Field("expected.drop", f"{what}, {{unit}} (empty: unknown)"),
            Field("expected.source", "Who says so", "text"),
        ),
        lambda get: _or(get("expected.drop"), "{unit}", "unknown"),
        "What a maker or an earlier sheet says it should be. It settles a split set, and shows a "
        "fault that all of them share.",
        window=True,
    )


def _supply_window(state: str, name: str) -> Knob:
    return Knob(
        name,
        (
            Field(f"windows.{state}.low", "Lower limit, {unit}"),
            Field(f"windows.{state}.high", "Upper limit, {unit}"),
            Field(f"windows.{state}.source", "Who says so", "text"),
        ),
        lambda get: (
            _between(get, f"windows.{state}.low", f"windows.{state}.high", "{unit}") or "unknown"
        ),
        window=True,
    )


_KNOBS: Final[dict[str, tuple[Knob, ...]]] = {
    "walk_round": (),
    "supply_pressure": (
        _supply_window("key_on", "Key on"),
        _supply_window("running", "Running"),
        _supply_window("hose_off", "Hose off"),
        _ENGINE,
    ),
    "hold": (
        Knob(
            "Limit",
            (
                Field("window.lost_at_most", "Lost at most, {unit}"),
                Field("window.within_s", "within so many seconds"),
                Field("window.left_at_least", "Left at least, {unit}"),
                Field("window.after_s", "after so many seconds"),
                _SOURCE,
            ),
            _limits,
            "Either limit, or both.",
            window=True,
        ),
        Knob(
            "Rail",
            (Field("rail", "Side", "choice", (("low", "low pressure"), ("high", "high pressure"))),),
            lambda get: (get("rail") or "low") + " pressure",
        ),
        _ENGINE,
    ),
    "command": (_ENGINE,),
    "coil_resistance": (
        Knob("Window", (*_LOW_HIGH, Field("window.from_c", "holds from, °C"),
                        Field("window.to_c", "holds up to, °C"), _SPREAD, _SOURCE),
             _window, "Empty temperatures: the window holds at 20 °C.", window=True),
        Knob(
            "Coils",
            (
                Field("temperature_c", "Coil temperature, °C"),
                Field("temperature_within_c", "known to ±, °C (empty: 5)"),
            ),
            lambda get: _or(get("temperature_c"), "°C"),
            "Let a coil settle to the engine's temperature; copper rises by 4 % for each 10 °C.",
        ),
        Knob("Leads", _METER, lambda get: _or(get("gauge.lead"), "{unit}", "0 {unit}"),
             "Hold the tips together and read: that is what the leads add."),
    ),
    "coil_voltage_drop": (
        Knob("Window", (*_LOW_HIGH, _SPREAD, _SOURCE), _window, window=True),
        Knob(
            "Current",
            (Field("current_a", "Current, A"), Field("pulse_ms", "Pulse, ms")),
            lambda get: _or(get("current_a"), "A"),
            "The same current and pulse for all.",
        ),
    ),
    "pressure_drop": (
        Knob(
            "Burst",
            (
                Field("burst.pulses", "Pulses", "whole"),
                Field("burst.on_ms", "On time of each, ms"),
                _WHEN.fields[0],
            ),
            _burst,
            "The same burst for every injector. Longer if the gauge is coarse, shorter if the rail "
            "runs empty.",
        ),
        Knob(
            "Engine",
            (
                Field("engine.temperature_c", "Engine temperature, °C"),
                Field("supply_v", "Supply of the tester, V"),
                Field("neighbour_proven", "A neighbour on another engine answered this tester",
                      "yes"),
            ),
            lambda get: _or(get("engine.temperature_c"), "°C"),
        ),
        _expected("Drop of one burst"),
    ),
    "injector_balance_running": (
        Knob(
            "Entry",
            (
                Field("conditions.low_side", "Low side, {unit}"),
                Field("conditions.lost_in_60_s", "Low side lost in 60 s, {unit}"),
                Field("conditions.rail", "Rail at idle, {unit}"),
            ),
            lambda get: _or(get("conditions.rail"), "{unit} rail"),
            "Asked for: low side 46 to 84 psi and at most 5 psi lost in a minute, rail 276 to 725 "
            "psi at idle.",
        ),
        _ENGINE,
        _expected("Rail drop of one injector"),
    ),
    "correction": (
        Knob(
            "Apart",
            (Field("window.apart", "At most from those that agree, {unit}"), _SOURCE),
            lambda get: _or(get("window.apart"), "{unit}", "4 points"),
            "Common practice: within 3 or 4 points of each other.",
            window=True,
        ),
        _ENGINE,
    ),
    "cranking_balance": (),
    "return_volume": (
        Knob(
            "Spell",
            (
                Field("state", "Engine", "choice", (("idle", "idling"), ("cranking", "cranked"))),
                Field("duration_s", "All spells together, s"),
                Field("clamped", "The common return is clamped", "yes"),
            ),
            lambda get: f"{get('state') or 'idle'} {_or(get('duration_s'), 's', '')}".strip(),
            "Cranked in several spells with rests for the starter: write down all of them together.",
        ),
        Knob(
            "Limit",
            (Field("window.high", "At most in that time, {unit}"), _SOURCE),
            lambda get: _or(get("window.high"), "{unit}", "twice the low group"),
            "A maker's limit comes before the comparison.",
            window=True,
        ),
    ),
    "tip_leak": (
        Knob(
            "Watched",
            (
                Field("place", "Where", "choice",
                      (("", "not said"), ("on_car", "on the car"), ("off_car", "off the car"))),
                Field("duration_s", "Watched for, s"),
            ),
            lambda get: " ".join(
                x for x in (get("place").replace("_", " "), _or(get("duration_s"), "s", "")) if x
            )
            or "?",
        ),
    ),
    "flow_bench": (
        Knob(
            "Bench",
            (
                Field("mode", "Mode", "choice", (("static", "static"), ("pulsed", "pulsed"))),
                Field("duration_s", "For, s"),
            ),
            lambda get: f"{get('mode') or 'pulsed'} {_or(get('duration_s'), 's', '')}".strip(),
        ),
        _WHEN,
        _expected("Volume"),
    ),
}  # fmt: skip


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
    return plain(value) if isinstance(value, Decimal) else str(value)


def knob_views(whole: WholeSheet) -> list[KnobView]:
    """The knobs of a stored sheet, figures as typed."""
    sheet = whole.sheet
    data = {**sheet.conditions, "gauge": sheet.conditions.get("meter") or {}}

    def get(key: str) -> str:
        return _text(_at(data, key))

    return [
        KnobView(
            name=knob.name,
            value=knob.shows(get).replace("{unit}", sheet.unit),
            note=knob.note,
            window=knob.window,
            fields=[
                FieldView(
                    key=f.key,
                    label=f.label.replace("{unit}", sheet.unit),
                    kind=f.kind,
                    value=get(f.key),
                    options=[OptionView(code=c, label=w) for c, w in f.options],
                )
                for f in knob.fields
            ],
        )
        for knob in _KNOBS[sheet.kind]
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
    made = {f.key: f for knob in _KNOBS[kind] for f in knob.fields}
    names = {"walk_round": {"complaint", "codes", "hose", "connectors", "note"},
             "supply_pressure": {"pump"}}.get(kind, set())  # fmt: skip
    return made | {f.key: f for f in _FORM if f.key in names}


def put(data: dict[str, Any], kind: str, changes: dict[str, str]) -> dict[str, Any]:
    """A sheet's JSON with typed texts put in their places; an empty text takes a value away.

    Raises :class:`PlumbError` for a key that this kind does not have, and for what is no number.
    """
    known = fields_of(kind)
    made: dict[str, Any] = {k: dict(v) if isinstance(v, dict) else v for k, v in data.items()}
    for key, text in changes.items():
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
    else:
        place[name] = True if field.kind == "yes" else text
