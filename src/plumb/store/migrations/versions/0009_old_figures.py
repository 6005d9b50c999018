"""Figures from paper, from before a shop had Plumb.

Revision ID: 0009
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.create_table(
        "old_figure",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("injector_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(length=30), nullable=False),
        sa.Column("taken_on", sa.DATE(), nullable=False),
        sa.Column("distance_typed", sa.String(length=40), nullable=True),
        sa.Column("value_typed", sa.String(length=40), nullable=False),
        sa.Column("value", mysql.DOUBLE(), nullable=False),
        sa.Column("unit", sa.String(length=12), nullable=False),
        sa.Column("source", sa.String(length=120), nullable=False),
        sa.ForeignKeyConstraint(
            ["vehicle_id", "injector_id"],
            ["injector.vehicle_id", "injector.id"],
            name=op.f("fk_old_figure_injector_vehicle_id"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_old_figure")),
        sa.UniqueConstraint(
            "vehicle_id",
            "injector_id",
            "kind",
            "taken_on",
            name=op.f("uq_old_figure_vehicle_id_injector_id_kind_taken_on"),
        ),
    )


def downgrade() -> None:
    op.drop_table("old_figure")
