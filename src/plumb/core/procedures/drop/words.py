"""What the drop sheet says where the other sheets that compare say it in another way."""

from plumb.core.compare.drops import words
from plumb.core.compare.drops.sheet import DropResult
from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding


def state(finding: Finding, result: DropResult) -> str:
    """The state of one row."""
    if finding.state is State.NOT_JUDGED and finding.passes:
        return "not measured"
    return words.state(finding, result)
