"""A fact: one thing that a sheet showed, as a short code that the verdict's table is written in."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple


class Fact(NamedTuple):
    """One thing that a sheet showed: its code, whose it is, the sheet, and how it is said.

    ``injector`` is empty where it belongs to the whole engine; ``camp`` numbers the halves of a set
    that is split.  What does not ``weigh`` says nothing of any injector: it only orders the work.
    ``leans`` is what one that is not settled may be, as (code, how likely).
    """

    code: str
    injector: str
    sheet: str
    text: str = ""
    camp: int = 0
    weighs: bool = True
    leans: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Shares:
    """Who shares what: feed (fuse, wire, driver) and bank by injector; empty where not known."""

    feeds: Mapping[str, str]
    banks: Mapping[str, str]
