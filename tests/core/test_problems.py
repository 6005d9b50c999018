"""What is told of a file: short enough to be read, and nothing that cannot be shown."""

import pytest

from plumb.core.measure.problems import Problem, told


@pytest.mark.parametrize(
    ("name", "most"), [("value", 80), ("path", 160), ("rule", 800), ("suggestion", 80)]
)
def test_texts_are_cut_to_what_can_be_read(name: str, most: int) -> None:
    """The last sign says that there was more."""
    texts = {"path": "p", "rule": "r"}
    whole = Problem(**texts | {name: "x" * most})
    assert getattr(whole, name) == "x" * most
    cut = getattr(Problem(**texts | {name: "x" * (most + 1)}), name)
    assert (len(cut), cut[-1], cut[:-1]) == (most, "…", "x" * (most - 1))


@pytest.mark.parametrize("sign", ["\ud800", "\x1b", "\x00", "\n", "\u202e"])
def test_what_cannot_be_shown_is_replaced(sign: str) -> None:
    """Half characters, and what a terminal would obey."""
    shown = Problem(path="p", rule="r", value=f"a{sign}b").text()
    assert shown == "p: r (got a\ufffdb)"
    assert shown.encode()


@pytest.mark.parametrize(
    ("count", "items", "last"), [(50, 50, "r"), (51, 51, "and 1 more"), (900, 51, "and 850 more")]
)
def test_the_first_fifty_are_told_and_how_many_more(count: int, items: int, last: str) -> None:
    """Also where only the first of them were made."""
    problems = [Problem(path="p", rule="r")] * count
    made = told(problems)
    assert (len(made), made[-1].rule.startswith(last)) == (items, True)
    assert told(problems[:50], count) == made
    assert told(made) == made
