"""A burst box that works the engine: pump up, pump off, a rest, the burst, and on to the next injector.

It fires an injector once; a second burst into the same cylinder waits until somebody has run the engine,
because raw fuel can lock it.
"""

from datetime import datetime
from threading import Thread
from typing import Final

from plumb.devices.instrument import BurstBox, Silent
from plumb.service.live.session import Session
from plumb.service.stored.parts import now

PUMP_S: Final = 2.0
"""So long the pump fills the rail; common practice, no source."""
SHUT_S: Final = 1.2
STEADY_S: Final = 15.0
READ_S: Final = 6.0
"""So long what follows a burst may take to be read."""
_LOOK_S: Final = 0.2
RUN_FIRST: Final = (
    "raw fuel in cylinder {}: run the engine 10 to 20 s, note it under Raw fuel, then it goes on"
)


class Conductor:
    """Works one session; ``channels`` give the box's channel of each row."""

    def __init__(
        self, box: BurstBox, session: Session, channels: dict[str, int], *, pulses: int,
        width_s: float,
    ) -> None:  # fmt: skip
        self._box, self._session, self._channels = box, session, channels
        self._pulses, self._width_s, self._time = pulses, width_s, session.scheduler
        self._fired: dict[str, datetime] = {}
        self._thread: Thread | None = None

    def start(self) -> None:
        """Begin."""
        self._thread = self._time.begin(self._run, "burst box")

    def join(self) -> None:
        """Wait until it has let go of the pump."""
        if self._thread is not None:
            self._thread.join(10.0)

    def _run(self) -> None:
        try:
            while self._session.running and (row := self._session.row()):
                try:
                    self._one(row)
                except Silent as silent:
                    self._session.wait(trouble=str(silent))
                    self._pause(1.0)
        finally:
            self._pump_off()
            self._box.close()

    def _pump_off(self) -> None:
        """Whatever happens, no pump is left running."""
        for _ in range(3):
            try:
                self._box.pump(on=False)
            except Silent:
                self._time.sleep(_LOOK_S)
                continue
            return

    def _one(self, row: str) -> None:
        """One injector: what stands next may be another one by then, and then this is left."""
        if not self._burnt(row):
            return
        self._session.heard.forget()
        self._box.pump(on=True)
        self._pause(PUMP_S)
        self._box.pump(on=False)
        if not self._rests():
            if self._session.running:
                self._session.wait(text="the rail does not come to rest: see whether it holds")
                self._pause(1.0)
            return
        if self._session.row() != row or not self._session.running:
            return
        self._box.arm(self._channels[row], pulses=self._pulses, width_s=self._width_s)
        self._session.heard.forget()
        fired_at = self._time.now()
        self._fired[row] = now()
        self._box.fire()
        self._time.sleep(2.0 * self._pulses * self._width_s)
        self._box.done()
        if self._hears({"read", "doubted", "small_fall"}, READ_S) or not self._session.running:
            return
        if self._session.seen_flat(fired_at):
            self._session.heard.forget()
            self._session.no_answer(row)
            self._hears({"read"}, READ_S)
        else:
            self._session.wait(text=f"the burst of {row} was not seen whole")

    def _burnt(self, row: str) -> bool:
        """Wait until a cylinder that was fired into has been run dry; False where another came up."""
        while self._session.running and self._session.row() == row:
            if self._session.burnt(row, self._fired.get(row)):
                self._session.wait()
                return True
            self._session.wait(text=RUN_FIRST.format(row))
            self._time.sleep(2.0 * _LOOK_S)
        return False

    def _rests(self) -> bool:
        """Whether the rail comes to rest, its pump off for a second at least."""
        self._pause(SHUT_S)
        until = self._time.now() + STEADY_S
        while self._session.running and self._time.now() < until:
            if self._session.state() == "steady":
                return True
            self._time.sleep(_LOOK_S)
        return False

    def _hears(self, wanted: set[str], seconds: float) -> bool:
        """Whether the session tells one of these within so long."""
        until = self._time.now() + seconds
        while not wanted & self._session.heard.said():
            left = until - self._time.now()
            if left <= 0.0 or not self._session.running:
                return False
            self._time.wait(self._session.heard.more, min(left, _LOOK_S))
        return True

    def _pause(self, seconds: float) -> None:
        until = self._time.now() + seconds
        while self._session.running and (left := until - self._time.now()) > 0.0:
            self._time.sleep(min(_LOOK_S, left))
