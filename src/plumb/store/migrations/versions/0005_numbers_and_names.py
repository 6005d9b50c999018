"""A counter, versions of complaint and codes, names told apart letter by letter, lines of Today.

Revision ID: 0005
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGTEXT

revision = "0005"
down_revision = "0004"


def _named(table: str, column: str, length: int) -> None:
    op.alter_column(
        table, column, existing_nullable=False, existing_type=sa.String(length),
        type_=sa.String(length, collation="utf8mb4_bin"),
    )  # fmt: skip


def upgrade() -> None:
    op.create_table(
        "counter",
        sa.Column("name", sa.String(24), primary_key=True),
        sa.Column("value", sa.BigInteger(), nullable=False),
    )
    # Numbers of up to six digits were given by the shop; larger ones came in with a file.
    op.execute(
        "INSERT INTO counter (name, value) SELECT 'job', COALESCE(MAX(CAST(number AS SIGNED)), 0) "
        "FROM job WHERE number REGEXP '^[0-9]{1,6}$'"
    )
    op.add_column("job", sa.Column("version", sa.Integer(), nullable=False, server_default="1"))
    op.create_table(
        "said",
        sa.Column("job_id", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column("stamp", sa.String(64), nullable=False),
        sa.Column("line", LONGTEXT(), nullable=False),
        sa.ForeignKeyConstraint(
            ["job_id"], ["job.id"], name=op.f("fk_said_job_job_id"), ondelete="CASCADE"
        ),
    )
    _named("injector", "label", 12)
    _named("sheet", "key", 24)


def downgrade() -> None:
    message = "names that differ only in case have no place in the earlier tables; restore a backup"
    raise RuntimeError(message)
