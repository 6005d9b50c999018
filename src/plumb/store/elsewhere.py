"""A database that others keep, in place of the private server."""

from typing import Final

from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError

from plumb.store.cluster import Cluster
from plumb.store.server import PRACTICE, SHOP, Place, Server, ServerTrouble
from plumb.store.session import make_engine

_WHAT_TO_DO: Final = (
    "See that one of the servers of PLUMB_DB_URL runs, that the databases are there and the account "
    "may use them (docs/operations.md)."
)


def engine_of(
    where: Place | Cluster, database: str = SHOP, *, patience_s: int | None = None
) -> Engine:
    """An engine on a database of the private server, or of servers that others keep; see :func:`make_engine`."""
    return make_engine(where.url(database), where.nodes, patience_s)


class Elsewhere:
    """Looks like the private server, and starts and stops nothing."""

    def __init__(self, place: Cluster) -> None:
        self.place = place

    def start(self) -> None:
        """See that both databases can be worked with; :class:`ServerTrouble` where one cannot."""
        for name in (SHOP, PRACTICE):
            engine = engine_of(self.place, name)
            try:
                with engine.connect() as connection:
                    connection.execute(text("SELECT 1"))
            except DBAPIError as error:
                message = f"the database {name} cannot be used: {error.orig}. {_WHAT_TO_DO}"
                raise ServerTrouble(message) from error
            finally:
                engine.dispose()

    def alive(self) -> bool:
        """Others look after it."""
        return True

    def launch(self) -> None:
        """Others start it."""

    def stop(self) -> None:
        """Others stop it."""


def database_at(where: Place | Cluster) -> Server | Elsewhere:
    """The private server of a place, or what stands for it."""
    return Server(where) if isinstance(where, Place) else Elsewhere(where)
