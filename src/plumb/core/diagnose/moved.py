"""What one sheet moved: which faults it made likelier or less likely, and by how much."""

from dataclasses import replace
from typing import Final, NamedTuple

from plumb.core.causes.fault import Fault
from plumb.core.diagnose.sets import Weighed, as_told, weigh_faults

_LEAST: Final = 0.01
_MOST: Final = 3


class Moved(NamedTuple):
    """A fault, at any of these places: its share without the sheet, and with it."""

    fault: Fault
    places: tuple[str, ...]
    before: float
    after: float


def moved_by(weighed: Weighed, sheet: str) -> tuple[Moved, ...]:
    """The two or three faults that a sheet moved most; none where it moved nothing that counts."""
    case = weighed.case
    facts = tuple(f for f in case.facts if f.sheet != sheet)
    if len(facts) == len(case.facts):
        return ()
    without = weigh_faults(replace(case, facts=facts))
    now, then = _shares(as_told(weighed)), _shares(as_told(without))
    made = [
        Moved(fault=fault, places=places, before=then[code, places][1], after=share)
        for (code, places), (fault, share) in now.items()
        if abs(share - then[code, places][1]) >= _LEAST
    ]
    made.sort(key=lambda m: -abs(m.after - m.before))
    return tuple(made[:_MOST])


def _shares(weighed: Weighed) -> dict[tuple[str, tuple[str, ...]], tuple[Fault, float]]:
    """The share of every fault at every place."""
    made: dict[tuple[str, tuple[str, ...]], tuple[Fault, float]] = {
        (s.fault.code, (s.name,) if s.name else ()): (s.fault, weighed.share_of(s))
        for s in weighed.shared
    }
    for n, fault in enumerate(weighed.states, 1):
        for k, label in enumerate(weighed.case.injectors):
            made[fault.code, (label,)] = (fault, float(weighed.places[k, n]))
    return made
