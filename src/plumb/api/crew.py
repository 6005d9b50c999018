"""Several processes for what takes time to work out: a machine's other cores.

They share the store with the application; a sheet that one of them remembers is believed by its version.
What stands in memory alone stays with the application itself: captures, screens that listen, practice,
simulations, whatever comes or goes in pieces.  A request goes to the process that had the same sheet or
job before, unless that one has much to do; when a process ends under it, the application does it itself.
"""

import multiprocessing
import os
import re
import threading
from asyncio import wrap_future
from collections.abc import Callable
from concurrent.futures import CancelledError, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import Final
from zlib import crc32

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from plumb.api.hand import Answered, Asked, begin, ready, work
from plumb.api.log import request_id
from plumb.api.settings import Settings
from plumb.store.actor import acting
from plumb.store.changes import Changed
from plumb.store.cluster import Cluster
from plumb.store.server import Place

MOST_BODY: Final = 256 * 1024
"""Bytes of a request that is handed on; what is longer comes in pieces."""
MOST_WAITING: Final = 3
"""So many requests wait for one process before the application does one itself."""
_HANDED: Final = re.compile(
    r"/api/(?:jobs|sheets|vehicles|blanks)(?:/(?P<which>[^/]+))?"
    r"(?!.*/(?:capture|trace|photos|archive|csv|old-figures)(?:/|$))"
)
_KEPT: Final = ("type", "asgi", "http_version", "method", "scheme", "path", "raw_path", "query_string",
                "root_path", "headers", "client", "server")  # fmt: skip


class _Mate:
    """One process, with what waits for it."""

    def __init__(self, settings: Settings, where: Place | Cluster) -> None:
        context = multiprocessing.get_context("spawn")
        self.pool = ProcessPoolExecutor(
            1, context, initializer=begin, initargs=(settings, where, os.getpid())
        )
        self.waiting = 0
        self.ready = self.pool.submit(ready)

    def works(self) -> bool:
        """Whether it is there already, and still."""
        return self.ready.done() and not self.ready.cancelled() and not self.ready.exception()


class Crew:
    """Processes beside the application; without any it does everything itself."""

    def __init__(self, settings: Settings, told: Callable[[Changed], None]) -> None:
        self._settings, self._told = settings, told
        self._mates: list[_Mate] = []
        self._where: Place | Cluster | None = None
        self._lock = threading.Lock()

    def open(self, processes: int, where: Place | Cluster) -> None:
        """Begin so many, on the database that is there; until they are ready the application works alone."""
        with self._lock:
            self._where = where
            self._mates = [_Mate(self._settings, where) for _ in range(processes)]

    def close(self) -> None:
        """End them."""
        with self._lock:
            self._where = None
            mates, self._mates = self._mates, []
        for mate in mates:
            mate.pool.shutdown(wait=False, cancel_futures=True)

    def pids(self) -> list[int]:
        """The processes that work now."""
        with self._lock:
            return [m.ready.result() for m in self._mates if m.works()]

    def hand(self, asked: Asked, which: str) -> "tuple[_Mate, Future[Answered]] | None":
        """Give a request to a process; None where none has time for it."""
        with self._lock:
            there = [m for m in self._mates if m.works()]
            if not there:
                return None
            usual = there[crc32(which.encode()) % len(there)]
            least = min(there, key=lambda m: m.waiting)
            mate = usual if usual.waiting <= least.waiting + 1 else least
            if mate.waiting >= MOST_WAITING:
                return None
            try:
                future = mate.pool.submit(work, asked)
            except (BrokenProcessPool, RuntimeError):
                self._replace(mate)
                return None
            mate.waiting += 1
            return mate, future

    def done(self, mate: _Mate, *, broken: bool) -> None:
        """A request is through; a process that ended under it is begun anew."""
        with self._lock:
            mate.waiting -= 1
            if broken:
                self._replace(mate)

    def told(self, answered: Answered) -> None:
        """Let the screens that look on hear of what was changed."""
        for changed in answered.changed:
            self._told(changed)

    def _replace(self, mate: _Mate) -> None:
        if mate in self._mates and self._where is not None:
            self._mates[self._mates.index(mate)] = _Mate(self._settings, self._where)
            mate.pool.shutdown(wait=False)


class Handed:
    """Hands requests to the crew; whatever it does not take goes on to the application itself."""

    def __init__(self, app: ASGIApp, crew: Crew) -> None:
        self._app, self._crew = app, crew

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Hand it on, or do it here."""
        which = _which(scope)
        if which is None or not self._crew.pids():
            await self._app(scope, receive, send)
            return
        body = await _body(receive)
        if body is None:
            return
        asked = Asked(
            scope={k: scope[k] for k in _KEPT if k in scope}, body=body,
            known=scope.get("state", {}).get("known"), actor=acting.get(), request=request_id.get(),
        )  # fmt: skip
        answered = await self._ask(asked, which)
        if answered is None:
            await self._app(scope, _again(body, receive), send)
            return
        if answered.route is not None:
            scope["route"] = _Route(answered.route)
        self._crew.told(answered)
        start = {
            "type": "http.response.start", "status": answered.status, "headers": answered.headers,
        }  # fmt: skip
        await send(start)
        await send({"type": "http.response.body", "body": answered.body})

    async def _ask(self, asked: Asked, which: str) -> Answered | None:
        """What a process answers; None where none took it, or it ended meanwhile."""
        handed = self._crew.hand(asked, which)
        if handed is None:
            return None
        mate, future = handed
        broken = False
        try:
            return await wrap_future(future)
        except (BrokenProcessPool, CancelledError):
            broken = True
            return None
        finally:
            self._crew.done(mate, broken=broken)


class _Route:
    """Stands for the route that answered elsewhere."""

    def __init__(self, path: str) -> None:
        self.path = path


def _which(scope: Scope) -> str | None:
    """What a request is about, where it is one that is handed on."""
    if scope["type"] != "http":
        return None
    found = _HANDED.match(scope["path"])
    length = Headers(scope=scope).get("content-length")
    chunked = "transfer-encoding" in Headers(scope=scope)
    if found is None or chunked or not (length or "0").isdecimal():
        return None
    return found["which"] or "" if int(length or "0") <= MOST_BODY else None


async def _body(receive: Receive) -> bytes | None:
    """All that is sent; None where the sender went away."""
    body = bytearray()
    while True:
        message = await receive()
        if message["type"] == "http.disconnect":
            return None
        body.extend(message.get("body", b""))
        if not message.get("more_body"):
            return bytes(body)


def _again(body: bytes, receive: Receive) -> Receive:
    """A request that was read already, to be read once more."""
    given = False

    async def once() -> Message:
        nonlocal given
        if given:
            return await receive()
        given = True
        return {"type": "http.request", "body": body, "more_body": False}

    return once
