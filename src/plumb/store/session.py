"""Connections to MariaDB, and what a database error means to the rest of the house."""

import functools
import random
import select
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from typing import Any, Final, ParamSpec, TypeVar
from weakref import WeakSet

from pymysql.err import OperationalError as DriverError
from sqlalchemy import URL, Connection, Engine, create_engine, event, make_url
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as NoneFree

from plumb.store import changes
from plumb.store.actor import Actor, acting
from plumb.store.cluster import Node, in_cluster, takes_part

DISK_FULL: Final = frozenset({1021, 1114, 28})
"""MariaDB error numbers for a disk or table that is full."""


IN_THE_WAY: Final = frozenset({1205, 1213, 1020})
"""A lock that was not given in time, a deadlock, a row that changed meanwhile: the whole
transaction was or can be undone, and done again it usually goes through."""

GONE: Final = frozenset({0, 1047, 1053, 1180, 1927, 2002, 2003, 2006, 2013})
"""The server hung up, goes down, does not answer, or was cut off from the others of its cluster."""

MOST_TRIES: Final = 5
_LONGEST_PAUSE_S: Final = 0.25
ANSWER_S: Final = 15
"""After so long without an answer a connection is given up."""
ANSWER_OF_SEVERAL_S: Final = 6
"""The same where there are other servers to go to: one that was cut off keeps a commit waiting."""
_ACTOR: Final = "plumb actor"

_Given = ParamSpec("_Given")
_Made = TypeVar("_Made")


class StoreDown(Exception):
    """The database does not answer."""


class StoreMoved(StoreDown):
    """One server of several does not answer any more; the next one may."""


class StoreFull(Exception):
    """The disk under the database is full; nothing of this write was kept."""


class StoreBusy(Exception):
    """Another transaction was in the way; nothing of this one was kept."""


def retried(work: Callable[_Given, _Made]) -> Callable[_Given, _Made]:
    """Do a whole use of the store again when another one was in its way, or its server went away.

    Up to :data:`MOST_TRIES` times, after a pause at random that grows, so that two that met do not
    meet again; then :class:`StoreBusy` or :class:`StoreMoved` goes on to who asked.
    """

    @functools.wraps(work)
    def again(*args: _Given.args, **kwargs: _Given.kwargs) -> _Made:
        for tried in range(1, MOST_TRIES):
            try:
                return work(*args, **kwargs)
            except (StoreBusy, StoreMoved):
                time.sleep(random.uniform(0, _LONGEST_PAUSE_S * tried / MOST_TRIES))  # noqa: S311
        return work(*args, **kwargs)

    return again


def make_engine(
    url: str | URL, nodes: Sequence[Node] = (), patience_s: int | None = None
) -> Engine:
    """An engine whose connections are checked before use and give up within seconds, or after ``patience_s``.

    With several ``nodes`` a connection is made to the one that was good last, else to the next that takes part.
    """
    patience = patience_s or (ANSWER_OF_SEVERAL_S if nodes else ANSWER_S)
    wire: dict[str, Any] = {
        "connect_timeout": 3, "read_timeout": patience, "write_timeout": patience,
    }  # fmt: skip
    if not nodes and make_url(url).host == "127.0.0.1":
        # What does not leave the machine is not encrypted: each new line would read all certificates anew for it.
        wire["ssl_disabled"] = True
    engine = create_engine(
        url,
        pool_size=8,
        max_overflow=8,
        pool_pre_ping=False,
        pool_timeout=5,
        pool_recycle=3600,
        connect_args=wire,
    )

    @event.listens_for(engine, "connect")
    def _strict(dbapi_connection, _record) -> None:  # type: ignore[no-untyped-def]  # noqa: ANN001
        with dbapi_connection.cursor() as cursor:
            cursor.execute(
                "SET SESSION sql_mode='STRICT_ALL_TABLES,NO_ZERO_DATE', time_zone='+00:00',"
                " tx_isolation='READ-COMMITTED'"
            )
            if nodes and in_cluster(dbapi_connection):
                # What was kept at another server is seen here, too.
                cursor.execute("SET SESSION wsrep_sync_wait = 1")

    if nodes:
        _goes_round(engine, tuple(nodes))
    return engine


def _goes_round(engine: Engine, nodes: tuple[Node, ...]) -> None:
    """Let new connections go to the server that was good last, and round to the others from there."""
    good = 0
    _round.add(engine)

    @event.listens_for(engine, "do_connect")
    def _connect(dialect, _record, cargs, cparams) -> Any:  # type: ignore[no-untyped-def]  # noqa: ANN001, ANN401
        nonlocal good
        failed: Exception = _NoneTakesPart()
        for n in range(len(nodes)):
            place = (good + n) % len(nodes)
            host, port = nodes[place]
            try:
                made = dialect.connect(*cargs, **{**cparams, "host": host, "port": port})
                if takes_part(made):
                    good = place
                    return made
                made.close()
            except DriverError as error:
                failed = error
        raise failed


_round: WeakSet[Engine] = WeakSet()
"""Engines with several servers."""


class _NoneTakesPart(DriverError):
    """Servers answer, and none of them takes part."""

    def __init__(self) -> None:
        super().__init__(2003, "no server of the cluster takes part")


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
        if error.connection_invalidated or code in GONE:
            if engine not in _round:
                raise StoreDown(str(error.orig)) from error
            # Others that rest in the pool are at the same server.
            engine.dispose()
            raise StoreMoved(str(error.orig)) from error
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
