"""Bring the tables to the newest version, by Alembic's migrations."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError

from plumb.store import (
    tables_finishing,
    tables_people,
    tables_practice,
)  # their tables are the store’s too
from plumb.store.journal import unwatch
from plumb.store.session import transaction
from plumb.store.tables import Base

ALL_TABLES = (Base, tables_finishing, tables_practice, tables_people)
"""Where the tables are written down; importing them makes them known."""


class NewerTables(Exception):
    """The tables are of a newer program; the text says of which."""


def config(url: str = "") -> Config:
    """Alembic's configuration, without a file of its own."""
    made = Config()
    made.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    made.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    return made


def upgrade(engine: Engine) -> bool:
    """Run the migrations that are missing; true when there were any.

    Raises :class:`NewerTables` when a newer program made the tables: nothing is touched then.
    """
    made = config(engine.url.render_as_string(hide_password=False))
    scripts = ScriptDirectory.from_config(made)
    with engine.connect() as connection:
        there = MigrationContext.configure(connection).get_current_revision()
    if there == scripts.get_current_head():
        return False
    if there is not None and there not in {s.revision for s in scripts.walk_revisions()}:
        message = (
            f"this shop's tables were made by a newer Plumb (step {there}; this one knows steps up "
            f"to {scripts.get_current_head()}). Start that one instead; nothing was changed."
        )
        raise NewerTables(message)
    if there is not None:
        unwatch(engine)
    command.upgrade(made, "head")
    return True


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
