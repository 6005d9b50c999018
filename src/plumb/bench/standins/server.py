"""Stand-ins on the wire: one TCP port an instrument, lines that end with a newline."""

import asyncio
import contextlib
import os
import signal
import time
from collections.abc import Callable
from typing import Final

from plumb.bench.engines.hidden import Hidden
from plumb.bench.standins.files import FaultsFile
from plumb.bench.standins.instruments import Set, StandIn
from plumb.bench.virtual import VirtualEngine
from plumb.core.measure.problems import PlumbError, Problem

_LONGEST_LINE: Final = 4096


class _OnePort:
    """One instrument and those who are connected to it."""

    def __init__(self, one: StandIn) -> None:
        self.one = one
        self._open: set[asyncio.StreamWriter] = set()

    async def talk(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """Answer lines until the other side, or a cable, ends it."""
        self._open.add(writer)
        self.one.connected = len(self._open)
        with contextlib.suppress(ConnectionError, asyncio.IncompleteReadError):
            while not self.one.unplugged():
                try:
                    line = await reader.readuntil(b"\n")
                except asyncio.LimitOverrunError as error:
                    # A line without an end: thrown away, told, and the connection stays.
                    await reader.readexactly(error.consumed)
                    self.one.words.fail(-102, "a line too long")
                    continue
                await self._answer(line, writer)
        self._open.discard(writer)
        self.one.connected = len(self._open)
        writer.close()

    async def _answer(self, line: bytes, writer: asyncio.StreamWriter) -> None:
        answers = []
        for answer in self.one.words.each(line.decode("ascii", "replace").strip()):
            if answer is None:
                await asyncio.sleep(self.one.pending_s())
            else:
                answers.append(answer)
        if not answers or self.one.unplugged():
            return
        if late := self.one.late_s():
            await asyncio.sleep(late)
        writer.write(";".join(answers).encode("ascii", "replace") + b"\n")
        await writer.drain()

    def hang_up(self) -> None:
        """Cut whoever is connected."""
        for writer in list(self._open):
            writer.transport.abort()

    async def watch_cable(self) -> None:
        """Cut whoever is connected while the cable is out."""
        while True:
            if self.one.unplugged():
                self.hang_up()
            await asyncio.sleep(0.1)


async def run(
    instruments: Set, port: int, say: Callable[[str], None], stop: asyncio.Event | None = None
) -> None:
    """Serve until ``stop``, a polite kill or Ctrl-C; ``port`` 0 takes free ones, else they follow it.

    Raises :class:`PlumbError` where a port is taken.
    """
    ended = stop or asyncio.Event()
    loop = asyncio.get_running_loop()
    for number in (signal.SIGTERM, signal.SIGINT):
        with contextlib.suppress(ValueError, RuntimeError):
            loop.add_signal_handler(number, ended.set)
    ports: list[_OnePort] = []
    servers, tasks = [], []
    for n, one in enumerate(instruments.all):
        at = _OnePort(one)
        ports.append(at)
        try:
            server = await asyncio.start_server(
                at.talk, "127.0.0.1", port + n if port else 0, limit=_LONGEST_LINE
            )
        except OSError:
            rule = "the port is free; --port 0 takes ones that are"
            raise PlumbError(
                Problem(path="--port", rule=rule, value=str(port + n), code="port_taken")
            ) from None
        servers.append(server)
        tasks.append(asyncio.create_task(at.watch_cable()))
        taken = server.sockets[0].getsockname()[1]
        say(f"{one.name} TCPIP::127.0.0.1::{taken}::SOCKET")
    await ended.wait()
    for task in tasks:
        task.cancel()
    for server in servers:
        server.close()
    for at in ports:
        at.hang_up()
    # Those who were cut off end in their own time.
    await asyncio.sleep(0.05)


async def _parent_gone(stop: asyncio.Event) -> None:
    """Stop when whoever began this program is no more: a killed application leaves nothing running."""
    parent = os.getppid()
    while not stop.is_set():
        with contextlib.suppress(TimeoutError):
            await asyncio.wait_for(stop.wait(), 1.0)
        if os.getppid() != parent:
            stop.set()


def stand_in(
    hidden: Hidden, faults: FaultsFile, *, port: int, seed: int, speed: float = 1.0,
    with_parent: bool = False,
) -> None:  # fmt: skip
    """The program: a virtual engine on the wall clock, ``speed`` times as fast, until it is stopped."""
    begun = time.monotonic()

    def clock() -> float:
        return (time.monotonic() - begun) * speed

    engine = VirtualEngine(hidden, clock=clock, seed=seed)
    instruments = Set(engine, faults, clock=clock, seed=seed)

    async def go() -> None:
        stop = asyncio.Event()
        watch = asyncio.create_task(_parent_gone(stop)) if with_parent else None
        await run(instruments, port, lambda line: print(line, flush=True), stop)  # noqa: T201  for programs
        if watch is not None:
            watch.cancel()

    asyncio.run(go())
