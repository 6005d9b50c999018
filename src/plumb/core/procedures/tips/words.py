"""What the tips say."""

from plumb.core.compare.seen import SeenResult, odd_ones, said, unremarkable
from plumb.core.measure.text import Span


def headline(result: SeenResult, _unit: str) -> tuple[Span, ...]:
    """Whose tip is wet, and how."""
    odd = odd_ones(result, "dry")
    if odd:
        return (Span(text=f"Injector {said(odd, {})}.", tone="high"),)
    return unremarkable(result, "All tips stay dry.")
