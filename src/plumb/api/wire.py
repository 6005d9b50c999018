"""The connection itself: senders that dawdle are cut off, and what is no HTTP is answered as a problem.

uvicorn waits for ever for the rest of a request.  Here every connection is looked at now and then: a
request that was unfinished at the last look and still is has to have brought something meanwhile, and
one that is being answered has to take something; else the connection is closed, and its place is free
for others.  Between two requests uvicorn's own patience counts.
"""

import asyncio
import contextlib
import socket
from typing import Any, Final

import h11
import structlog
import uvicorn
from uvicorn.protocols.http.h11_impl import H11Protocol

from plumb.api.door import HEADERS
from plumb.api.problems import MEDIA, answer

LOOK_S: Final = 10.0
"""Seconds between two looks at a connection."""

LEAST_BYTES: Final = 8192
"""What an unfinished request has to bring between two looks."""

MOST_CONNECTIONS: Final = 300


class PatientProtocol(H11Protocol):
    """uvicorn's own protocol with an end to its patience."""

    look_s = LOOK_S

    def connection_made(self, transport: Any) -> None:  # noqa: ANN401  asyncio's transport
        """A new connection: look at it in a while; one too many is closed at once."""
        super().connection_made(transport)
        self.wire = transport.get_extra_info("socket")
        self._came = 0
        self._unsent = 0
        self._due: object = None
        self._next_look = self.loop.call_later(self.look_s, self._look)
        if len(self.connections) > MOST_CONNECTIONS:
            transport.abort()

    def data_received(self, data: bytes) -> None:
        """Something came."""
        self._came += len(data)
        super().data_received(data)

    def connection_lost(self, exc: Exception | None) -> None:
        """The end: nothing to look at any more."""
        self._next_look.cancel()
        super().connection_lost(exc)

    def _look(self) -> None:
        if self.transport.is_closing():
            return
        unsent = self.transport.get_write_buffer_size()
        due = self._unfinished()
        dawdles = due is not None and due == self._due and self._came < LEAST_BYTES
        takes_nothing = unsent > 0 and unsent >= self._unsent > 0
        if dawdles or takes_nothing:
            self.transport.abort()
            return
        self._came, self._unsent, self._due = 0, unsent, due
        self._next_look = self.loop.call_later(self.look_s, self._look)

    def _unfinished(self) -> object:
        """The request that is still to come whole, told apart from others; None if nothing is due."""
        state = self.conn.their_state
        # A body may wait because the application has not taken it yet: not the sender's fault.
        if state is h11.SEND_BODY and not self.flow.read_paused:
            return state, id(self.cycle)
        # No head yet: a new connection owes one, a used one only once a piece of it came.
        if state is h11.IDLE and (self.cycle is None or self.conn.trailing_data[0]):
            return state, id(self.cycle)
        return None

    def send_400_response(self, msg: str) -> None:
        """What is no HTTP: a problem like every other, and the connection closed."""
        body = bytes(answer(400, [], detail=msg).body)
        headers = [
            ("content-type", MEDIA),
            ("content-length", str(len(body))),
            ("connection", "close"),
            *HEADERS.items(),
        ]
        for event in (
            h11.Response(status_code=400, headers=headers, reason=b"Bad Request"),
            h11.Data(data=body),
            h11.EndOfMessage(),
        ):
            self.transport.write(self.conn.send(event) or b"")
        self.transport.close()


class PatientServer(uvicorn.Server):
    """uvicorn's own server; whoever has not taken leave when it ends is cut off.

    uvicorn closes its connections and waits a while, but over TLS a close wants an answer, and a tablet
    that sleeps gives none: its connection would stay open for as long as the process lives.
    """

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        """As uvicorn does it, and then no connection is left."""
        await super().shutdown(sockets)
        for connection in list(self.server_state.connections):
            connection.transport.abort()
            # A TLS transport that was closed twice (idle for long, then the end) no longer knows its wire.
            if isinstance(connection, PatientProtocol):
                with contextlib.suppress(OSError):
                    connection.wire.shutdown(socket.SHUT_RDWR)
        # What was cut is told so in the loop's next rounds.
        for _ in range(4):
            await asyncio.sleep(0)


def config_of(app: Any, port: int, **more: Any) -> uvicorn.Config:  # noqa: ANN401  ASGI, uvicorn's own settings
    """How the application is put on the wire: loopback unless told otherwise, patient, without a name."""
    return uvicorn.Config(
        app,
        **{
            "host": "127.0.0.1",
            "port": port,
            "http": PatientProtocol,
            "ws": "websockets-sansio",
            "ws_max_size": 65_536,
            "server_header": False,
            "log_level": "warning",
            "access_log": False,
            # Where lines are wanted as JSON, uvicorn's own are, too.
            **({"log_config": None} if structlog.is_configured() else {}),
            "timeout_graceful_shutdown": 5,
            **more,
        },
    )
