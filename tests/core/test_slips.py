"""Slips: the cases that the page's own check must answer alike, and what cannot be confirmed."""

import json
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumb.core.measure.problems import PlumbError
from plumb.core.measure.slips import Scale, check_drop, check_rise, check_value

CASES = json.loads((Path(__file__).parents[1] / "data" / "slips.json").read_text())["cases"]
HALF = Scale(unit="psi", step=0.5)


@pytest.mark.parametrize("case", CASES, ids=lambda c: f"{c['first']}-{c['second']}-{c['unit']}")
def test_shared_cases(case: dict[str, Any]) -> None:
    """web/src/lib/slips.test.ts runs the same list."""
    scale = Scale(
        unit=case["unit"], step=float(case["step"]), fuel_system=case["fuel_system"],
        starts=tuple(case["starts"]),
    )  # fmt: skip
    found = check_drop(case["first"], case["second"], scale)
    assert [q.code for q in found] == case["codes"]
    if "suggestion" in case:
        assert list(found[0].suggestion or ()) == case["suggestion"]
    assert any(q.refused for q in found) == case.get("refused", False)


@given(st.integers(20, 120), st.integers(0, 60))
def test_a_plain_burst_on_the_scale_is_never_asked_about(first: int, less: int) -> None:
    """Half psi steps from 10 to 60 psi, falling: kept without a word where the rail has it."""
    one, two = first * 0.5 + 20, max(0.0, first * 0.5 + 20 - less * 0.5)
    assert check_drop(f"{one}", f"{two}", HALF) == []


@given(st.integers(60, 120), st.integers(10, 50))
def test_a_swapped_pair_is_always_turned_round(first: int, second: int) -> None:
    """And its suggestion is not asked about again."""
    one, two = f"{first * 0.5}", f"{second * 0.5}"
    asked = check_drop(two, one, HALF)[0]
    assert asked.code == "swapped"
    assert asked.suggestion is not None
    assert all(q.code == "far_off" for q in check_drop(*asked.suggestion, HALF))


def test_words_are_an_error_not_a_question() -> None:
    """Path and value."""
    with pytest.raises(PlumbError) as caught:
        check_drop("fifty", "26", HALF)
    assert caught.value.problems[0].path == "first"


@pytest.mark.parametrize(
    ("text", "scale", "codes"),
    [
        ("12.4", Scale(unit="ohm", step=0.1, starts=(12.3, 12.5)), []),
        ("124", Scale(unit="ohm", step=0.1, starts=(12.3, 12.5)), ["point_missing"]),
        ("1.2", Scale(unit="ohm", step=0.1, starts=(12.3, 12.5)), ["far_off"]),
        ("12.45", Scale(unit="ohm", step=0.1, starts=(12.3, 12.5)), ["off_step"]),
        ("620", Scale(unit="ml", step=0.5, starts=(61.0, 62.0)), ["point_missing"]),
        ("124", Scale(unit="ohm", step=0.1), ["point_missing"]),
        ("500", Scale(unit="psi", step=0.5), ["point_missing"]),
        ("50.5", Scale(unit="psi", step=0.5), []),
        ("0", Scale(unit="psi", step=0.5), []),
    ],
)
def test_one_figure_is_asked_about(text: str, scale: Scale, codes: list[str]) -> None:
    """Against the others of its sheet, else against what is usual for its unit."""
    assert [q.code for q in check_value(text, scale)] == codes


@pytest.mark.parametrize(
    ("value", "first", "last", "code"),
    [
        (50.0, 50.0, 2.0, "another_attempt"),
        # Heat soak raises a rail by a tenth or two; a fall is no question at all.
        (54.0, 50.0, 50.0, None),
        (40.0, 50.0, 44.0, None),
        (17.0, 50.0, 2.0, None),
        (17.1, 50.0, 2.0, "another_attempt"),
    ],
)
def test_a_hold_that_rises_far_is_another_attempt(
    value: float, first: float, last: float, code: str | None
) -> None:
    """Three tenths of its first pressure; common practice, no source."""
    asked = check_rise(value, first, last, "psi")
    assert (asked.code if asked else None) == code
