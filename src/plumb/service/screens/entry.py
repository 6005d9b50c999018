"""How readings of a stored sheet are typed, as data for the page."""

from collections.abc import Iterable

from plumb.core.procedures import BY_CODE
from plumb.service.views.sheet import EntryView, OptionView


def _options(words: Iterable[str]) -> list[OptionView]:
    return [OptionView(code=w, label=w) for w in words]


def entry_view(kind: str, units: tuple[str, str] = ("", ""), strokes: int = 0) -> EntryView:
    """How readings of a kind are typed; ``units`` of its two figures, strokes asked of each row."""
    entry = BY_CODE[kind].entry
    stroke = entry.shape == "stroke"
    return EntryView(
        shape=entry.shape,
        figures=list(entry.figures),
        units=[units[1] if name == "shims" else units[0] for name in entry.figures],
        signed=entry.signed,
        once=entry.once,
        marks=sorted(entry.marks),
        sounds=_options(entry.sounds) if stroke else [],
        seats=_options(entry.seats),
        strokes=strokes if stroke else 0,
        words=[OptionView(code=w, label=w, key=key) for w, key in entry.words],
        sprays=_options(entry.sprays),
    )
