"""Whether what closed jobs teach has changed since it was last counted.

Counting goes through thousands of closed jobs, and every look at a job rests on it.  So it is counted once for
each state, and a state is a number that nobody has had before.
"""

import secrets
from collections.abc import Callable
from threading import Lock
from typing import Any, Final, TypeVar, cast
from weakref import WeakKeyDictionary

from sqlalchemy import Connection, Engine, Table, select
from sqlalchemy.dialects.mysql import insert

from plumb.store.tables import CounterRow

COUNTER = cast("Table", CounterRow.__table__)
_TAUGHT: Final = "taught"
_STATE: Final = select(COUNTER.c.value).where(COUNTER.c.name == _TAUGHT)
_counted: WeakKeyDictionary[Engine, dict[tuple[str, str], tuple[int, Any]]] = WeakKeyDictionary()
_lock = Lock()

Counted = TypeVar("Counted")


def changed(connection: Connection) -> None:
    """What closed jobs teach is another when this transaction is committed."""
    values = insert(COUNTER).values(name=_TAUGHT, value=secrets.randbits(62))
    connection.execute(values.on_duplicate_key_update(value=values.inserted.value))


def counted(
    connection: Connection, what: str, fuel_system: str,
    count: Callable[[Connection, str], Counted],
) -> Counted:  # fmt: skip
    """What ``count`` finds on a fuel system; the same as before as long as nothing has changed.

    The state is read first: what is committed while it is counted belongs to the next one.
    """
    state = connection.scalar(_STATE)
    with _lock:
        kept = _counted.setdefault(connection.engine, {})
        known = kept.get((what, fuel_system))
    if known is not None and known[0] == state:
        return cast("Counted", known[1])
    made = count(connection, fuel_system)
    if state is not None:
        with _lock:
            kept[what, fuel_system] = (state, made)
    return made
