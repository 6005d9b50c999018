"""What becomes of fault codes: explained, waited for, or named as what nothing here explains.

Numbers of SAE J2012, from memory; what injectors upset is common practice, no source.
"""

import pytest

from plumb.core.causes.codes import CLASSES, comes_along, explained_by
from plumb.core.measure.text import Advice
from plumb.core.procedures import KINDS
from plumb.core.weigh.words_codes import about_codes
from tests.core.job_files import drops, job

WEAK = (26, 26, 26, 33)


def about(
    *codes: str, ends: tuple[float, ...] = WEAK, complaint: str = "rough idle"
) -> dict[str, str]:
    """Title and text of what is said of these codes, once 4 was found to give less and is cleaned."""
    sheet = drops(ends)
    found = job("port", 4, complaint, sheet, codes=list(codes), set_aside=_ASIDE).found
    return {a.title: a.text for a in about_codes(found) if isinstance(a, Advice)}


_ASIDE = [{"kind": kind.code, "reason": "not here"} for kind in KINDS]


def test_what_injectors_upset_is_waited_for() -> None:
    """Boost and recirculation beside a clogged one: put it right first, then look whether they come back."""
    said = about("P0304", "P0299", "P0401")
    assert list(said) == ["Wait with P0299 and P0401"]
    assert said["Wait with P0299 and P0401"].startswith(
        "The boost and the recirculation of exhaust are upset by injectors that are off"
    )
    assert about("P0299")["Wait with P0299"].startswith("The boost is upset")


def test_a_code_of_another_cylinder_is_not_explained() -> None:
    """4 is clogged: a misfire of 4 is explained, one of 2 is not, nor is what Plumb does not know."""
    said = about("P0302", "P0340")
    [title] = said
    assert title == "Not explained: P0302 and P0340"
    assert "P0302 (a misfire of cylinder 2) and P0340" in said[title]
    assert said[title].endswith("for each.")
    assert about("P0340")["Not explained: P0340"].endswith("for it.")


def test_without_an_injector_that_is_off_boost_is_nobodys() -> None:
    """All even: nothing here upsets the boost."""
    assert list(about("P0299", ends=(26, 26, 26, 26))) == ["Not explained: P0299"]


def test_while_the_search_goes_on_nothing_is_said() -> None:
    """Before anything was measured every code is unexplained: that is no news."""
    assert about_codes(job("port", 4, "rough idle", codes=["P0299"]).found) == ()
    assert about() == {}


@pytest.mark.parametrize(
    ("code", "what"), [("P0299-00", "the boost"), ("P0101", "the air mass"), ("P0171", "")]
)
def test_which_come_along(code: str, what: str) -> None:
    """With the byte of its kind behind it or without."""
    assert comes_along(code) == what


def test_what_sets_a_code() -> None:
    """The faults of its class; none where Plumb knows nothing of it."""
    assert explained_by("P0171") == frozenset(CLASSES["lean"][1])
    assert explained_by("P1999") == frozenset()
