"""Visits that are noted later than they were, parts on order, adjustment codes of parts.

Revision ID: 0017
"""

import sqlalchemy as sa
from alembic import op

from plumb.store.columns import ExactJson

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    op.add_column("job", sa.Column("dated_because", sa.String(length=200), nullable=True))
    op.add_column("job", sa.Column("ordered", ExactJson(), nullable=True))
    op.add_column(
        "part", sa.Column("code", sa.String(length=60), nullable=False, server_default="")
    )


def downgrade() -> None:
    op.drop_column("part", "code")
    op.drop_column("job", "ordered")
    op.drop_column("job", "dated_because")
