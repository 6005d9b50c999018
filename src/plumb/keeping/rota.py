"""Which backups are kept, and when the next is due."""

from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from typing import Final

DAILY: Final = 7
WEEKLY: Final = 4
MONTHLY: Final = 12


def kept(made: Iterable[datetime]) -> list[datetime]:
    """Those that stay, newest first: the newest of each of the last days, weeks and months that have one.

    :data:`DAILY`, :data:`WEEKLY` and :data:`MONTHLY` of them; weeks begin on Monday (ISO 8601).  One
    can stand for its day, its week and its month at once.

    >>> of = [datetime(2026, 3, day) for day in range(1, 32)]
    >>> [d.day for d in kept(of)]
    [31, 30, 29, 28, 27, 26, 25, 22, 15]
    """
    newest = sorted(made, reverse=True)
    stays: set[datetime] = set()
    for most, of in (
        (DAILY, lambda t: t.date()),
        (WEEKLY, lambda t: t.isocalendar()[:2]),
        (MONTHLY, lambda t: (t.year, t.month)),
    ):
        first: dict[object, datetime] = {}
        for t in newest:
            first.setdefault(of(t), t)
        stays.update(list(first.values())[:most])
    return [t for t in newest if t in stays]


def due_since(now: datetime, hour: int, minute: int) -> datetime:
    """The last time at which a backup should have been made, once a day at this time.

    >>> due_since(datetime(2026, 11, 26, 2, 0), 3, 30)
    datetime.datetime(2026, 11, 25, 3, 30)
    """
    today = now.replace(hour=hour, minute=minute, second=0, microsecond=0)
    return today if today <= now else today - timedelta(days=1)


def is_due(made: Sequence[datetime], now: datetime, hour: int, minute: int) -> bool:
    """Whether none was made since the last time at which one should have been.

    A clock that was set back leaves some that seem to come from the future: they do not count, for
    else none would be made until the clock has caught up.
    """
    since = due_since(now, hour, minute)
    return not any(since <= t <= now for t in made)
