"""What can be set on which sheet, as one table: knobs, their fields, and what they show."""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

from plumb.core.quantities import plain

Get = Callable[[str], str]


@dataclass(frozen=True, slots=True)
class Field:
    """One field: its key in the job file, its label, and what it takes.

    That is number, whole, text, choice, yes, words, numbers or shims.
    """

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


def _spell(get: Get) -> str:
    spells = [Decimal(x) for x in get("spells_s").split()]
    time = get("duration_s") or (plain(sum(spells, Decimal(0))) if spells else "")
    rail = f", rail {get('rail')} {get('rail_unit') or 'bar'}" if get("rail") else ""
    return f"{get('state') or 'idle'} {_or(time, 's', '')}".strip() + rail


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


KNOBS: Final[dict[str, tuple[Knob, ...]]] = {
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
    "cranking_balance": (
        Knob(
            "Firing order",
            (Field("firing_order", "Cylinders in firing order, with a space between", "numbers"),),
            lambda get: get("firing_order") or "the usual one",
            "Only a trace with a sync needs it: its humps come in this order.",
        ),
    ),
    "rail_pressure": (_ENGINE,),
    "opening_pressure": (
        Knob("Window", (*_LOW_HIGH, _SPREAD, _SOURCE), _window, window=True),
        Knob(
            "Nozzle",
            (
                Field("nozzle.name", "Type of the nozzles", "text"),
                Field("nozzle.form", "Form", "choice",
                      (("", "not said"), ("pintle", "pintle: one straight cone"),
                       ("hole", "hole: even jets"))),
                Field("nozzle.torque_nm", "Torque of the body, N·m"),
                Field("strokes", "Strokes of each nozzle", "whole"),
                _WHEN.fields[0],
            ),
            lambda get: get("nozzle.name") or get("nozzle.form") or "?",
            "What a shim buys is learnt for each type by its name. Tighten the body to its torque: "
            "too much moves the pressure.",
        ),
        Knob(
            "Shims",
            (
                Field("shims_mm", "In the drawer, with a space between, {shim}", "shims"),
                Field("shim_unit", "Told in", "choice",
                      (("mm", "mm"), ("thou", "thousandths of an inch"))),
            ),
            lambda get: _or(get("shims_mm"), get("shim_unit") or "mm", "none noted"),
            "The plan is made from these, and from what is inside.",
        ),
    ),
    "return_volume": (
        Knob(
            "Spell",
            (
                Field("state", "Engine", "choice", (("idle", "idling"), ("cranking", "cranked"))),
                Field("duration_s", "Timed for, s"),
                Field("spells_s", "or cranked in spells of, s, with a space between", "numbers"),
                Field("rail", "Rail pressure reached"),
                Field("rail_unit", "in", "choice",
                      (("bar", "bar"), ("MPa", "MPa"), ("psi", "psi"), ("kPa", "kPa"))),
                Field("clamped", "The common return is clamped", "yes"),
            ),
            _spell,
            "Cranked in several spells with rests for the starter: they add up. An empty time "
            "takes the sum of the spells.",
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
"""The knobs of every kind of sheet."""
