"""One fault: a cause that an engine can have, as data."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

ALWAYS: Final = 0.9
OFTEN: Final = 0.6
SOMETIMES: Final = 0.2
"""How often a fault brings a word of the complaint about; common practice, no source."""

INJECTOR: Final = "injector"
CYLINDER: Final = "cylinder"
FEED: Final = "feed"
ENGINE: Final = "engine"


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """A cause, and whose it is: of an injector, its cylinder, what some share, or the engine.

    ``common``: in how many of a hundred engines that come with such complaints it is there, by fuel
    system (of one injector, cylinder or feed: at that one).  ``brings`` are the words of a complaint
    by how often it brings them about.  ``found_by`` are groups of facts of which one of each shows
    that it is there, ``found_somewhere`` facts of the engine that show it without saying where.
    ``told`` is how it is usually told where Plumb measures nothing of it: then it
    lies ``outside``.  ``put_right`` is what is done about it before anything behind it is measured;
    with one that ``stops_all`` nothing else can be measured meanwhile.
    """

    code: str
    of: str
    words: str
    common: Mapping[str, float]
    brings: Mapping[str, float] = field(default_factory=dict)
    found_by: tuple[tuple[str, ...], ...] = ()
    found_somewhere: tuple[str, ...] = ()
    outside: frozenset[str] = frozenset()
    told: str = ""
    put_right: str = ""
    stops_all: bool = False


def often(text: str) -> dict[str, float]:
    """How often it brings which words about: ``"always misfire, sometimes bogs smoke_black"``."""
    sizes = {"always": ALWAYS, "often": OFTEN, "sometimes": SOMETIMES}
    made: dict[str, float] = {}
    for part in text.split(","):
        how, *words = part.split()
        made |= dict.fromkeys(words, sizes[how])
    return made
