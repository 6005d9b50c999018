"""Gauges with an address, burst boxes, and amperes for the clamp on a starter's cable.

Revision ID: 0011
"""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"

_UNITS = "'psi', 'kPa', 'bar', 'MPa', 'kgf/cm2', 'ohm', 'V', 'A', 'ml', 'mm3', 'percent', 'ms'"


def upgrade() -> None:
    for table, name, rule in (
        ("gauge", "unit", f"unit IN ({_UNITS})"),
        ("sheet", "unit", f"unit IN ('', {_UNITS})"),
        ("shelf", "what", "what IN ('window', 'rule', 'layout', 'price', 'box')"),
    ):
        op.drop_constraint(op.f(f"ck_{table}_{name}"), table, type_="check")
        op.create_check_constraint(op.f(f"ck_{table}_{name}"), table, rule)
    for name, length in (("address", 120), ("command", 60)):
        op.add_column(
            "gauge", sa.Column(name, sa.String(length=length), nullable=False, server_default="")
        )


def downgrade() -> None:
    for name in ("command", "address"):
        op.drop_column("gauge", name)
