"""The domain's errors: every input that does not fit says where, which rule and which value.

>>> Problem(path="readings[0].first", rule="a pressure is above zero", value="-3").text()
'readings[0].first: a pressure is above zero (got -3)'
"""

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """One thing that does not fit.

    ``path`` says where (dots and brackets, as in the job file), ``rule`` which rule it broke in
    plain words, ``value`` what was there, as text.  ``code`` is stable and meant for programs,
    ``suggestion`` is what could be typed instead, empty where nothing better is known.
    ``confirmable``: a person may say that it was meant.
    """

    path: str
    rule: str
    value: str = ""
    code: str = "does_not_fit"
    suggestion: str = ""
    confirmable: bool = False

    def text(self) -> str:
        """One line for people: path, rule, value and, where there is one, the suggestion."""
        got = f" (got {self.value})" if self.value else ""
        hint = f"; {self.suggestion}" if self.suggestion else ""
        where = f"{self.path}: " if self.path else ""
        return f"{where}{self.rule}{got}{hint}"


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
