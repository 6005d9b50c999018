"""The domain's errors: every input that does not fit says where, which rule and which value.

>>> Problem(path="readings[0].first", rule="a pressure is above zero", value="-3").text()
'readings[0].first: a pressure is above zero (got -3)'
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Final

LONGEST_VALUE: Final = 80
LONGEST_PATH: Final = 160
LONGEST_RULE: Final = 800
MOST_TOLD: Final = 50
"""So many problems are told one by one; of a file with more, nobody reads the rest."""


def _shown(text: str, most: int) -> str:
    """A text that can be shown and sent anywhere: cut, and nothing in it that is no character.

    >>> _shown("ab" + chr(0xD800) + chr(27) + "[2J", 5)
    'ab\ufffd\ufffd…'
    """
    cut = text if len(text) <= most else text[: most - 1] + "…"
    return cut if cut.isprintable() else "".join(c if c.isprintable() else "\ufffd" for c in cut)


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """One thing that does not fit.

    ``path`` says where (dots and brackets, as in the job file), ``rule`` which rule it broke in
    plain words, ``value`` what was there, as text.  ``code`` is stable and meant for programs,
    ``suggestion`` is what could be typed instead, empty where nothing better is known.
    ``confirmable``: a person may say that it was meant.

    Whatever a file or a request holds may end up here, so each text is cut to a length that can be
    read, and characters that cannot be shown are replaced.
    """

    path: str
    rule: str
    value: str = ""
    code: str = "does_not_fit"
    suggestion: str = ""
    confirmable: bool = False

    def __post_init__(self) -> None:
        """Cut what is too long to be read."""
        for name, most in _LONGEST:
            text = getattr(self, name)
            if len(text) > most or not text.isprintable():
                object.__setattr__(self, name, _shown(text, most))

    def text(self) -> str:
        """One line for people: path, rule, value and, where there is one, the suggestion."""
        got = f" (got {self.value})" if self.value else ""
        hint = f"; {self.suggestion}" if self.suggestion else ""
        where = f"{self.path}: " if self.path else ""
        return f"{where}{self.rule}{got}{hint}"


_LONGEST: Final = (
    ("path", LONGEST_PATH),
    ("rule", LONGEST_RULE),
    ("value", LONGEST_VALUE),
    ("suggestion", LONGEST_VALUE),
)


def told(problems: Sequence[Problem], count: int = 0) -> list[Problem]:
    """The first :data:`MOST_TOLD` problems, and one that says how many more there are.

    ``count`` is how many were found in all, where ``problems`` are only the first of them.

    >>> [p.rule for p in told([Problem(path="a", rule="b")] * 52)][-1]
    'and 2 more that do not fit'
    """
    rest = max(count, len(problems)) - MOST_TOLD
    if rest <= 0 or problems[-1].code == "more":
        return list(problems)
    more = Problem(path="", rule=f"and {rest} more that do not fit", code="more")
    return [*problems[:MOST_TOLD], more]


class PlumbError(Exception):
    """Input that does not fit, as a list of :class:`Problem`; at least one."""

    def __init__(self, problems: Problem | Iterable[Problem]) -> None:
        self.problems: tuple[Problem, ...] = (
            (problems,) if isinstance(problems, Problem) else tuple(problems)
        )
        super().__init__("\n".join(p.text() for p in self.problems))


class NotThere(PlumbError):
    """What was asked for does not exist (a job, a sheet, a reading)."""


class Conflict(PlumbError):
    """The input fits, but something newer, or something else, is already in its place."""


class AsksBack(PlumbError):
    """The input may be a slip: it is not stored until a person has said that it was meant."""
