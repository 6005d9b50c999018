"""The bobs of a job's line on Today: who hangs true and who leans, on whatever sheet compares them."""

from typing import Final

from plumb.core import correction, drop, opening, returns, running
from plumb.core.evidence import Result
from plumb.core.finding import Finding
from plumb.core.words_sheets import state_words
from plumb.service.job_views import BobView

HUNG: Final = (
    opening.KIND, drop.KIND, running.RUNNING, running.FLOW_BENCH, returns.KIND, correction.KIND,
)  # fmt: skip
"""Sheets whose bobs stand for a job, the most telling first."""
_CORRIDOR: Final = 10.0
"""Per cent of the small chart that the corridor of a sheet without flow takes to each side."""


def bobs_of(result: Result) -> list[BobView]:
    """A bob for each injector that was read and compared."""
    made = []
    for finding in result.findings:
        at = _hangs(finding, result)
        if at is not None:
            said = f"{at:.0f} %" if isinstance(result, drop.DropResult) else ""
            made.append(
                BobView(
                    injector=finding.injector, state=finding.state.value,
                    deviation_percent=round(at, 2), said=said or state_words(finding, result),
                )
            )  # fmt: skip
    return made


def _hangs(finding: Finding, result: Result) -> float | None:
    """Per cent of the reference; elsewhere tenths of the sheet's own corridor."""
    if isinstance(result, drop.DropResult):
        return None if finding.deviation is None else 100.0 * finding.deviation
    if isinstance(result, opening.OpeningResult):
        window = result.sheet.window
        if finding.value is None or window.low is None or window.high is None:
            return None
        half = (window.high - window.low) / 2.0
        return _CORRIDOR * (finding.value - window.low - half) / half
    if finding.deviation is None or finding.tolerance is None:
        return None
    if finding.tolerance <= 0.0:
        # Even the reference lies beyond a maker's limit: from the corridor's edge on, by the share.
        return _CORRIDOR * (1.0 + finding.deviation - finding.tolerance)
    return _CORRIDOR * finding.deviation / finding.tolerance
