"""What the command says."""

from typing import Final

from plumb.core.compare.seen import SeenResult, odd_ones, said, unremarkable
from plumb.core.measure.text import Span

_VERBS: Final = {"dark": "is dark", "steady": "stays on", "weak": "is weak"}


def headline(result: SeenResult, _unit: str) -> tuple[Span, ...]:
    """Whose lamp does not blink as it should."""
    odd = odd_ones(result, "blinks")
    if odd:
        return (Span(text=f"Command {said(odd, _VERBS)}.", tone="open"),)
    return unremarkable(result, "All blink.")
