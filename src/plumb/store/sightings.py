"""Causes that persons found, as they are kept."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any, cast

from sqlalchemy import Connection, Table, select, update
from sqlalchemy.dialects.mysql import insert as mysql_insert

from plumb.store.tables_finishing import SightingRow

SIGHTING = cast("Table", SightingRow.__table__)


@dataclass(frozen=True, slots=True)
class SightingRecord:
    """A cause that a person found."""

    id: str
    job_id: int
    injector_id: int | None
    fault: str
    words: str
    how: str
    explains: list[str]
    at: datetime
    at_typed: str
    by_whom: str
    extras: dict[str, Any] | None


def add_sighting(connection: Connection, values: Mapping[str, Any]) -> None:
    """Keep what a person found; the same one twice is one."""
    query = mysql_insert(SIGHTING).values(**values)
    connection.execute(query.on_duplicate_key_update(id=query.inserted.id))


def take_sighting_back(connection: Connection, job_id: int, sighting_id: str) -> bool:
    """Let it hold no more; it stays in the store.  Whether the job has such a one."""
    mine = (SIGHTING.c.id == sighting_id, SIGHTING.c.job_id == job_id)
    if connection.scalar(select(SIGHTING.c.id).where(*mine)) is None:
        return False
    connection.execute(update(SIGHTING).where(*mine).values(live=None))
    return True
