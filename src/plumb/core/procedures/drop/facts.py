"""Facts of the drops."""

from collections.abc import Iterator
from typing import Final

from plumb.core.compare.drops.facts import makes, of_drops
from plumb.core.compare.drops.sheet import DropResult
from plumb.core.measure.fact import Fact

MAKES: Final = {**makes("drop"), "drop_half": "one of the halves that a split set falls into"}


def facts(key: str, result: DropResult) -> Iterator[Fact]:
    """How each injector gives, what was noted, how the set stands; the halves of a split one."""
    yield from of_drops("drop", "on the drop sheet", key, result)
    if result.split:
        for camp, labels in enumerate((result.flow.agreeing, *result.flow.against)):
            for label in labels:
                yield Fact(code="drop_half", injector=label, sheet=key, camp=camp)
