"""Why an injector stays open, whatever is read.

>>> Doubt("too_coarse").name
'TOO_COARSE'
"""

from enum import StrEnum

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding


class Doubt(StrEnum):
    """Why no number of passes would settle an injector."""

    RAN_EMPTY = "ran_empty"
    TOO_COARSE = "too_coarse"
    ON_THE_EDGE = "on_the_edge"
    GRADED = "graded"


def doubt_of(finding: Finding) -> Doubt | None:
    """Why an injector stays open; None where it is settled, or more passes settle it."""
    if finding.bound and finding.state in {State.UNSETTLED, State.NOT_JUDGED}:
        return Doubt.RAN_EMPTY
    if finding.state is not State.UNSETTLED or finding.passes_to_settle is not None:
        return None
    if finding.graded:
        return Doubt.GRADED
    # Twice u beyond half of the band: no mean would be told from the limit.
    coarse = 2.0 * (finding.u or 0.0) > 0.5 * (finding.tolerance or 0.0)
    return Doubt.TOO_COARSE if coarse else Doubt.ON_THE_EDGE
