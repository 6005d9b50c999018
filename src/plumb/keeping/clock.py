"""Backups by the clock, while Plumb runs."""

from datetime import datetime, time
from pathlib import Path
from threading import Lock

from plumb.keeping import rota
from plumb.keeping.make import backup, backups, clear_out
from plumb.keeping.safe import Safe
from plumb.keeping.trouble import KeepingTrouble
from plumb.store.cluster import Cluster
from plumb.store.server import Place


class Clock:
    """Makes a backup once a day at a time of day (the machine's own), and clears out those that need not stay."""

    def __init__(
        self, place: Place | Cluster, folder: Path, at: time, passphrase: str = ""
    ) -> None:
        self._place, self._folder, self._at, self._passphrase = place, folder, at, passphrase
        self._trouble = ""
        self._lock = Lock()

    def look(self, now: datetime) -> Path | None:
        """Make one where it is due, at a moment with its offset; the file, None where there was nothing to do.

        What goes wrong is kept for :meth:`safe`, and tried again the next time.
        """
        made = list(backups(self._folder).values())
        local = [t.astimezone(now.tzinfo) for t in made]
        if not rota.is_due(local, now, self._at.hour, self._at.minute):
            return None
        try:
            file = backup(self._place, self._folder, passphrase=self._passphrase, at=now)
            clear_out(self._folder)
        except KeepingTrouble as trouble:
            with self._lock:
                self._trouble = str(trouble)
            return None
        with self._lock:
            self._trouble = ""
        return file

    def safe(self) -> Safe:
        """How it stands."""
        with self._lock:
            trouble = self._trouble
        return Safe(next(iter(backups(self._folder).values()), None), trouble)
