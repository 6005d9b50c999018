"""Which part sat in which place, and when: the history follows the part, not the place.

>>> moved = (Move(at=datetime(2026, 5, 1), place="2", other="4"),)
>>> [(s.part, s.place) for s in stays(("2", "4"), moved) if s.until is None]
[('first in 4', '2'), ('first in 2', '4')]
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """A part came into a place: a ``new`` one, or the one that sat in the place ``other``."""

    at: datetime
    place: str
    other: str = ""
    new: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Stay:
    """A part sat in a place, from when until when; None: from the beginning, until now."""

    part: str
    place: str
    since: datetime | None
    until: datetime | None

    def there(self, at: datetime) -> bool:
        """Whether it sat there at that time."""
        return (self.since is None or self.since <= at) and (self.until is None or at < self.until)


def first_in(place: str) -> str:
    """The name of the part that was in a place before anybody moved one."""
    return f"first in {place}"


def stays(places: Sequence[str], moves: Sequence[Move]) -> tuple[Stay, ...]:
    """Every stay of every part, by place in their order, oldest first."""
    sits: dict[str, tuple[str, datetime | None]] = {p: (first_in(p), None) for p in places}
    made: dict[str, list[Stay]] = {p: [] for p in places}

    def put(place: str, part: str, at: datetime) -> None:
        was, since = sits[place]
        made[place].append(Stay(part=was, place=place, since=since, until=at))
        sits[place] = (part, at)

    for move in sorted(moves, key=lambda m: m.at):
        if move.new:
            put(move.place, move.new, move.at)
        elif move.other:
            mine, theirs = sits[move.place][0], sits[move.other][0]
            put(move.place, theirs, move.at)
            put(move.other, mine, move.at)
    return tuple(
        stay
        for place in places
        for stay in (
            *made[place],
            Stay(part=sits[place][0], place=place, since=sits[place][1], until=None),
        )
    )
