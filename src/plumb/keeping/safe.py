"""How safe the shop's figures are; apart, so that a start loads nothing of how backups are made."""

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True)
class Safe:
    """How safe the shop's figures are: the last backup, and what went wrong since; None and empty where nothing."""

    last: datetime | None
    trouble: str
