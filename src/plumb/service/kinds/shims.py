"""Shims in the unit that a sheet tells them in."""

from decimal import Decimal
from typing import Final

from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.measure.quantities import parse_number, plain
from plumb.core.procedures.opening.shims import show_shim
from plumb.store.records import WholeSheet

_THOU: Final = Decimal("0.0254")
_FINEST: Final = Decimal("0.00001")
MOST_MM: Final = Decimal(20)


def shim_unit(whole: WholeSheet) -> str:
    """The unit that shims of a sheet are typed and shown in: mm or thou."""
    return str(whole.sheet.conditions.get("shim_unit") or "mm")


def typed_mm(text: str, unit: str, path: str = "shim") -> Decimal:
    """A shim as typed, in mm; a thousandth of an inch is 0.0254 mm (NIST SP 811, B.8).

    >>> typed_mm("40", "thou")
    Decimal('1.016')
    """
    value = parse_number(text, path)
    # To a hundredth of a micrometre, so that a shim shown in thou and sent back is the same shim.
    thou = (value * _THOU).quantize(_FINEST).normalize()
    mm = Decimal(plain(thou)) if unit == "thou" else value
    if not 0 <= mm <= MOST_MM:
        raise PlumbError(
            Problem(
                path=path, rule=f"a stack of shims is from 0 to {MOST_MM} mm, for example 1.04",
                value=f"{text} {unit}", code="beyond_any_shim",
            )
        )  # fmt: skip
    return mm


def shown_shim(mm: Decimal | float | str | None, unit: str) -> str:
    """A shim in the sheet's unit; one that was typed in mm is shown as it was typed.

    >>> shown_shim(1.016, "thou"), shown_shim("1.00", "mm")
    ('40', '1.00')
    """
    if mm is None:
        return ""
    return mm if unit == "mm" and isinstance(mm, str) else show_shim(float(mm), unit)
