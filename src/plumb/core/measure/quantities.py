"""Quantities and units: what was typed, in which unit, and the same in the unit the core uses.

Inside, pressures are kPa.  A reading keeps its digits as typed, because ``50.50`` says more about
the gauge than ``50.5`` does.

>>> Pressure.typed("26.5", "psi").kpa
182.7110682689...
>>> show_pressure(182.7110682, "psi", step_kpa=0.5 * KPA_PER["psi"])
'26.5'

Factors: NIST SP 811, Appendix B.8 (1 psi = 6.894 757 293 168 kPa, 1 bar = 100 kPa exactly,
1 kgf/cm2 = 98.066 5 kPa exactly).
"""

import math
import re
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from functools import lru_cache
from typing import Final

from plumb.core.measure.problems import PlumbError, Problem

KPA_PER: Final[dict[str, float]] = {
    "psi": 6.894757293168,
    "kPa": 1.0,
    "bar": 100.0,
    "MPa": 1000.0,
    "kgf/cm2": 98.0665,
}
"""How many kPa one of each pressure unit is."""

UNITS: Final = (*KPA_PER, "ohm", "V", "A", "ml", "mm3", "percent", "ms")
"""Every unit that an instrument may read in."""

MOST_KPA: Final = 400_000.0
"""No fuel rail of any kind holds more than 4000 bar: beyond it a figure is a slip."""

MOST_DIGITS: Final = 24
"""So many digits a figure has at most; no instrument shows half of them."""

MOST_TENS: Final = 12
"""A figure lies between 1e-12 and 1e12 in whatever unit it has, or is zero."""

_NUMBER: Final = re.compile(r"[+-]?(\d+([.,]\d*)?|[.,]\d+)")


@dataclass(frozen=True, slots=True, kw_only=True)
class Pressure:
    """A pressure as a person typed it: ``digits`` in ``unit``, and the same in ``kpa``."""

    digits: str
    unit: str
    kpa: float

    @classmethod
    def typed(cls, digits: str | Decimal | float, unit: str, path: str = "") -> "Pressure":
        """Read what was typed; a comma counts as the decimal mark.

        Raises :class:`PlumbError` for an unknown unit, for text that is not a number, for a
        pressure below zero and for one that no rail could hold.
        """
        factor = kpa_per(unit, path)
        value = parse_number(str(digits), path)
        kpa = float(value) * factor
        if value < 0:
            raise PlumbError(
                Problem(
                    path=path,
                    rule="a gauge pressure is not below zero",
                    value=str(digits),
                    code="below_zero",
                )
            )
        if kpa > MOST_KPA:
            raise PlumbError(
                Problem(
                    path=path,
                    rule="no fuel rail holds that much",
                    value=f"{digits} {unit}",
                    code="beyond_any_rail",
                )
            )
        return cls(digits=plain(value), unit=unit, kpa=kpa)


def kpa_per(unit: str, path: str = "") -> float:
    """How many kPa one ``unit`` is; :class:`PlumbError` when it is not a pressure unit."""
    factor = KPA_PER.get(unit)
    if factor is None:
        raise PlumbError(
            Problem(
                path=path,
                rule="the unit is one of " + ", ".join(KPA_PER),
                value=unit,
                code="unknown_unit",
            )
        )
    return factor


def beyond_any_figure(value: Decimal) -> str:
    """What is wrong with a number that no instrument shows; empty where nothing is.

    >>> beyond_any_figure(Decimal("1e-400")), beyond_any_figure(Decimal("26.50"))
    ('a figure is zero or between 1e-12 and 1e12', '')
    """
    digits = value.as_tuple()
    exponent = digits.exponent if isinstance(digits.exponent, int) else 0
    if len(digits.digits) > MOST_DIGITS or not -MOST_DIGITS <= exponent <= MOST_TENS:
        if value and abs(value.adjusted()) > MOST_TENS:
            return f"a figure is zero or between 1e-{MOST_TENS} and 1e{MOST_TENS}"
        return f"a figure has at most {MOST_DIGITS} digits"
    if value and not -MOST_TENS <= value.adjusted() <= MOST_TENS:
        return f"a figure is zero or between 1e-{MOST_TENS} and 1e{MOST_TENS}"
    return ""


def parse_number(text: str, path: str = "", *, plainly: bool = False) -> Decimal:
    """The number a person typed, every digit kept; :class:`PlumbError` when it is none.

    ``plainly``: an exponent, which only files have, is none.  One with more than :data:`MOST_DIGITS` digits, or beyond :data:`MOST_TENS`, is refused too.
    """
    cleaned = text.strip().replace("\u2212", "-")
    try:
        value = Decimal(cleaned.replace(",", ".") if _NUMBER.fullmatch(cleaned) else cleaned)
    except InvalidOperation:
        value = Decimal("NaN")
    if not value.is_finite() or (plainly and not _NUMBER.fullmatch(cleaned)):
        raise PlumbError(
            Problem(
                path=path,
                rule="a figure is typed with digits, for example 26.5",
                value=text,
                code="not_a_number",
            )
        )
    if rule := beyond_any_figure(value):
        raise PlumbError(Problem(path=path, rule=rule, value=text, code="beyond_any_figure"))
    return value


_SPACED: Final = re.compile(r"[+-]?\d{1,3}(?:[ '\u2019\u00a0\u2009\u202f]\d{3})+(?:[.,]\d+)?")
_BY_COMMAS: Final = re.compile(r"[+-]?\d{1,3}(?:,\d{3})+\.\d+|[+-]?\d{1,3}(?:,\d{3}){2,}")
_BY_POINTS: Final = re.compile(r"[+-]?\d{1,3}(?:\.\d{3})+,\d+|[+-]?\d{1,3}(?:\.\d{3}){2,}")
_EITHER: Final = re.compile(r"[+-]?[1-9]\d{0,2},\d{3}")


def parse_typed(text: str, path: str = "") -> Decimal:
    """The number a person typed, thousands set apart as people do it.

    >>> [str(parse_typed(t)) for t in ("70 000", "1'200.5", "1,200.5", "1.200,5", "26,5")]
    ['70000', '1200.5', '1200.5', '1200.5', '26.5']

    A comma before just three digits may set thousands apart or be the decimal mark: then
    :class:`PlumbError` asks which, as for what is no number at all.
    """
    cleaned = text.strip().replace("\u2212", "-")
    if _EITHER.fullmatch(cleaned):
        whole, tenths = cleaned.replace(",", ""), cleaned.replace(",", ".")
        raise PlumbError(
            Problem(
                path=path,
                rule=f"a comma before three digits can mean two things: type {whole}, or {tenths}",
                value=text,
                code="ambiguous",
                suggestion=whole,
            )
        )
    if _SPACED.fullmatch(cleaned):
        cleaned = re.sub(r"[ '\u2019\u00a0\u2009\u202f]", "", cleaned)
    elif _BY_COMMAS.fullmatch(cleaned):
        cleaned = cleaned.replace(",", "")
    elif _BY_POINTS.fullmatch(cleaned):
        cleaned = cleaned.replace(".", "")
    return parse_number(cleaned, path, plainly=True)


def plain(value: Decimal) -> str:
    """The digits without exponent: ``5E+1`` becomes ``50``, trailing zeros stay."""
    return format(value, "f")


KM_PER_MILE: Final = Decimal("1.609344")
"""The international mile, exact by definition (NIST SP 811, 2008, appendix B.8)."""


@lru_cache(maxsize=512)
def decimals_for(step: float) -> int:
    """How many decimals a gauge with this step allows: 0.5 → 1, 2 → 0, 0.025 → 3."""
    if step <= 0 or not math.isfinite(step):
        return 1
    exponent = Decimal(repr(step)).normalize().as_tuple().exponent
    return max(0, -int(exponent)) if isinstance(exponent, int) else 1


def rounded(value: float, decimals: int) -> str:
    """The one rounding rule: to the nearest, ties to even (JCGM 100:2008, 7.2.6; IEEE 754).

    >>> rounded(0.25, 1), rounded(-0.04, 1)
    ('0.2', '0.0')
    """
    text = f"{value:.{decimals}f}"
    return text[1:] if text.startswith("-") and not float(text) else text


def show_pressure(kpa: float, unit: str, step_kpa: float) -> str:
    """A pressure in ``unit`` with the digits that a gauge of step ``step_kpa`` allows.

    In the gauge's own unit those are the digits of its step; in another unit as many as tell two
    neighbouring steps apart.
    """
    factor = kpa_per(unit)
    return rounded(kpa / factor, decimals_shown(unit, step_kpa))


@lru_cache(maxsize=512)
def decimals_shown(unit: str, step_kpa: float) -> int:
    """How many decimals :func:`show_pressure` uses for this unit and step."""
    step = step_kpa / kpa_per(unit)
    tidy = float(f"{step:.6g}")
    exact = decimals_for(tidy)
    telling = max(0, -math.floor(math.log10(step))) if step > 0 else 1
    return exact if exact <= telling + 1 else telling
