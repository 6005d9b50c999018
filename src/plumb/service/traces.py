"""What a person does with a trace: bring it onto a sheet, look at it, move its marks, take readings."""

import uuid
import zlib
from collections import OrderedDict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from threading import Lock
from typing import Any, Final

from sqlalchemy import Connection, Engine

from plumb.core.decision import Thresholds
from plumb.core.pressure_log import DOUBTS, PressureLog, reread
from plumb.core.problems import Conflict, NotThere, PlumbError, Problem
from plumb.core.quantities import KPA_PER
from plumb.jobfile.tracecolumns import PRESSURES, ROLES, guess, pick
from plumb.jobfile.tracefile import TraceReader, TraceTable
from plumb.service.figures import NewReading
from plumb.service.parts import now, sheet_columns, sheet_json
from plumb.service.readings import add_reading
from plumb.service.sheet_view import sheet_view
from plumb.service.sheets import checked, known_sheet
from plumb.service.trace_found import Found, Wanted, burst_json, channel, finder, read_log
from plumb.service.trace_screen import trace_view, typed
from plumb.service.trace_views import ColumnView, PartView, RoleView, TraceHeadView, TraceView
from plumb.service.views import SheetView
from plumb.store import sheets as sheet_store
from plumb.store import traces as store
from plumb.store.records import WholeSheet
from plumb.store.session import transaction
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


def look_at_head(kind: str, text: bytes) -> TraceHeadView:
    """The columns of a file from its beginning; the last line may be cut off."""
    finder(kind)
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
    picks = guess(kind, table.columns)
    pressures = [c for c in table.columns for r in ROLES[kind]
                 if r.pressure and picks[r.code] == c.name]  # fmt: skip
    return TraceHeadView(
        fits=True,
        columns=[
            ColumnView(name=c.name, unit=c.unit, cells=[f"{v:g}" for v in table.values[:3, n]])
            for n, c in enumerate(table.columns)
        ],
        roles=[
            RoleView(code=r.code, label=r.label, needed=r.needed, column=picks[r.code])
            for r in ROLES[kind]
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
    table, parts = incoming.close()
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
        there = store.trace_by_request(connection, wanted.request_id) is not None
    # Looked through before the sheet is locked: nobody who types on it waits for that.
    looked = None if there else _look(whole, table, wanted)
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id, lock=True)
        if looked and store.trace_by_request(connection, wanted.request_id) is None:
            _keep(connection, whole, looked, parts, (wanted, len(table.values)))
            whole = known_sheet(connection, sheet_id)
        record = store.newest_trace(connection, sheet_id)
    return trace_view(whole, record, thresholds)


def _look(whole: WholeSheet, table: TraceTable, wanted: NewTrace) -> Found:
    """What is in a trace, and which of its columns it was found in."""
    find = finder(whole.sheet.kind)
    at = pick(whole.sheet.kind, table, wanted.picks)
    found = find(table, at, _wanted(whole, wanted.unit))
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
    if sheet.kind != "pressure_drop":
        store.drop_traces(connection, sheet.id)
    store.add_trace(
        connection,
        {
            "sheet_id": sheet.id, "request_id": wanted.request_id, "name": name,
            "samples": samples, "taken_at": now(), "body": found.body,
        },
        parts,
    )  # fmt: skip


def _wanted(whole: WholeSheet, unit: str) -> Wanted:
    return Wanted(cylinders=len(whole.injectors), step=whole.sheet.gauge_step, unit=unit)


def show_trace(engine: Engine, sheet_id: int, thresholds: Thresholds) -> TraceView | None:
    """The trace of a sheet, None where it has none."""
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
        record = store.newest_trace(connection, sheet_id)
    if record is None and not (
        whole.sheet.conditions.get("series") or whole.sheet.conditions.get("trace")
    ):
        return None
    return trace_view(whole, record, thresholds)


@dataclass(frozen=True, slots=True, kw_only=True)
class Take:
    """A burst that is to be the reading of an injector."""

    number: int
    injector: str


def take_bursts(
    engine: Engine, trace_id: int, takes: Sequence[Take], thresholds: Thresholds
) -> SheetView:
    """Make bursts the readings of injectors, all of them or none.

    Raises :class:`NotThere` for a trace or burst that is not there, :class:`Conflict` for a burst
    that was taken already.
    """
    with transaction(engine) as connection:
        record, whole = _known(connection, trace_id)
        bursts = [dict(b) for b in record.body.get("bursts", [])]
        for take in takes:
            burst = _burst(bursts, take.number)
            if burst["reading_id"] in {r.id for r in whole.readings}:
                raise Conflict(
                    Problem(path=f"burst {take.number + 1}", rule="a burst is taken once",
                            value=burst["injector"], code="taken")
                )  # fmt: skip
            reading = _reading(burst, take.injector, record, whole)
            whole = add_reading(connection, reading, whole)
            burst |= {"injector": take.injector, "reading_id": reading.id}
        store.change_body(connection, trace_id, {**record.body, "bursts": bursts})
    return sheet_view(whole, thresholds)


def _reading(
    burst: Mapping[str, Any], injector: str, record: TraceRecord, whole: WholeSheet,
    replaces: str | None = None,
) -> NewReading:  # fmt: skip
    name = record.name or "a trace"
    note = f"from {name}, {float(burst['start_s']):.2f} to {float(burst['end_s']):.2f} s"
    if burst["doubts"]:
        note += "; doubtful: " + ", ".join(DOUBTS[d] for d in burst["doubts"])
    return NewReading(
        id=str(uuid.uuid4()),
        injector=injector,
        first=typed(float(burst["first"]), whole),
        second=typed(float(burst["second"]), whole),
        note=note[:500],
        replaces=replaces,
        # The figures come from a machine: they are between the gauge's steps, and nobody slipped.
        confirmed=("off_step", "far_off", "point_missing", "rise"),
    )


def move_burst(
    engine: Engine, trace_id: int, number: int, span: tuple[float, float], thresholds: Thresholds
) -> TraceView:
    """Read a burst again between begin and end set by hand; a reading taken from it follows."""
    with transaction(engine) as connection:
        record, whole = _known(connection, trace_id)
        bursts = [dict(b) for b in record.body.get("bursts", [])]
        old = _burst(bursts, number)
        log = _log_of(connection, record, whole)
        new = {**burst_json(reread(log, *span, step=whole.sheet.gauge_step)), "moved": True}
        if old["reading_id"] in {r.id for r in whole.readings}:
            label = str(old["injector"])
            reading = _reading(new, label, record, whole, str(old["reading_id"]))
            whole = add_reading(connection, reading, whole)
            new |= {"injector": label, "reading_id": reading.id}
        bursts[number] = new
        body = {**record.body, "bursts": bursts}
        store.change_body(connection, trace_id, body)
        now_there = store.trace_by_id(connection, trace_id)
    return trace_view(whole, now_there, thresholds)


def look_closer(engine: Engine, trace_id: int, from_s: float, to_s: float) -> PartView:
    """A stretch of a pressure log drawn as finely as it was sampled."""
    with transaction(engine) as connection:
        record, whole = _known(connection, trace_id)
        if whole.sheet.kind != "pressure_drop":
            raise PlumbError(
                Problem(path="trace", rule="only a pressure log is looked at more closely",
                        value=whole.sheet.kind, code="no_log")
            )  # fmt: skip
        log = _log_of(connection, record, whole)
    grid = log.grid
    last = len(grid.values[0]) - 1
    a, b = (
        min(max(round((x - grid.t0) * grid.rate), 0), last) for x in (from_s, max(from_s, to_s))
    )
    b = max(b, min(a + 1, last))
    unit = str(record.body.get("unit") or "kPa")
    drawn = channel("pressure", unit, grid.values[0][a : b + 1] / KPA_PER[unit])
    return PartView(
        from_s=grid.t0 + a / grid.rate, to_s=grid.t0 + b / grid.rate, low=drawn["low"],
        high=drawn["high"],
    )  # fmt: skip


def _burst(bursts: list[dict[str, Any]], number: int) -> dict[str, Any]:
    if not 0 <= number < len(bursts):
        raise NotThere(
            Problem(path="burst", rule=f"this log has {len(bursts)} bursts", value=str(number + 1),
                    code="no_such_burst")
        )  # fmt: skip
    return bursts[number]


def _known(connection: Connection, trace_id: int) -> tuple[TraceRecord, WholeSheet]:
    record = store.trace_by_id(connection, trace_id)
    if record is None:
        raise NotThere(
            Problem(path="trace", rule="there is no such trace", value=str(trace_id),
                    code="no_such_trace")
        )  # fmt: skip
    return record, known_sheet(connection, record.sheet_id, lock=True)


_MOST_LOGS: Final = 4
_logs: "OrderedDict[tuple[int, float], PressureLog]" = OrderedDict()
_lock = Lock()


def _log_of(connection: Connection, record: TraceRecord, whole: WholeSheet) -> PressureLog:
    """A log from its kept text; the last few stay in memory while someone moves marks."""
    key = (record.id, whole.sheet.gauge_step)
    with _lock:
        if key in _logs:
            return _logs[key]
    reader = TraceReader()
    for piece in unpacked(store.parts_of(connection, record.id)):
        reader.feed(piece)
    table = reader.close()
    at = pick(whole.sheet.kind, table, record.body["picks"])
    log = read_log(table, at, _wanted(whole, str(record.body.get("told_unit", ""))))
    with _lock:
        _logs[key] = log
        while len(_logs) > _MOST_LOGS:
            _logs.popitem(last=False)
    return log


def unpacked(parts: Iterator[bytes]) -> Iterator[bytes]:
    """The text of a trace as it came in, piece by piece."""
    unpack = zlib.decompressobj()
    for part in parts:
        yield unpack.decompress(part)
    yield unpack.flush()


def trace_text(engine: Engine, trace_id: int) -> tuple[str, bytes]:
    """The name and the text of a trace as it came in."""
    with transaction(engine) as connection:
        record, _ = _known(connection, trace_id)
        text = b"".join(unpacked(store.parts_of(connection, trace_id)))
    return record.name or f"trace-{trace_id}.csv", text
