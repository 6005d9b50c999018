"""What other sheets tell one: what they taught of a type of part, and whom a repeat did not read."""

from collections.abc import Iterable, Sequence
from dataclasses import replace

from sqlalchemy import Connection

from plumb.jobfile.carried import Earlier, carried_over
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.to_core import earlier
from plumb.service.stored.lessons import all_with_learnt, with_learnt
from plumb.service.stored.parts import head_of, noted_on
from plumb.store import sheets as store
from plumb.store.records import WholeSheet


def with_others(connection: Connection, whole: WholeSheet) -> WholeSheet:
    """The sheet with what others of the shop taught, and what those before it on its job read."""
    return with_learnt(connection, with_carried(connection, whole))


def with_carried(connection: Connection, whole: WholeSheet) -> WholeSheet:
    """The sheet with the figures of those whom it did not read, from the sheets before it."""
    if whole.place < 2 or FILE_KINDS[whole.sheet.kind].method is None:
        return whole
    return _carrying(whole, store.sheets_before(connection, whole.sheet))


def all_with_others(connection: Connection, sheets: Iterable[WholeSheet]) -> list[WholeSheet]:
    """Many sheets at once, every job's oldest first."""
    made: list[WholeSheet] = []
    before: dict[tuple[int, str], list[WholeSheet]] = {}
    for whole in sheets:
        mine = before.setdefault((whole.sheet.job_id, whole.sheet.kind), [])
        made.append(_carrying(whole, mine) if mine else whole)
        mine.append(whole)
    return all_with_learnt(connection, made)


def _carrying(whole: WholeSheet, before: Sequence[WholeSheet]) -> WholeSheet:
    mine = _seen(whole)
    if mine is None:
        return whole
    others = [seen for other in before if (seen := _seen(other)) is not None]
    return replace(whole, carried=carried_over(mine, others))


def _seen(whole: WholeSheet) -> Earlier | None:
    return earlier(head_of(whole), noted_on(whole))
