"""Bring the tables to the newest version, by Alembic's migrations."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine


def config(url: str = "") -> Config:
    """Alembic's configuration, without a file of its own."""
    made = Config()
    made.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    made.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    return made


def upgrade(engine: Engine) -> bool:
    """Run the migrations that are missing; true when there were any.

    A database that is newer than this program is refused by Alembic with the unknown revision.
    """
    made = config(engine.url.render_as_string(hide_password=False))
    head = ScriptDirectory.from_config(made).get_current_head()
    with engine.connect() as connection:
        if MigrationContext.configure(connection).get_current_revision() == head:
            return False
    command.upgrade(made, "head")
    return True
