"""Who looks at which sheet, and what they are told: changes of others, and a capture as it goes on.

A change is looked at once for each unit that it is shown in, whoever many look on; then it is one text
that all of them get.
"""

import itertools
import json
import queue
import threading
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Final

from pydantic import TypeAdapter
from sqlalchemy import Engine

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import PlumbError
from plumb.devices.scheduler import REAL_TIME, Scheduler
from plumb.service.live.elsewhere import Elsewhere
from plumb.service.uses.sheets import show_sheet
from plumb.service.views.sheet import SheetView
from plumb.store.changes import Changed, listen
from plumb.store.session import StoreBusy, StoreDown

Put = Callable[[str], None]
_SHEET: Final = TypeAdapter(SheetView)


@dataclass(frozen=True, slots=True, kw_only=True)
class Looker:
    """A screen: the job and the sheet that it shows (0: none), its unit, and how it is told."""

    job: str
    sheet: int
    unit: str | None
    put: Put


class Hub:
    """Tells screens.  ``put`` is called from other threads and must not wait.

    ``alone``: no other application works on this database.
    """

    def __init__(
        self, engine: Engine, thresholds: Thresholds, *, alone: bool = True,
        scheduler: Scheduler = REAL_TIME,
    ) -> None:  # fmt: skip
        self._engine, self._thresholds = engine, thresholds
        self._elsewhere = (
            None if alone else Elsewhere(engine, self._looked_at, self.heard, scheduler)
        )
        self._lookers: dict[int, Looker] = {}
        self._ids = itertools.count(1)
        self._lock = threading.Lock()
        self._changed: queue.SimpleQueue[Changed | None] = queue.SimpleQueue()
        self._thread: threading.Thread | None = None
        self._stop: Callable[[], None] = lambda: None

    def open(self) -> None:
        """Begin to hear of changes."""
        self._stop = listen(self._changed.put)
        self._thread = threading.Thread(target=self._work, name="hub", daemon=True)
        self._thread.start()
        if self._elsewhere is not None:
            self._elsewhere.open()

    def close(self) -> None:
        """Hear of nothing more."""
        if self._elsewhere is not None:
            self._elsewhere.close()
        self._stop()
        self._changed.put(None)
        if self._thread is not None:
            self._thread.join(5.0)

    def join(self, looker: Looker) -> Callable[[], None]:
        """A screen opens; gives back how it leaves."""
        number = next(self._ids)
        with self._lock:
            self._lookers[number] = looker

        def leave() -> None:
            with self._lock:
                self._lookers.pop(number, None)

        return leave

    def tell(self, sheet_id: int, message: Mapping[str, Any]) -> None:
        """Something about a sheet, for all who look at it."""
        text = json.dumps(message)
        for one in self._looking():
            if one.sheet == sheet_id:
                one.put(text)

    def lookers(self) -> int:
        """How many screens hear of changes."""
        return len(self._looking())

    def _looked_at(self) -> tuple[set[int], set[str]]:
        lookers = self._looking()
        return {one.sheet for one in lookers if one.sheet}, {one.job for one in lookers if one.job}

    def heard(self, changed: Changed) -> None:
        """Another process of this shop has changed something."""
        self._changed.put(changed)

    def _looking(self) -> list[Looker]:
        with self._lock:
            return list(self._lookers.values())

    def _work(self) -> None:
        while (changed := self._changed.get()) is not None:
            try:
                self._tell(changed)
            except (StoreDown, StoreBusy, PlumbError):
                # Screens ask by themselves every few seconds: nothing is lost but the hurry.
                continue

    def _tell(self, changed: Changed) -> None:
        lookers = self._looking()
        # What holds for a whole job or vehicle may touch any sheet that somebody looks at.
        wide = bool(changed.jobs or changed.vehicles)
        seen = {(one.sheet, one.unit) for one in lookers if one.sheet}
        jobs: set[str] = set()
        for sheet_id, unit in seen:
            if not (wide or sheet_id in changed.sheets):
                continue
            view = show_sheet(self._engine, sheet_id, self._thresholds, unit)
            jobs.add(view.job_number)
            text = json.dumps({"type": "sheet", "sheet": _SHEET.dump_python(view, mode="json")})
            for one in lookers:
                if (one.sheet, one.unit) == (sheet_id, unit):
                    one.put(text)
        for one in lookers:
            if wide or one.job in jobs or not one.sheet:
                one.put(json.dumps({"type": "job", "job": one.job}))
