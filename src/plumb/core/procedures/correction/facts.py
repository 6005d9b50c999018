"""Facts of the corrections."""

from collections.abc import Iterator
from typing import Final

from plumb.core.compare.renewed import WORKED_ON, of_work
from plumb.core.compare.said import facts_of_states
from plumb.core.measure.fact import Fact
from plumb.core.procedures.correction.analysis import CorrectionResult

MAKES: Final = {
    "correction_high": "asks for more fuel than its neighbours",
    "correction_low": "asks for less fuel than its neighbours",
    "correction_in_plumb": "asks for what those that agree ask for",
    "correction_unsettled": "not settled",
    "correction_split": "the set falls into halves",
    **WORKED_ON,
}
_SAID: Final = {
    "high": "asks for more fuel than its neighbours",
    "low": "asks for less fuel than its neighbours",
    "unsettled": "its correction is not settled",
}


def facts(key: str, result: CorrectionResult) -> Iterator[Fact]:
    """A fact for each state, and for each that was read with another part in."""
    yield from facts_of_states("correction", _SAID, key, result.findings)
    for finding in result.findings:
        yield from of_work(key, finding, "")
