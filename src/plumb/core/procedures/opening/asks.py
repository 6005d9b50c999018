"""What a begun sheet of nozzles still asks for."""

from collections.abc import Set as AbstractSet
from dataclasses import replace
from typing import Final

from plumb.core.measure.step import NextStep
from plumb.core.procedures.kind import AnyKind, unread
from plumb.core.procedures.opening.analysis import OpeningResult
from plumb.core.procedures.opening.words import unseen_words

STROKE_MINUTES: Final = 2.0
"""A stroke on the pump, with its look at seat and spray; common practice, no source."""

_STROKES: Final = 3
"""What a nozzle is stroked at first; a silent one is stroked once more; common practice, no source."""
LOOK_MINUTES: Final = 1.0
"""A slow stroke with the tip in sight, and the seat held for ten seconds; common practice."""


def asks(kind: AnyKind, result: OpeningResult, told: AbstractSet[str]) -> NextStep | None:
    """Nozzles not stroked yet; the first that a few more strokes would settle; what nobody looked at."""
    missing = unread(kind, result, told)
    if missing and not set(missing.injectors) <= set(result.sheet.read_before):
        return missing
    for f in result.findings:
        if f.passes_to_settle and not result.nozzle(f.injector).fault:
            step = kind.step((f.injector,), "stroke_again", passes=f.passes_to_settle)
            return replace(step, minutes=STROKE_MINUTES * f.passes_to_settle)
    quiet = tuple(
        f.injector
        for f, n in zip(result.findings, result.nozzles, strict=True)
        if f.good and n.sound == "silent" and f.passes <= _STROKES
    )
    if quiet:
        step = kind.step(quiet, "stroke_again", passes=1)
        return replace(step, minutes=STROKE_MINUTES * len(quiet))
    unseen = tuple(n.injector for n in result.nozzles if n.settings and n.unseen and not n.fault)
    if not unseen:
        return None
    step = kind.step(unseen, "look", doubt=unseen_words(result, unseen))
    return replace(step, minutes=LOOK_MINUTES * len(unseen))
