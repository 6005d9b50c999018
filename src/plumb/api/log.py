"""What is written down while it runs, as JSON for a program that collects it, and the numbers of requests.

Every request has a number (``X-Request-Id``: the proxy's own where it sends one), which stands in the answer, in
every line about it, and in what is told where something broke.  No line bears what people typed.
"""

import logging
import re
import secrets
import time
from contextvars import ContextVar
from typing import Any, Final, TextIO

import structlog
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from plumb.api.metrics import route_of

HEADER: Final = "X-Request-Id"
_GIVEN: Final = re.compile(r"[A-Za-z0-9._-]{8,64}")
request_id: ContextVar[str] = ContextVar("request_id", default="")
"""The number of the request that is worked on; empty outside of one."""
log = structlog.get_logger()


def as_json(into: TextIO | None = None) -> None:
    """From here on every line is a JSON object, Plumb's own and those of the packages that it stands on.

    They go to standard error, or ``into`` something else.
    """
    shared: list[structlog.typing.Processor] = [
        _with_request,
        structlog.stdlib.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True, key="at"),
    ]
    structlog.configure(
        processors=[*shared, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        logger_factory=structlog.stdlib.LoggerFactory(),
        wrapper_class=structlog.stdlib.BoundLogger,
    )
    handler = logging.StreamHandler(into)
    handler.setFormatter(
        structlog.stdlib.ProcessorFormatter(
            foreign_pre_chain=shared,
            processors=[
                structlog.stdlib.ProcessorFormatter.remove_processors_meta,
                structlog.processors.dict_tracebacks,
                structlog.processors.JSONRenderer(),
            ],
        )
    )
    root = logging.getLogger()
    root.handlers = [handler]
    root.setLevel(logging.INFO)


def _with_request(_logger: object, _name: str, event: Any) -> Any:  # noqa: ANN401  structlog's own types
    number = request_id.get()
    return {**event, "request": number} if number else event


def _number(scope: Scope) -> str:
    """The number that came with a request, else a new one."""
    given = Headers(scope=scope).get(HEADER.lower(), "")
    return given if _GIVEN.fullmatch(given) else secrets.token_hex(8)


class Numbered:
    """Gives every request a number; with ``lines`` each is written down when it is answered."""

    def __init__(self, app: ASGIApp, *, lines: bool) -> None:
        self._app, self._lines = app, lines

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Hand it on with its number."""
        if scope["type"] == "lifespan":
            await self._app(scope, receive, send)
            return
        number, status, begun = _number(scope), 0, time.perf_counter()
        was = request_id.set(number)

        async def numbered(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                MutableHeaders(scope=message)[HEADER] = number
            await send(message)

        try:
            await self._app(scope, receive, numbered)
        finally:
            if self._lines:
                log.info(
                    "request", kind=scope["type"], method=scope.get("method", ""),
                    route=route_of(scope), status=status, ms=round((time.perf_counter() - begun) * 1000.0, 1),
                )  # fmt: skip
            request_id.reset(was)
