"""first diesel sheets: corrections, cranking balance, return volumes

Revision ID: 0003
Revises: 0002
"""

from alembic import op

revision = "0003"
down_revision = "0002"

_UNITS = "'psi', 'kPa', 'bar', 'MPa', 'kgf/cm2', 'ohm', 'V', 'ml', 'mm3', 'percent', 'ms'"
_KINDS = (
    "'walk_round', 'supply_pressure', 'hold', 'command', 'coil_resistance', 'coil_voltage_drop', "
    "'pressure_drop', 'injector_balance_running', 'tip_leak', 'flow_bench', 'correction', "
    "'cranking_balance', 'return_volume'"
)


def _check(table: str, name: str, rule: str) -> None:
    full = op.f(f"ck_{table}_{name}")
    op.drop_constraint(full, table, type_="check")
    op.create_check_constraint(full, table, rule)


def upgrade() -> None:
    _check("gauge", "unit", f"unit IN ({_UNITS})")
    _check("sheet", "kind", f"kind IN ({_KINDS})")
    _check("sheet", "unit", f"unit IN ('', {_UNITS})")
    _check("reading", "value", "value >= -1000")


def downgrade() -> None:
    message = "the sheets of this version have no place in the earlier tables; restore a backup"
    raise RuntimeError(message)
