"""Facts of the cranking balance."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Final

from plumb.core.compare.said import facts_of_states
from plumb.core.measure.decision import State
from plumb.core.measure.fact import Fact
from plumb.core.measure.finding import Finding
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


_OF_ALL: Final = {
    "low": "the hump of one of its cylinders is low",
    "unsettled": "the hump of one of its cylinders is not settled",
}


def _worst(result: CrankingResult) -> Finding:
    """The finding that speaks for an injector that feeds all cylinders: the lowest hump's."""
    rank = (State.LOW, State.UNSETTLED, State.NOT_JUDGED)
    return min(result.findings, key=lambda f: (*rank, f.state).index(f.state))


def facts(key: str, result: CrankingResult) -> Iterator[Fact]:
    """A fact for each state; and one for the engine where a low hump is nobody's yet."""
    own = [f for f in result.findings if f.injector]
    yield from facts_of_states("cranking", _SAID, key, own)
    by_name = {f.injector: f for f in own}
    partners = [replace(by_name[name], injector=other) for name, other in result.sheet.beside]
    yield from facts_of_states("cranking", _SAID, key, partners)
    for label in result.sheet.shared:
        yield from facts_of_states(
            "cranking", _OF_ALL, key, [replace(_worst(result), injector=label)]
        )
    if result.uneven:
        yield Fact(
            code="cranking_uneven", injector="", sheet=key,
            text="one hump of starter current is low in every cycle",
        )  # fmt: skip
