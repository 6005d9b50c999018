"""What was noted on the walk-round, line by line."""

from plumb.core.measure.lines import Line, Working
from plumb.core.measure.spoken import COMPLAINTS
from plumb.core.procedures.walk.analysis import WalkResult


def working(result: WalkResult, _unit: str) -> Working:
    """Only what was noted."""
    s = result.sheet
    lines = [Line(label="complaint", figure=", ".join(COMPLAINTS[c] for c in s.complaint))]
    lines += [
        Line(label="vacuum hose", figure=s.hose),
        Line(label="connectors", figure=s.connectors),
    ]
    return Working(shared=tuple(x for x in lines if x.figure))
