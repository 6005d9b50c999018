"""What cannot stand together in what is told of a job, at any of its steps."""

from collections.abc import Iterator

from plumb.core.causes.fault import CYLINDER, INJECTOR
from plumb.core.diagnose.explain import GONE
from plumb.core.mend.finish import Finished
from plumb.core.procedures import kind_of
from plumb.core.weigh.job import JobResult

_NOT_LIKELY = 0.1
"""From this share on a cause is not called cleared."""
_ASKS = frozenset({"repeat", "measure"})
_A_NEIGHBOUR = "worked on, and held against nobody"
"""The one row that asks to measure though the injector was read: somebody beside it."""


def clashes(told: Finished) -> tuple[str, ...]:
    """Every pair that contradicts itself, in words; none is as it should be."""
    return tuple(
        dict.fromkeys((*_of_the_complaint(told), *_of_injectors(told.now), *_of_the_end(told)))
    )


def _of_the_complaint(told: Finished) -> Iterator[str]:
    diagnosis = told.now.diagnosis
    for word in diagnosis.words:
        if diagnosis.explained == "yes" and diagnosis.stands(word) == "open":
            yield f"explained, and {word} open"
    for cause in diagnosis.causes:
        if cause.state == "cleared" and cause.share > _NOT_LIKELY:
            yield f"{cause.fault.code} cleared, at {100 * cause.share:.0f} %"


def _of_injectors(now: JobResult) -> Iterator[str]:
    read = {f.injector for _, r in now.sheets for f in r.findings if f.told}
    verdicts = dict(now.verdicts)
    for cause in now.diagnosis.found:
        verdict = verdicts.get(cause.place)
        if verdict is None or cause.fault.of not in {INJECTOR, CYLINDER}:
            continue
        if cause.fault.of == INJECTOR and verdict.action == "keep":
            yield f"{cause.fault.code} found, and kept"
        if cause.fault.code in verdict.ruled_out:
            yield f"{cause.fault.code} found, and ruled out"
    for label, verdict in now.verdicts:
        if verdict.action == "repeat" and label not in read:
            yield "repeat, and never read"
        if verdict.action == "measure" and verdict.row != _A_NEIGHBOUR and _told(now, label):
            yield "measure, and read"


def _told(now: JobResult, label: str) -> bool:
    """Whether a sheet of injectors has told anything of it that still holds; counts of misfires are its cylinder's."""
    of_injectors = {key for key, result in now.sheets if not kind_of(result).of_engine}
    return any(f.injector == label and f.sheet in of_injectors for f in now.facts)


def _of_the_end(told: Finished) -> Iterator[str]:
    gone = told.now.diagnosis.explained == GONE
    for _, verdict in told.now.verdicts:
        if told.over and verdict.action not in {"keep", "leave"}:
            yield f"over, and {verdict.action}: {verdict.row}"
        if told.next_step is None and not gone and verdict.action in _ASKS:
            yield f"nothing next, and {verdict.action}: {verdict.row}"
    if told.over and told.next_step is not None:
        yield "over, and something next"
    if told.next_step is None and not told.over and told.repairs and told.unasked:
        yield "repaired, nothing next, and nobody asked for the complaint"
