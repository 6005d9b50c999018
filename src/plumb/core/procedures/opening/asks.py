"""What a begun sheet of nozzles still asks for."""

from collections.abc import Set as AbstractSet
from dataclasses import replace
from typing import Final

from plumb.core.measure.step import NextStep
from plumb.core.procedures.kind import AnyKind, unread
from plumb.core.procedures.opening.analysis import OpeningResult

STROKE_MINUTES: Final = 2.0
"""A stroke on the pump, with its look at seat and spray; common practice, no source."""


def asks(kind: AnyKind, result: OpeningResult, told: AbstractSet[str]) -> NextStep | None:
    """Nozzles that were not stroked yet; then the first that a few more strokes would settle."""
    missing = unread(kind, result, told)
    if missing and not set(missing.injectors) <= set(result.sheet.read_before):
        return missing
    for f in result.findings:
        if f.passes_to_settle and not result.nozzle(f.injector).fault:
            step = kind.step((f.injector,), "stroke_again", passes=f.passes_to_settle)
            return replace(step, minutes=STROKE_MINUTES * f.passes_to_settle)
    return None
