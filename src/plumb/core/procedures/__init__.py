"""The kinds of sheet, in working order; each in a folder of its own, none knows another.

>>> [kind.title for kind in route("mechanical_diesel")]
['Walk-round', 'Cranking balance', 'Return volumes', 'Opening pressure']
"""

from typing import Final

from plumb.core.procedures.coils.card import COIL_RESISTANCE, COIL_VOLTAGE
from plumb.core.procedures.command.card import COMMAND
from plumb.core.procedures.correction.card import CORRECTION
from plumb.core.procedures.cranking.card import CRANKING
from plumb.core.procedures.drop.card import DROP
from plumb.core.procedures.flow_bench.card import FLOW_BENCH
from plumb.core.procedures.hold.card import HOLD
from plumb.core.procedures.kind import PETROL, AnyKind, Result, Sheet
from plumb.core.procedures.opening.card import OPENING
from plumb.core.procedures.rail.card import RAIL
from plumb.core.procedures.returns.card import RETURNS
from plumb.core.procedures.running.card import RUNNING
from plumb.core.procedures.scan.card import SCAN
from plumb.core.procedures.supply.card import SUPPLY
from plumb.core.procedures.tips.card import TIPS
from plumb.core.procedures.walk.card import WALK

__all__ = [
    "BY_CODE", "COIL_RESISTANCE", "COIL_VOLTAGE", "COMMAND", "CORRECTION", "CRANKING", "DROP",
    "FLOW_BENCH",
    "FUEL_SYSTEMS", "HOLD", "KINDS", "OPENING", "RAIL", "RETURNS", "RUNNING", "SCAN", "SUPPLY", "TIPS", "USUAL_FIRST",
    "WALK",
    "AnyKind", "Result", "Sheet", "kind_of", "route",
]  # fmt: skip

KINDS: Final[tuple[AnyKind, ...]] = (
    WALK, SCAN, SUPPLY, HOLD, COMMAND, COIL_RESISTANCE, COIL_VOLTAGE, DROP, RUNNING, TIPS, FLOW_BENCH,
    CORRECTION, CRANKING, RETURNS, RAIL, OPENING,
)  # fmt: skip
"""Every kind of sheet."""

FUEL_SYSTEMS: Final = (*PETROL, "common_rail", "mechanical_diesel")
"""The fuel systems that have a route."""

USUAL_FIRST: Final = DROP.code
"""The sheet that a job begins with where nobody says another."""

BY_CODE: Final[dict[str, AnyKind]] = {kind.code: kind for kind in KINDS}
"""The kinds by their code in files."""


def kind_of(sheet: Sheet | Result) -> AnyKind:
    """The kind of a sheet or of a result."""
    return BY_CODE[sheet.kind]


def route(fuel_system: str) -> tuple[AnyKind, ...]:
    """The kinds of a fuel system in working order: cheap and outside first, removal last."""
    mine = (kind for kind in KINDS if fuel_system in kind.places)
    return tuple(sorted(mine, key=lambda kind: kind.places[fuel_system].order))
