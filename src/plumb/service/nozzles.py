"""Nozzles: what the shop's other sheets have learnt of a type, and shims in the shop's own unit."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Final

from sqlalchemy import Connection

from plumb.core import opening
from plumb.core.decision import Thresholds
from plumb.core.problems import PlumbError, Problem
from plumb.core.quantities import parse_number, plain
from plumb.core.shims import Change, show_shim
from plumb.service.analysis import analysed
from plumb.store import sheets as store
from plumb.store.records import Stamp, WholeSheet

STROKE_SOUNDS: Final = ("chatters", "weak", "silent")
SEATS: Final = ("dry", "damp", "wet")
"""The words of a stroke: how it sounds, and how the tip is after the hold."""

_THOU: Final = Decimal("0.0254")
_FINEST: Final = Decimal("0.00001")
MOST_MM: Final = Decimal(20)


def nozzle_name(whole: WholeSheet) -> str:
    """The nozzle type of a sheet, empty where it has none."""
    return str((whole.sheet.conditions.get("nozzle") or {}).get("name") or "").strip()


def with_learnt(connection: Connection, whole: WholeSheet) -> WholeSheet:
    """The sheet with every change of shims that other sheets recorded on its nozzle type."""
    if whole.sheet.kind != opening.KIND:
        return whole
    return all_with_learnt(connection, [whole])[0]


def all_with_learnt(connection: Connection, sheets: Iterable[WholeSheet]) -> list[WholeSheet]:
    """Many sheets at once; those that are no nozzles' stay as they are."""
    given = list(sheets)
    if not any(w.sheet.kind == opening.KIND and nozzle_name(w) for w in given):
        return given
    of_type: dict[str, list[tuple[int, Change]]] = {}
    for sheet_id, lesson in _lessons(connection, {w.sheet.id: w for w in given}):
        if lesson.name:
            mine = of_type.setdefault(lesson.name, [])
            mine.extend((sheet_id, change) for change in lesson.changes)
    return [
        replace(
            w,
            learnt=tuple(
                change
                for sheet_id, change in of_type.get(nozzle_name(w).lower(), ())
                if sheet_id != w.sheet.id
            ),
        )
        if w.sheet.kind == opening.KIND
        else w
        for w in given
    ]


@dataclass(frozen=True, slots=True)
class _Lesson:
    """What one state of a sheet teaches: the nozzle's type in small letters, its changes."""

    name: str
    changes: tuple[Change, ...]


_MOST_LESSONS: Final = 20_000
_known: dict[Stamp, _Lesson] = {}
"""A sheet teaches the same until its version changes; only what is new is read from the store."""


def _lessons(
    connection: Connection, at_hand: Mapping[int, WholeSheet]
) -> list[tuple[int, _Lesson]]:
    """What every opening sheet of the shop teaches, oldest first; ``at_hand`` are loaded already."""
    stamps = store.stamps_of_kind(connection, opening.KIND)
    fresh = [s.id for s in stamps if s not in _known and s.id not in at_hand]
    if len(_known) + len(fresh) > _MOST_LESSONS:
        _known.clear()
        fresh = [s.id for s in stamps if s.id not in at_hand]
    if fresh:
        _known.update((w.stamp, _lesson(w)) for w in store.sheets_by_id(connection, fresh))
    # Those at hand may be on their way into the store, and are not kept as what stands there.
    found = ((s.id, _lesson(at_hand[s.id]) if s.id in at_hand else _known.get(s)) for s in stamps)
    return [(sheet_id, lesson) for sheet_id, lesson in found if lesson is not None]


def _lesson(whole: WholeSheet) -> _Lesson:
    return _Lesson(nozzle_name(whole).lower(), tuple(changes_on(whole)))


def changes_on(whole: WholeSheet) -> list[Change]:
    """The changes of shims that one sheet recorded."""
    # What was recorded hangs on no probability, so the usual ones serve; the result is kept.
    result = analysed(whole, Thresholds())
    return [c for _, c in result.changes] if isinstance(result, opening.OpeningResult) else []


def shim_unit(whole: WholeSheet) -> str:
    """The unit that shims of a sheet are typed and shown in: mm or thou."""
    return str(whole.sheet.conditions.get("shim_unit") or "mm")


def typed_mm(text: str, unit: str, path: str = "shim") -> Decimal:
    """A shim as typed, in mm; a thousandth of an inch is 0.0254 mm (NIST SP 811, B.8).

    >>> typed_mm("40", "thou")
    Decimal('1.016')
    """
    value = parse_number(text, path)
    # To a hundredth of a micrometre, so that a shim shown in thou and sent back is the same shim.
    thou = (value * _THOU).quantize(_FINEST).normalize()
    mm = Decimal(plain(thou)) if unit == "thou" else value
    if not 0 <= mm <= MOST_MM:
        raise PlumbError(
            Problem(
                path=path, rule=f"a stack of shims is from 0 to {MOST_MM} mm, for example 1.04",
                value=f"{text} {unit}", code="beyond_any_shim",
            )
        )  # fmt: skip
    return mm


def shown_shim(mm: Decimal | float | str | None, unit: str) -> str:
    """A shim in the sheet's unit; one that was typed in mm is shown as it was typed.

    >>> shown_shim(1.016, "thou"), shown_shim("1.00", "mm")
    ('40', '1.00')
    """
    if mm is None:
        return ""
    return mm if unit == "mm" and isinstance(mm, str) else show_shim(float(mm), unit)
