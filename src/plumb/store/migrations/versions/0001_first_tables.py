"""first tables

Revision ID: 0001
Revises:
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "gauge",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=60), nullable=False),
        sa.Column("unit", sa.String(length=12), nullable=False),
        sa.Column("step_typed", sa.String(length=40), nullable=False),
        sa.Column("step", mysql.DOUBLE(), nullable=False),
        sa.CheckConstraint("name <> ''", name=op.f("ck_gauge_named")),
        sa.CheckConstraint(
            "unit IN ('psi', 'kPa', 'bar', 'MPa', 'kgf/cm2')",
            name=op.f("ck_gauge_unit"),
        ),
        sa.CheckConstraint("step > 0", name=op.f("ck_gauge_step")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_gauge")),
        sa.UniqueConstraint("name", name=op.f("uq_gauge_name")),
    )
    op.create_table(
        "vehicle",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("registration", sa.String(length=40), nullable=False),
        sa.Column("fuel_system", sa.String(length=20), nullable=False),
        sa.Column("extras", mysql.LONGTEXT(), nullable=True),
        sa.CheckConstraint(
            "fuel_system IN ('port', 'throttle_body', 'direct', 'common_rail', 'mechanical_diesel')",
            name=op.f("ck_vehicle_fuel_system"),
        ),
        sa.CheckConstraint("name <> ''", name=op.f("ck_vehicle_named")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_vehicle")),
    )
    op.create_index(op.f("ix_vehicle_name"), "vehicle", ["name"], unique=False)
    op.create_index(op.f("ix_vehicle_registration"), "vehicle", ["registration"], unique=False)
    op.create_table(
        "injector",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("label", sa.String(length=12), nullable=False),
        sa.Column("cylinder", sa.Integer(), nullable=False),
        sa.Column("bank", sa.String(length=12), nullable=False),
        sa.Column("feed", sa.String(length=24), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("listed", sa.Integer(), nullable=False),
        sa.Column("extras", mysql.LONGTEXT(), nullable=True),
        sa.CheckConstraint("label <> ''", name=op.f("ck_injector_labelled")),
        sa.CheckConstraint("cylinder BETWEEN 1 AND 16", name=op.f("ck_injector_cylinder")),
        sa.ForeignKeyConstraint(
            ["vehicle_id"],
            ["vehicle.id"],
            name=op.f("fk_injector_vehicle_vehicle_id"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_injector")),
        sa.UniqueConstraint("vehicle_id", "id", name=op.f("uq_injector_vehicle_id_id")),
        sa.UniqueConstraint("vehicle_id", "label", name=op.f("uq_injector_vehicle_id_label")),
        sa.UniqueConstraint("vehicle_id", "position", name=op.f("uq_injector_vehicle_id_position")),
    )
    op.create_table(
        "job",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("number", sa.String(length=24), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("opened_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("opened_typed", sa.String(length=40), nullable=False),
        sa.Column("closed_at", mysql.DATETIME(fsp=6), nullable=True),
        sa.Column("complaint", sa.String(length=500), nullable=False),
        sa.Column("codes", mysql.LONGTEXT(), nullable=False),
        sa.Column("distance_typed", sa.String(length=40), nullable=True),
        sa.Column("request_id", sa.String(length=36), nullable=True),
        sa.Column("extras", mysql.LONGTEXT(), nullable=True),
        sa.CheckConstraint("number <> ''", name=op.f("ck_job_numbered")),
        sa.ForeignKeyConstraint(
            ["vehicle_id"],
            ["vehicle.id"],
            name=op.f("fk_job_vehicle_vehicle_id"),
            ondelete="RESTRICT",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_job")),
        sa.UniqueConstraint("id", "vehicle_id", name=op.f("uq_job_id_vehicle_id")),
        sa.UniqueConstraint("number", name=op.f("uq_job_number")),
        sa.UniqueConstraint("request_id", name=op.f("uq_job_request_id")),
    )
    op.create_index("ix_job_closed_opened", "job", ["closed_at", "opened_at"], unique=False)
    op.create_table(
        "sheet",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(length=24), nullable=False),
        sa.Column("kind", sa.String(length=30), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("taken_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("taken_typed", sa.String(length=40), nullable=False),
        sa.Column("unit", sa.String(length=12), nullable=False),
        sa.Column("gauge_name", sa.String(length=60), nullable=False),
        sa.Column("gauge_step_typed", sa.String(length=40), nullable=False),
        sa.Column("gauge_step", mysql.DOUBLE(), nullable=False),
        sa.Column("rule_name", sa.String(length=30), nullable=False),
        sa.Column("rule_limits", mysql.LONGTEXT(), nullable=False),
        sa.Column("conditions", mysql.LONGTEXT(), nullable=False),
        sa.Column("request_id", sa.String(length=36), nullable=True),
        sa.Column("extras", mysql.LONGTEXT(), nullable=True),
        sa.CheckConstraint("kind IN ('pressure_drop')", name=op.f("ck_sheet_kind")),
        sa.CheckConstraint(
            "unit IN ('psi', 'kPa', 'bar', 'MPa', 'kgf/cm2')",
            name=op.f("ck_sheet_unit"),
        ),
        sa.CheckConstraint("gauge_step > 0", name=op.f("ck_sheet_step")),
        sa.CheckConstraint("version >= 1", name=op.f("ck_sheet_version")),
        sa.ForeignKeyConstraint(
            ["job_id", "vehicle_id"],
            ["job.id", "job.vehicle_id"],
            name=op.f("fk_sheet_job_job_id"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sheet")),
        sa.UniqueConstraint("id", "vehicle_id", name=op.f("uq_sheet_id_vehicle_id")),
        sa.UniqueConstraint("job_id", "key", name=op.f("uq_sheet_job_id_key")),
        sa.UniqueConstraint("request_id", name=op.f("uq_sheet_request_id")),
    )
    op.create_table(
        "reading",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("sheet_id", sa.Integer(), nullable=False),
        sa.Column("vehicle_id", sa.Integer(), nullable=False),
        sa.Column("injector_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("first_typed", sa.String(length=40), nullable=True),
        sa.Column("second_typed", sa.String(length=40), nullable=True),
        sa.Column("unit", sa.String(length=12), nullable=False),
        sa.Column("first_kpa", mysql.DOUBLE(), nullable=True),
        sa.Column("second_kpa", mysql.DOUBLE(), nullable=True),
        sa.Column("mark", sa.String(length=12), nullable=True),
        sa.Column("sound", sa.String(length=12), nullable=True),
        sa.Column("fires_at_typed", sa.String(length=40), nullable=True),
        sa.Column("note", sa.String(length=500), nullable=False),
        sa.Column("taken_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("live", mysql.TINYINT(), nullable=True),
        sa.Column("replaces", sa.String(length=36), nullable=True),
        sa.Column("sequence", sa.Integer(), nullable=False),
        sa.Column("extras", mysql.LONGTEXT(), nullable=True),
        sa.CheckConstraint(
            "(second_kpa IS NOT NULL AND first_kpa IS NOT NULL AND (mark IS NULL OR mark = 'read_late')) OR (second_kpa IS NULL AND mark IS NOT NULL AND mark IN ('none', 'not_read'))",
            name=op.f("ck_reading_figure_or_mark"),
        ),
        sa.CheckConstraint("sound IN ('clicks', 'buzzes', 'none')", name=op.f("ck_reading_sound")),
        sa.CheckConstraint(
            "(first_kpa IS NULL) = (first_typed IS NULL)",
            name=op.f("ck_reading_first_typed"),
        ),
        sa.CheckConstraint(
            "(second_kpa IS NULL) = (second_typed IS NULL)",
            name=op.f("ck_reading_second_typed"),
        ),
        sa.CheckConstraint("first_kpa >= 0 AND first_kpa <= 400000", name=op.f("ck_reading_first")),
        sa.CheckConstraint("live IS NULL OR live = 1", name=op.f("ck_reading_live")),
        sa.CheckConstraint("number BETWEEN 1 AND 99", name=op.f("ck_reading_number")),
        sa.CheckConstraint(
            "second_kpa >= 0 AND second_kpa <= 400000", name=op.f("ck_reading_second")
        ),
        sa.ForeignKeyConstraint(
            ["sheet_id", "vehicle_id"],
            ["sheet.id", "sheet.vehicle_id"],
            name=op.f("fk_reading_sheet_sheet_id"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["vehicle_id", "injector_id"],
            ["injector.vehicle_id", "injector.id"],
            name=op.f("fk_reading_injector_vehicle_id"),
            ondelete="RESTRICT",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_reading")),
        sa.UniqueConstraint(
            "sheet_id",
            "injector_id",
            "number",
            "live",
            name=op.f("uq_reading_sheet_id_injector_id_number_live"),
        ),
    )


def downgrade() -> None:
    op.drop_table("reading")
    op.drop_table("sheet")
    op.drop_index("ix_job_closed_opened", table_name="job")
    op.drop_table("job")
    op.drop_table("injector")
    op.drop_index(op.f("ix_vehicle_registration"), table_name="vehicle")
    op.drop_index(op.f("ix_vehicle_name"), table_name="vehicle")
    op.drop_table("vehicle")
    op.drop_table("gauge")
