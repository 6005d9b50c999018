"""What a person does with the bursts of a pressure log: take them, move their marks, add one."""

import uuid
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from threading import Lock
from typing import Any, Final

from sqlalchemy import Connection, Engine

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import Conflict, NotThere, PlumbError, Problem
from plumb.core.measure.quantities import KPA_PER
from plumb.core.traces.pressure_log import DOUBTS, PressureLog, reread
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.tracecolumns import pick
from plumb.jobfile.tracefile import TraceReader
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.kinds.entry import NewReading
from plumb.service.kinds.pressure_log import burst_json, read_log
from plumb.service.kinds.shown import as_noted
from plumb.service.kinds.tracing import channel
from plumb.service.screens.sheet import sheet_view
from plumb.service.screens.trace import trace_view
from plumb.service.uses.readings import add_reading
from plumb.service.uses.traces import known_trace, unpacked, wanted_of
from plumb.service.views.sheet import SheetView
from plumb.service.views.trace import PartView, TraceView
from plumb.store import traces as store
from plumb.store.records import WholeSheet
from plumb.store.session import retried, transaction
from plumb.store.traces import TraceRecord


@dataclass(frozen=True, slots=True, kw_only=True)
class Take:
    """A burst that is to be the reading of an injector."""

    number: int
    injector: str


@retried
def take_bursts(
    engine: Engine, trace_id: int, takes: Sequence[Take], thresholds: Thresholds
) -> SheetView:
    """Make bursts the readings of injectors, all of them or none.

    Raises :class:`NotThere` for a trace or burst that is not there, :class:`Conflict` for a burst
    that was taken already.
    """
    with transaction(engine) as connection:
        record, whole = known_trace(connection, trace_id, lock=True)
        bursts = _bursts(record)
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
        first=as_noted(float(burst["first"]), whole),
        second=as_noted(float(burst["second"]), whole),
        note=note[:500],
        replaces=replaces,
        # The figures come from a machine: they are between the gauge's steps, and nobody slipped.
        confirmed=("off_step", "far_off", "point_missing", "rise"),
    )


@retried
def move_burst(
    engine: Engine, trace_id: int, number: int, span: tuple[float, float], thresholds: Thresholds
) -> TraceView:
    """Read a burst again between begin and end set by hand; a reading taken from it follows.

    Raises :class:`NotThere`, and :class:`PlumbError` for a span that cannot be read.
    """
    log, _ = _log_of(engine, trace_id)
    with transaction(engine) as connection:
        record, whole = known_trace(connection, trace_id, lock=True)
        bursts = _bursts(record)
        old = _burst(bursts, number)
        new = _by_hand(log, span, whole)
        if old["reading_id"] in {r.id for r in whole.readings}:
            label = str(old["injector"])
            reading = _reading(new, label, record, whole, str(old["reading_id"]))
            whole = add_reading(connection, reading, whole)
            new |= {"injector": label, "reading_id": reading.id}
        bursts[number] = new
        kept, names = _keep(connection, record, bursts)
    return trace_view(whole, kept, names, thresholds)


@retried
def add_burst(
    engine: Engine, trace_id: int, span: tuple[float, float], thresholds: Thresholds
) -> TraceView:
    """Read a burst that was not found, between begin and end set by hand; it becomes the last.

    Raises :class:`NotThere`, and :class:`PlumbError` for a span that cannot be read or lies over a
    burst that is there.
    """
    log, _ = _log_of(engine, trace_id)
    with transaction(engine) as connection:
        record, whole = known_trace(connection, trace_id, lock=True)
        bursts = _bursts(record)
        for number, other in enumerate(bursts):
            if span[0] < float(other["end_s"]) and span[1] > float(other["start_s"]):
                raise PlumbError(
                    Problem(path="start_s", rule=f"burst {number + 1} lies there: move that one",
                            value=f"{span[0]:g} to {span[1]:g}", code="lies_over_another")
                )  # fmt: skip
        bursts.append(_by_hand(log, span, whole))
        kept, names = _keep(connection, record, bursts)
    return trace_view(whole, kept, names, thresholds)


def _bursts(record: TraceRecord) -> list[dict[str, Any]]:
    return [dict(b) for b in record.body.get("bursts", [])]


def _by_hand(log: PressureLog, span: tuple[float, float], whole: WholeSheet) -> dict[str, Any]:
    return {**burst_json(reread(log, *span, step=whole.sheet.gauge_step)), "moved": True}


def _keep(
    connection: Connection, record: TraceRecord, bursts: list[dict[str, Any]]
) -> tuple[TraceRecord, list[tuple[int, str]]]:
    """The trace with its bursts as they are now, and the names of all traces beside it."""
    body = {**record.body, "bursts": bursts}
    store.change_body(connection, record.id, body)
    return replace(record, body=body), store.trace_names(connection, record.sheet_id)


def look_closer(engine: Engine, trace_id: int, from_s: float, to_s: float) -> PartView:
    """A stretch of a pressure log drawn as finely as it was sampled."""
    log, record = _log_of(engine, trace_id)
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


_MOST_LOGS: Final = 4
_logs: "OrderedDict[tuple[int, float], PressureLog]" = OrderedDict()
_lock = Lock()


@retried
def _log_of(engine: Engine, trace_id: int) -> tuple[PressureLog, TraceRecord]:
    """A log from its kept text; the last few stay in memory while someone moves marks.

    Read before a sheet is locked: nobody who types on it waits for that.
    """
    with transaction(engine) as connection:
        record, whole = known_trace(connection, trace_id)
        return _read_log(connection, record, whole), record


def _read_log(connection: Connection, record: TraceRecord, whole: WholeSheet) -> PressureLog:
    tracing = SCREEN_KINDS[whole.sheet.kind].trace
    if tracing is None or not tracing.many:
        raise PlumbError(
            Problem(path="trace", rule="only a pressure log has bursts to look at",
                    value=whole.sheet.kind, code="no_log")
        )  # fmt: skip
    key = (record.id, whole.sheet.gauge_step)
    with _lock:
        if key in _logs:
            return _logs[key]
    reader = TraceReader()
    for piece in unpacked(store.parts_of(connection, record.id)):
        reader.feed(piece)
    table = reader.close()
    at = pick(FILE_KINDS[whole.sheet.kind].roles, table, record.body["picks"])
    log = read_log(table, at, wanted_of(whole, str(record.body.get("told_unit", ""))))
    with _lock:
        _logs[key] = log
        while len(_logs) > _MOST_LOGS:
            _logs.popitem(last=False)
    return log
