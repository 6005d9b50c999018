"""Practice: which engine was worked by whom, and how it went.

Revision ID: 0012
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.create_table(
        "practice_run",
        sa.Column("job_number", sa.String(length=24), nullable=False),
        sa.Column("request_id", sa.String(length=36), nullable=False),
        sa.Column("exercise", sa.String(length=24), nullable=False),
        sa.Column("by_whom", sa.String(length=40), nullable=False),
        sa.Column("exam", sa.Boolean(), nullable=False),
        sa.Column("begun_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("ended_at", mysql.DATETIME(fsp=6), nullable=True),
        sa.Column("points", mysql.DOUBLE(), nullable=True),
        sa.Column("body", mysql.LONGTEXT(), nullable=False),
        sa.CheckConstraint(
            "(points IS NULL) = (ended_at IS NULL)", name=op.f("ck_practice_run_ended")
        ),
        sa.CheckConstraint(
            "points IS NULL OR points BETWEEN 0 AND 100", name=op.f("ck_practice_run_points")
        ),
        sa.PrimaryKeyConstraint("job_number", name=op.f("pk_practice_run")),
        sa.UniqueConstraint("request_id", name=op.f("uq_practice_run_request_id")),
    )
    op.create_index(op.f("ix_practice_run_by_whom"), "practice_run", ["by_whom"])


def downgrade() -> None:
    op.drop_table("practice_run")
