"""What a begun sheet of this sort still asks for.

Order: what has no reading yet, on this sheet or on one before it; a neighbour where there is none to
compare with; a silent injector once more, because a weak supply imitates it; one that answered only
then; one whose passes disagree, because that may be a slip; the injector that the fewest passes would settle.  One on the edge of the band, which no number of
passes would settle if its mean stayed, is asked for one pass at a time: means move, and on the
detection bench that catches one bad injector in a hundred more.

>>> from plumb.core.compare.drops.sheet import DropSheet, analyse_drop
>>> found = analyse_drop(DropSheet(kind="any", injectors=("1", "2"), readings=(), step=3.4))
>>> step = next_step(found, minutes=1.5)
>>> step.injectors, step.passes, step.minutes
(('1', '2'), 1, 3.0)
"""

from typing import Final

from plumb.core.compare.alone import alone_without_reference
from plumb.core.compare.drops.sheet import DropResult
from plumb.core.measure.decision import MOST_PASSES, State
from plumb.core.measure.finding import Finding
from plumb.core.measure.step import NextStep

_MOST_IN_ALL: Final = MOST_PASSES + 1
_TELLING: Final = 3
"""With so many passes one that disagrees was a slip or a burst that stuck: a further one adds little."""


def next_step(result: DropResult, minutes: float) -> NextStep | None:
    """The next step on the sheet, None when it asks for nothing; ``minutes`` one burst takes."""
    before = result.sheet.read_before
    open_ = tuple(
        f.injector
        for f in result.findings
        if f.state is not State.NO_RESPONSE and f.passes == 0 and f.injector not in before
    )
    if open_:
        return _step(result, open_, 1, "not_measured", minutes)
    if before and all(f.state is State.NOT_JUDGED for f in result.findings):
        # Taken in another way than before: one neighbour is enough to be compared with.
        return _step(result, before[:1], 1, "neighbour", minutes)
    if alone := alone_without_reference(result.findings):
        return _step(result, alone, 1, "alone", minutes)
    silent = tuple(
        f.injector
        for f in result.findings
        if f.state is State.NO_RESPONSE and _bursts_told(result, f.injector) < 2
    )
    if silent:
        return _step(result, silent, 1, "silent_once", minutes)
    woken = tuple(f.injector for f in result.findings if f.answered_late and f.passes == 1)
    if woken:
        return _step(result, woken, 1, "woken", minutes)
    odd = tuple(
        f.injector for f in result.findings if f.state is State.INTERMITTENT and f.passes < _TELLING
    )
    if odd:
        return _step(result, odd, 1, "disagree", minutes)
    waiting = [f for f in result.findings if _can_settle(f)]
    if not waiting:
        return None
    sure = [f for f in waiting if f.passes_to_settle is not None]
    if not sure:
        return _step(result, tuple(f.injector for f in waiting), 1, "edge", minutes)
    fewest = min(f.passes_to_settle or 1 for f in sure)
    labels = tuple(f.injector for f in sure if f.passes_to_settle == fewest)
    return _step(result, labels, fewest, "unsettled", minutes)


def _bursts_told(result: DropResult, label: str) -> int:
    """Bursts of an injector that told something, the silent ones included."""
    return sum(
        1
        for r in result.sheet.readings
        if r.injector == label and (r.second is not None or r.mark == "none")
    )


def _can_settle(finding: Finding) -> bool:
    return finding.state is State.UNSETTLED and not finding.bound and finding.passes < _MOST_IN_ALL


def _step(
    result: DropResult, injectors: tuple[str, ...], passes: int, reason: str, minutes: float
) -> NextStep:
    return NextStep(
        kind=result.kind,
        injectors=injectors,
        passes=passes,
        reason=reason,
        minutes=minutes * len(injectors) * passes,
    )
