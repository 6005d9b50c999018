"""From the verdict on: choices, repairs and parts, what goes with them, answers, signatures, prices.

Revision ID: 0008
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

from plumb.store.columns import ExactJson

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.drop_constraint(op.f("ck_shelf_what"), "shelf", type_="check")
    op.create_check_constraint(
        op.f("ck_shelf_what"), "shelf", "what IN ('window', 'rule', 'layout', 'price')"
    )
    op.create_table(
        "shop",
        sa.Column("id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("address", sa.String(length=500), nullable=False),
        sa.Column("currency", sa.String(length=3), nullable=False),
        sa.Column("logo", mysql.LONGBLOB(), nullable=True),
        sa.CheckConstraint("id = 1", name=op.f("ck_shop_one")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_shop")),
    )
    op.create_table(
        "answer",
        sa.Column("job_id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("word", sa.String(length=24), nullable=False),
        sa.Column("answer", sa.String(length=12), nullable=False),
        sa.Column("by_whom", sa.String(length=40), nullable=False),
        sa.Column("at_typed", sa.String(length=40), nullable=False),
        sa.CheckConstraint(
            "answer IN ('gone', 'less', 'still_there')", name=op.f("ck_answer_answer")
        ),
        sa.ForeignKeyConstraint(
            ["job_id"], ["job.id"], name=op.f("fk_answer_job_job_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("job_id", "word", name=op.f("pk_answer")),
    )
    op.create_table(
        "choice",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("way", sa.String(length=24), nullable=False),
        sa.Column("injectors", ExactJson(), nullable=False),
        sa.Column("reason", sa.String(length=500), nullable=False),
        sa.Column("by_whom", sa.String(length=40), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("at_typed", sa.String(length=40), nullable=False),
        sa.Column("look_on", sa.DATE(), nullable=True),
        sa.Column("look_km_typed", sa.String(length=40), nullable=True),
        sa.Column("extras", ExactJson(), nullable=True),
        sa.CheckConstraint(
            "way IN ('replace_flagged', 'clean_then_replace', 'whole_set', 'clean_all', 'reshim', 'rebuild', 'engine_first', 'wait')",
            name=op.f("ck_choice_way"),
        ),
        sa.ForeignKeyConstraint(
            ["job_id"], ["job.id"], name=op.f("fk_choice_job_job_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_choice")),
    )
    op.create_index("ix_choice_look_on", "choice", ["look_on"], unique=False)
    op.create_table(
        "cured",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("injector_id", sa.Integer(), nullable=False),
        sa.Column("found", sa.String(length=30), nullable=False),
        sa.Column("cured", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(
            ["injector_id"],
            ["injector.id"],
            name=op.f("fk_cured_injector_injector_id"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["job_id"], ["job.id"], name=op.f("fk_cured_job_job_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_cured")),
        sa.UniqueConstraint(
            "job_id", "injector_id", "found", name=op.f("uq_cured_job_id_injector_id_found")
        ),
    )
    op.create_table(
        "repair",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("injector_id", sa.Integer(), nullable=True),
        sa.Column("with_id", sa.Integer(), nullable=True),
        sa.Column("done", sa.String(length=12), nullable=False),
        sa.Column("cause", sa.String(length=30), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("at_typed", sa.String(length=40), nullable=False),
        sa.Column("by_whom", sa.String(length=40), nullable=False),
        sa.Column("note", sa.String(length=500), nullable=False),
        sa.Column("live", mysql.TINYINT(), nullable=True),
        sa.Column("extras", ExactJson(), nullable=True),
        sa.CheckConstraint(
            "(injector_id IS NULL) = (done = 'put_right')", name=op.f("ck_repair_whose")
        ),
        sa.CheckConstraint(
            "(with_id IS NULL) = (done <> 'swapped')", name=op.f("ck_repair_swapped")
        ),
        sa.CheckConstraint(
            "done IN ('cleaned', 'replaced', 'swapped', 'reshimmed', 'rebuilt', 'wired', 'nothing', 'put_right')",
            name=op.f("ck_repair_done"),
        ),
        sa.CheckConstraint("live IS NULL OR live = 1", name=op.f("ck_repair_live")),
        sa.CheckConstraint("with_id IS NULL OR with_id <> injector_id", name=op.f("ck_repair_two")),
        sa.ForeignKeyConstraint(
            ["job_id", "vehicle_id"],
            ["job.id", "job.vehicle_id"],
            name=op.f("fk_repair_job_job_id"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["vehicle_id", "injector_id"],
            ["injector.vehicle_id", "injector.id"],
            name="fk_repair_injector_injector_id",
            ondelete="RESTRICT",
        ),
        sa.ForeignKeyConstraint(
            ["vehicle_id", "with_id"],
            ["injector.vehicle_id", "injector.id"],
            name="fk_repair_injector_with_id",
            ondelete="RESTRICT",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_repair")),
    )
    op.create_index("ix_repair_vehicle_id_at", "repair", ["vehicle_id", "at"], unique=False)
    op.create_table(
        "signature",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("by_whom", sa.String(length=40), nullable=False),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("at_typed", sa.String(length=40), nullable=False),
        sa.Column("reason", sa.String(length=500), nullable=False),
        sa.Column("hand", mysql.LONGTEXT(), nullable=True),
        sa.Column("version", sa.String(length=20), nullable=False),
        sa.Column("result", mysql.LONGTEXT(), nullable=False),
        sa.CheckConstraint("by_whom <> ''", name=op.f("ck_signature_by_whom")),
        sa.ForeignKeyConstraint(
            ["job_id"], ["job.id"], name=op.f("fk_signature_job_job_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_signature")),
    )
    op.create_table(
        "thing",
        sa.Column("job_id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("what", sa.String(length=24), nullable=False),
        sa.Column("done", sa.Boolean(), nullable=False),
        sa.Column("reason", sa.String(length=200), nullable=False),
        sa.Column("by_whom", sa.String(length=40), nullable=False),
        sa.Column("at_typed", sa.String(length=40), nullable=False),
        sa.CheckConstraint("done OR reason <> ''", name=op.f("ck_thing_reason")),
        sa.ForeignKeyConstraint(
            ["job_id"], ["job.id"], name=op.f("fk_thing_job_job_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("job_id", "what", name=op.f("pk_thing")),
    )
    op.create_table(
        "part",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("injector_id", sa.Integer(), nullable=False),
        sa.Column("repair_id", sa.String(length=36), nullable=True),
        sa.Column("make", sa.String(length=60), nullable=False),
        sa.Column("number", sa.String(length=60), nullable=False),
        sa.Column("serial", sa.String(length=60), nullable=False),
        sa.Column("mark", sa.String(length=60), nullable=False),
        sa.Column("note", sa.String(length=200), nullable=False),
        sa.ForeignKeyConstraint(
            ["repair_id"], ["repair.id"], name=op.f("fk_part_repair_repair_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["vehicle_id", "injector_id"],
            ["injector.vehicle_id", "injector.id"],
            name=op.f("fk_part_injector_vehicle_id"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_part")),
        sa.UniqueConstraint("repair_id", name=op.f("uq_part_repair_id")),
    )
    op.create_index(op.f("ix_part_number"), "part", ["number"], unique=False)
    op.add_column("job", sa.Column("prices", ExactJson(), nullable=True))


def downgrade() -> None:
    message = "repairs and signatures have no place in the earlier tables; restore a backup"
    raise RuntimeError(message)
