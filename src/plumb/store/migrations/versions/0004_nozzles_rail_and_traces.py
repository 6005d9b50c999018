"""nozzles, rail pressure and traces

Revision ID: 0004
Revises: 0003
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGBLOB, LONGTEXT

revision = "0004"
down_revision = "0003"

_UNITS = "'psi', 'kPa', 'bar', 'MPa', 'kgf/cm2', 'ohm', 'V', 'ml', 'mm3', 'percent', 'ms'"
_KINDS = (
    "'walk_round', 'supply_pressure', 'hold', 'command', 'coil_resistance', 'coil_voltage_drop', "
    "'pressure_drop', 'injector_balance_running', 'tip_leak', 'flow_bench', 'correction', "
    "'cranking_balance', 'return_volume', 'rail_pressure', 'opening_pressure'"
)
_SOUNDS = "'clicks', 'buzzes', 'none', 'chatters', 'weak', 'silent'"


def _check(table: str, name: str, rule: str, *, new: bool = False) -> None:
    full = op.f(f"ck_{table}_{name}")
    if not new:
        op.drop_constraint(full, table, type_="check")
    op.create_check_constraint(full, table, rule)


def upgrade() -> None:
    _check("sheet", "kind", f"kind IN ({_KINDS})")
    _check(
        "sheet", "step",
        "gauge_step > 0 OR (gauge_step = 0 AND (unit = '' OR kind = 'rail_pressure'))",
    )  # fmt: skip
    op.add_column("reading", sa.Column("seat", sa.String(12), nullable=True))
    op.add_column("reading", sa.Column("shim_typed", sa.String(40), nullable=True))
    _check("reading", "sound", f"sound IN ({_SOUNDS})")
    _check("reading", "seat", "seat IN ('dry', 'damp', 'wet')", new=True)
    op.create_table(
        "trace",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("sheet_id", sa.Integer(), nullable=False),
        sa.Column("request_id", sa.String(36), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("samples", sa.Integer(), nullable=False),
        sa.Column("taken_at", sa.dialects.mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("body", LONGTEXT(), nullable=False),
        sa.ForeignKeyConstraint(
            ["sheet_id"], ["sheet.id"], name=op.f("fk_trace_sheet_sheet_id"), ondelete="CASCADE"
        ),
        sa.UniqueConstraint("request_id", name=op.f("uq_trace_request_id")),
        sa.CheckConstraint("samples >= 0", name=op.f("ck_trace_samples")),
    )
    op.create_table(
        "trace_part",
        sa.Column("trace_id", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column("number", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column("data", LONGBLOB(), nullable=False),
        sa.ForeignKeyConstraint(
            ["trace_id"],
            ["trace.id"],
            name=op.f("fk_trace_part_trace_trace_id"),
            ondelete="CASCADE",
        ),
    )


def downgrade() -> None:
    message = "the sheets of this version have no place in the earlier tables; restore a backup"
    raise RuntimeError(message)
