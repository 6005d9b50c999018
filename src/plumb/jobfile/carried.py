"""What a repeat sheet takes over from the ones before it: the figures of those it did not read.

One injector that was cleaned is read again, and needs neighbours to be compared with.  Where an
earlier sheet of the same kind was taken in the same way (the kind says what counts), the figures of
the others are carried over, named and with their age; where it was not, only who was read is known.
"""

from collections.abc import Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, Final

from plumb.core.measure.readings import Mark, Noted

_MINUTE: Final = 60.0
_HOUR: Final = 60.0 * _MINUTE
_DAY: Final = 24.0 * _HOUR


@dataclass(frozen=True, slots=True, kw_only=True)
class Earlier:
    """A sheet as others see it: its key, when it was taken, in which way, and what was noted."""

    key: str
    taken: datetime | None
    method: Any
    rows: tuple[Noted, ...]


@dataclass(frozen=True, slots=True)
class Carried:
    """Rows taken over, (injector, where from and how old), and who else was read before.

    ``renewed`` are (injector, what was done to it) of who was worked on before the sheet was taken.
    """

    rows: tuple[Noted, ...] = ()
    labels: tuple[tuple[str, str], ...] = ()
    read_before: tuple[str, ...] = ()
    renewed: tuple[tuple[str, str], ...] = ()


NOTHING: Final = Carried()


def worked_on(carried: Carried, renewed: tuple[tuple[str, str], ...]) -> Carried:
    """The same for a sheet before which these were worked on."""
    return replace(carried, renewed=renewed) if renewed else carried


def _told(rows: Sequence[Noted]) -> dict[str, list[Noted]]:
    """The rows of each injector that told something."""
    made: dict[str, list[Noted]] = {}
    for row in rows:
        if row.injector and row.mark is not Mark.NOT_READ:
            made.setdefault(row.injector, []).append(row)
    return made


def age_words(earlier: datetime | None, later: datetime | None) -> str:
    """How long before: ``45 min before``; empty where either is not known.

    >>> age_words(datetime(2026, 5, 1, 9, 0), datetime(2026, 5, 1, 11, 10))
    ', 2 h before'
    """
    if earlier is None or later is None:
        return ""
    seconds = (later - earlier).total_seconds()
    for size, word in ((_DAY, "day"), (_HOUR, "h"), (_MINUTE, "min")):
        if seconds >= size:
            count = int(seconds // size)
            return f", {count} {word}{'s' * (word == 'day' and count > 1)} before"
    return ", just before" if seconds >= 0 else ""


def carried_over(
    mine: Earlier,
    before: Sequence[Earlier],
    outdated: AbstractSet[tuple[str, str]] = frozenset(),
) -> Carried:
    """What ``mine`` takes over from the sheets before it, oldest first; nothing while it is empty.

    ``outdated`` are (sheet, injector) whose readings a repair has changed since: they are left.
    """
    own = _told(mine.rows)
    if not own:
        return NOTHING
    rows: list[Noted] = []
    labels: dict[str, str] = {}
    read: dict[str, None] = {}
    for sheet in reversed(before):
        for label, told in _told(sheet.rows).items():
            if label in own or label in labels or (sheet.key, label) in outdated:
                continue
            if sheet.method == mine.method:
                labels[label] = f"from {sheet.key}{age_words(sheet.taken, mine.taken)}"
                rows += told
            else:
                read.setdefault(label)
    return Carried(
        rows=tuple(rows),
        labels=tuple(labels.items()),
        read_before=tuple(x for x in read if x not in labels),
    )
