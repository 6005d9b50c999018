"""Visits that are noted later than they were, parts on order, values that are accepted,
adjustment codes, hours, boosted engines.

Revision ID: 0017
"""

import sqlalchemy as sa
from alembic import op

from plumb.store.columns import ExactJson

revision = "0017"
down_revision = "0016"
_DISTANCE = op.f("ck_vehicle_distance_unit")


def upgrade() -> None:
    op.add_column("job", sa.Column("dated_because", sa.String(length=200), nullable=True))
    op.add_column("job", sa.Column("accepted", ExactJson(), nullable=True))
    op.add_column("job", sa.Column("ordered", ExactJson(), nullable=True))
    op.add_column(
        "part", sa.Column("code", sa.String(length=60), nullable=False, server_default="")
    )
    op.add_column(
        "vehicle", sa.Column("boosted", sa.Boolean(), nullable=False, server_default=sa.false())
    )
    op.drop_constraint(_DISTANCE, "vehicle", type_="check")
    op.create_check_constraint(_DISTANCE, "vehicle", "distance_unit IN ('km', 'mi', 'h')")


def downgrade() -> None:
    op.drop_constraint(_DISTANCE, "vehicle", type_="check")
    op.create_check_constraint(_DISTANCE, "vehicle", "distance_unit IN ('km', 'mi')")
    op.drop_column("vehicle", "boosted")
    op.drop_column("part", "code")
    op.drop_column("job", "ordered")
    op.drop_column("job", "accepted")
    op.drop_column("job", "dated_because")
