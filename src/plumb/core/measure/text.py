"""What sentences are made of: pieces with a tone, small numbers, lists of labels, states in words.

>>> counted(4), listed(("3", "1", "2"))
('four', '3, 1 and 2')
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.quantities import rounded

_NUMBERS: Final = (
    "none", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven",
    "twelve",
)  # fmt: skip

STATE_WORDS: Final = {
    State.IN_PLUMB: "in plumb",
    State.LOW: "gives less",
    State.HIGH: "gives more",
    State.NO_RESPONSE: "no response",
    State.UNSETTLED: "not settled",
    State.INTERMITTENT: "intermittent",
    State.SPLIT: "set is split",
    State.OPEN: "open",
    State.NOT_JUDGED: "not measured",
}
"""The states as most sheets say them."""

WINDOW_WORDS: Final = {
    State.IN_PLUMB: "in plumb",
    State.LOW: "too low",
    State.HIGH: "too high",
    State.UNSETTLED: "not settled",
}
"""The states of a figure that is held against a window."""

CODE_WORDS: Final = {
    State.LOW: "low",
    State.HIGH: "high",
    State.IN_PLUMB: "in_plumb",
    State.NO_RESPONSE: "none",
    State.UNSETTLED: "unsettled",
    State.INTERMITTENT: "intermittent",
    State.SPLIT: "split",
}
"""The word of each state in the codes of facts."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Span:
    """A piece of a sentence; ``tone`` is low, high, open or empty."""

    text: str
    tone: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Advice:
    """One thing to do, with its reason."""

    title: str
    text: str


NOTHING_YET: Final = (Span(text="Nothing measured yet."),)
"""The headline of a sheet without a reading."""


def counted(number: int) -> str:
    """Small numbers as words."""
    return _NUMBERS[number] if 0 <= number < len(_NUMBERS) else str(number)


def be(number: int) -> str:
    """``is`` or ``are``."""
    return "is" if number == 1 else "are"


def everyone(number: int, what: str = "") -> str:
    """All of so many with their verb: ``The only one is``, ``Both are``, ``All four coils are``.

    >>> everyone(1), everyone(2, "coils"), everyone(4)
    ('The only one is', 'Both coils are', 'All four are')
    """
    if number == 1:
        return f"The only {what.removesuffix('s') or 'one'} is"
    whom = "Both" if number == 2 else f"All {counted(number)}"
    return f"{whom}{' ' + what if what else ''} are"


def ordinal(number: int) -> str:
    """``2nd``, ``3rd``, ``11th``.

    >>> [ordinal(n) for n in (1, 2, 3, 4, 11, 22)]
    ['1st', '2nd', '3rd', '4th', '11th', '22nd']
    """
    teens = 10 < number % 100 < 14
    return f"{number}{'th' if teens else {1: 'st', 2: 'nd', 3: 'rd'}.get(number % 10, 'th')}"


def listed(labels: Sequence[str]) -> str:
    """``1``, ``1 and 2``, ``1, 2 and 3``."""
    if len(labels) < 2:
        return "".join(labels)
    return ", ".join(labels[:-1]) + " and " + labels[-1]


def percent(fraction: float, decimals: int = 0) -> str:
    """The size of a fraction in per cent."""
    return rounded(abs(fraction) * 100.0, decimals)


def by_word(named: Iterable[tuple[str, str]]) -> dict[str, list[str]]:
    """Labels by the word that is said of them, in the order the words first came; none left out.

    >>> by_word((("1", "dry"), ("2", ""), ("3", "dry")))
    {'dry': ['1', '3']}
    """
    made: dict[str, list[str]] = {}
    for label, word in named:
        if word:
            made.setdefault(word, []).append(label)
    return made
