"""What other sheets tell one: what they taught of a type of part, and whom a repeat did not read."""

from collections.abc import Iterable, Sequence
from dataclasses import replace

from sqlalchemy import Connection

from plumb.core.mend.repairs import outdated_for
from plumb.jobfile.carried import Earlier, carried_over
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.to_core import earlier
from plumb.service.stored.finishing import repaired
from plumb.service.stored.lessons import all_with_learnt, with_learnt
from plumb.service.stored.parts import head_of, noted_on
from plumb.store import sheets as store
from plumb.store.finishing import Kept, done_on
from plumb.store.records import WholeSheet


def with_others(connection: Connection, whole: WholeSheet) -> WholeSheet:
    """The sheet with what others of the shop taught, and what those before it on its job read."""
    return with_learnt(connection, with_carried(connection, whole))


def with_carried(connection: Connection, whole: WholeSheet) -> WholeSheet:
    """The sheet with the figures of those whom it did not read, from the sheets before it."""
    if whole.place < 2 or FILE_KINDS[whole.sheet.kind].method is None:
        return whole
    before = store.sheets_before(connection, whole.sheet)
    job_id = whole.sheet.job_id
    return _carrying(whole, before, done_on(connection, [job_id]).get(job_id, Kept()))


def all_with_others(connection: Connection, sheets: Iterable[WholeSheet]) -> list[WholeSheet]:
    """Many sheets at once, every job's oldest first."""
    made: list[WholeSheet] = []
    sheets = list(sheets)
    repeated = {w.sheet.job_id for w in sheets if w.place > 1}
    kept = done_on(connection, repeated) if repeated else {}
    before: dict[tuple[int, str], list[WholeSheet]] = {}
    for whole in sheets:
        mine = before.setdefault((whole.sheet.job_id, whole.sheet.kind), [])
        made.append(_carrying(whole, mine, kept.get(whole.sheet.job_id, Kept())) if mine else whole)
        mine.append(whole)
    return all_with_learnt(connection, made)


def _carrying(whole: WholeSheet, before: Sequence[WholeSheet], kept: Kept) -> WholeSheet:
    """The sheet with what it takes over, without what a repair has made out of date since."""
    mine = _seen(whole)
    if mine is None:
        return whole
    others = [seen for other in before if (seen := _seen(other)) is not None]
    sheets = [*before, whole]
    done = repaired(kept, {i.id: i.label for i in whole.injectors}, sheets)
    outdated = outdated_for(whole.sheet.key, {w.sheet.key: w.sheet.kind for w in sheets}, done)
    return replace(whole, carried=carried_over(mine, others, outdated))


def _seen(whole: WholeSheet) -> Earlier | None:
    return earlier(head_of(whole), noted_on(whole))
