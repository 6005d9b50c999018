"""What other applications on the same database change, for the screens of this one: asked for once a second.

What is changed here is told at once (:mod:`plumb.store.changes`); of another machine's doing only the versions
in the database speak.
"""

import threading
from collections.abc import Callable, Collection, Mapping
from typing import Final

from sqlalchemy import Engine

from plumb.devices.scheduler import REAL_TIME, Scheduler
from plumb.store import sheets as store
from plumb.store.changes import Changed
from plumb.store.session import StoreBusy, StoreDown, transaction

ASK_S: Final = 1.0

Looked = Callable[[], tuple[Collection[int], Collection[str]]]
"""The sheets and the jobs that screens show now."""


class Elsewhere:
    """Asks for versions of what is looked at, and tells of those that went on."""

    def __init__(
        self, engine: Engine, looked: Looked, told: Callable[[Changed], None],
        scheduler: Scheduler = REAL_TIME,
    ) -> None:  # fmt: skip
        self._engine, self._looked, self._told = engine, looked, told
        self._scheduler = scheduler
        self._done = threading.Event()
        self._thread: threading.Thread | None = None

    def open(self) -> None:
        """Begin."""
        self._thread = self._scheduler.begin(self._work, "elsewhere")

    def close(self) -> None:
        """End."""
        self._done.set()
        if self._thread is not None:
            self._thread.join(5.0)

    def _work(self) -> None:
        sheets: Mapping[int, int] = {}
        jobs: Mapping[int, tuple[int, int, int]] = {}
        while not self._scheduler.wait(self._done, ASK_S):
            wanted, numbers = self._looked()
            if not wanted and not numbers:
                continue
            try:
                with transaction(self._engine) as connection:
                    now = store.versions_of(connection, wanted)
                    there = store.states_of_jobs(connection, numbers)
            except (StoreDown, StoreBusy):
                continue
            # What a screen has only begun to show was sent to it as it is.
            changed = Changed(
                sheets=frozenset(n for n, v in now.items() if sheets.get(n, v) != v),
                jobs=frozenset(n for n, state in there.items() if jobs.get(n, state) != state),
            )
            sheets, jobs = now, there
            if changed.sheets or changed.jobs:
                self._told(changed)
