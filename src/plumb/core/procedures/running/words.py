"""What the running balance says where the drop sheet says it in another way."""

from plumb.core.compare.drops import words
from plumb.core.compare.drops.sheet import DropResult
from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding


def under(finding: Finding, result: DropResult, unit: str) -> str:
    """The small line; an injector that gives less here may do so for many a reason."""
    return "" if finding.state is State.LOW else words.under(finding, result, unit)
