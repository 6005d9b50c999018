"""A folder that a logger writes to: each new CSV becomes a trace of the sheet, its sure bursts readings."""

import threading
import uuid
from collections.abc import Callable, Mapping
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any, Final

from sqlalchemy import Engine

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import PlumbError
from plumb.devices.scheduler import REAL_TIME, Scheduler
from plumb.service.uses.bursts import Take, take_bursts
from plumb.service.uses.traces import Incoming, NewTrace, add_trace
from plumb.service.views.live import CaptureView, LastView
from plumb.store.actor import as_now
from plumb.store.session import StoreBusy, StoreDown, StoreFull

LOOK_S: Final = 0.5
STILL_S: Final = 1.0
"""A file that did not grow for so long is whole."""


class FolderSession:
    """Watches a folder for one sheet, until it is stopped."""

    def __init__(
        self, engine: Engine, sheet_id: int, folder: Path, *, gauge: str, unit: str, by: str,
        thresholds: Thresholds, tell: Callable[[Mapping[str, Any]], None],
        most_bytes: int, scheduler: Scheduler = REAL_TIME,
    ) -> None:  # fmt: skip
        self.sheet_id, self._engine, self._folder = sheet_id, engine, folder
        self.address, self._most_bytes = str(folder), most_bytes
        self._thresholds, self._tell, self._scheduler = thresholds, tell, scheduler
        self._stop = threading.Event()
        self._lock = threading.Lock()
        self._seen = {p: p.stat().st_mtime for p in self._files()}
        self._sizes: dict[Path, tuple[int, float]] = {}
        self._view = CaptureView(
            sheet_id=sheet_id, number=0, running=True, gauge=gauge, unit=unit, by=by,
            state="folder", told=f"waits for a new CSV in {folder}", row="", name="", waits="",
            trouble="", unsaved=0, taken=0, last=None, tone=0, sound="", fires=False, kick="",
            trace_id=0,
        )  # fmt: skip
        self._thread: threading.Thread | None = None

    @property
    def running(self) -> bool:
        """Whether it goes on."""
        return not self._stop.is_set()

    def start(self) -> None:
        """Begin."""
        self._thread = self._scheduler.begin(as_now(self._run), f"folder {self.sheet_id}")

    def stop(self) -> None:
        """End."""
        self._stop.set()
        if self._thread is not None:
            self._thread.join(5.0)

    def ask(self, what: str, row: str = "") -> None:
        """Nothing can be said to it: files come or they do not."""

    def view(self) -> CaptureView:
        """How it stands."""
        with self._lock:
            return self._view

    def _run(self) -> None:
        while not self._scheduler.wait(self._stop, LOOK_S):
            try:
                whole = self._whole_files()
            except OSError as error:
                self._show(trouble=f"{self._folder} cannot be read ({error.strerror})")
                continue
            for path in whole:
                self._bring_in(path)
        self._show(running=False)

    def _files(self) -> list[Path]:
        try:
            return sorted(p for p in self._folder.iterdir() if p.suffix.lower() == ".csv")
        except FileNotFoundError:
            return []

    def _whole_files(self) -> list[Path]:
        """Files that are new, or written anew, and have stopped growing."""
        made = []
        if not self._folder.is_dir():
            raise FileNotFoundError(2, "it is not there")
        if self.view().trouble:
            self._show(trouble="")
        for path in self._files():
            stat = path.stat()
            if self._seen.get(path) == stat.st_mtime:
                continue
            size, since = self._sizes.get(path, (-1, 0.0))
            if size != stat.st_size:
                self._sizes[path] = (stat.st_size, self._scheduler.now())
            elif size > 0 and self._scheduler.now() - since >= STILL_S:
                self._seen[path] = stat.st_mtime
                made.append(path)
        return made

    def _bring_in(self, path: Path) -> None:
        try:
            if path.stat().st_size > self._most_bytes:
                most = f"{self._most_bytes // 2**20} MB"
                self._show(trouble=f"{path.name} is larger than {most}", sound="trouble")
                return
            incoming = Incoming()
            with path.open("rb") as file:
                while piece := file.read(1 << 20):
                    incoming.feed(piece)
            wanted = NewTrace(request_id=str(uuid.uuid4()), name=path.name)
            trace = add_trace(self._engine, self.sheet_id, incoming, wanted, self._thresholds)
            takes = [Take(number=b.number, injector=b.injector)
                     for b in trace.bursts if b.injector and not b.reading_id]  # fmt: skip
            if takes:
                take_bursts(self._engine, trace.id, takes, self._thresholds)
        except PlumbError as error:
            self._show(trouble=f"{path.name}: {error.problems[0].text()}", sound="trouble")
            return
        except (StoreDown, StoreBusy, StoreFull):
            # It is looked at again with the next look.
            self._seen.pop(path, None)
            self._show(trouble="the database does not answer: files wait in their folder")
            return
        except OSError as error:
            self._show(trouble=f"{path.name} cannot be read ({error.strerror})", sound="trouble")
            return
        doubted = sum(b.doubtful for b in trace.bursts)
        last = LastView(
            row=path.name, shown=f"{len(takes)} readings, {doubted} doubtful", kept=True,
            confidence_percent=100.0, doubts=[],
        )  # fmt: skip
        self._show(
            taken=self.view().taken + 1, last=last, trace_id=trace.id, trouble="",
            sound="doubt" if doubted else "taken",
        )  # fmt: skip

    def _show(self, **change: Any) -> None:  # noqa: ANN401  fields of the view
        with self._lock:
            before = self._view
            tone = before.tone + bool(change.get("sound"))
            self._view = replace(before, number=before.number + 1, tone=tone, **change)
            self._tell({"type": "capture", "capture": asdict(self._view)})
