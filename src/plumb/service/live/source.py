"""Figures that a browser sends, in place of an instrument that is asked."""

import queue
import time
from collections.abc import Iterator
from typing import Final

from plumb.devices.instrument import Silent

SILENT_S: Final = 1.0
"""A browser that sends nothing for so long is said to be silent."""


class Pushed:
    """Figures that a browser reads from its own serial port and sends."""

    def __init__(self) -> None:
        self._came: queue.Queue[tuple[float, float]] = queue.Queue(maxsize=5000)

    def push(self, values: list[float]) -> None:
        """Figures that came just now, the newest last."""
        now = time.monotonic()
        for n, value in enumerate(values):
            try:
                self._came.put_nowait((now - 0.001 * (len(values) - 1 - n), value))
            except queue.Full:
                return

    def stream(self) -> Iterator[tuple[float, float]]:
        """Figures as they come."""
        while True:
            try:
                yield self._came.get(timeout=SILENT_S)
            except queue.Empty:
                why = "the browser's serial port sends nothing"
                raise Silent(why) from None

    def close(self) -> None:
        """Nothing to let go of."""
