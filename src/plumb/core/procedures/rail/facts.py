"""Facts of the rail pressure."""

from collections.abc import Iterator
from typing import Final

from plumb.core.measure.fact import Fact
from plumb.core.procedures.rail.analysis import NAMES, RailResult

_SAID: Final = {
    "good": "the rail follows what is wanted",
    "surges": "the rail pressure surges",
    "low": "the rail stays below what is wanted",
    "none": "next to nothing builds up in the rail",
    "high": "the rail stays above what is wanted",
}
MAKES: Final = {f"rail_{state}": said for state, said in _SAID.items()}


def facts(key: str, result: RailResult) -> Iterator[Fact]:
    """How the rail follows what is wanted; nothing from a trace that is too short."""
    state = "none" if result.next_to_nothing else result.state
    if state not in _SAID:
        return
    text = _SAID[state]
    if result.off_in:
        text += f", {NAMES[result.off_in][0].lower()}{NAMES[result.off_in][1:]}"
    if result.state == "surges" and result.by_eye:
        text += ", as somebody saw it"
    if result.state == "good" and result.by_figures:
        text += ", by figures that were read"
    yield Fact(code=f"rail_{state}", injector="", sheet=key, text=text)
