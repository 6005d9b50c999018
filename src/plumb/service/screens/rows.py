"""The rows of a sheet, each with its bob."""

from datetime import datetime
from operator import attrgetter
from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding, unread
from plumb.core.procedures import Result
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.kinds.kind import RowOf
from plumb.service.kinds.shims import shim_unit, shown_shim
from plumb.service.kinds.shown import Noted, figure
from plumb.service.stored.parts import shown_slots
from plumb.service.views.sheet import ReadingView, RowView
from plumb.store.records import InjectorRecord, ReadingRecord, WholeSheet

_SETTLED: Final = frozenset({State.IN_PLUMB, State.LOW, State.HIGH, State.OPEN})
"""States that fill a bob."""
_SHOWN: Final = 4
"""So many readings go with a row; all of them are there for the asking, see :func:`passes_of`."""
_NUMBER: Final = attrgetter("number")
_WITHOUT_ROWS: Final = frozenset({"form", "point"})
"""Entries that are no rows: ticks, a curve."""


def reading_view(
    reading: ReadingRecord, unit: str, step: float, sheet_unit: str, length: str
) -> ReadingView:
    """One reading as typed and as shown; shims in ``length``."""
    figures = [
        figure(value, typed, unit, step, as_typed=unit == sheet_unit)
        for value, typed in (
            (reading.first_kpa, reading.first_typed),
            (reading.second_kpa, reading.second_typed),
            (reading.value, reading.value_typed),
        )
        if value is not None
    ]
    shown = " ".join(figures) or reading.word or (reading.mark or "").replace("_", " ")
    return ReadingView(
        id=reading.id,
        pass_number=reading.number,
        first_typed=reading.first_typed,
        second_typed=reading.second_typed,
        value_typed=reading.value_typed,
        shown=shown,
        mark=reading.mark,
        word=reading.word,
        sound=reading.sound,
        spray=reading.spray,
        fires_at=reading.fires_at_typed,
        supply_v=str((reading.extras or {}).get("supply_v", "")),
        seat=reading.seat,
        shim=shown_shim(reading.shim_typed, length),
        note=reading.note,
        taken=reading.taken_at.isoformat() + "Z",
        by=str((reading.extras or {}).get("x-by", "")),
        typed_as=str((reading.extras or {}).get("x-typed", "")),
        captured=str((reading.extras or {}).get("x-captured", "")),
    )


def row_views(
    whole: WholeSheet, result: Result, unit: str, ran_at: datetime | None
) -> list[RowView]:
    """The rows of a sheet in reach order, or in working order where they are no injectors."""
    entry = SCREEN_KINDS[result.kind].kind.entry
    if entry.shape in _WITHOUT_ROWS:
        return []
    findings = {f.row: f for f in result.findings}
    if entry.slots:
        on = (whole, result, unit, ran_at)
        return [
            _row(findings.get(slot) or unread(slot), None, _on_slot(whole, slot), on)
            for slot in shown_slots(whole)
        ]
    by_injector, known = _by_injector(whole), {i.label: i for i in whole.injectors}
    on = (whole, result, unit, ran_at)
    return [
        _row(f, one, by_injector.get(one.id, []), on)
        if (one := known.get(f.injector)) is not None
        else _row(f, None, _on_slot(whole, f.row), on)
        for f in result.findings
    ]


def _on_slot(whole: WholeSheet, slot: str) -> list[ReadingRecord]:
    """The readings of a row that is no injector, by pass."""
    return sorted((r for r in whole.readings if r.slot == slot), key=_NUMBER)


def _by_injector(whole: WholeSheet) -> dict[int | None, list[ReadingRecord]]:
    """The readings of each injector by pass."""
    made: dict[int | None, list[ReadingRecord]] = {}
    for r in sorted(whole.readings, key=_NUMBER):
        made.setdefault(r.injector_id, []).append(r)
    return made


def passes_of(whole: WholeSheet, row: str, unit: str) -> list[ReadingView] | None:
    """Every reading of a row, by pass; None where the sheet has no such row."""
    step, length = whole.sheet.gauge_step, shim_unit(whole)
    ids = {i.label: i.id for i in whole.injectors}
    if row in SCREEN_KINDS[whole.sheet.kind].kind.entry.slots:
        mine = _on_slot(whole, row)
    elif row in ids:
        mine = _by_injector(whole).get(ids[row], [])
    elif any(r.slot == row for r in whole.readings):
        mine = _on_slot(whole, row)
    else:
        return None
    return [reading_view(r, unit, step, whole.sheet.unit, length) for r in mine]


def _spared(whole: WholeSheet, label: str) -> bool:
    """Whether a repeat was begun for others."""
    wanted = ((whole.sheet.extras or {}).get("sheet") or {}).get("x-for") or []
    return bool(wanted) and label not in wanted


def _row(
    finding: Finding,
    injector: InjectorRecord | None,
    mine: list[ReadingRecord],
    on: tuple[WholeSheet, Result, str, datetime | None],
) -> RowView:
    """One row; ``on`` is the sheet, its result, the unit shown, and the engine's last run."""
    whole, result, unit, ran_at = on
    screen = SCREEN_KINDS[result.kind]
    kind, step, length = screen.kind, whole.sheet.gauge_step, shim_unit(whole)
    at, u_at = screen.hangs(finding, result, unit)
    noted = Noted(label=finding.row, readings=mine, unit=unit, step=step, length=length)
    own = RowOf(whole=whole, label=finding.row, readings=mine, unit=unit, ran_at=ran_at)
    made = {"raw": 0, "nozzle": None, **screen.more_of_row(own, result)}
    return RowView(
        injector=finding.row,
        name=screen.names.get(finding.row)
        or ("" if finding.injector else finding.row.capitalize()),
        cylinder=injector.cylinder if injector else 0,
        bank=injector.bank if injector else "",
        feed=injector.feed if injector else "",
        count=len(mine),
        figures=sum((r.second_typed or r.value_typed) is not None for r in mine),
        last_pass=mine[-1].number if mine else 0,
        readings=[reading_view(r, unit, step, whole.sheet.unit, length) for r in mine[-_SHOWN:]],
        cells=screen.cells(noted, result) if screen.columns else [],
        state=finding.state.value,
        words=kind.state(finding, result),
        under=f"carried over {finding.carried}"
        if finding.carried
        else kind.under(finding, result, unit),
        tone=screen.tone(finding, result),
        at=at,
        u_at=u_at,
        settled=finding.state in _SETTLED,
        agrees=finding.agrees,
        spared=not mine and _spared(whole, finding.injector),
        passes_to_settle=finding.passes_to_settle,
        because=kind.because(finding, result, unit),
        **made,
    )
