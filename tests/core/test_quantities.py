"""Units and digits: factors from outside, as-typed figures, one rounding rule."""

from decimal import Decimal

import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumb.core.measure.problems import PlumbError
from plumb.core.measure.quantities import (
    KPA_PER,
    Pressure,
    decimals_for,
    parse_number,
    rounded,
    show_pressure,
)

# NIST SP 811, Appendix B.8, in pascals.
NIST_SP_811 = {"psi": 6894.757293168, "bar": 1e5, "kgf/cm2": 98066.5, "MPa": 1e6, "kPa": 1e3}


@pytest.mark.parametrize(("unit", "pascals"), NIST_SP_811.items())
def test_factors_are_those_of_sp_811(unit: str, pascals: float) -> None:
    """Each unit has NIST's factor."""
    assert KPA_PER[unit] == pytest.approx(pascals / 1000.0, rel=1e-12)


@pytest.mark.parametrize(
    ("unit", "name"),
    [("psi", "psi"), ("bar", "bar"), ("MPa", "megapascal"), ("kgf/cm2", "kgf/cm**2")],
)
def test_factors_agree_with_pint(unit: str, name: str) -> None:
    """A second implementation, pint, agrees."""
    assert KPA_PER[unit] == pytest.approx(pint.UnitRegistry()(name).to("kPa").magnitude, rel=1e-9)


def test_one_bar_is_so_many_psi() -> None:
    """NIST SP 811: 1 bar is 14.503 773 773 psi."""
    assert KPA_PER["bar"] / KPA_PER["psi"] == pytest.approx(14.503773773, rel=1e-9)


@pytest.mark.parametrize(
    ("typed", "digits"),
    [("50.50", "50.50"), ("50,5", "50.5"), (" 26 ", "26"), (".5", "0.5"), ("5E+1", "50")],
)
def test_digits_stay_as_typed(typed: str, digits: str) -> None:
    """A reading keeps its digits, whatever mark was used."""
    assert Pressure.typed(typed, "psi").digits == digits


@pytest.mark.parametrize("typed", ["", "abc", "5o", "1.2.3", "NaN", "inf", "--5", "50 26"])
def test_what_is_no_number_is_refused_with_its_value(typed: str) -> None:
    """The error names the text."""
    with pytest.raises(PlumbError) as caught:
        parse_number(typed, "first")
    problem = caught.value.problems[0]
    assert (problem.path, problem.value, problem.code) == ("first", typed, "not_a_number")


@pytest.mark.parametrize(
    ("typed", "unit", "code"),
    [("-1", "psi", "below_zero"), ("5001", "bar", "beyond_any_rail"), ("1", "cm", "unknown_unit")],
)
def test_pressures_that_no_rail_holds_are_refused(typed: str, unit: str, code: str) -> None:
    """Below zero, beyond 4000 bar, and units that measure something else."""
    with pytest.raises(PlumbError) as caught:
        Pressure.typed(typed, unit, "second")
    assert caught.value.problems[0].code == code
    assert caught.value.problems[0].path == "second"


@pytest.mark.parametrize(
    ("step", "decimals"), [(0.5, 1), (2, 0), (0.1, 1), (0.025, 3), (10, 0), (0.02, 2)]
)
def test_a_step_allows_so_many_decimals(step: float, decimals: int) -> None:
    """No digit is shown that the gauge cannot tell."""
    assert decimals_for(step) == decimals


@given(st.integers(0, 4000), st.sampled_from(["psi", "kPa", "bar"]))
def test_a_figure_on_the_gauges_grid_comes_back_as_typed(steps: int, unit: str) -> None:
    """To kPa and back again changes nothing that was on the scale."""
    step = {"psi": Decimal("0.5"), "kPa": Decimal(1), "bar": Decimal("0.02")}[unit]
    typed = steps * step
    pressure = Pressure.typed(str(typed), unit)
    assert Decimal(show_pressure(pressure.kpa, unit, float(step) * KPA_PER[unit])) == typed


@pytest.mark.parametrize(
    ("value", "decimals", "text"),
    [(0.125, 2, "0.12"), (0.375, 2, "0.38"), (-0.001, 2, "0.00"), (99.96, 1, "100.0")],
)
def test_ties_go_to_even_and_zero_has_no_sign(value: float, decimals: int, text: str) -> None:
    """JCGM 100:2008, 7.2.6, and IEEE 754's rule for ties."""
    assert rounded(value, decimals) == text


@pytest.mark.parametrize(
    ("text", "fits"),
    [
        ("9" * 13, True), ("1" + "0" * 13, False), ("0.000000000001", True),
        ("0.0000000000009", False), ("1e12", True), ("1e13", False), ("1e-12", True),
        ("1e-13", False), ("0." + "1" * 24, True), ("0." + "1" * 25, False), ("0", True),
        ("-" + "9" * 13, True), ("0." + "0" * 24, True), ("0." + "0" * 30, False),
    ],
)  # fmt: skip
def test_figures_beyond_what_instruments_show_are_refused(text: str, fits: bool) -> None:  # noqa: FBT001
    """Twenty-four digits, and twelve powers of ten to each side of one: docs/formats.md."""
    if fits:
        assert parse_number(text) == Decimal(text)
    else:
        with pytest.raises(PlumbError, match="a figure"):
            parse_number(text)
