"""Earlier sound sets as what is expected of a sheet: of its own vehicle, else of others of that name."""

from collections.abc import Iterator
from decimal import Decimal
from itertools import chain, islice
from typing import Any, Final, cast

from sqlalchemy import Engine

from plumb.core.compare.drops.sheet import DropResult
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.quantities import decimals_shown, plain
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.kinds.kind import factor_of
from plumb.service.stored.analysis import analysed
from plumb.service.stored.known import known_sheet, known_vehicle
from plumb.service.stored.others import all_with_others, with_others
from plumb.service.stored.parts import head_of
from plumb.service.views.years import BaselineView, ThenView
from plumb.store import years as store
from plumb.store.records import WholeSheet
from plumb.store.session import retried, transaction

_MOST_OWN: Final = 3
_MOST_OTHERS: Final = 2
_MOST_ALIKE: Final = 60


@retried
def baselines_for(engine: Engine, sheet_id: int, thresholds: Thresholds) -> list[BaselineView]:
    """What can be taken as expected, the vehicle's own newest first; nothing on a kind without expected figures."""
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
        if FILE_KINDS[whole.sheet.kind].asked is None:
            return []
        vehicle = known_vehicle(connection, whole.sheet.vehicle_id)
        mine = store.sheets_before_on_vehicle(
            connection, vehicle.id, whole.sheet.kind, whole.sheet.job_id
        )
        alike = store.sheets_of_alike(connection, whole.sheet.kind, vehicle.name, (), _MOST_ALIKE)
        whole = with_others(connection, whole)
        own = all_with_others(connection, mine)
        others = all_with_others(connection, [w for w in alike if w.sheet.vehicle_id != vehicle.id])
    start = _start(whole, thresholds)
    offered = chain(
        islice(_offers(own, whole, start, thresholds), _MOST_OWN),
        islice(_offers(others, whole, start, thresholds, of=vehicle.name), _MOST_OTHERS),
    )
    return list(offered)


def _start(whole: WholeSheet, thresholds: Thresholds) -> float | None:
    """The start pressure of the sheet itself, None before it is read."""
    result = cast("DropResult", analysed(whole, thresholds))
    return result.median_pressures[0] if result.median_pressures else None


def _offers(
    sheets: list[WholeSheet], whole: WholeSheet, start: float | None, thresholds: Thresholds,
    of: str = "",
) -> Iterator[BaselineView]:  # fmt: skip
    """The sound ones among them that asked the same of each injector, newest first."""
    kind = FILE_KINDS[whole.sheet.kind]

    def asked(sheet: WholeSheet) -> tuple[str, Any]:
        head = head_of(sheet)
        return head.set, kind.asked(head) if kind.asked is not None else None

    mine = asked(whole)
    for then in sorted(sheets, key=lambda w: w.sheet.taken_at, reverse=True):
        if asked(then) != mine:
            continue
        result = cast("DropResult", analysed(then, thresholds))
        drop = result.drop_from(start)
        if result.passed and drop is not None:
            yield _offer(then, whole, drop, of)


def _offer(then: WholeSheet, whole: WholeSheet, drop: float, of: str) -> BaselineView:
    """One of them; ``of`` is the name of the vehicles where it is not this one's."""
    sheet = whole.sheet
    step = float(sheet.gauge_step_typed) * factor_of(sheet.unit)
    digits = decimals_shown(sheet.unit, step) + 1
    typed = plain(Decimal(f"{drop / factor_of(sheet.unit):.{digits}f}"))
    day = then.sheet.taken_at.date()
    source = f"another {of}, job {then.job_number}" if of else f"job {then.job_number}"
    put = {
        "expected.drop": typed,
        "expected.source": source[:200],
        # Of another vehicle nobody can say that it has faded since.
        "expected.since": "" if of else day.isoformat(),
    }
    has = sheet.conditions.get("expected") or {}
    used = all(
        str(has.get(key.partition(".")[2], "")) == text
        for key, text in put.items()
        if key != "expected.drop"
    )
    return BaselineView(
        words=f"{day:%-d %b %Y}, {source}: {typed} {sheet.unit}", put=put, used=bool(has) and used,
        own=not of, then=[] if of else _then(then),
    )  # fmt: skip


def _then(sheet: WholeSheet) -> list[ThenView]:
    """What each injector gave on it, as typed."""
    labels = {i.id: i.label for i in sheet.injectors}
    made: dict[str, list[str]] = {}
    for r in sheet.readings:
        figures = " ".join(t for t in (r.first_typed, r.second_typed, r.value_typed) if t)
        if figures and r.injector_id in labels:
            made.setdefault(labels[r.injector_id], []).append(figures)
    return [ThenView(row=row, figures=", ".join(texts)) for row, texts in made.items()]
