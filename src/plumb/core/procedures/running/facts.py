"""Facts of the running balance."""

from collections.abc import Iterator
from typing import Final

from plumb.core.compare.drops.facts import makes, of_drops
from plumb.core.compare.drops.sheet import DropResult
from plumb.core.measure.fact import Fact

MAKES: Final = {**makes("running"), "running_outside": "read outside its entry conditions"}


def facts(key: str, result: DropResult) -> Iterator[Fact]:
    """How each injector gives, and every entry condition that does not hold."""
    yield from of_drops("running", "on the running balance", key, result)
    for reason in result.sheet.outside:
        yield Fact(code="running_outside", injector="", sheet=key, text=reason)
