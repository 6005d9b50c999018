"""An earlier sound set as what is expected: from another start pressure, in words, with what a set shifts between visits."""

import math
from dataclasses import replace
from datetime import date

import pytest

from plumb.core.compare.drops import words
from plumb.core.compare.drops.expected import Expected
from plumb.core.compare.drops.sheet import DropResult, DropSheet, analyse_drop
from plumb.core.measure.decision import State
from plumb.core.measure.readings import Noted
from tests.core.sets import PSI, result

THEN = date(2023, 5, 12)


def since(ends: tuple[float, ...], drop: float, **more: float) -> DropResult:
    """A set from 50 psi that is held against a drop of an earlier visit."""
    sheet = result([(50, e) for e in ends]).sheet
    of_then = Expected(drop=drop * PSI, source="job 70", since=THEN)
    return analyse_drop(replace(sheet, expected=of_then, **more))


def notes(found: DropResult) -> str:
    """What stands beneath the headline."""
    return " ".join(words.notes(found, "psi"))


def headline(found: DropResult) -> str:
    """What stands first."""
    return "".join(s.text for s in words.headline(found, "psi"))


def test_what_a_maker_says_has_no_day() -> None:
    """Two that agree with each other, a fifth above what is asked; nobody is called in plumb for that."""
    sheet = result([(50, 22), (50, 22)], expected=22).sheet
    assert headline(analyse_drop(sheet)) == "Both agree, but give 34 % more than expected."
    even = analyse_drop(result([(50, 28), (50, 28)], expected=22).sheet)
    assert headline(even) == "Both are in plumb."


def test_its_drop_from_another_start_follows_the_root() -> None:
    """Orifice law: what falls from 49 to 25 falls from 64 to 36, for both roots lose 2."""
    found = result([(49, 25)] * 4)
    assert found.drop_from(64 * PSI) == pytest.approx(28 * PSI)
    assert found.drop_from(None) == pytest.approx(24 * PSI)


def test_a_volume_is_the_same_from_anywhere() -> None:
    """A flow bench has no start pressure."""
    rows = tuple(Noted(injector=n, number=1, first=52.0, second=0.0) for n in "1234")
    sheet = DropSheet(
        kind="flow_bench", injectors=tuple("1234"), readings=rows, step=1, linear=True
    )
    assert analyse_drop(sheet).drop_from(300.0) == pytest.approx(52.0)


def test_all_have_faded_alike() -> None:
    """Drops of 24 psi then, 20 now, all even: nobody differs, and all give less."""
    found = since((30, 30, 30, 30), 24)
    flow = lambda drop: math.sqrt(50) - math.sqrt(50 - drop)  # noqa: E731  a law in one line
    less = 100 * (1 - flow(20) / flow(24))
    assert found.set_state is State.LOW
    assert headline(found) == f"All four agree, but give {less:.0f} % less than on 12 May 2023."
    assert (
        f"All have faded alike since 12 May 2023: {less:.0f} % less than then (job 70)."
        in notes(found)
    )


@pytest.mark.parametrize(
    ("ends", "words_then"),
    [
        ((26, 26, 26, 26), "All give what was given on 12 May 2023 (job 70)."),
        ((20, 20, 20, 20), "All give 32 % more than on 12 May 2023 (job 70)."),
        ((30, 30, 30, 38), "Those that agree have faded alike since 12 May 2023"),
        ((28, 28, 28, 28), "Against 12 May 2023 (job 70): 10 % less; not settled."),
    ],
)
def test_what_became_of_them(ends: tuple[float, ...], words_then: str) -> None:
    """As then, more, all but one, and too near to the limit; per cent by hand from the roots."""
    assert words_then in notes(since(ends, 24))


def test_a_set_gives_a_little_else_on_another_day() -> None:
    """What a maker says has no day; between two visits 2 % more are not known (common practice, no source)."""
    of_then = since((26, 26, 26, 26), 24)
    told = analyse_drop(
        replace(of_then.sheet, expected=Expected(drop=24 * PSI, source="the maker"))
    )
    assert of_then.against_expected is not None
    assert told.against_expected is not None
    apart = math.sqrt(of_then.against_expected[1] ** 2 - told.against_expected[1] ** 2)
    assert apart == pytest.approx(0.02)
