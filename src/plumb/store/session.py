"""Connections to MariaDB, and what a database error means to the rest of the house."""

import functools
import random
import select
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from typing import Final, ParamSpec, TypeVar

from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.exc import TimeoutError as NoneFree

from plumb.store import changes
from plumb.store.actor import Actor, acting

DISK_FULL: Final = frozenset({1021, 1114, 28})
"""MariaDB error numbers for a disk or table that is full."""


IN_THE_WAY: Final = frozenset({1205, 1213, 1020})
"""A lock that was not given in time, a deadlock, a row that changed meanwhile: the whole
transaction was or can be undone, and done again it usually goes through."""

MOST_TRIES: Final = 5
_LONGEST_PAUSE_S: Final = 0.25
_ACTOR: Final = "plumb actor"

_Given = ParamSpec("_Given")
_Made = TypeVar("_Made")


class StoreDown(Exception):
    """The database does not answer."""


class StoreFull(Exception):
    """The disk under the database is full; nothing of this write was kept."""


class StoreBusy(Exception):
    """Another transaction was in the way; nothing of this one was kept."""


def retried(work: Callable[_Given, _Made]) -> Callable[_Given, _Made]:
    """Do a whole use of the store again when another one was in its way.

    Up to :data:`MOST_TRIES` times, after a pause at random that grows, so that two that met do not
    meet again; then :class:`StoreBusy` goes on to who asked.
    """

    @functools.wraps(work)
    def again(*args: _Given.args, **kwargs: _Given.kwargs) -> _Made:
        for tried in range(1, MOST_TRIES):
            try:
                return work(*args, **kwargs)
            except StoreBusy:
                time.sleep(random.uniform(0, _LONGEST_PAUSE_S * tried / MOST_TRIES))  # noqa: S311
        return work(*args, **kwargs)

    return again


def make_engine(url: str) -> Engine:
    """An engine whose connections are checked before use and give up within seconds."""
    engine = create_engine(
        url,
        pool_size=8,
        max_overflow=8,
        pool_pre_ping=False,
        pool_timeout=5,
        pool_recycle=3600,
        connect_args={"connect_timeout": 3, "read_timeout": 15, "write_timeout": 15},
    )

    @event.listens_for(engine, "connect")
    def _strict(dbapi_connection, _record) -> None:  # type: ignore[no-untyped-def]  # noqa: ANN001
        with dbapi_connection.cursor() as cursor:
            cursor.execute(
                "SET SESSION sql_mode='STRICT_ALL_TABLES,NO_ZERO_DATE', time_zone='+00:00',"
                " tx_isolation='READ-COMMITTED'"
            )

    return engine


@contextmanager
def transaction(engine: Engine) -> Iterator[Connection]:
    """One transaction: committed when the block ends, rolled back when it raises.

    Raises :class:`StoreDown`, :class:`StoreBusy` or :class:`StoreFull` in place of the driver's
    errors.  A pooled
    connection that died with an earlier server is replaced once, before anything was done on it.
    """
    try:
        with _connected(engine) as connection:
            changes.begun(connection)
            with connection.begin():
                _tell(connection)
                yield connection
            changes.committed(connection)
    except NoneFree as error:
        raise StoreBusy(str(error)) from error
    except DBAPIError as error:
        code = error.orig.args[0] if error.orig is not None and error.orig.args else 0
        if code in DISK_FULL:
            raise StoreFull(str(error.orig)) from error
        if code in IN_THE_WAY:
            raise StoreBusy(str(error.orig)) from error
        if isinstance(error, OperationalError) and (
            error.connection_invalidated or code in {2002, 2003, 2006, 2013, 1053, 0}
        ):
            raise StoreDown(str(error.orig)) from error
        raise


def _tell(connection: Connection) -> None:
    """Tell the database who is at it, where that is another than on this connection before."""
    actor = acting.get()
    if connection.info.get(_ACTOR) != actor:
        connection.exec_driver_sql(
            "SET @plumb_by = %s, @plumb_by_id = %s, @plumb_device = %s",
            (actor.name, actor.person_id, actor.device),
        )
        connection.info[_ACTOR] = actor


def act_as(connection: Connection, actor: Actor) -> None:
    """From here on it is somebody else who is at it: who comes in does so under their own name."""
    acting.set(actor)
    _tell(connection)


@contextmanager
def quiet(connection: Connection) -> Iterator[None]:
    """What is done in the block is nobody's doing, and is not written down: the tables' own upkeep."""
    connection.exec_driver_sql("SET @plumb_quiet = 1")
    try:
        yield
    finally:
        connection.exec_driver_sql("SET @plumb_quiet = NULL")


class _Undone(Exception):
    """Nothing of a transaction is kept, as was meant."""


@contextmanager
def unkept(engine: Engine) -> Iterator[Connection]:
    """A transaction of which nothing is kept, nor written down: to see how something would look."""
    with suppress(_Undone), transaction(engine) as connection, quiet(connection):
        yield connection
        raise _Undone


@contextmanager
def _connected(engine: Engine) -> Iterator[Connection]:
    """A connection of the pool; one that was cut while it rested is replaced."""
    connection = engine.connect()
    try:
        if not _alive(connection):
            connection.close()
            engine.dispose()
            connection = engine.connect()
        yield connection
    finally:
        connection.close()


def _alive(connection: Connection) -> bool:
    """Whether the server has hung up meanwhile: a socket that is readable at rest was closed."""
    driver = connection.connection.driver_connection
    sock = getattr(driver, "_sock", None)
    if sock is None:
        return False
    readable, _, _ = select.select([sock], [], [], 0)
    return not readable
