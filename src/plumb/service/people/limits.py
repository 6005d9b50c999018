"""How often it may go wrong before nobody is asked for a while.

The first five are free: gloves slip.  Then each doubles the pause, up to a quarter of an hour, whoever
asks and whether it would be right or not.  It is counted for a person at a place, for a person from
everywhere, and for a place; the last two bear more, so that nobody can lock out others so easily.
"""

from datetime import datetime, timedelta
from typing import Final

from sqlalchemy import Connection, Engine

from plumb.service.people.refusals import TooOften
from plumb.service.stored.parts import now
from plumb.store import people as store
from plumb.store.session import retried, transaction

FREE: Final = 5
FREE_IN_ALL: Final = 20
FIRST_WAIT_S: Final = 5
LONGEST_WAIT_S: Final = 900


def pause_s(fails: int, free: int) -> int:
    """Seconds that nobody is asked for, after so many in a row.

    >>> [pause_s(n, 5) for n in (4, 5, 6, 7, 60)]
    [0, 5, 10, 20, 900]
    """
    if fails < free:
        return 0
    return min(LONGEST_WAIT_S, FIRST_WAIT_S << min(fails - free, 20))


def keys(who: str, place: str) -> dict[str, int]:
    """What is counted for a person (or code) at a place, and how many are free of each."""
    return {f"{who}@{place}"[:80]: FREE, who[:80]: FREE_IN_ALL, f"@{place}"[:80]: FREE_IN_ALL}


def may_try(connection: Connection, counted: dict[str, int]) -> None:
    """Raise :class:`TooOften` while nobody is asked.

    A pause that would be longer than any was made before the clock was set back, and holds no more.
    """
    at = now()
    until = max((t for _, t in store.attempts(connection, counted).values()), default=at)
    if at < until <= at + timedelta(seconds=LONGEST_WAIT_S):
        raise TooOften(max(1, round((until - at).total_seconds())))


@retried
def went_wrong(engine: Engine, counted: dict[str, int]) -> None:
    """Count one; in a transaction of its own, because the other one is given up."""
    with transaction(engine) as connection:
        so_far = store.attempts(connection, counted)
        for what, free in counted.items():
            fails = so_far.get(what, (0, datetime.min))[0] + 1  # noqa: DTZ901  only a place is held
            until = now() + timedelta(seconds=pause_s(fails, free))
            store.put_attempt(connection, what, fails, until)


def went_well(connection: Connection, counted: dict[str, int]) -> None:
    """Forget those of this person; what is counted for the place stays."""
    store.forget_attempts(connection, [w for w in counted if not w.startswith("@")])
