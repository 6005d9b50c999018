"""Live: instruments that are asked, captures, and the line on which a screen hears of changes."""

import asyncio
import contextlib
import json
from dataclasses import asdict
from typing import Annotated, Final

from fastapi import Query, WebSocket, WebSocketDisconnect

from plumb.api.deps import Capturing, ShownUnit
from plumb.api.intake import routes_of
from plumb.api.schemas_live import CaptureIn, SaidIn, TryIn
from plumb.service.live.captures import Captures
from plumb.service.live.hub import Hub, Looker
from plumb.service.people.roles import at_least
from plumb.service.uses.instruments import try_instrument
from plumb.service.views.live import CaptureOffer, CaptureView, TriedView
from plumb.store.actor import acting

router = routes_of("live")

MOST_WAITING: Final = 400
"""Messages that wait for a screen; one that takes none for so long misses the oldest figures."""
_LONGEST: Final = 20_000


@router.post("/instruments/try")
def try_it(wanted: TryIn) -> TriedView:
    """Ask an instrument, and show what it answers; without a unit a burst box."""
    return try_instrument(wanted.address, wanted.command, wanted.unit)


@router.get("/sheets/{sheet_id}/capture/offer")
def show_offer(sheet_id: int, captures: Capturing) -> CaptureOffer | None:
    """How a sheet can be filled in by its instrument; null where its kind cannot."""
    return captures.offer(sheet_id)


@router.get("/sheets/{sheet_id}/capture")
def show_capture(sheet_id: int, captures: Capturing) -> CaptureView | None:
    """How the capture of a sheet stands; null where there was none."""
    return captures.view(sheet_id)


@router.post("/sheets/{sheet_id}/capture")
def start_capture(sheet_id: int, wanted: CaptureIn, captures: Capturing) -> CaptureView:
    """Begin to capture; one that goes on already is only shown."""
    return captures.start(sheet_id, by=wanted.by.strip(), fires=wanted.fires)


@router.delete("/sheets/{sheet_id}/capture")
def stop_capture(sheet_id: int, captures: Capturing) -> CaptureView | None:
    """End it; what was captured is kept."""
    return captures.stop(sheet_id)


@router.post("/sheets/{sheet_id}/capture/said")
def say(sheet_id: int, said: SaidIn, captures: Capturing) -> CaptureView:
    """Say what no instrument can see."""
    return captures.ask(sheet_id, said.what, said.row)


class _Letters:
    """Messages for one screen: put from any thread, the newest state never lost."""

    def __init__(self) -> None:
        self._loop = asyncio.get_running_loop()
        self._queue: asyncio.Queue[str] = asyncio.Queue()

    def put(self, text: str) -> None:
        """From any thread; never waits."""
        with contextlib.suppress(RuntimeError):
            self._loop.call_soon_threadsafe(self._put, text)

    def _put(self, text: str) -> None:
        # A screen that takes nothing keeps what counts; figures that nobody drew are dropped.
        if self._queue.qsize() >= MOST_WAITING and text.startswith('{"type": "samples"'):
            return
        if self._queue.qsize() < 2 * MOST_WAITING:
            self._queue.put_nowait(text)

    async def get(self) -> str:
        """The next one."""
        return await self._queue.get()


@router.websocket("/live")
async def live(
    socket: WebSocket,
    job: Annotated[str, Query(max_length=40)] = "",
    sheet: Annotated[int, Query(ge=0)] = 0,
    unit: ShownUnit = None,
) -> None:
    """Changes of a job and its sheet as they happen, and the capture that goes on; JSON, one a message.

    ``{"type": "sheet"}`` is the sheet's new state, ``"job"`` that the job changed, ``"capture"`` how a
    capture stands, ``"samples"`` its newest figures.  A browser sends ``{"values": […]}`` of its own
    serial port, where somebody may note figures at all.
    """
    notes = at_least(acting.get().role, "technician")
    hub: Hub = socket.app.state.hub
    captures: Captures = socket.app.state.captures
    await socket.accept()
    letters = _Letters()
    leave = hub.join(Looker(job=job, sheet=sheet, unit=unit, put=letters.put))
    try:
        now = captures.view(sheet) if sheet else None
        if now is not None:
            await socket.send_text(json.dumps({"type": "capture", "capture": asdict(now)}))
        recent = captures.recent(sheet) if sheet else None
        if recent is not None:
            await socket.send_text(json.dumps(recent))
        sending = asyncio.create_task(_send(socket, letters))
        try:
            await _receive(socket, captures, sheet if notes else 0)
        finally:
            sending.cancel()
    finally:
        leave()


async def _send(socket: WebSocket, letters: _Letters) -> None:
    with contextlib.suppress(WebSocketDisconnect, RuntimeError):
        while True:
            await socket.send_text(await letters.get())


async def _receive(socket: WebSocket, captures: Captures, sheet: int) -> None:
    """Figures of the browser's serial port, until it goes away."""
    with contextlib.suppress(WebSocketDisconnect):
        while True:
            text = await socket.receive_text()
            if len(text) > _LONGEST:
                continue
            if not sheet:
                continue
            with contextlib.suppress(ValueError, TypeError, AttributeError):
                values = [float(v) for v in json.loads(text).get("values", [])][:500]
                captures.push(sheet, values)
