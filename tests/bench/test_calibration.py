"""Shares against truth: tallied by tenths, and what is said of hidden engines held against what is so."""

from io import StringIO

import pytest
from rich.console import Console

from plumb.bench.calibration import ENOUGH, Tenths, calibrated, drawn


def filled(said: float, count: int, was: int) -> Tenths:
    """So many things said at one share, so many of them so."""
    made = Tenths()
    for n in range(count):
        made.add(said, was=n < was)
    return made


def test_what_was_said_and_what_was_by_tenths() -> None:
    """A coin said at 85 % that fell thirty times of forty lies ten points off; certain things stand in the last tenth."""
    tenths = filled(0.85, 40, 30)
    tenths.add(1.0, was=True)
    rows = list(tenths.rows())
    assert [(n, count) for n, count, _, _ in rows] == [(8, 40), (9, 1)]
    assert rows[0][2:] == pytest.approx((0.85, 0.75))
    assert tenths.worst == pytest.approx(0.10)


@pytest.mark.parametrize(("count", "told"), [(ENOUGH - 1, 0.0), (ENOUGH, 0.85)])
def test_a_tenth_with_few_cases_says_nothing(count: int, told: float) -> None:
    """Twenty-four times wrong is no proof, twenty-five is."""
    assert filled(0.85, count, 0).worst == pytest.approx(told)


def test_the_diagram_shows_both_on_one_scale() -> None:
    """Said at 85 % stands at place 34 of 40, was at 50 % at place 20."""
    console = Console(record=True, width=130, file=StringIO())
    console.print(drawn("Injectors", filled(0.85, 40, 20)))
    [row] = [line for line in console.export_text().splitlines() if "80 to 90 %" in line]
    scale = row.split("│")[6].strip()
    assert (scale.index("x"), scale.index("o")) == (20, 34)


def test_hidden_engines_are_held_against_their_truth() -> None:
    """Ten engines: what is said for nearly certain is so far more often than what is said to be unlikely."""
    causes, injectors = calibrated(10, 3)
    for tenths in (causes, injectors):
        rows = {n: (count, was) for n, count, _, was in tenths.rows()}
        assert rows[0][0] > 30
        sure = [was for n, (_, was) in rows.items() if n >= 8]
        assert sure
        assert min(sure) > rows[0][1]
