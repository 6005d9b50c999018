"""Facts of the tips."""

from collections.abc import Iterator
from typing import Final

from plumb.core.compare.seen import SeenResult, of_seen
from plumb.core.measure.fact import Fact

MAKES: Final = {
    "tip_dry": "the tip stays dry",
    "tip_weeps": "the tip weeps",
    "tip_drips": "the tip drips",
    "tip_pours": "the tip pours",
    "all_tips_dry": "every tip was looked at and stays dry",
    "tips_looked_at": "tips were looked at",
}


def facts(key: str, result: SeenResult) -> Iterator[Fact]:
    """A fact for each word, and that they were looked at; that all are dry, where all are."""
    yield from of_seen("tip", "", key, result)
    yield Fact(code="tips_looked_at", injector="", sheet=key)
    if result.passed:
        yield Fact(code="all_tips_dry", injector="", sheet=key)
