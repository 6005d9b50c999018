"""What a capture is begun with, how it stands, and what of it is not in the database yet."""

import threading
from dataclasses import dataclass

from plumb.devices.instrument import Source
from plumb.devices.scheduler import REAL_TIME, Scheduler
from plumb.service.kinds.capturing import Captured, Capturing
from plumb.service.kinds.entry import NewReading
from plumb.service.views.live import LastView
from plumb.service.views.sheet import SheetView
from plumb.store.records import WholeSheet


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What a capture is begun with: the sheet as it is, how it captures, from where, by whom."""

    whole: WholeSheet
    view: SheetView
    capturing: Capturing
    gauge: str
    unit: str
    by: str
    source: Source
    address: str
    fires: bool = False
    scheduler: Scheduler = REAL_TIME


@dataclass(slots=True, kw_only=True)
class Now:
    """How it stands; every change is told."""

    state: str = "waiting"
    row: str = ""
    waits: str = ""
    trouble: str = ""
    taken: int = 0
    last: LastView | None = None
    tone: int = 0
    sound: str = ""
    trace_id: int = 0
    number: int = 0
    running: bool = True


@dataclass(slots=True)
class Unsaved:
    """A reading that is not in the database yet."""

    reading: NewReading
    captured: Captured


class Heard:
    """What a capture has said since it was last forgotten, for who works the engine beside it."""

    def __init__(self) -> None:
        self.more = threading.Event()
        self._said: set[str] = set()
        self._lock = threading.Lock()

    def say(self, what: str) -> None:
        """Something happened."""
        with self._lock:
            self._said.add(what)
        self.more.set()

    def said(self) -> set[str]:
        """All that happened; ``more`` is set when there is more than that."""
        self.more.clear()
        with self._lock:
            return set(self._said)

    def forget(self) -> None:
        """What happened until now no longer counts."""
        with self._lock:
            self._said.clear()
