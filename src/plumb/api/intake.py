"""How much of a request is taken in, and of which type: known of every route before it is read.

A route with a body says its type and size in its description (``x-max-bytes``), one with a JSON
model takes JSON up to :data:`JSON_BYTES`, one without takes no body.  Large bodies are worked
through beside the event loop, a few at once, so that everybody else is answered meanwhile.
"""

import sys
from collections.abc import AsyncIterator, Callable, Coroutine
from contextlib import asynccontextmanager
from typing import Any, Final, ParamSpec, TypeVar

from anyio import CapacityLimiter, to_thread
from fastapi import APIRouter, Request, Response
from fastapi.routing import APIRoute
from starlette.exceptions import HTTPException
from starlette.types import Message

from plumb.api.problems import RESPONSES
from plumb.jobfile.reading import MOST_BYTES

JSON_BYTES: Final = 128 * 1024
"""A JSON body: the largest that Plumb's own pages send, 200 bursts of a log, has 12 kB."""

JOB_FILE_BYTES: Final = MOST_BYTES
CSV_BYTES: Final = 1 * 2**20
HEAD_BYTES: Final = 64 * 1024
"""Of a trace's beginning so much is looked at."""

AT_ONCE: Final = 2
WAITING: Final = 8
"""So many large bodies are worked through at once, and so many more may wait."""

_TURN_S: Final = 0.001
_SIZE: Final = "x-max-bytes"
_CHANGES: Final = frozenset({"POST", "PUT", "PATCH", "DELETE"})
_Given = ParamSpec("_Given")
_Made = TypeVar("_Made")


def takes(media: str, most: int | None, schema: dict[str, Any]) -> dict[str, Any]:
    """What a route says of a body that is no JSON model; ``most`` None: the setting's limit."""
    body: dict[str, Any] = {"required": True, "content": {media: {"schema": schema}}}
    return {"requestBody": body, **({} if most is None else {_SIZE: most})}


class Intake(APIRoute):
    """A route that reads no more than it takes."""

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        """The route's own handler behind the two checks."""
        go_on = super().get_route_handler()
        changes = bool((self.methods or set()) & _CHANGES)
        media = self._media()

        async def handle(request: Request) -> Response:
            if not changes:
                return await go_on(request)
            most = self._most(request)
            _check_head(request, media, most)
            return await go_on(Request(request.scope, _counted(request, most)))

        return handle

    def _media(self) -> str | None:
        if self.body_field is not None:
            return "application/json"
        body = (self.openapi_extra or {}).get("requestBody", {})
        return next(iter(body.get("content", {})), None)

    def _most(self, request: Request) -> int:
        if self.body_field is not None:
            return JSON_BYTES
        limit: int = request.app.state.settings.upload_limit_mb * 2**20
        return min(limit, int((self.openapi_extra or {}).get(_SIZE, limit)))


def routes_of(tag: str) -> APIRouter:
    """A subject's routes under ``/api``: each takes in what it says, and tells what does not fit."""
    return APIRouter(prefix="/api", tags=[tag], responses=RESPONSES, route_class=Intake)


def _check_head(request: Request, media: str | None, most: int) -> None:
    """Refuse by what the headers say, before anything of the body is read."""
    length = request.headers.get("content-length", "")
    empty = length in {"", "0"} and "transfer-encoding" not in request.headers
    told = request.headers.get("content-type", "").partition(";")[0].strip().lower()
    if media is None:
        if not empty:
            raise HTTPException(415, "This takes no body.")
    elif told != media:
        raise HTTPException(415, f"The body is {media}; the header content-type says so.")
    if length.isdecimal() and int(length[:20]) > most:
        raise _too_large(most)


def _too_large(most: int) -> HTTPException:
    size = f"{most // 2**20} MB" if most >= 2**20 else f"{most // 1024} kB"
    return HTTPException(413, f"What is taken in here has at most {size}.")


def _counted(request: Request, most: int) -> Callable[[], Coroutine[Any, Any, Message]]:
    """The request's own stream, which ends with an error once more came than is taken."""
    came = 0

    async def receive() -> Message:
        nonlocal came
        message = await request.receive()
        came += len(message.get("body", b""))
        if came > most:
            raise _too_large(most)
        return message

    return receive


class Turns:
    """Who may bring a large body: a few are worked through at once, a few wait, more are told so."""

    def __init__(self) -> None:
        # Who answers small questions waits this long for the interpreter at each turn, 5 ms if left
        # alone; with large work beside it that adds up to what a person notices.
        sys.setswitchinterval(_TURN_S)
        self._limiter = CapacityLimiter(AT_ONCE)
        self._there = 0

    @asynccontextmanager
    async def queue(self) -> AsyncIterator[None]:
        """A place in the queue; 503 when too many are there already."""
        if self._there >= AT_ONCE + WAITING:
            raise HTTPException(503, "Too many files are coming in at once; send it again.")
        self._there += 1
        try:
            yield
        finally:
            self._there -= 1

    async def run(
        self, work: Callable[_Given, _Made], *args: _Given.args, **kwargs: _Given.kwargs
    ) -> _Made:
        """Do a piece of work beside the event loop, when it is its turn."""
        return await to_thread.run_sync(lambda: work(*args, **kwargs), limiter=self._limiter)


async def body_of(request: Request, most: int | None = None) -> bytes:
    """The body, limited on the way in; with ``most`` no more than its beginning."""
    made = bytearray()
    async for chunk in request.stream():
        made += chunk
        if most is not None and len(made) >= most:
            break
    return bytes(made[:most])
