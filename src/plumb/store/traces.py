"""Traces in the store: what was found in them, and their text as it came, in packed pieces."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, cast

from sqlalchemy import Connection, Table, delete, insert, select, update

from plumb.store.sheets import SHEET, inserted
from plumb.store.tables import TracePartRow, TraceRow

TRACE = cast("Table", TraceRow.__table__)
PART = cast("Table", TracePartRow.__table__)


@dataclass(frozen=True, slots=True)
class TraceRecord:
    """A trace of a sheet."""

    id: int
    sheet_id: int
    request_id: str
    name: str
    samples: int
    taken_at: Any
    body: dict[str, Any]


_COLUMNS = tuple(TRACE.c[name] for name in TraceRecord.__slots__)


def newest_trace(connection: Connection, sheet_id: int) -> TraceRecord | None:
    """The newest trace of a sheet, None where it has none."""
    query = select(*_COLUMNS).where(TRACE.c.sheet_id == sheet_id).order_by(TRACE.c.id.desc())
    row = connection.execute(query.limit(1)).first()
    return None if row is None else TraceRecord(*row)


def newest_traces(connection: Connection, job_id: int) -> dict[str, TraceRecord]:
    """The newest trace of each sheet of a job, by the sheet's key."""
    query = select(SHEET.c.key, *_COLUMNS).join(SHEET, SHEET.c.id == TRACE.c.sheet_id)
    rows = connection.execute(query.where(SHEET.c.job_id == job_id).order_by(TRACE.c.id)).all()
    return {key: TraceRecord(*rest) for key, *rest in rows}


def trace_names(connection: Connection, sheet_id: int) -> list[tuple[int, str]]:
    """The traces of a sheet, newest first: their ids and names."""
    query = select(TRACE.c.id, TRACE.c.name).where(TRACE.c.sheet_id == sheet_id)
    rows = connection.execute(query.order_by(TRACE.c.id.desc())).all()
    return [(int(i), str(name)) for i, name in rows]


def trace_by_id(connection: Connection, trace_id: int) -> TraceRecord | None:
    """A trace, None where there is none."""
    row = connection.execute(select(*_COLUMNS).where(TRACE.c.id == trace_id)).first()
    return None if row is None else TraceRecord(*row)


def trace_by_request(connection: Connection, request_id: str) -> int | None:
    """The trace that a browser's request brought in already."""
    return connection.scalar(select(TRACE.c.id).where(TRACE.c.request_id == request_id))


def add_trace(connection: Connection, values: Mapping[str, Any], parts: Sequence[bytes]) -> int:
    """Store a trace and its packed text; its new id."""
    trace_id = inserted(connection, TRACE, values)
    for number, data in enumerate(parts):
        connection.execute(insert(PART).values(trace_id=trace_id, number=number, data=data))
    return trace_id


def put_trace(connection: Connection, values: Mapping[str, Any], parts: Sequence[bytes]) -> int:
    """Store a trace, or a longer one in place of the one of the same request; its id."""
    there = trace_by_request(connection, values["request_id"])
    if there is None:
        return add_trace(connection, values, parts)
    connection.execute(update(TRACE).where(TRACE.c.id == there).values(**values))
    connection.execute(delete(PART).where(PART.c.trace_id == there))
    for number, data in enumerate(parts):
        connection.execute(insert(PART).values(trace_id=there, number=number, data=data))
    return there


def change_body(connection: Connection, trace_id: int, body: Mapping[str, Any]) -> None:
    """Keep what was found in a trace after someone moved a mark."""
    connection.execute(update(TRACE).where(TRACE.c.id == trace_id).values(body=dict(body)))


def drop_traces(connection: Connection, sheet_id: int) -> None:
    """Forget the traces of a sheet: a new one takes their place."""
    connection.execute(delete(TRACE).where(TRACE.c.sheet_id == sheet_id))


def parts_of(connection: Connection, trace_id: int) -> Iterator[bytes]:
    """The packed pieces of a trace's text, in order, one at a time."""
    count = len(connection.execute(select(PART.c.number).where(PART.c.trace_id == trace_id)).all())
    for number in range(count):
        query = select(PART.c.data).where(PART.c.trace_id == trace_id, PART.c.number == number)
        yield bytes(connection.execute(query).scalar_one())
