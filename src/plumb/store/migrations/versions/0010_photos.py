"""Photos of a job.

Revision ID: 0010
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.create_table(
        "photo",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("sheet_id", sa.Integer(), nullable=True),
        sa.Column("place", sa.String(length=40, collation="utf8mb4_bin"), nullable=False),
        sa.Column("note", sa.String(length=200), nullable=False),
        sa.Column("in_report", sa.Boolean(), nullable=False),
        sa.Column("by_whom", sa.String(length=40), nullable=False),
        sa.Column("taken_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("taken_typed", sa.String(length=40), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("data", mysql.LONGBLOB(), nullable=False),
        sa.Column("small", mysql.LONGBLOB(), nullable=False),
        sa.ForeignKeyConstraint(
            ["job_id"], ["job.id"], name=op.f("fk_photo_job_job_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["sheet_id"], ["sheet.id"], name=op.f("fk_photo_sheet_sheet_id"), ondelete="SET NULL"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_photo")),
    )
    op.create_index("ix_photo_job_id_taken_at", "photo", ["job_id", "taken_at"], unique=False)


def downgrade() -> None:
    op.drop_table("photo")
