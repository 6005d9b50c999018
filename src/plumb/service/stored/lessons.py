"""What the shop's other sheets have learnt of a part by its type, and what one sheet teaches.

Which kinds of sheet learn, and by which name, the open formats say (``FileKind.lessons``).
"""

from collections.abc import Iterable, Mapping
from dataclasses import replace
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
    at_hand = {w.sheet.id: w for w in given}
    of_type = {
        (kind, name): _lessons(connection, kind, name, at_hand)
        for kind, name in {(w.sheet.kind, _name(w)) for w in given}
        if name
    }
    return [
        replace(
            w,
            learnt=tuple(
                one
                for sheet_id, taught in of_type.get((w.sheet.kind, _name(w)), ())
                if sheet_id != w.sheet.id
                for one in taught
            ),
        )
        if w.sheet.kind in _LEARNING
        else w
        for w in given
    ]


def lessons_state(
    connection: Connection, types: Iterable[tuple[str, str]]
) -> dict[tuple[str, str], str]:
    """For types of part, as kind and name: what tells one state of all that teach of it from another."""
    return {
        (kind, name): sha256(repr(_stamps(connection, kind, name)).encode()).hexdigest()
        for kind, name in types
        if name
    }


MOST_TEACHERS: Final = 200
"""So many of the newest sheets about a type of part teach the others."""


def _stamps(connection: Connection, kind: str, name: str) -> list[Stamp]:
    return store.stamps_about(connection, kind, name, MOST_TEACHERS)


_MOST_LESSONS: Final = 20_000
_known: dict[Stamp, tuple[Any, ...]] = {}
"""A sheet teaches the same until its version changes; only what is new is read from the store."""


def _lessons(
    connection: Connection, kind: str, name: str, at_hand: Mapping[int, WholeSheet]
) -> list[tuple[int, tuple[Any, ...]]]:
    """What every sheet about a type of part teaches, oldest first; ``at_hand`` are loaded already."""
    stamps = _stamps(connection, kind, name)
    # What was remembered before is needed no longer than the next few looks.
    if len(_known) > _MOST_LESSONS:
        _known.clear()
    fresh = [s.id for s in stamps if s not in _known and s.id not in at_hand]
    if fresh:
        _known.update((w.stamp, _taught(w)) for w in store.sheets_by_id(connection, fresh))
    # Those at hand may be on their way into the store, and are not kept as what stands there.
    return [
        (s.id, _taught(at_hand[s.id]) if s.id in at_hand else _known.get(s, ())) for s in stamps
    ]


def _name(whole: WholeSheet) -> str:
    """The type of the part that a sheet is about, empty where it has none."""
    return store.about(whole.sheet.kind, whole.sheet.conditions)


def _taught(whole: WholeSheet) -> tuple[Any, ...]:
    # What was recorded hangs on no probability, so the usual ones serve; the result is kept.
    return tuple(_LEARNING[whole.sheet.kind].taught_by(analysed(whole, Thresholds())))
