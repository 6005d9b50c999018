"""What a person does with a trace: look at its beginning, bring it onto a sheet, look at it again."""

import zlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Final

from sqlalchemy import Connection, Engine

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import NotThere, PlumbError, Problem
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.tracecolumns import PRESSURES, guess, pick
from plumb.jobfile.tracefile import TraceReader, TraceTable, harmless
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.kinds.tracing import Found, Tracing, Wanted
from plumb.service.screens.trace import trace_view
from plumb.service.stored.known import known_sheet
from plumb.service.stored.parts import checked, engine_of, now, sheet_columns, sheet_json
from plumb.service.views.trace import ColumnView, RoleView, TraceHeadView, TraceView
from plumb.store import sheets as sheet_store
from plumb.store import traces as store
from plumb.store.records import WholeSheet
from plumb.store.session import retried, transaction
from plumb.store.traces import TraceRecord

_PACKED: Final = 4 << 20
"""A piece of packed text is so large at most: what one statement of the database takes."""


class Incoming:
    """A trace on its way in: read and packed piece by piece, never whole in memory as text."""

    def __init__(self) -> None:
        """Nothing yet."""
        self._reader = TraceReader()
        self._pack = zlib.compressobj(1)
        self._parts: list[bytes] = []
        self._part = bytearray()

    def feed(self, data: bytes) -> None:
        """More of the file; :class:`PlumbError` as soon as a line does not fit."""
        self._reader.feed(data)
        self._keep(self._pack.compress(data))

    def close(self) -> tuple[TraceTable, list[bytes]]:
        """The table, and the packed text."""
        table = self._reader.close()
        self._keep(self._pack.flush())
        if self._part:
            self._parts.append(bytes(self._part))
        return table, self._parts

    def _keep(self, data: bytes) -> None:
        self._part += data
        while len(self._part) >= _PACKED:
            self._parts.append(bytes(self._part[:_PACKED]))
            del self._part[:_PACKED]


@dataclass(frozen=True, slots=True, kw_only=True)
class NewTrace:
    """What comes with a trace: its name, which column is what, and a unit the header lacks."""

    request_id: str
    name: str = ""
    picks: Mapping[str, str] = field(default_factory=dict)
    unit: str = ""


def tracing(kind: str) -> Tracing:
    """What a sheet of that kind makes of a trace; :class:`PlumbError` where it takes none."""
    found = SCREEN_KINDS[kind].trace
    if found is None:
        known = ", ".join(code for code, k in SCREEN_KINDS.items() if k.trace)
        raise PlumbError(
            Problem(path="sheet", rule=f"traces are for {known}", value=kind, code="no_trace")
        )
    return found


def look_at_head(kind: str, text: bytes) -> TraceHeadView:
    """The columns of a file from its beginning; the last line may be cut off."""
    tracing(kind)
    wanted = FILE_KINDS[kind].roles
    reader = TraceReader()
    whole = text[: text.rfind(b"\n") + 1] or text
    try:
        reader.feed(whole)
        table = reader.close()
    except PlumbError as error:
        return TraceHeadView(
            fits=False, columns=[], roles=[], unit_missing=False,
            problems=[p.text() for p in error.problems],
        )  # fmt: skip
    picks = guess(wanted, table.columns)
    pressures = [c for c in table.columns for r in wanted
                 if r.pressure and picks[r.code] == c.name]  # fmt: skip
    return TraceHeadView(
        fits=True,
        columns=[
            ColumnView(name=c.name, unit=c.unit, cells=[f"{v:g}" for v in table.values[:3, n]])
            for n, c in enumerate(table.columns)
        ],
        roles=[
            RoleView(code=r.code, label=r.label, needed=r.needed, column=picks[r.code])
            for r in wanted
        ],
        unit_missing=any(c.unit.lower() not in PRESSURES for c in pressures),
        problems=[],
    )


def add_trace(
    engine: Engine, sheet_id: int, incoming: Incoming, wanted: NewTrace, thresholds: Thresholds
) -> TraceView:
    """Keep a whole trace on a sheet, in place of an earlier one, and say what was found in it.

    Raises :class:`PlumbError` for a column that is missing and for a trace with nothing in it; then
    nothing is stored.  The same request again changes nothing.
    """
    return _stored(engine, sheet_id, incoming.close(), wanted, thresholds)


@retried
def _stored(
    engine: Engine, sheet_id: int, came: tuple[TraceTable, list[bytes]], wanted: NewTrace,
    thresholds: Thresholds,
) -> TraceView:  # fmt: skip
    table, parts = came
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
        there = store.trace_by_request(connection, wanted.request_id) is not None
    # Looked through before the sheet is locked: nobody who types on it waits for that.
    looked = None if there else look(whole, table, wanted)
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id, lock=True)
        if looked and store.trace_by_request(connection, wanted.request_id) is None:
            _keep(connection, whole, looked, parts, (wanted, len(table.values)))
            whole = known_sheet(connection, sheet_id)
        record = store.newest_trace(connection, sheet_id)
        names = store.trace_names(connection, sheet_id)
    return trace_view(whole, record, names, thresholds)


def look(whole: WholeSheet, table: TraceTable, wanted: NewTrace) -> Found:
    """What is in a trace, and which of its columns it was found in."""
    find = tracing(whole.sheet.kind).find
    at = pick(FILE_KINDS[whole.sheet.kind].roles, table, wanted.picks)
    found = find(table, at, wanted_of(whole, wanted.unit))
    picks = {role: table.columns[k].name for role, k in at.items()}
    return replace(found, body={**found.body, "picks": picks, "told_unit": wanted.unit})


def _keep(
    connection: Connection, whole: WholeSheet, found: Found, parts: list[bytes],
    told: tuple[NewTrace, int],
) -> None:  # fmt: skip
    """Put what was found on the sheet, and the trace beside it; ``told`` ends with its samples."""
    sheet = whole.sheet
    wanted, samples = told
    name = wanted.name[:120]
    if found.conditions:
        noted = {"name": name, "samples": samples}
        data = {**sheet_json(whole), **found.conditions}
        data["trace"] = {**data["trace"], **noted}
        if found.unit:
            data["unit"] = found.unit
        new = sheet_columns(checked(data), sheet.job_id, sheet.vehicle_id)
        sheet_store.change_sheet(connection, sheet.id, {k: new[k] for k in ("unit", "conditions")})
    else:
        sheet_store.touch_sheet(connection, sheet.id)
    if not tracing(sheet.kind).many:
        store.drop_traces(connection, sheet.id)
    store.add_trace(
        connection,
        {
            "sheet_id": sheet.id, "request_id": wanted.request_id, "name": name,
            "samples": samples, "taken_at": now(), "body": found.body,
        },
        parts,
    )  # fmt: skip


def wanted_of(whole: WholeSheet, unit: str) -> Wanted:
    """What a trace of this sheet is looked through for; ``unit`` where no header says it."""
    return Wanted(cylinders=len(engine_of(whole).numbers()), step=whole.sheet.gauge_step, unit=unit)


@retried
def show_trace(
    engine: Engine, sheet_id: int, thresholds: Thresholds, trace_id: int | None = None
) -> TraceView | None:
    """The newest trace of a sheet, or the one that is named; None where it has none.

    Raises :class:`NotThere` for a sheet that is not there, and for a trace that is not on it.
    """
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
        if trace_id is None:
            record = store.newest_trace(connection, sheet_id)
        else:
            record, _ = known_trace(connection, trace_id, sheet_id=sheet_id)
        kept = whole.sheet.conditions
        if record is None and not (kept.get("series") or kept.get("trace")):
            return None
        names = store.trace_names(connection, sheet_id)
    return trace_view(whole, record, names, thresholds)


def known_trace(
    connection: Connection, trace_id: int, *, sheet_id: int | None = None, lock: bool = False
) -> tuple[TraceRecord, WholeSheet]:
    """A trace and its sheet; ``sheet_id`` asks for a trace of that sheet, ``lock`` locks the sheet.

    Raises :class:`NotThere`.
    """
    record = store.trace_by_id(connection, trace_id)
    if record is None or sheet_id not in {None, record.sheet_id}:
        raise NotThere(
            Problem(path="trace", rule="there is no such trace", value=str(trace_id),
                    code="no_such_trace")
        )  # fmt: skip
    whole = known_sheet(connection, record.sheet_id, lock=lock)
    if lock:
        # While the sheet was waited for, somebody else may have taken bursts of this trace.
        record = store.trace_by_id(connection, trace_id) or record
    return record, whole


def unpacked(parts: Iterator[bytes]) -> Iterator[bytes]:
    """The text of a trace as it came in, piece by piece."""
    unpack = zlib.decompressobj()
    for part in parts:
        yield unpack.decompress(part)
    yield unpack.flush()


@retried
def trace_text(engine: Engine, trace_id: int) -> tuple[str, bytes]:
    """The name and the text of a trace as it came in; a name of a column is never a formula."""
    with transaction(engine) as connection:
        record, _ = known_trace(connection, trace_id)
        text = b"".join(unpacked(store.parts_of(connection, trace_id)))
    return record.name or f"trace-{trace_id}.csv", harmless(text)
