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

from plumb.core.measure.quantities import parse_number, plain
from plumb.service.kinds.entry import NewReading, refuse

if TYPE_CHECKING:
    from pint import UnitRegistry

_WITH_UNIT: Final = re.compile(
    r"([^A-Za-zµμΩ%]+?)\s*([A-Za-zµμΩ%][A-Za-zµμΩ%]{0,11}(?:/cm2|[23])?)"
)
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
    found = _WITH_UNIT.fullmatch(text.strip())
    if found is None:
        parse_number(text, path, plainly=True)
        return Typed(text, other=False)
    figure, name = found[1].strip(), found[2]
    if not any(c.isdigit() for c in figure):
        parse_number(text, path, plainly=True)
    value = parse_number(figure, path, plainly=True)
    if name.lower() == unit.lower():
        return Typed(plain(value), other=False)
    factor = _factor(name, unit)
    if factor is None:
        raise refuse(path, f"a figure in {unit or 'no unit'}, or with a unit that fits", text,
                     "unknown_unit", f"for example {figure} {unit}".strip())  # fmt: skip
    last = factor * float(Decimal(1).scaleb(_exponent(value)))
    places = max(0, -math.floor(math.log10(last)) + 1)
    return Typed(f"{float(value) * factor:.{places}f}", other=True)


def _exponent(value: Decimal) -> int:
    exponent = value.as_tuple().exponent
    return exponent if isinstance(exponent, int) else 0


@cache
def _factor(name: str, unit: str) -> float | None:
    """How many of the sheet's unit one of the typed is; None where there is no such thing."""
    from pint.errors import PintError  # noqa: PLC0415  as above

    known = _registry()
    spelled = _AS_PINT.get(name) or _AS_PINT.get(name.lower()) or name
    try:
        return float(known.Quantity(1.0, spelled).to(_AS_PINT.get(unit, unit)).magnitude)
    except (PintError, ValueError, TypeError, AttributeError):
        return None


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
