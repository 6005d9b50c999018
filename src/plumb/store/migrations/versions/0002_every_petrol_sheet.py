"""every petrol sheet, the shelf, procedures set aside

Revision ID: 0002
Revises: 0001
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0002"
down_revision = "0001"

_UNITS = "'psi', 'kPa', 'bar', 'MPa', 'kgf/cm2', 'ohm', 'V', 'ml'"
_KINDS = (
    "'walk_round', 'supply_pressure', 'hold', 'command', 'coil_resistance', 'coil_voltage_drop', "
    "'pressure_drop', 'injector_balance_running', 'tip_leak', 'flow_bench'"
)
_FIGURE = (
    "(shape = 'burst' AND second_kpa IS NOT NULL AND first_kpa IS NOT NULL"
    " AND (mark IS NULL OR mark = 'read_late'))"
    " OR (shape = 'burst' AND second_kpa IS NULL"
    " AND mark IS NOT NULL AND mark IN ('none', 'not_read'))"
    " OR (shape IN ('value', 'point') AND value IS NOT NULL"
    " AND (mark IS NULL OR mark = 'read_late'))"
    " OR (shape = 'value' AND value IS NULL"
    " AND mark IS NOT NULL AND mark IN ('none', 'not_read', 'over'))"
    " OR (shape = 'word' AND word IS NOT NULL AND mark IS NULL)"
)


def _check(table: str, name: str, rule: str, *, there: bool = True) -> None:
    full = op.f(f"ck_{table}_{name}")
    if there:
        op.drop_constraint(full, table, type_="check")
    op.create_check_constraint(full, table, rule)


def upgrade() -> None:
    op.create_table(
        "shelf",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("what", sa.String(length=12), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("kind", sa.String(length=30), nullable=False),
        sa.Column("unit", sa.String(length=12), nullable=False),
        sa.Column("body", mysql.LONGTEXT(), nullable=False),
        sa.CheckConstraint("what IN ('window', 'rule', 'layout')", name=op.f("ck_shelf_what")),
        sa.CheckConstraint("name <> ''", name=op.f("ck_shelf_named")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_shelf")),
        sa.UniqueConstraint("what", "name", name=op.f("uq_shelf_what_name")),
    )
    op.add_column("gauge", sa.Column("extras", mysql.LONGTEXT(), nullable=True))
    _check("gauge", "unit", f"unit IN ({_UNITS})")
    op.add_column("job", sa.Column("set_aside", mysql.LONGTEXT(), nullable=True))
    _check("sheet", "kind", f"kind IN ({_KINDS})")
    _check("sheet", "unit", f"unit IN ('', {_UNITS})")
    _check("sheet", "step", "gauge_step > 0 OR (gauge_step = 0 AND unit = '')")
    op.alter_column("reading", "injector_id", existing_type=sa.Integer(), nullable=True)
    for column in (
        sa.Column("slot", sa.String(length=40), nullable=True),
        sa.Column("shape", sa.String(length=8), nullable=False, server_default="burst"),
        sa.Column("value_typed", sa.String(length=40), nullable=True),
        sa.Column("value", mysql.DOUBLE(), nullable=True),
        sa.Column("at_typed", sa.String(length=40), nullable=True),
        sa.Column("at_s", mysql.DOUBLE(), nullable=True),
        sa.Column("word", sa.String(length=16), nullable=True),
        sa.Column("spray", sa.String(length=16), nullable=True),
    ):
        op.add_column("reading", column)
    op.alter_column(
        "reading", "shape", existing_type=sa.String(length=8), server_default=None,
        existing_nullable=False,
    )  # fmt: skip
    _check("reading", "figure_or_mark", _FIGURE)
    _check("reading", "one_place", "(injector_id IS NULL) <> (slot IS NULL)", there=False)
    _check("reading", "point_has_a_time", "shape <> 'point' OR at_s IS NOT NULL", there=False)
    _check("reading", "value", "value >= 0", there=False)
    _check("reading", "at", "at_s >= 0", there=False)
    _check("reading", "value_typed", "(value IS NULL) = (value_typed IS NULL)", there=False)
    op.create_unique_constraint(
        op.f("uq_reading_sheet_id_slot_number_live"),
        "reading",
        ["sheet_id", "slot", "number", "live"],
    )


def downgrade() -> None:
    message = "the sheets of this version have no place in the earlier tables; restore a backup"
    raise RuntimeError(message)
