"""Time that goes on by the work that is done: as soon as everybody who lives by it waits, and to whatever is due next.

However busy the machine is, what takes two seconds takes two seconds of this time, and hardly any of the machine's.
"""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Final

_Asleep = tuple[float, Callable[[], bool]]
_LOOK_S: Final = 0.005
"""An event that is set from outside is looked for so often, by the machine's clock."""


class VirtualTime:
    """A scheduler for tests.  Whoever makes it takes part: while the test works, time stands still."""

    def __init__(self) -> None:
        self._at = 0.0
        self._awake = 1
        self._asleep: list[_Asleep] = []
        self._turn = threading.Condition()

    def now(self) -> float:
        """The moment."""
        return self._at

    def sleep(self, seconds: float) -> None:
        """Wait so long of this time."""
        self._until(seconds, lambda: False)

    def wait(self, event: threading.Event, seconds: float) -> bool:
        """Wait for the event, at most so long of this time."""
        return self._until(seconds, event.is_set)

    def begin(self, work: Callable[[], None], name: str) -> threading.Thread:
        """A thread that takes part until it ends."""

        def takes_part() -> None:
            try:
                work()
            finally:
                self._takes_part(-1)

        self._takes_part(+1)
        thread = threading.Thread(target=takes_part, name=name, daemon=True)
        thread.start()
        return thread

    @contextmanager
    def goes_on(self) -> Iterator[None]:
        """Meanwhile the test waits for something else: time need not wait for the test."""
        self._takes_part(-1)
        try:
            yield
        finally:
            self._takes_part(+1)

    def _takes_part(self, more: int) -> None:
        with self._turn:
            self._awake += more
            self._go_on()

    def _until(self, seconds: float, called: Callable[[], bool]) -> bool:
        with self._turn:
            me = (self._at + max(0.0, seconds), called)
            self._asleep.append(me)
            self._awake -= 1
            self._go_on()
            while not self._wakes(me):
                self._turn.wait(_LOOK_S)
            self._asleep.remove(me)
            self._awake += 1
            return called()

    def _wakes(self, one: _Asleep) -> bool:
        due, called = one
        return due <= self._at or called()

    def _go_on(self) -> None:
        """With nobody awake, nor anybody whom the machine has only not woken yet, what is due next has come."""
        if self._awake > 0 or not self._asleep:
            return
        if not any(self._wakes(one) for one in self._asleep):
            self._at = min(due for due, _ in self._asleep)
        self._turn.notify_all()
