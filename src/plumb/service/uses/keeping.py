"""How safe the shop's figures are: the last backup, and the room on the disk."""

import shutil
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Final

from plumb.keeping.safe import Safe
from plumb.service.views.keeping import KeepingView

LOW_MB: Final = 1024
"""Below this it is said, while everything still works; at 300 MB the database does not start any more."""
OLD: Final = timedelta(hours=36)
"""A backup a day: one that is older than this was missed."""


def safe_keeping(safe: Safe | None, home: Path, now: datetime | None = None) -> KeepingView:
    """How it stands where the database lives in ``home``; without ``safe`` no backups are made by the clock."""
    now = now or datetime.now(UTC)
    try:
        free = shutil.disk_usage(home).free // 2**20
    except OSError:
        # What cannot be asked is not low: whoever writes there hears of it.
        free = LOW_MB
    return KeepingView(
        last=safe.last.isoformat() if safe and safe.last else "",
        by_clock=safe is not None,
        free_mb=free,
        told=told(safe, free, now),
    )


def told(safe: Safe | None, free_mb: int, now: datetime) -> list[str]:
    """What somebody should look after, the most pressing first; none where all is well.

    >>> told(None, 5000, datetime(2026, 11, 26))
    []
    >>> told(None, 400, datetime(2026, 11, 26))
    ['Only 400 MB are left on the disk with the database. Make room: when it is full, what is typed waits in the browsers.']
    """
    made = []
    if free_mb < LOW_MB:
        made.append(
            f"Only {free_mb} MB are left on the disk with the database. Make room: when it is full, "
            "what is typed waits in the browsers."
        )
    if safe is None:
        return made
    why = f" {_sentence(safe.trouble)}" if safe.trouble else ""
    if safe.last is None:
        return [*made, f"No backup was made yet.{why}"] if why else made
    age = now - safe.last
    if age > OLD:
        made.append(f"The last backup is {_days(age)} old.{why}")
    elif why:
        made.append(f"The last try at a backup failed.{why}")
    return made


def _days(age: timedelta) -> str:
    days = max(1, round(age / timedelta(days=1)))
    return "a day" if days == 1 else f"{days} days"


def _sentence(words: str) -> str:
    """Words as a sentence of their own."""
    return words[:1].upper() + words[1:].rstrip(".") + "."
