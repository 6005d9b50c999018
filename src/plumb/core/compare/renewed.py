"""A sheet taken after a repair: new parts are not each other's measure.

Whoever was worked on is held against those that stayed as they were, and does not vote on what is good
while two of these are read.  A group of renewed ones alone agrees about nothing: unless a window or an
expected value says what is right, nobody is judged by it.  Common practice, no source.

>>> voters(("1", "2", "3", "4"), (("1", "replaced"), ("4", "replaced")))
(1, 2)
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.fact import Fact
from plumb.core.measure.finding import Finding
from plumb.core.measure.text import listed

Renewed = tuple[tuple[str, str], ...]
"""Injectors that were worked on before a sheet was taken, and what was done (codes of the repairs)."""

WORKED_ON: Final = {
    "after_cleaning": "it was read after cleaning",
    "part_is_new": "it was read after another part was put in",
}
"""Facts of who was worked on before it was read, and when they are made."""

_ENOUGH: Final = 2
_NEW: Final = frozenset({"replaced", "rebuilt"})
_BY_THE_SET: Final = frozenset(
    {State.IN_PLUMB, State.LOW, State.HIGH, State.UNSETTLED, State.SPLIT}
)


def voters(labels: Sequence[str], renewed: Renewed) -> tuple[int, ...]:
    """The places of those that may say what is good: who stayed as it was, where two of them are read."""
    worked_on = {label for label, _ in renewed}
    kept = tuple(k for k, label in enumerate(labels) if label not in worked_on)
    return kept if len(kept) >= _ENOUGH else tuple(range(len(labels)))


def held_by_others(
    findings: Iterable[Finding], renewed: Renewed, *, anchored: bool = False
) -> tuple[Finding, ...]:
    """The findings, nobody judged by renewed ones alone; ``anchored``: a window or an expected value judges."""
    done = dict(renewed)
    marked = tuple(
        replace(f, renewed=done[f.injector]) if f.injector in done else f for f in findings
    )
    members = [f for f in marked if f.agrees]
    if anchored or not members or not all(f.renewed for f in members):
        return marked
    return tuple(_unjudged(f) if f.state in _BY_THE_SET else f for f in marked)


def _unjudged(finding: Finding) -> Finding:
    return replace(
        finding, state=State.NOT_JUDGED, reference=None, deviation=None, u=None,
        probability_out=None, passes_to_settle=None, agrees=False,
    )  # fmt: skip


def only_renewed(findings: Iterable[Finding]) -> tuple[str, ...]:
    """Those that were read, where nothing says of any of them what is good; nobody where that is not so."""
    read = [f for f in findings if f.passes]
    new = any(f.renewed for f in read) and all(f.state is State.NOT_JUDGED for f in read)
    return tuple(f.injector for f in read) if new else ()


def note(findings: Iterable[Finding]) -> tuple[str, ...]:
    """Why nothing is said of renewed ones; empty where something is."""
    read = only_renewed(findings)
    if not read:
        return ()
    names, are = listed(read), "is" if len(read) == 1 else "are"
    text = (
        f"Nothing says yet whether {names} {are} good: one that was worked on is held against those "
        "that stayed as they were."
    )
    return (text,)


def of_work(key: str, finding: Finding, when: str) -> Iterator[Fact]:
    """What was done to one before this sheet read it: noted as a repair, or said of the sheet (``when``)."""
    if not finding.read:
        return
    if finding.renewed in _NEW:
        yield Fact(code="part_is_new", injector=finding.injector, sheet=key)
    elif finding.renewed == "cleaned" or when == "after_cleaning":
        yield Fact(code="after_cleaning", injector=finding.injector, sheet=key)
