"""By which words a job or a vehicle is found: every beginning of each of them, in a table of its own.

A search is then a look into an index, however many jobs there are, and its newest hits come first
without anything being sorted.  Letters are taken small and without accents; what stands between letters and
digits is passed over, so that ``SM-14``, ``sm 14`` and ``SM14`` are the same.
"""

import unicodedata
from collections.abc import Collection, Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime
from typing import Any, Final, NamedTuple, cast

from sqlalchemy import (
    ColumnElement,
    Connection,
    FromClause,
    Select,
    Table,
    and_,
    func,
    select,
    tuple_,
    union_all,
)

from plumb.store.tables import FoundRow, JobRow, VehicleRow

FOUND = cast("Table", FoundRow.__table__)
JOB = cast("Table", JobRow.__table__)
VEHICLE = cast("Table", VehicleRow.__table__)

LONGEST: Final = 10
"""So many letters of a word count; what is longer is found by its beginning."""
MOST_WORDS: Final = 12
"""So many different words of a search are looked for; nobody types more."""
OPEN_JOB: Final = 0
CLOSED_JOB: Final = 1
OF_VEHICLE: Final = 2
MOST_COUNTED: Final = 1000
"""Beyond so many it is only said that there are more."""
_NO_DAY: Final = datetime(2000, 1, 1)  # noqa: DTZ001  a place in an order, not a moment
_IN_A_GO: Final = 500
_IN_A_STATEMENT: Final = 2000


class Row(NamedTuple):
    """One word by which one thing is found."""

    word: str
    place: int
    at: datetime
    id: int


def _plain(text: str) -> str:
    """Small letters without accents."""
    apart = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in apart if not unicodedata.combining(c))


def asked(find: str) -> list[str]:
    """The words of a search as the table has them; those without a letter or a digit are passed over."""
    words = ("".join(c for c in _plain(word) if c.isalnum()) for word in find.split())
    return list(dict.fromkeys(w[:LONGEST] for w in words if w))[:MOST_WORDS]


def beginnings(text: str, *, anywhere: bool = False) -> set[str]:
    """Every word by which a text is found: from each of its beginnings on, blanks and dashes passed over.

    A beginning is where a word begins, and where letters turn into digits or back; ``anywhere``: at
    every letter, as a plate wants it, and after the noughts of a code.
    """
    closed: list[str] = []
    starts: list[int] = []
    before = ""
    for c in _plain(text):
        if c.isalnum():
            if anywhere or not before.isalnum() or before.isdecimal() != c.isdecimal():
                starts.append(len(closed))
            closed.append(c)
        before = c
    whole = "".join(closed)
    return {
        whole[start : start + n]
        for start in starts
        for n in range(1, min(LONGEST, len(whole) - start) + 1)
    }


def _of_vehicle(name: str, registration: str) -> set[str]:
    return beginnings(name) | beginnings(registration, anywhere=True)


def _of_job(number: str, complaint: str, codes: Sequence[str]) -> set[str]:
    made = beginnings(number)
    for word in complaint.split():
        made |= beginnings(word)
    for code in codes:
        made |= beginnings(code, anywhere=True)
    return made


_JOBS = select(
    JOB.c.id, JOB.c.number, JOB.c.complaint, JOB.c.codes, JOB.c.closed_at, JOB.c.opened_at,
    VEHICLE.c.name, VEHICLE.c.registration,
).join(VEHICLE, VEHICLE.c.id == JOB.c.vehicle_id)  # fmt: skip
_VEHICLES = select(VEHICLE.c.id, VEHICLE.c.name, VEHICLE.c.registration)


def _job_rows(connection: Connection, which: ColumnElement[bool]) -> set[Row]:
    made: set[Row] = set()
    for row in connection.execute(_JOBS.where(which)):
        place = OPEN_JOB if row.closed_at is None else CLOSED_JOB
        words = _of_job(row.number, row.complaint, row.codes)
        words |= _of_vehicle(row.name, row.registration)
        made.update(Row(word, place, row.opened_at, row.id) for word in words)
    return made


def _vehicle_rows(connection: Connection, which: ColumnElement[bool]) -> set[Row]:
    return {
        Row(word, OF_VEHICLE, _NO_DAY, row.id)
        for row in connection.execute(_VEHICLES.where(which))
        for word in _of_vehicle(row.name, row.registration)
    }


def _put(connection: Connection, rows: Collection[Row]) -> None:
    # In the order of the index: it is walked once.  Words are letters and digits and need no quoting by the
    # driver, which would take ten times as long as the database.
    for some in _pieces(sorted(rows)):
        values = ",".join(f"('{r.word}',{r.place},'{r.at}',{r.id})" for r in some)
        connection.exec_driver_sql(
            f"INSERT IGNORE INTO found_by (word, place, at, id) VALUES {values}"  # noqa: S608
        )


def _pieces(rows: Sequence[Row]) -> Iterator[Sequence[Row]]:
    for begin in range(0, len(rows), _IN_A_STATEMENT):
        yield rows[begin : begin + _IN_A_STATEMENT]


def _take(connection: Connection, rows: Collection[Row]) -> None:
    key = tuple_(*FOUND.primary_key.columns)
    for some in _pieces(sorted(rows)):
        connection.execute(FOUND.delete().where(key.in_([tuple(r) for r in some])))


@contextmanager
def followed(
    connection: Connection, *, job_id: int | None = None, vehicle_id: int | None = None
) -> Iterator[None]:
    """What is changed of a job, or of a vehicle with all of its jobs, is found by its new words after the block."""
    before = _rows_of(connection, job_id, vehicle_id)
    yield
    after = _rows_of(connection, job_id, vehicle_id)
    _take(connection, before - after)
    _put(connection, after - before)


def _rows_of(connection: Connection, job_id: int | None, vehicle_id: int | None) -> set[Row]:
    made = set() if job_id is None else _job_rows(connection, JOB.c.id == job_id)
    if vehicle_id is not None:
        made |= _job_rows(connection, JOB.c.vehicle_id == vehicle_id)
        made |= _vehicle_rows(connection, VEHICLE.c.id == vehicle_id)
    return made


def made_job(connection: Connection, job_id: int) -> None:
    """A job that has just been stored can be found."""
    _put(connection, _job_rows(connection, JOB.c.id == job_id))


def made_vehicle(connection: Connection, vehicle_id: int) -> None:
    """A vehicle that has just been stored can be found."""
    _put(connection, _vehicle_rows(connection, VEHICLE.c.id == vehicle_id))


def fill(connection: Connection) -> None:
    """Make all of it anew, from the jobs and vehicles that are there."""
    connection.execute(FOUND.delete())
    for table, rows_of in ((JOB, _job_rows), (VEHICLE, _vehicle_rows)):
        last = connection.scalar(select(func.max(table.c.id))) or 0
        for begin in range(0, last, _IN_A_GO):
            _put(connection, rows_of(connection, table.c.id.between(begin + 1, begin + _IN_A_GO)))


def _hits(words: Sequence[str], place: int) -> Select[tuple[datetime, int]]:
    """What one place has for all of these words, the newest first; the first word leads the way."""
    tables = [FOUND.alias(f"word_{n}") for n, _ in enumerate(words)]
    first = tables[0]
    joined: FromClause = first
    for one in tables[1:]:
        same = and_(one.c.place == first.c.place, one.c.at == first.c.at, one.c.id == first.c.id)
        joined = joined.join(one, same)
    wanted = [one.c.word == word for one, word in zip(tables, words, strict=True)]
    return (
        select(first.c.at, first.c.id)
        .prefix_with("STRAIGHT_JOIN")
        .select_from(joined)
        .where(first.c.place == place, *wanted)
        .order_by(first.c.at.desc(), first.c.id.desc())
    )


def _counted(connection: Connection, query: Select[tuple[datetime, int]]) -> int:
    """How many hits, counted no further than one beyond :data:`MOST_COUNTED`."""
    some = query.order_by(None).limit(MOST_COUNTED + 1).subquery()
    return connection.scalar(select(func.count()).select_from(some)) or 0


def search(
    connection: Connection, find: str, places: Sequence[int], *, skip: int, most: int
) -> tuple[int, list[int]]:
    """What has every word of a search: how many, and the ids of ``most`` of them, newest first, after ``skip``.

    They are counted up to one beyond :data:`MOST_COUNTED`.  A search without a letter or a digit finds nothing.
    """
    words = asked(find)
    if not words:
        return 0, []
    if len(words) > 1:
        # The rarest word leads: few are left to be looked up by the others.
        words.sort(key=lambda w: sum(_counted(connection, _hits([w], p)) for p in places))
    total = sum(_counted(connection, _hits(words, p)) for p in places)
    if not total:
        return 0, []
    parts: list[Select[Any]] = [
        select(_hits(words, p).limit(skip + most).subquery()) for p in places
    ]
    hits = union_all(*parts).subquery()
    query = select(hits.c.id).order_by(hits.c.at.desc(), hits.c.id.desc())
    return total, list(connection.scalars(query.offset(skip).limit(most)))
