"""Figures that a browser sends, in place of an instrument that is asked."""

import threading
from collections import deque
from collections.abc import Iterator
from typing import Final

from plumb.devices.instrument import Silent
from plumb.devices.scheduler import REAL_TIME, Scheduler

SILENT_S: Final = 1.0
"""A browser that sends nothing for so long is said to be silent."""
_MOST_WAITING: Final = 5000
"""What nobody took out by then is dropped."""


class Pushed:
    """Figures that a browser reads from its own serial port and sends."""

    def __init__(self, scheduler: Scheduler = REAL_TIME) -> None:
        self._scheduler = scheduler
        self._came: deque[tuple[float, float]] = deque()
        self._there = threading.Event()

    def push(self, values: list[float]) -> None:
        """Figures that came just now, the newest last."""
        now = self._scheduler.now()
        for n, value in enumerate(values):
            if len(self._came) < _MOST_WAITING:
                self._came.append((now - 0.001 * (len(values) - 1 - n), value))
        self._there.set()

    def stream(self) -> Iterator[tuple[float, float]]:
        """Figures as they come."""
        while True:
            self._there.clear()
            while self._came:
                yield self._came.popleft()
            if not self._scheduler.wait(self._there, SILENT_S):
                why = "the browser's serial port sends nothing"
                raise Silent(why)

    def close(self) -> None:
        """Nothing to let go of."""
