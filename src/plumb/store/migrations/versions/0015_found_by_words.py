"""The words by which jobs and vehicles are found; what sheets are about; orders that an index has.

Revision ID: 0015
"""

import secrets

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

from plumb.store import sheets, words

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.create_table(
        "found_by",
        sa.Column("word", sa.String(length=10, collation="utf8mb4_bin"), nullable=False),
        sa.Column("place", mysql.TINYINT(), autoincrement=False, nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("id", sa.Integer(), autoincrement=False, nullable=False),
        sa.PrimaryKeyConstraint("word", "place", "at", "id", name=op.f("pk_found_by")),
    )
    op.create_index("ix_job_opened", "job", ["opened_at"], unique=False)
    op.add_column(
        "sheet",
        sa.Column(
            "about",
            sa.String(length=80, collation="utf8mb4_bin"),
            server_default="",
            nullable=False,
        ),
    )
    op.alter_column(
        "sheet", "about", server_default=None, existing_nullable=False,
        existing_type=sa.String(length=80, collation="utf8mb4_bin"),
    )  # fmt: skip
    op.create_index("ix_sheet_kind", "sheet", ["kind"], unique=False)
    op.create_index("ix_sheet_about", "sheet", ["about", "kind"], unique=False)
    op.create_index("ix_sheet_vehicle", "sheet", ["vehicle_id", "kind"], unique=False)
    connection = op.get_bind()
    sheets.fill_about(connection)
    words.fill(connection)
    connection.execute(
        sa.text("REPLACE INTO counter (name, value) VALUES ('taught', :value)"),
        {"value": secrets.randbits(62)},
    )


def downgrade() -> None:
    op.drop_index("ix_sheet_vehicle", table_name="sheet")
    op.drop_index("ix_sheet_about", table_name="sheet")
    op.drop_index("ix_sheet_kind", table_name="sheet")
    op.drop_column("sheet", "about")
    op.drop_index("ix_job_opened", table_name="job")
    op.drop_table("found_by")
