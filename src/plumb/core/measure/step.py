"""A next step: what to measure now, and why, as codes and figures."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class NextStep:
    """Which injectors to measure, how many passes each, about how long, and the reason's code.

    ``reason`` is a code of :data:`plumb.core.weigh.words_next.REASONS`; ``isolation`` the step to
    try on the hold sheet and ``tried`` its title; ``doubt`` what would be cleared, a code of the
    suspicions or a sentence.
    """

    kind: str
    injectors: tuple[str, ...]
    passes: int
    minutes: float
    reason: str
    isolation: str = ""
    tried: str = ""
    doubt: str = ""
