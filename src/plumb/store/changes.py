"""Who wants to know that a sheet changed: told after the commit, by every use of the store alike."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from threading import Lock
from typing import Final

from sqlalchemy import Connection

_KEY: Final = "plumb changed"


@dataclass(frozen=True, slots=True)
class Changed:
    """What a transaction changed: sheets by id, and all sheets of jobs or vehicles by id."""

    sheets: frozenset[int] = frozenset()
    jobs: frozenset[int] = frozenset()
    vehicles: frozenset[int] = frozenset()


Told = Callable[[Changed], None]
_listeners: list[Told] = []
_lock = Lock()


def listen(told: Told) -> Callable[[], None]:
    """Be told of every change from now on, in the thread that made it; gives back how to stop."""
    with _lock:
        _listeners.append(told)

    def stop() -> None:
        with _lock:
            if told in _listeners:
                _listeners.remove(told)

    return stop


def note(
    connection: Connection,
    *,
    sheets: Iterable[int] = (),
    jobs: Iterable[int] = (),
    vehicles: Iterable[int] = (),
) -> None:
    """What the open transaction has changed; it is told when it is committed, else forgotten."""
    before: Changed = connection.info.get(_KEY, Changed())
    connection.info[_KEY] = Changed(
        before.sheets.union(sheets), before.jobs.union(jobs), before.vehicles.union(vehicles)
    )


def begun(connection: Connection) -> None:
    """A transaction begins: what an earlier one on this connection left is nobody's."""
    connection.info.pop(_KEY, None)


def committed(connection: Connection) -> None:
    """Tell what was changed; whoever is told must not fail, and must be quick."""
    changed = connection.info.pop(_KEY, None)
    if changed is None:
        return
    with _lock:
        listeners = list(_listeners)
    for told in listeners:
        told(changed)
