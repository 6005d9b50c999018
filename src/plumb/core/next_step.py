"""The next step: what to measure now, and why; None once nothing left would change a verdict.

Order: what has no reading yet; a silent injector once more, because a weak supply imitates it; the
injector that the fewest passes would settle.  One on the edge of the band, which no number of
passes would settle if its mean stayed, is asked for one pass at a time: means move, and on the
detection bench that catches one bad injector in a hundred more.

>>> from plumb.core.drop import DropSheet, analyse_drop
>>> sheet = DropSheet(injectors=("1", "2"), readings=(), step=3.4)
>>> step = next_step(analyse_drop(sheet))
>>> step.injectors, step.passes
(('1', '2'), 1)
"""

from dataclasses import dataclass
from typing import Final

from plumb.core.decision import MOST_PASSES, State
from plumb.core.drop import KIND, DropResult
from plumb.core.finding import Finding
from plumb.core.running import FLOW_BENCH, RUNNING

MINUTES_PER_BURST: Final = {KIND: 1.5, RUNNING: 0.5, FLOW_BENCH: 3.0}
"""Of the drop: key cycle, burst, two readings and 15 s of running engine; common practice."""

_MOST_IN_ALL: Final = MOST_PASSES + 1


@dataclass(frozen=True, slots=True, kw_only=True)
class NextStep:
    """Which injectors to measure, how many passes each, about how long, and the reason's code.

    ``reason`` is a code of :data:`plumb.core.words_next.REASONS`; ``isolation`` the step to try on
    the hold sheet; ``doubt`` what would be cleared, a code of the suspicions or a sentence.
    """

    kind: str
    injectors: tuple[str, ...]
    passes: int
    minutes: float
    reason: str
    isolation: str = ""
    doubt: str = ""


def _bursts_told(result: DropResult, label: str) -> int:
    """Bursts of an injector that told something, the silent ones included."""
    return sum(
        1
        for r in result.sheet.readings
        if r.injector == label and (r.second is not None or r.mark == "none")
    )


def next_step(result: DropResult | None, injectors: tuple[str, ...] = ()) -> NextStep | None:
    """The next step on a drop sheet; ``None`` for the result: no sheet yet, measure everything."""
    if result is None:
        return _step(KIND, injectors, 1, "not_measured") if injectors else None
    kind = result.kind
    open_ = tuple(
        f.injector for f in result.findings if f.state is not State.NO_RESPONSE and f.passes == 0
    )
    if open_:
        return _step(kind, open_, 1, "not_measured")
    silent = tuple(
        f.injector
        for f in result.findings
        if f.state is State.NO_RESPONSE and _bursts_told(result, f.injector) < 2
    )
    if silent:
        return _step(kind, silent, 1, "silent_once")
    waiting = [f for f in result.findings if _can_settle(f)]
    if not waiting:
        return None
    sure = [f for f in waiting if f.passes_to_settle is not None]
    if not sure:
        return _step(kind, tuple(f.injector for f in waiting), 1, "edge")
    fewest = min(f.passes_to_settle or 1 for f in sure)
    return _step(
        kind, tuple(f.injector for f in sure if f.passes_to_settle == fewest), fewest, "unsettled"
    )


def _can_settle(finding: Finding) -> bool:
    return finding.state is State.UNSETTLED and not finding.bound and finding.passes < _MOST_IN_ALL


def _step(kind: str, injectors: tuple[str, ...], passes: int, reason: str) -> NextStep:
    return NextStep(
        kind=kind,
        injectors=injectors,
        passes=passes,
        reason=reason,
        minutes=MINUTES_PER_BURST[kind] * len(injectors) * passes,
    )
