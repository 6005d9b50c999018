"""Alembic's entry: run the migrations on the address it was given."""

from alembic import context
from sqlalchemy import create_engine

from plumb.store.schema import ALL_TABLES


def run() -> None:
    """Connect and migrate."""
    engine = create_engine(context.config.get_main_option("sqlalchemy.url") or "")
    with engine.connect() as connection:
        context.configure(
            connection=connection, target_metadata=ALL_TABLES[0].metadata, compare_type=False
        )
        with context.begin_transaction():
            context.run_migrations()
    engine.dispose()


run()
