"""What other sheets tell one: what they taught of a type of part, and whom a repeat did not read."""

from collections.abc import Iterable, Sequence
from dataclasses import replace

from sqlalchemy import Connection

from plumb.core.mend.repairs import outdated_for, renewed_for
from plumb.core.procedures import BY_CODE
from plumb.jobfile.carried import NOTHING, Earlier, carried_over, worked_on
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.to_core import earlier
from plumb.service.stored.finishing import repaired
from plumb.service.stored.lessons import all_with_learnt, with_learnt
from plumb.service.stored.parts import head_of, noted_on
from plumb.store import sheets as store
from plumb.store.finishing import Kept, done_on, repairs_of
from plumb.store.records import WholeSheet


def with_others(connection: Connection, whole: WholeSheet) -> WholeSheet:
    """The sheet with what others of the shop taught, and what those before it on its job read."""
    return with_learnt(connection, with_carried(connection, whole))


def with_carried(connection: Connection, whole: WholeSheet) -> WholeSheet:
    """The sheet with the figures of those whom it did not read, and who was worked on before it."""
    if not _hears(whole):
        return whole
    repeats = whole.place > 1 and FILE_KINDS[whole.sheet.kind].method is not None
    before = store.sheets_before(connection, whole.sheet) if repeats else []
    # While somebody types each save comes by here: what was done is one question, and all that this takes.
    return _carrying(whole, before, Kept(repairs=repairs_of(connection, whole.sheet.job_id)))


def all_with_others(connection: Connection, sheets: Iterable[WholeSheet]) -> list[WholeSheet]:
    """Many sheets at once, every job's oldest first."""
    made: list[WholeSheet] = []
    sheets = list(sheets)
    jobs = {w.sheet.job_id for w in sheets if _hears(w)}
    kept = done_on(connection, jobs) if jobs else {}
    before: dict[tuple[int, str], list[WholeSheet]] = {}
    for whole in sheets:
        mine = before.setdefault((whole.sheet.job_id, whole.sheet.kind), [])
        done = kept.get(whole.sheet.job_id, Kept())
        made.append(
            _carrying(whole, mine, done) if _hears(whole) and (mine or done.repairs) else whole
        )
        mine.append(whole)
    return all_with_learnt(connection, made)


def _hears(whole: WholeSheet) -> bool:
    """Whether other sheets, or work that was done, change what a sheet of this kind says."""
    kind = BY_CODE[whole.sheet.kind]
    return kind.compares or kind.electrical


def _carrying(whole: WholeSheet, before: Sequence[WholeSheet], kept: Kept) -> WholeSheet:
    """The sheet with what it takes over, without what a repair has made out of date since."""
    mine = _seen(whole)
    sheets = [*before, whole]
    done = repaired(kept, {i.id: i.label for i in whole.injectors}, sheets)
    carried = NOTHING
    if mine is not None:
        others = [seen for other in before if (seen := _seen(other)) is not None]
        outdated = outdated_for(whole.sheet.key, {w.sheet.key: w.sheet.kind for w in sheets}, done)
        carried = carried_over(mine, others, outdated)
    renewed = renewed_for(whole.sheet.key, whole.sheet.kind, done)
    return replace(whole, carried=worked_on(carried, renewed))


def _seen(whole: WholeSheet) -> Earlier | None:
    return earlier(head_of(whole), noted_on(whole))
