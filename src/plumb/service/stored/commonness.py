"""How common faults are in this shop, where it learns that from its closed jobs."""

from collections.abc import Mapping

from sqlalchemy import Connection

from plumb.core.causes.common import Counts, Learnt, learnt_on
from plumb.store import causes as store

_OFF = "off"


def learns(connection: Connection) -> bool:
    """Whether the shop lets its closed jobs count; it does until somebody switches it off."""
    return store.preference(connection, store.LEARNING) != _OFF


def switch(connection: Connection, *, on: bool) -> None:
    """Let closed jobs count, or not."""
    store.choose(connection, store.LEARNING, "on" if on else _OFF)


def counts_here(connection: Connection, fuel_system: str) -> Counts:
    """What counts beside the table: the shop's closed jobs, or nothing where it does not learn."""
    return store.counts_on(connection, fuel_system) if learns(connection) else Counts()


def common_here(connection: Connection, fuel_system: str) -> Mapping[str, Learnt]:
    """How common each fault is here."""
    return learnt_on(fuel_system, counts_here(connection, fuel_system))
