"""A process of the crew: the same routes on the same store, one request at a time."""

import asyncio
import os
import signal
from collections.abc import MutableMapping
from dataclasses import dataclass
from typing import Any

from starlette.types import ASGIApp, Message

from plumb.api.log import as_json, request_id
from plumb.api.settings import Settings
from plumb.service.live.beside import end_with
from plumb.service.people.coming_in import Known
from plumb.store.actor import Actor, acting
from plumb.store.changes import Changed, listen
from plumb.store.cluster import Cluster
from plumb.store.elsewhere import engine_of
from plumb.store.server import Place

Headers = list[tuple[bytes, bytes]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A request that was let in already, and by whom."""

    scope: dict[str, Any]
    body: bytes
    known: Known | None
    actor: Actor
    request: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Answered:
    """The answer, the route that gave it, and what was changed for the screens that look on."""

    status: int
    headers: Headers
    body: bytes
    route: str | None
    changed: tuple[Changed, ...]


@dataclass(slots=True)
class _Hand:
    """What a process of the crew keeps: its application and its own loop."""

    app: ASGIApp
    loop: asyncio.AbstractEventLoop
    changed: list[Changed]


_hand: _Hand | None = None


def begin(settings: Settings, where: Place | Cluster, parent: int) -> None:
    """Get ready in a new process: an application on an engine of its own; it ends with the process that began it."""
    from plumb.api.app import apart  # noqa: PLC0415  the application knows its crew

    global _hand  # noqa: PLW0603  a process has one
    if settings.log == "json":
        as_json()
    # Ctrl-C reaches the whole group: the application ends first, and its crew with it.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    end_with(parent)
    engine = engine_of(where)
    changed: list[Changed] = []
    listen(changed.append)
    loop = asyncio.new_event_loop()
    _hand = _Hand(app=apart(engine, settings), loop=loop, changed=changed)


def work(asked: Asked) -> Answered:
    """Answer one request."""
    assert _hand is not None  # noqa: S101  the process was begun
    _hand.changed.clear()
    acting.set(asked.actor)
    request_id.set(asked.request)
    return _hand.loop.run_until_complete(_ask(_hand, asked))


async def _ask(hand: _Hand, asked: Asked) -> Answered:
    scope: MutableMapping[str, Any] = {**asked.scope, "state": {}}
    if asked.known is not None:
        scope["state"]["known"] = asked.known
    status, headers, body = 0, Headers(), bytearray()

    async def receive() -> Message:
        return {"type": "http.request", "body": asked.body, "more_body": False}

    async def send(message: Message) -> None:
        nonlocal status, headers
        if message["type"] == "http.response.start":
            status, headers = message["status"], list(message.get("headers", ()))
        elif message["type"] == "http.response.body":
            body.extend(message.get("body", b""))

    try:
        await hand.app(scope, receive, send)
    except Exception:
        # A fault is answered and written down first, and only then goes on to who serves.
        if not status:
            raise
    return Answered(
        status=status, headers=headers, body=bytes(body),
        route=getattr(scope.get("route"), "path", None), changed=tuple(hand.changed),
    )  # fmt: skip


def ready() -> int:
    """The number of this process, once it can work."""
    return os.getpid()
