"""Engines of any kind: cylinders and injectors apart, sets, retired injectors, miles.

Revision ID: 0006
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGTEXT

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column(
        "vehicle", sa.Column("distance_unit", sa.String(2), nullable=False, server_default="km")
    )
    op.add_column(
        "vehicle", sa.Column("cylinders", sa.Integer(), nullable=False, server_default="0")
    )
    op.add_column("vehicle", sa.Column("firing_order", LONGTEXT(), nullable=True))
    op.create_check_constraint(
        op.f("ck_vehicle_cylinders"), "vehicle", "cylinders BETWEEN 0 AND 16"
    )
    op.create_check_constraint(
        op.f("ck_vehicle_distance_unit"), "vehicle", "distance_unit IN ('km', 'mi')"
    )
    op.add_column(
        "injector", sa.Column("set_name", sa.String(12), nullable=False, server_default="")
    )
    op.add_column(
        "injector", sa.Column("retired", sa.Boolean(), nullable=False, server_default=sa.false())
    )
    op.drop_constraint(op.f("ck_injector_cylinder"), "injector", type_="check")
    op.create_check_constraint(
        op.f("ck_injector_cylinder"), "injector", "cylinder BETWEEN 0 AND 16"
    )


def downgrade() -> None:
    message = "an injector of all cylinders has no place in the earlier tables; restore a backup"
    raise RuntimeError(message)
