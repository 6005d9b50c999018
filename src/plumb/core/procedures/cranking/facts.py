"""Facts of the cranking balance."""

from collections.abc import Iterator
from typing import Final

from plumb.core.compare.said import facts_of_states
from plumb.core.measure.fact import Fact
from plumb.core.procedures.cranking.analysis import CrankingResult

MAKES: Final = {
    "cranking_low": "the hump of starter current is low",
    "cranking_in_plumb": "the hump stands as high as the others",
    "cranking_unsettled": "not settled",
    "cranking_uneven": "one hump is low in every cycle, and nobody knows whose",
}
_SAID: Final = {
    "low": "its hump of starter current is low",
    "unsettled": "its hump of starter current is not settled",
}


def facts(key: str, result: CrankingResult) -> Iterator[Fact]:
    """A fact for each state; and one for the engine where a low hump is nobody's yet."""
    yield from facts_of_states("cranking", _SAID, key, result.findings)
    if result.uneven:
        yield Fact(
            code="cranking_uneven", injector="", sheet=key,
            text="one hump of starter current is low in every cycle",
        )  # fmt: skip
