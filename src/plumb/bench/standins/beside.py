"""Stand-ins in a thread of another program: a test, or the application with its practice engines."""

import asyncio
import threading
from collections.abc import Callable
from concurrent.futures import Future
from typing import Final, TypeVar

from plumb.bench.standins.instruments import Set
from plumb.bench.standins.server import run

_READY_S: Final = 10.0
_DONE_S: Final = 30.0
_Made = TypeVar("_Made")


class Beside:
    """The instruments of a set on free ports; ``addresses`` by name.

    What is done to the engine from outside is done by ``call``, in the thread that serves the
    instruments: an engine is no two threads' at once.  Raises :class:`TimeoutError` where it does not
    come up or does not answer.
    """

    def __init__(self, instruments: Set) -> None:
        self.instruments = instruments
        self.addresses: dict[str, str] = {}
        self._loop = asyncio.new_event_loop()
        self._stop = asyncio.Event()
        self._ready = threading.Event()
        self._thread = threading.Thread(target=self._work, name="stand-ins", daemon=True)
        self._thread.start()
        if not self._ready.wait(_READY_S):
            raise TimeoutError

    def _work(self) -> None:
        def say(line: str) -> None:
            name, address = line.split()
            self.addresses[name] = address
            if len(self.addresses) == len(self.instruments.all):
                self._ready.set()

        self._loop.run_until_complete(run(self.instruments, 0, say, self._stop))
        self._loop.close()

    def call(self, work: Callable[[], _Made]) -> _Made:
        """Do something to the engine, and wait for what comes of it."""
        made: Future[_Made] = Future()

        def do() -> None:
            try:
                made.set_result(work())
            except Exception as error:  # noqa: BLE001  whoever asked is told
                made.set_exception(error)

        self._loop.call_soon_threadsafe(do)
        return made.result(_DONE_S)

    def close(self) -> None:
        """End them."""
        if self._loop.is_closed():
            return
        self._loop.call_soon_threadsafe(self._stop.set)
        self._thread.join(5.0)
