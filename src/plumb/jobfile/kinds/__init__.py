"""The kinds of sheet in the open formats, one file each."""

from typing import Final

from plumb.jobfile.kinds.coils import COIL_RESISTANCE, COIL_VOLTAGE
from plumb.jobfile.kinds.command import COMMAND
from plumb.jobfile.kinds.correction import CORRECTION
from plumb.jobfile.kinds.cranking import CRANKING
from plumb.jobfile.kinds.drop import DROP
from plumb.jobfile.kinds.flow_bench import FLOW_BENCH
from plumb.jobfile.kinds.hold import HOLD
from plumb.jobfile.kinds.kind import AnyFileKind, Engine
from plumb.jobfile.kinds.opening import OPENING
from plumb.jobfile.kinds.rail import RAIL
from plumb.jobfile.kinds.returns import RETURNS
from plumb.jobfile.kinds.running import RUNNING
from plumb.jobfile.kinds.scan import SCAN
from plumb.jobfile.kinds.supply import SUPPLY
from plumb.jobfile.kinds.tips import TIPS
from plumb.jobfile.kinds.walk import WALK

__all__ = ["FILE_KINDS", "AnyFileKind", "Engine"]

FILE_KINDS: Final[dict[str, AnyFileKind]] = {
    kind.code: kind
    for kind in (
        WALK, SCAN, SUPPLY, HOLD, COMMAND, COIL_RESISTANCE, COIL_VOLTAGE, DROP, RUNNING, TIPS, FLOW_BENCH, CORRECTION, CRANKING, RETURNS, RAIL, OPENING
    )
}  # fmt: skip
"""Every kind by its code, in working order."""
