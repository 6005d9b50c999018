"""What a screen needs of each kind of sheet, one file each: its conditions, its entry, its rows."""

from typing import Final

from plumb.service.kinds.coils import COIL_RESISTANCE, COIL_VOLTAGE
from plumb.service.kinds.command import COMMAND
from plumb.service.kinds.correction import CORRECTION
from plumb.service.kinds.cranking import CRANKING
from plumb.service.kinds.drop import DROP
from plumb.service.kinds.flow_bench import FLOW_BENCH
from plumb.service.kinds.hold import HOLD
from plumb.service.kinds.kind import AnyScreenKind
from plumb.service.kinds.opening import OPENING
from plumb.service.kinds.rail import RAIL
from plumb.service.kinds.returns import RETURNS
from plumb.service.kinds.running import RUNNING
from plumb.service.kinds.scan import SCAN
from plumb.service.kinds.supply import SUPPLY
from plumb.service.kinds.tips import TIPS
from plumb.service.kinds.walk import WALK

__all__ = ["SCREEN_KINDS", "AnyScreenKind"]

SCREEN_KINDS: Final[dict[str, AnyScreenKind]] = {
    kind.code: kind
    for kind in (
        WALK, SCAN, SUPPLY, HOLD, COMMAND, COIL_RESISTANCE, COIL_VOLTAGE, DROP, RUNNING, TIPS, FLOW_BENCH, CORRECTION, CRANKING, RETURNS, RAIL, OPENING
    )
}  # fmt: skip
"""Every kind by its code, in working order."""
