"""Visits that are noted later than they were.

Revision ID: 0017
"""

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    op.add_column("job", sa.Column("dated_because", sa.String(length=200), nullable=True))


def downgrade() -> None:
    op.drop_column("job", "dated_because")
