"""What was changed by whom: written by the database itself, sealed one over the other.

Triggers write an entry for every row of the tables in :data:`KEPT` that is made, changed or taken away,
in the same transaction: no use of the store can forget it, and a hand at the database's own console is
written down too, as nobody of the shop's.  Who is at it stands in variables of the connection.  Entries
cannot be changed or taken away: the triggers of their own table refuse it.  Whoever owns the database's
files can still do it, and that is found: every entry carries the hash of itself and the one before.
"""

import hashlib
import json
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Final, cast

from sqlalchemy import (
    ColumnElement,
    Connection,
    Engine,
    Table,
    bindparam,
    inspect,
    or_,
    select,
    text,
    update,
)
from sqlalchemy.dialects.mysql import insert as mysql_insert

from plumb.store.columns import anywhere
from plumb.store.session import quiet, retried, transaction
from plumb.store.tables import Base, InjectorRow, JobRow, Preference, SheetRow
from plumb.store.tables_people import ChangeHeadRow, ChangeRow, PersonRow

CHANGE = cast("Table", ChangeRow.__table__)
HEAD = cast("Table", ChangeHeadRow.__table__)
SHEET = cast("Table", SheetRow.__table__)
PREFERENCE = cast("Table", Preference.__table__)

KEPT: Final[Mapping[str, tuple[str, ...]]] = {
    "vehicle": (), "injector": (), "gauge": (), "shelf": (), "preference": (), "shop": ("logo",),
    "job": ("version",), "sheet": ("version",), "reading": ("sequence",), "trace": ("body",),
    "confirmed_cause": (), "sighting": (), "repair": (), "part": (), "choice": (), "thing": (), "answer": (),
    "signature": (), "old_figure": (), "photo": ("data", "small"),
    "person": ("password_hash", "pin_hash"), "device": ("token_hash", "last_seen"),
    "sign_in": ("token_hash", "last_seen"), "code": ("code_hash",), "attempt": (),
}  # fmt: skip
"""The tables whose changes are kept, and the columns that are no news (or too large, or secret)."""

_STAMP: Final = "journal_triggers"
_BEGIN: Final = "0" * 64
"""The hash before the first entry."""
_IN_A_GO: Final = 2000


def _json(which: str, names: Sequence[str]) -> str:
    """A row as JSON without what is empty: a merge patch (RFC 7396) leaves null out."""
    pairs = ", ".join(f"'{n}', {which}.`{n}`" for n in names)
    return f"JSON_MERGE_PATCH('{{}}', JSON_OBJECT({pairs}))"


def _trigger(table: Table, event: str) -> str:
    """The statement that makes one trigger."""
    left_out = KEPT[table.name]
    names = [c.name for c in table.columns if c.name not in left_out]
    row = "OLD" if event == "DELETE" else "NEW"
    here = {"job": "id"} if table.name == "job" else {}
    job = f"{row}.`{here.get('job', 'job_id')}`" if here or "job_id" in table.c else "NULL"
    sheet = f"{row}.`id`" if table.name == "sheet" else "NULL"
    sheet = f"{row}.`sheet_id`" if "sheet_id" in table.c else sheet
    key = ", ".join(f"{row}.`{c.name}`" for c in table.primary_key.columns)
    # Letters that a collation takes for the same are a change all the same.
    same = " AND ".join(f"BINARY OLD.`{n}` <=> BINARY NEW.`{n}`" for n in names)
    unless = f" AND NOT ({same})" if event == "UPDATE" else ""
    was = "NULL" if event == "INSERT" else _json("OLD", names)
    became = "NULL" if event == "DELETE" else _json("NEW", names)
    doing = {"INSERT": "made", "UPDATE": "changed", "DELETE": "taken away"}[event]
    return (
        f"CREATE TRIGGER plumb_{event.lower()}_{table.name} AFTER {event} ON `{table.name}`"  # noqa: S608  own names
        f" FOR EACH ROW BEGIN IF @plumb_quiet IS NULL{unless} THEN"
        " INSERT INTO change_entry (at, by_id, by_name, device, what, doing, job_id, sheet_id,"
        " row_key, was, became) VALUES (UTC_TIMESTAMP(6), @plumb_by_id,"
        " COALESCE(@plumb_by, '(not by Plumb)'), COALESCE(@plumb_device, ''),"
        f" '{table.name}', '{doing}', {job}, {sheet}, LEFT(CONCAT_WS('/', {key}), 120),"
        f" {was}, {became}); END IF; END"
    )


_REFUSED: Final = "SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'what was done stays written down'"


def _never() -> tuple[str, str]:
    """What keeps entries as they are: none is taken away, and none changed but by its seal."""
    same = " AND ".join(
        f"BINARY OLD.`{c.name}` <=> BINARY NEW.`{c.name}`"
        for c in CHANGE.columns
        if c.name not in {"seq", "hash"}
    )
    on = "ON change_entry FOR EACH ROW"
    unless = f"OLD.seq IS NOT NULL OR NOT ({same})"
    return (
        f"CREATE TRIGGER plumb_keep_change_entry BEFORE DELETE {on} {_REFUSED}",
        f"CREATE TRIGGER plumb_hold_change_entry BEFORE UPDATE {on} BEGIN IF {unless} THEN {_REFUSED}; END IF; END",
    )


def triggers() -> dict[str, str]:
    """Every trigger by its name, with the statement that makes it."""
    made = [
        _trigger(Base.metadata.tables[name], event)
        for name in KEPT
        for event in ("INSERT", "UPDATE", "DELETE")
    ]
    return {statement.split()[2]: statement for statement in (*made, *_never())}


def watch(engine: Engine) -> bool:
    """Make the triggers as this program has them, unless they are there; true when they were made."""
    wanted = triggers()
    stamp = hashlib.sha256("\n".join(wanted.values()).encode()).hexdigest()
    with transaction(engine) as connection:
        query = select(PREFERENCE.c.value).where(PREFERENCE.c.name == _STAMP)
        if connection.execute(query).scalar() == stamp:
            return False
        _drop(connection)
        for statement in wanted.values():
            connection.exec_driver_sql(statement)
        with quiet(connection):
            values = mysql_insert(PREFERENCE).values(name=_STAMP, value=stamp)
            connection.execute(values.on_duplicate_key_update(value=stamp))
    return True


def unwatch(engine: Engine) -> None:
    """Take the triggers away, before tables are made over that they speak of; :func:`watch` makes them anew."""
    with transaction(engine) as connection:
        _drop(connection)
        # The oldest release had no such table.
        if inspect(connection).has_table(PREFERENCE.name):
            connection.execute(PREFERENCE.delete().where(PREFERENCE.c.name == _STAMP))


def _drop(connection: Connection) -> None:
    there = connection.execute(
        text(
            "SELECT trigger_name FROM information_schema.triggers WHERE trigger_schema ="
            " DATABASE() AND trigger_name LIKE 'plumb\\_%'"
        )
    )
    for name in there.scalars().all():
        connection.execute(text(f"DROP TRIGGER `{name}`"))


@dataclass(frozen=True, slots=True)
class Entry:
    """One change; ``was`` and ``became`` are JSON text, None where there was or is no such row."""

    id: int
    at: datetime
    by_id: int | None
    by_name: str
    device: str
    what: str
    doing: str
    job_id: int | None
    sheet_id: int | None
    row_key: str
    was: str | None
    became: str | None
    seq: int | None
    hash: str | None


_COLUMNS: Final = [CHANGE.c[name] for name in Entry.__slots__]


def hash_of(entry: Entry, seq: int, before: str) -> str:
    """The seal of an entry at its place, over the seal before it: SHA-256, in hex."""
    told = [
        before, seq, entry.id, entry.at.isoformat(), entry.by_id, entry.by_name, entry.device, entry.what,
        entry.doing, entry.job_id, entry.sheet_id, entry.row_key, entry.was, entry.became,
    ]  # fmt: skip
    return hashlib.sha256(json.dumps(told, ensure_ascii=True).encode()).hexdigest()


@retried
def seal(engine: Engine) -> int:
    """Seal what is not sealed yet, in the order in which it was written; how many entries."""
    sealed = 0
    while (some := _seal_some(engine)) > 0:
        sealed += some
    return sealed


def _seal_some(engine: Engine) -> int:
    with transaction(engine) as connection:
        seq, last = _head(connection, lock=True)
        query = select(*_COLUMNS).where(CHANGE.c.seq.is_(None)).order_by(CHANGE.c.id)
        entries = [Entry(*row) for row in connection.execute(query.limit(_IN_A_GO))]
        done: list[dict[str, Any]] = []
        for entry in entries:
            seq += 1
            last = hash_of(entry, seq, last)
            done.append({"entry": entry.id, "place": seq, "word": last})
        if done:
            one = update(CHANGE).where(CHANGE.c.id == bindparam("entry"))
            connection.execute(one.values(seq=bindparam("place"), hash=bindparam("word")), done)
            put = mysql_insert(HEAD).values(id=1, seq=seq, hash=last)
            connection.execute(put.on_duplicate_key_update(seq=seq, hash=last))
        return len(done)


def _head(connection: Connection, *, lock: bool = False) -> tuple[int, str]:
    if lock:
        # The row itself is what two who seal at once wait for each other at.
        put = mysql_insert(HEAD).values(id=1, seq=0, hash=_BEGIN)
        connection.execute(put.on_duplicate_key_update(id=1))
    query = select(HEAD.c.seq, HEAD.c.hash).where(HEAD.c.id == 1)
    row = connection.execute(query.with_for_update() if lock else query).first()
    return (row.seq, row.hash) if row else (0, _BEGIN)


@dataclass(frozen=True, slots=True)
class Checked:
    """How many sealed entries were looked at, the last seal, and in words what is wrong, or nothing."""

    entries: int
    hash: str
    wrong: str = ""


def check(entries: Iterator[Entry], head: tuple[int, str] | None = None) -> Checked:
    """Whether each entry is what was sealed, none is missing, and the last is the ``head``."""
    seq, last = 0, _BEGIN
    for entry in entries:
        if entry.seq != seq + 1:
            return Checked(
                seq, last, f"after entry {seq} comes entry {entry.seq}: some are missing"
            )
        if hash_of(entry, entry.seq, last) != entry.hash:
            return Checked(seq, last, f"entry {entry.seq} is not what it was when it was sealed")
        seq, last = entry.seq, entry.hash or ""
    if head is not None and head != (seq, last):
        return Checked(seq, last, f"entry {seq} is the last; there were {head[0]}")
    return Checked(seq, last)


def check_all(engine: Engine) -> Checked:
    """Seal what waits, then look at every entry."""
    seal(engine)
    with transaction(engine) as connection:
        # One picture of both: what is sealed meanwhile belongs to the next look.
        head = _head(connection, lock=True)
        return check(sealed(connection), head)


def sealed(connection: Connection) -> Iterator[Entry]:
    """Every sealed entry, from the first; a piece at a time, for there may be millions."""
    last = 0
    while True:
        query = select(*_COLUMNS).where(CHANGE.c.seq > last).order_by(CHANGE.c.seq).limit(_IN_A_GO)
        entries = [Entry(*row) for row in connection.execute(query)]
        yield from entries
        if len(entries) < _IN_A_GO:
            return
        last = entries[-1].seq or 0


def find(
    connection: Connection, wanted: Sequence[ColumnElement[bool]], most: int, before: int | None
) -> list[Entry]:
    """Entries that fit, the newest first; only those older than the entry ``before``."""
    query = select(*_COLUMNS).where(*wanted).order_by(CHANGE.c.id.desc()).limit(most)
    if before is not None:
        query = query.where(CHANGE.c.id < before)
    return [Entry(*row) for row in connection.execute(query)]


def of_job(job_id: int) -> ColumnElement[bool]:
    """What belongs to a job: its own, and all of its sheets."""
    sheets = select(SHEET.c.id).where(SHEET.c.job_id == job_id)
    return or_(CHANGE.c.job_id == job_id, CHANGE.c.sheet_id.in_(sheets))


def names(connection: Connection) -> list[str]:
    """Everybody who ever changed something, by name."""
    query = select(CHANGE.c.by_name).distinct().order_by(CHANGE.c.by_name)
    return list(connection.execute(query).scalars())


def holds(find: str) -> ColumnElement[bool]:
    """Whether a word stands in a change, as it was or as it became."""
    like = anywhere(find)
    return or_(CHANGE.c.was.like(like), CHANGE.c.became.like(like))


def sheets_named(connection: Connection, ids: Collection[int]) -> dict[int, tuple[int, str]]:
    """Job and kind of these sheets, as far as they are still there."""
    query = select(SHEET.c.id, SHEET.c.job_id, SHEET.c.kind).where(SHEET.c.id.in_(ids))
    return {r.id: (r.job_id, r.kind) for r in connection.execute(query)}


def job_numbers(connection: Connection, ids: Collection[int]) -> dict[int, str]:
    """The numbers of these jobs, as far as they are still there."""
    query = select(JobRow.id, JobRow.number).where(JobRow.id.in_(ids))
    return {r.id: r.number for r in connection.execute(query)}


def injector_labels(connection: Connection, ids: Collection[int]) -> dict[int, str]:
    """What these injectors are called."""
    query = select(InjectorRow.id, InjectorRow.label).where(InjectorRow.id.in_(ids))
    return {r.id: r.label for r in connection.execute(query)}


def person_names(connection: Connection, ids: Collection[int]) -> dict[int, str]:
    """What these people are called now."""
    query = select(PersonRow.id, PersonRow.name).where(PersonRow.id.in_(ids))
    return {r.id: r.name for r in connection.execute(query)}


def entry_from(row: Mapping[str, Any]) -> Entry:
    """An entry from what was handed on of it; :class:`KeyError`, :class:`ValueError` if it is none."""
    values = {name: row[name] for name in Entry.__slots__}
    return Entry(**{**values, "at": datetime.fromisoformat(values["at"])})
