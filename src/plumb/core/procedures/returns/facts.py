"""Facts of the return volumes."""

from collections.abc import Iterator
from typing import Final

from plumb.core.compare.said import facts_of_states
from plumb.core.measure.fact import Fact
from plumb.core.procedures.returns.analysis import ReturnResult

MAKES: Final = {
    "returns_high": "returns much more than those that return least",
    "returns_none": "returns nothing while others do",
    "returns_in_plumb": "returns what the low group returns",
    "returns_unsettled": "not settled",
}
_SAID: Final = {
    "high": "returns too much",
    "none": "returns nothing",
    "unsettled": "what it returns is not settled",
}


def facts(key: str, result: ReturnResult) -> Iterator[Fact]:
    """A fact for each state."""
    yield from facts_of_states("returns", _SAID, key, result.findings)
