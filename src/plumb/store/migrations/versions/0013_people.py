"""People, their tablets, sign-ins and codes; who changed what.

Revision ID: 0013
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.create_table(
        "attempt",
        sa.Column("what", sa.String(length=80, collation="utf8mb4_bin"), nullable=False),
        sa.Column("fails", sa.Integer(), nullable=False),
        sa.Column("wait_until", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("what", name=op.f("pk_attempt")),
    )
    op.create_table(
        "change_entry",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=True),
        sa.Column("by_name", sa.String(length=40), nullable=False),
        sa.Column("device", sa.String(length=60), nullable=False),
        sa.Column("what", sa.String(length=24), nullable=False),
        sa.Column("doing", sa.String(length=12), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=True),
        sa.Column("sheet_id", sa.Integer(), nullable=True),
        sa.Column("row_key", sa.String(length=120), nullable=False),
        sa.Column("was", mysql.LONGTEXT(), nullable=True),
        sa.Column("became", mysql.LONGTEXT(), nullable=True),
        sa.Column("seq", sa.Integer(), nullable=True),
        sa.Column("hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=True),
        sa.CheckConstraint(
            "doing IN ('made', 'changed', 'taken away')", name=op.f("ck_change_entry_doing")
        ),
        sa.CheckConstraint("(seq IS NULL) = (hash IS NULL)", name=op.f("ck_change_entry_sealed")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_change_entry")),
        sa.UniqueConstraint("seq", name=op.f("uq_change_entry_seq")),
    )
    op.create_index(op.f("ix_change_entry_by_name"), "change_entry", ["by_name"], unique=False)
    op.create_index("ix_change_entry_job", "change_entry", ["job_id", "id"], unique=False)
    op.create_index("ix_change_entry_sheet", "change_entry", ["sheet_id", "id"], unique=False)
    op.create_index(op.f("ix_change_entry_what"), "change_entry", ["what"], unique=False)
    op.create_table(
        "change_head",
        sa.Column("id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("seq", sa.Integer(), nullable=False),
        sa.Column("hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.CheckConstraint("id = 1", name=op.f("ck_change_head_one")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_change_head")),
    )
    op.create_table(
        "device",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=60), nullable=False),
        sa.Column("token_hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("paired_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("paired_by", sa.String(length=40), nullable=False),
        sa.Column("last_seen", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("ended_at", mysql.DATETIME(fsp=6), nullable=True),
        sa.CheckConstraint("name <> ''", name=op.f("ck_device_named")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_device")),
        sa.UniqueConstraint("token_hash", name=op.f("uq_device_token_hash")),
    )
    op.create_table(
        "person",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=40), nullable=False),
        sa.Column("role", sa.String(length=12), nullable=False),
        sa.Column("active", sa.Boolean(), nullable=False),
        sa.Column("made_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("password_hash", sa.String(length=200), nullable=True),
        sa.Column("pin_hash", sa.String(length=200), nullable=True),
        sa.CheckConstraint("name <> ''", name=op.f("ck_person_named")),
        sa.CheckConstraint(
            "role IN ('reader', 'technician', 'lead', 'owner')", name=op.f("ck_person_role")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_person")),
        sa.UniqueConstraint("name", name=op.f("uq_person_name")),
    )
    op.create_table(
        "code",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("code_hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("purpose", sa.String(length=8), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("made_by", sa.String(length=40), nullable=False),
        sa.Column("until", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("used_at", mysql.DATETIME(fsp=6), nullable=True),
        sa.CheckConstraint("purpose IN ('owner', 'pair', 'person')", name=op.f("ck_code_purpose")),
        sa.ForeignKeyConstraint(
            ["person_id"], ["person.id"], name=op.f("fk_code_person_person_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_code")),
        sa.UniqueConstraint("code_hash", name=op.f("uq_code_code_hash")),
    )
    op.create_table(
        "sign_in",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("token_hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("device_id", sa.Integer(), nullable=True),
        sa.Column("where_from", sa.String(length=120), nullable=False),
        sa.Column("begun_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("last_seen", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("ended_at", mysql.DATETIME(fsp=6), nullable=True),
        sa.ForeignKeyConstraint(
            ["device_id"],
            ["device.id"],
            name=op.f("fk_sign_in_device_device_id"),
            ondelete="RESTRICT",
        ),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["person.id"],
            name=op.f("fk_sign_in_person_person_id"),
            ondelete="RESTRICT",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sign_in")),
        sa.UniqueConstraint("token_hash", name=op.f("uq_sign_in_token_hash")),
    )


def downgrade() -> None:
    for name in ("sign_in", "code", "person", "device", "change_head", "change_entry", "attempt"):
        op.drop_table(name)
