"""A swap test: two injectors change places, and the same sheet is taken again.

What was wrong went along with the part, or it stayed with the cylinder: with its driver, its feed, its compression.

>>> WENT["with_part"]
'the fault went with the part'
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.uncertainty import COVERAGE
from plumb.core.mend.after import changed
from plumb.core.mend.repairs import Repair
from plumb.core.procedures import Result

WENT: Final = {
    "with_part": "the fault went with the part",
    "with_cylinder": "the fault stayed with the cylinder",
    "gone": "the fault is gone: a plug, a seat or dirt was moved with it",
    "not_settled": "not settled",
}
_OUT: Final = frozenset({State.LOW, State.HIGH, State.NO_RESPONSE, State.OPEN, State.INTERMITTENT})


@dataclass(frozen=True, slots=True, kw_only=True)
class Swap:
    """What a swap of two injectors showed on one kind of sheet.

    ``place`` is where the fault was before, ``other`` the place it was swapped with; ``word`` is a code
    of :data:`WENT`.
    """

    place: str
    other: str
    sheet: str
    before_sheet: str
    word: str


def swaps_of(
    repairs: Sequence[Repair], results: Sequence[tuple[str, Result]], after: Mapping[str, str]
) -> tuple[Swap, ...]:
    """Each swap, on each sheet taken after it that reads both places."""
    there = dict(results)
    made: list[Swap] = []
    for repair in repairs:
        if repair.done != "swapped" or not repair.swapped_with:
            continue
        for key, before_key in after.items():
            now, was = there.get(key), there.get(before_key)
            if now is not None and was is not None and now.kind == was.kind:
                made += _judged(repair.places, (key, now), (before_key, was))
    return tuple(made)


def _judged(
    places: tuple[str, ...], now: tuple[str, Result], was: tuple[str, Result]
) -> list[Swap]:
    after = {f.injector: f for f in now[1].findings if f.read}
    before = {f.injector: f for f in was[1].findings}
    if not all(p in after and p in before for p in places):
        return []
    faulty = [p for p in places if before[p].state in _OUT]
    if len(faulty) != 1:
        return []
    place = faulty[0]
    other = next(p for p in places if p != place)
    word = went(before[place], after[place], after[other])
    return [Swap(place=place, other=other, sheet=now[0], before_sheet=was[0], word=word)]


def went(before: Finding, stayed: Finding, moved: Finding) -> str:
    """Where a fault went: ``stayed`` is the place it was at, ``moved`` the one that its part went to."""
    if {stayed.state, moved.state} & {State.UNSETTLED, State.NOT_JUDGED, State.SPLIT}:
        return "not_settled"
    here, there = _same_fault(before, stayed), _same_fault(before, moved)
    if here and not there:
        return "with_cylinder"
    if there and not here:
        return "with_part"
    if stayed.state is State.IN_PLUMB and moved.state is State.IN_PLUMB:
        return "gone"
    return _nearer(before, stayed, moved)


def _same_fault(before: Finding, after: Finding) -> bool:
    return after.state is before.state


def _nearer(before: Finding, stayed: Finding, moved: Finding) -> str:
    """Both read as out: the fault is where the deviation fits the old one, if the other does not."""
    fits = [_fits(before, x) for x in (stayed, moved)]
    if fits == [True, False]:
        return "with_cylinder"
    return "with_part" if fits == [False, True] else "not_settled"


def _fits(before: Finding, after: Finding) -> bool:
    change, u = changed(before, after)
    return change is not None and u is not None and abs(change) <= COVERAGE * u
