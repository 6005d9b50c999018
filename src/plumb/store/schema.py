"""Bring the tables to the newest version, by Alembic's migrations."""

from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from sqlalchemy import Engine, inspect, text
from sqlalchemy.exc import DBAPIError

from plumb.store import (
    tables_finishing,
    tables_people,
    tables_practice,
)  # their tables are the store’s too
from plumb.store.journal import unwatch
from plumb.store.session import transaction
from plumb.store.tables import Base

if TYPE_CHECKING:
    from alembic.config import Config

_SCRIPTS: Final = Path(__file__).parent / "migrations"
ALL_TABLES = (Base, tables_finishing, tables_practice, tables_people)
"""Where the tables are written down; importing them makes them known."""


class NewerTables(Exception):
    """The tables are of a newer program; the text says of which."""


def config(url: str = "") -> "Config":
    """Alembic's configuration, without a file of its own."""
    from alembic.config import Config  # noqa: PLC0415  a start with the newest tables needs none of it

    made = Config()
    made.set_main_option("script_location", str(_SCRIPTS))
    made.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    return made


def steps() -> list[str]:
    """The steps that this program knows, in order: their files begin with their number."""
    return sorted(p.name.partition("_")[0] for p in (_SCRIPTS / "versions").glob("[0-9]*.py"))


def step_of(engine: Engine) -> str | None:
    """The step that the tables are at, None where there are none."""
    with engine.connect() as connection:
        if not inspect(connection).has_table("alembic_version"):
            return None
        return connection.execute(text("SELECT version_num FROM alembic_version")).scalar()


def upgrade(engine: Engine) -> bool:
    """Run the migrations that are missing; true when there were any.

    Raises :class:`NewerTables` when a newer program made the tables: nothing is touched then.
    """
    there, known = step_of(engine), steps()
    if there == known[-1]:
        return False
    if there is not None and there not in known:
        message = (
            f"this shop's tables were made by a newer Plumb (step {there}; this one knows steps up "
            f"to {known[-1]}). Start that one instead; nothing was changed."
        )
        raise NewerTables(message)
    from alembic import command  # noqa: PLC0415

    if there is not None:
        unwatch(engine)
    command.upgrade(config(_address(engine)), "head")
    return True


def _address(engine: Engine) -> str:
    """Where the engine's connections go now: of several servers one that is there."""
    with engine.connect() as connection:
        driver: Any = connection.connection.driver_connection
        url = engine.url.set(host=driver.host, port=driver.port)
    return url.render_as_string(hide_password=False)


def unreadable(engine: Engine) -> list[str]:
    """The tables that cannot be read, by name; none is as it should be.

    Raises :class:`StoreDown` when the database does not answer at all.
    """
    names = [table.name for table in Base.metadata.sorted_tables]
    if _can_read(engine, names):
        return []
    return [name for name in names if not _can_read(engine, [name])]


def _can_read(engine: Engine, names: list[str]) -> bool:
    """Whether a first row of each table can be looked for, in one question for all of them."""
    one = " UNION ALL ".join(f"(SELECT 1 FROM `{name}` LIMIT 1)" for name in names)  # noqa: S608  own names
    try:
        with transaction(engine) as connection:
            connection.execute(text(one))
    except DBAPIError:
        return False
    return True
