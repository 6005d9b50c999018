"""Causes that a person found.

Revision ID: 0016
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

from plumb.store.columns import ExactJson

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    op.create_table(
        "sighting",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("injector_id", sa.Integer(), nullable=True),
        sa.Column("fault", sa.String(length=30), nullable=False),
        sa.Column("words", sa.String(length=120), nullable=False),
        sa.Column("how", sa.String(length=200), nullable=False),
        sa.Column("explains", ExactJson(), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("at_typed", sa.String(length=40), nullable=False),
        sa.Column("by_whom", sa.String(length=40), nullable=False),
        sa.Column("live", mysql.TINYINT(), nullable=True),
        sa.Column("extras", ExactJson(), nullable=True),
        sa.ForeignKeyConstraint(
            ["job_id", "vehicle_id"],
            ["job.id", "job.vehicle_id"],
            name=op.f("fk_sighting_job_job_id"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["vehicle_id", "injector_id"],
            ["injector.vehicle_id", "injector.id"],
            name=op.f("fk_sighting_injector_vehicle_id"),
            ondelete="RESTRICT",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sighting")),
    )


def downgrade() -> None:
    op.drop_table("sighting")
