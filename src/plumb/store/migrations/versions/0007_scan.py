"""The scan: trims and misfire counts; causes that were confirmed by a repair.

Revision ID: 0007
"""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"

_KINDS = (
    "'walk_round', 'scan', 'supply_pressure', 'hold', 'command', 'coil_resistance', "
    "'coil_voltage_drop', 'pressure_drop', 'injector_balance_running', 'tip_leak', 'flow_bench', "
    "'correction', 'cranking_balance', 'return_volume', 'rail_pressure', 'opening_pressure'"
)


def upgrade() -> None:
    for name, rule in (
        ("kind", f"kind IN ({_KINDS})"),
        (
            "step",
            "gauge_step > 0 OR (gauge_step = 0 AND (unit = '' OR kind IN ('scan', 'rail_pressure')))",
        ),
    ):
        op.drop_constraint(op.f(f"ck_sheet_{name}"), "sheet", type_="check")
        op.create_check_constraint(op.f(f"ck_sheet_{name}"), "sheet", rule)
    op.create_table(
        "confirmed_cause",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("fault", sa.String(30), nullable=False),
        sa.Column("place", sa.String(24), nullable=False, server_default=""),
        sa.UniqueConstraint(
            "job_id", "fault", "place", name=op.f("uq_confirmed_cause_job_id_fault_place")
        ),
        sa.ForeignKeyConstraint(
            ["job_id"], ["job.id"], name=op.f("fk_confirmed_cause_job_job_id"), ondelete="CASCADE"
        ),
        sa.CheckConstraint("fault <> ''", name=op.f("ck_confirmed_cause_named")),
    )
    op.create_table(
        "preference",
        sa.Column("name", sa.String(40), primary_key=True),
        sa.Column("value", sa.String(200), nullable=False),
    )


def downgrade() -> None:
    message = "a scan has no place in the earlier tables; restore a backup"
    raise RuntimeError(message)
