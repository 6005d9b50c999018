"""A next step: what to measure now, and why, as codes and figures."""

from dataclasses import dataclass
from typing import Final

REPAIR: Final = "repair"
"""The kind of a step that measures nothing: something is put right first."""
ASK_AFTER: Final = "ask_after"
"""The kind, and reason, of a step that measures nothing: the complaint is asked for again."""
PUT_RIGHT: Final = "put_right"
"""The kind, and reason, of a step that measures nothing: what a person found, ``doubt``, is put right."""
AFTER_FIX: Final = "after_fix"
"""The reason of a sheet that is taken again after the repair; ``doubt`` is the sheet before."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NextStep:
    """Which injectors to measure, how many passes each, about how long, and the reason's code.

    ``reason`` is a code of :data:`plumb.core.weigh.words_next.REASONS`; ``isolation`` the step to
    try on the hold sheet and ``tried`` its title; ``doubt`` what would be cleared, a code of the
    suspicions or a sentence.  A step of the kind ``repair`` puts a ``cause`` right; ``moves`` are the
    faults that it would tell most of, as (code, place, share).
    """

    kind: str
    injectors: tuple[str, ...]
    passes: int
    minutes: float
    reason: str
    isolation: str = ""
    tried: str = ""
    doubt: str = ""
    cause: str = ""
    moves: tuple[tuple[str, str, float], ...] = ()

    @property
    def repairs(self) -> bool:
        """Whether something is to be put right before more can be learnt."""
        return self.kind == REPAIR

    @property
    def measures(self) -> bool:
        """Whether a sheet is filled in."""
        return self.kind not in {REPAIR, ASK_AFTER, PUT_RIGHT}
