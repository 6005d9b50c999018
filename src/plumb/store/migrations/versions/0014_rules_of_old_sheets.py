"""Coil sheets of 0.2.0 had no rule; they go by the one that has been usual for them since.

Revision ID: 0014
"""

from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    op.execute(
        "UPDATE sheet SET rule_name = 'flow_index', version = version + 1 WHERE rule_name = '' "
        "AND kind IN ('coil_resistance', 'coil_voltage_drop', 'pressure_drop', "
        "'injector_balance_running', 'flow_bench')"
    )


def downgrade() -> None:
    """Which of them had none is not known any more, and need not be."""
