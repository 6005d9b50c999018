"""What the shop's other sheets have learnt of a part by its type, and what one sheet teaches.

Which kinds of sheet learn, and by which name, the open formats say (``FileKind.lessons``).
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from hashlib import sha256
from typing import Any, Final

from sqlalchemy import Connection

from plumb.core.measure.decision import Thresholds
from plumb.jobfile.kinds import FILE_KINDS
from plumb.service.stored.analysis import analysed
from plumb.store import sheets as store
from plumb.store.records import Stamp, WholeSheet

_LEARNING: Final = {code: k.lessons for code, k in FILE_KINDS.items() if k.lessons is not None}


def with_learnt(connection: Connection, whole: WholeSheet) -> WholeSheet:
    """The sheet with everything that others of its kind recorded on the same type of part."""
    if whole.sheet.kind not in _LEARNING:
        return whole
    return all_with_learnt(connection, [whole])[0]


def all_with_learnt(connection: Connection, sheets: Iterable[WholeSheet]) -> list[WholeSheet]:
    """Many sheets at once; those of kinds that learn nothing stay as they are."""
    given = list(sheets)
    of_type: dict[tuple[str, str], list[tuple[int, Any]]] = {}
    for kind in {w.sheet.kind for w in given if _name(w)}:
        for sheet_id, lesson in _lessons(connection, kind, {w.sheet.id: w for w in given}):
            if lesson.name:
                mine = of_type.setdefault((kind, lesson.name), [])
                mine.extend((sheet_id, one) for one in lesson.taught)
    return [
        replace(
            w,
            learnt=tuple(
                one
                for sheet_id, one in of_type.get((w.sheet.kind, _name(w)), ())
                if sheet_id != w.sheet.id
            ),
        )
        if w.sheet.kind in _LEARNING
        else w
        for w in given
    ]


def lessons_state(connection: Connection, kinds: Iterable[str]) -> dict[str, str]:
    """For kinds that learn from each other: what tells one state of all of them from another."""
    return {
        kind: sha256(repr(store.stamps_of_kind(connection, kind)).encode()).hexdigest()
        for kind in kinds
        if kind in _LEARNING
    }


@dataclass(frozen=True, slots=True)
class _Lesson:
    """What one state of a sheet teaches: the part's type in small letters, and what was seen."""

    name: str
    taught: tuple[Any, ...]


_MOST_LESSONS: Final = 20_000
_known: dict[Stamp, _Lesson] = {}
"""A sheet teaches the same until its version changes; only what is new is read from the store."""


def _lessons(
    connection: Connection, kind: str, at_hand: Mapping[int, WholeSheet]
) -> list[tuple[int, _Lesson]]:
    """What every sheet of a kind teaches, oldest first; ``at_hand`` are loaded already."""
    stamps = store.stamps_of_kind(connection, kind)
    fresh = [s.id for s in stamps if s not in _known and s.id not in at_hand]
    if len(_known) + len(fresh) > _MOST_LESSONS:
        _known.clear()
        fresh = [s.id for s in stamps if s.id not in at_hand]
    if fresh:
        _known.update((w.stamp, _lesson(w)) for w in store.sheets_by_id(connection, fresh))
    # Those at hand may be on their way into the store, and are not kept as what stands there.
    found = ((s.id, _lesson(at_hand[s.id]) if s.id in at_hand else _known.get(s)) for s in stamps)
    return [(sheet_id, lesson) for sheet_id, lesson in found if lesson is not None]


def _name(whole: WholeSheet) -> str:
    """The type of the part that a sheet is about, empty where it has none."""
    lessons = _LEARNING.get(whole.sheet.kind)
    return lessons.name_of(whole.sheet.conditions).strip().lower() if lessons else ""


def _lesson(whole: WholeSheet) -> _Lesson:
    # What was recorded hangs on no probability, so the usual ones serve; the result is kept.
    taught = _LEARNING[whole.sheet.kind].taught_by(analysed(whole, Thresholds()))
    return _Lesson(_name(whole), taught)
