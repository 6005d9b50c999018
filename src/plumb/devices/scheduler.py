"""What time it is for whatever asks instruments again and again, how it waits, and how it goes on beside a request.

The application lives by the machine's clock (:data:`REAL_TIME`).  Whoever gives it another scheduler decides
how fast time goes on: it then depends on the work that is done and not on how busy the machine is.

>>> REAL_TIME.now() <= REAL_TIME.now()
True
"""

import threading
import time
from collections.abc import Callable
from typing import Final, Protocol


class Scheduler(Protocol):
    """Seconds since some moment, waits in them, and threads that live by them."""

    def now(self) -> float:
        """The moment (s); it never goes back."""

    def sleep(self, seconds: float) -> None:
        """Wait so long."""

    def wait(self, event: threading.Event, seconds: float) -> bool:
        """Wait until the event is set, at most so long; whether it is."""

    def begin(self, work: Callable[[], None], name: str) -> threading.Thread:
        """Start a thread whose waits are this scheduler's; it ends with the program at the latest."""


class _RealTime:
    """The machine's clock."""

    def now(self) -> float:
        """Seconds since the machine was started."""
        return time.monotonic()

    def sleep(self, seconds: float) -> None:
        """Sleep."""
        time.sleep(seconds)

    def wait(self, event: threading.Event, seconds: float) -> bool:
        """Wait for it."""
        return event.wait(seconds)

    def begin(self, work: Callable[[], None], name: str) -> threading.Thread:
        """A thread of the machine's."""
        thread = threading.Thread(target=work, name=name, daemon=True)
        thread.start()
        return thread


REAL_TIME: Final[Scheduler] = _RealTime()
