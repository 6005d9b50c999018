"""Traces: looked at before they are sent, taken in as a stream, drawn, and read burst by burst."""

from typing import Annotated
from urllib.parse import quote

from fastapi import Query, Request, Response

from plumb.api.deps import InTurn, Shop, Store
from plumb.api.intake import HEAD_BYTES, Turns, body_of, routes_of, takes
from plumb.api.schemas import MadeId, MoveIn, TakeIn
from plumb.jobfile.models import SheetKind
from plumb.service.uses import bursts
from plumb.service.uses import traces as service
from plumb.service.views.sheet import SheetView
from plumb.service.views.trace import PartView, TraceHeadView, TraceView

router = routes_of("traces")

_PIECE = 1 << 20
_TEXT = {"type": "string"}
Name = Annotated[str, Query(max_length=120, description="the file's name")]
Column = Annotated[
    str, Query(max_length=120, description="the column to take; empty: guessed, -: none")
]


@router.post("/trace-columns", openapi_extra=takes("text/csv", None, _TEXT))
async def trace_columns(request: Request, kind: SheetKind, turns: InTurn) -> TraceHeadView:
    """The columns of a trace from its first lines, and which is taken for what."""
    async with turns.queue():
        text = await body_of(request, HEAD_BYTES)
        return await turns.run(service.look_at_head, kind, text)


@router.post("/sheets/{sheet_id}/trace", openapi_extra=takes("text/csv", None, _TEXT))
async def add_trace(
    sheet_id: int,
    request: Request,
    store: Store,
    shop: Shop,
    turns: InTurn,
    request_id: MadeId,
    name: Name = "",
    time: Column = "",
    current: Column = "",
    sync: Column = "",
    wanted: Column = "",
    actual: Column = "",
    pressure: Column = "",
    unit: Annotated[str, Query(max_length=12, description="of pressure, if no header says")] = "",
) -> TraceView:
    """Bring a trace onto a sheet, read while it comes; an end before its end stores nothing."""
    picks = {
        "time": time, "current": current, "sync": sync, "wanted": wanted, "actual": actual,
        "pressure": pressure,
    }  # fmt: skip
    told = service.NewTrace(request_id=request_id, name=name, picks=picks, unit=unit)
    async with turns.queue():
        incoming = await _taken_in(request, turns)
        return await turns.run(
            service.add_trace, store, sheet_id, incoming, told, shop.thresholds()
        )


async def _taken_in(request: Request, turns: Turns) -> service.Incoming:
    """A trace, read piece by piece while it comes."""
    incoming = service.Incoming()
    waiting = bytearray()
    async for chunk in request.stream():
        waiting += chunk
        if len(waiting) >= _PIECE:
            await turns.run(incoming.feed, bytes(waiting))
            waiting.clear()
    await turns.run(incoming.feed, bytes(waiting))
    return incoming


@router.get("/sheets/{sheet_id}/trace")
def show_trace(
    sheet_id: int,
    store: Store,
    shop: Shop,
    trace_id: Annotated[
        int | None, Query(ge=1, description="one of its traces; left out: the newest")
    ] = None,
) -> TraceView | None:
    """A trace of a sheet as it is drawn; null where there is none."""
    return service.show_trace(store, sheet_id, shop.thresholds(), trace_id)


@router.post("/traces/{trace_id}/readings")
def take_bursts(trace_id: int, wanted: TakeIn, store: Store, shop: Shop) -> SheetView:
    """Make bursts the readings of injectors, all of them or none."""
    takes = [bursts.Take(number=t.number, injector=t.injector) for t in wanted.take]
    return bursts.take_bursts(store, trace_id, takes, shop.thresholds())


@router.put("/traces/{trace_id}/bursts/{number}")
def move_burst(trace_id: int, number: int, span: MoveIn, store: Store, shop: Shop) -> TraceView:
    """Read a burst again between another begin and end."""
    return bursts.move_burst(store, trace_id, number, (span.start_s, span.end_s), shop.thresholds())


@router.post("/traces/{trace_id}/bursts")
def add_burst(trace_id: int, span: MoveIn, store: Store, shop: Shop) -> TraceView:
    """Read a burst that was not found, between a begin and an end set by hand."""
    return bursts.add_burst(store, trace_id, (span.start_s, span.end_s), shop.thresholds())


@router.get("/traces/{trace_id}/part")
def look_closer(
    trace_id: int,
    store: Store,
    from_s: Annotated[float, Query(ge=0, le=1e7)],
    to_s: Annotated[float, Query(ge=0, le=1e7)],
) -> PartView:
    """A stretch of a pressure log, drawn as finely as it was sampled."""
    return bursts.look_closer(store, trace_id, from_s, to_s)


@router.get("/traces/{trace_id}/csv", response_class=Response)
def trace_text(trace_id: int, store: Store) -> Response:
    """A trace as it came in."""
    name, text = service.trace_text(store, trace_id)
    return Response(
        text,
        media_type="text/csv",
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"},
    )
