"""A figure typed with a unit of its own, in the unit of the sheet.

The gauge's step stays the gauge's: a dial with two scales is read on one of them.  Who knows the
units is pint; here is only which texts are let through to it, and how many digits come back.

>>> in_unit("3.45 bar", "psi").digits, in_unit("26.5", "psi").digits
('50.04', '26.5')
>>> in_unit("980 mV", "V").digits
'0.9800'
"""

import math
import re
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import cache
from typing import TYPE_CHECKING, Any, Final

from plumb.core.measure.quantities import parse_number, parse_typed, plain
from plumb.service.kinds.entry import NewReading, refuse

if TYPE_CHECKING:
    from pint import UnitRegistry

_WITH_UNIT: Final = re.compile(
    r"([^A-Za-zµμΩ%°]+?)\s*([A-Za-zµμΩ%°][A-Za-zµμΩ%·.\-]{0,11}(?:/cm2|[23])?)"
)
_EXPONENT: Final = re.compile(r"[eE][-+]\d")
_PLAIN: Final = re.compile(r"\s*[+\-\u2212]?\d*[.,]?\d*\s*")
_CLOCK: Final = re.compile(r"(?:(\d{1,2}):)?(\d{1,3}):([0-5]\d)")
_TORQUES: Final = {
    "nm": 1.0,
    "ncm": 0.01,
    "ftlb": 1.3558179483314004,
    "lbft": 1.3558179483314004,
    "inlb": 0.1129848290276167,
    "lbin": 0.1129848290276167,
    "kgm": 9.80665,
}
"""Newton metres of each: NIST SP 811, Appendix B.8."""
_DEGREES: Final = {"c": (1.0, 0.0), "f": (5.0 / 9.0, -160.0 / 9.0), "k": (1.0, -273.15)}
"""Degrees Celsius of each, as factor and what is added: NIST SP 811, Appendix B.8."""
_AS_PINT: Final = {
    "ohm": "ohm", "ohms": "ohm", "r": "ohm", "Ω": "ohm", "percent": "percent", "%": "percent",
    "kgf/cm2": "kgf/cm**2", "kg/cm2": "kgf/cm**2", "at": "kgf/cm**2", "mm3": "mm**3",
    "cm3": "cm**3", "cc": "cm**3", "ccm": "cm**3", "kpa": "kPa", "mpa": "MPa", "v": "V",
    "mv": "mV", "mbar": "mbar", "bar": "bar", "psi": "psi", "thou": "thou", "mil": "thou",
}  # fmt: skip
"""Workshop spellings that pint has otherwise; the rest goes to it as it is typed."""


@dataclass(frozen=True, slots=True)
class Typed:
    """Digits in the sheet's unit; ``other`` where another unit was typed."""

    digits: str
    other: bool


@cache
def _registry() -> "UnitRegistry[float]":
    # Loaded when the first unit is typed: it takes a third of a second.
    from pint import UnitRegistry  # noqa: PLC0415

    return UnitRegistry()


def in_unit(text: str, unit: str, path: str = "") -> Typed:
    """What was typed, in ``unit``; :class:`PlumbError` where its own unit is of another quantity.

    One digit more comes back than was typed, so that nothing is rounded away.
    """
    clock = _CLOCK.fullmatch(text.strip()) if unit == "s" else None
    if clock is not None:
        hours, minutes, seconds = (int(x or 0) for x in clock.groups())
        return Typed(str(3600 * hours + 60 * minutes + seconds), other=False)
    found = _WITH_UNIT.fullmatch(text.strip())
    if found is None:
        value = parse_typed(text, path)
        # Kept as it was typed, unless thousands were set apart.
        return Typed(text if _PLAIN.fullmatch(text) else plain(value), other=False)
    figure, name = found[1].strip(), found[2]
    if not any(c.isdigit() for c in figure) or _EXPONENT.match(name):
        parse_number(text, path, plainly=True)
    value = parse_typed(figure, path)
    if name.lower() == unit.lower():
        return Typed(plain(value), other=False)
    factor, added = _factor(name, unit)
    if factor is None:
        raise refuse(path, f"a figure in {unit or 'no unit'}, or with a unit that fits", text,
                     "unknown_unit", f"for example {figure} {unit}".strip())  # fmt: skip
    last = factor * float(Decimal(1).scaleb(_exponent(value)))
    places = max(0, -math.floor(math.log10(last)) + 1)
    return Typed(f"{float(value) * factor + added:.{places}f}", other=True)


def figure_in(text: str, unit: str, path: str = "") -> Decimal:
    """A figure of a form in the unit of its field, without the digit that only guards against rounding.

    >>> figure_in("20 min", "s"), figure_in("50 F", "°C"), figure_in("25 ft-lb", "N·m")
    (Decimal('1200'), Decimal('10'), Decimal('33.9'))
    """
    typed = in_unit(text, unit, path)
    value = parse_number(typed.digits, path)
    if not typed.other:
        return value
    # Of what was converted the guarding digit goes: 25 ft-lb are 33.9 N·m, not 33.90.
    figure = _WITH_UNIT.fullmatch(text.strip())
    given = parse_typed(figure[1]) if figure else value
    digits = max(len(given.normalize().as_tuple().digits) + 1, 3)
    shown = Decimal(f"{float(value):.{digits}g}")
    return Decimal(plain(shown.normalize()))


def _exponent(value: Decimal) -> int:
    exponent = value.as_tuple().exponent
    return exponent if isinstance(exponent, int) else 0


@cache
def _factor(name: str, unit: str) -> tuple[float | None, float]:
    """How many of the sheet's unit one of the typed is, and what is added; None where there is no such thing."""
    letters = re.sub(r"[^a-z]", "", name.lower())
    if unit == "°C":
        return _DEGREES.get(letters, (None, 0.0))
    if unit == "N·m":
        return _TORQUES.get(letters), 0.0
    if set(name) & set(".-·°"):
        return None, 0.0
    from pint.errors import PintError  # noqa: PLC0415  as above

    known = _registry()
    spelled = _AS_PINT.get(name) or _AS_PINT.get(name.lower()) or name
    try:
        there = known.Quantity(1.0, spelled).to(_AS_PINT.get(unit, unit))
    except (PintError, ValueError, TypeError, AttributeError):
        return None, 0.0
    return float(there.magnitude), 0.0


def with_units(reading: NewReading, unit: str, shims: str) -> NewReading:
    """The reading with every figure in its sheet's unit; what was typed otherwise is kept beside."""
    units = dict.fromkeys(("first", "second", "value", "fires_at"), unit) | {
        "shim": shims,
        "at_s": "s",
    }
    put: dict[str, Any] = {}
    told: list[str] = []
    for name, own in units.items():
        text = getattr(reading, name)
        if text is None:
            continue
        typed = in_unit(text, own, name)
        put[name] = typed.digits
        if typed.other:
            told.append(text.strip())
    if not told:
        return replace(reading, **put)
    # Its last digit is the other scale's, not a step of this gauge.
    confirmed = (*reading.confirmed, "off_step")
    return replace(reading, **put, confirmed=confirmed, typed_as=", ".join(told))
