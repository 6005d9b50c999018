"""Figures typed with a unit: converted by published factors, or refused with words."""

import pytest

from plumb.core.measure.problems import PlumbError
from plumb.service.kinds.typed_units import in_unit


@pytest.mark.parametrize(
    ("typed", "unit", "digits"),
    [
        # NIST SP 811 (2008), Appendix B.8: 1 bar = 14.503 77 psi, 1 kgf/cm2 = 98.066 5 kPa.
        ("3.45bar", "psi", "50.04"),
        ("1,79 BAR", "psi", "25.96"),
        ("50 psi", "bar", "3.447"),
        ("3.5 kgf/cm2", "kPa", "343.2"),
        ("3.5at", "kPa", "343.2"),
        ("345kPa", "psi", "50.04"),
        ("2500 mbar", "kPa", "250.00"),
        ("0.0124 kohm", "ohm", "12.40"),
        ("980mV", "V", "0.9800"),
        ("25cc", "ml", "25.0"),
        # One thousandth of an inch, 25.4 mm exactly.
        ("40thou", "mm", "1.016"),
        ("2 min", "s", "120"),
        ("\u221250", "psi", "\u221250"),
        ("26.50", "psi", "26.50"),
        ("26.50psi", "psi", "26.50"),
    ],
)
def test_a_unit_that_fits_is_read(typed: str, unit: str, digits: str) -> None:
    """With one digit more than was typed."""
    assert in_unit(typed, unit).digits == digits


@pytest.mark.parametrize(
    ("typed", "unit", "rule"),
    [
        ("1e3", "psi", "a unit that fits"),
        ("1e-3", "psi", "with digits"),
        ("12V", "psi", "a unit that fits"),
        ("50xyz", "psi", "a unit that fits"),
        ("bar", "psi", "with digits"),
        ("9**9**9bar", "psi", "with digits"),
        ("(1)bar", "psi", "with digits"),
        ("50 26", "psi", "with digits"),
        ("1e400bar", "psi", "with digits"),
    ],
)
def test_what_is_no_figure_is_told(typed: str, unit: str, rule: str) -> None:
    """Never half of it."""
    with pytest.raises(PlumbError) as seen:
        in_unit(typed, unit, "first")
    problem = seen.value.problems[0]
    assert problem.path == "first"
    assert rule in problem.rule
