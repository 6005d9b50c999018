"""The photos of jobs: upright, small enough, without place and device."""

from collections.abc import Mapping
from dataclasses import dataclass, fields
from datetime import datetime
from typing import Any, cast

from sqlalchemy import Connection, Table, delete, insert, select, update

from plumb.store.tables_finishing import PhotoRow

PHOTO = cast("Table", PhotoRow.__table__)


@dataclass(frozen=True, slots=True)
class PhotoRecord:
    """A photo without its picture; ``place`` is the row of the sheet that it belongs to."""

    id: str
    job_id: int
    sheet_id: int | None
    place: str
    note: str
    in_report: bool
    by_whom: str
    taken_at: datetime
    taken_typed: str
    width: int
    height: int


_COLUMNS = [PHOTO.c[f.name] for f in fields(PhotoRecord)]


def photos_of(connection: Connection, job_id: int) -> list[PhotoRecord]:
    """The photos of a job, oldest first, without their pictures."""
    query = select(*_COLUMNS).where(PHOTO.c.job_id == job_id)
    return [
        PhotoRecord(*row)
        for row in connection.execute(query.order_by(PHOTO.c.taken_at, PHOTO.c.id))
    ]


def picture(connection: Connection, photo_id: str, *, small: bool) -> bytes | None:
    """The picture of a photo, or its print; None where there is no such photo."""
    column = PHOTO.c.small if small else PHOTO.c.data
    return connection.scalar(select(column).where(PHOTO.c.id == photo_id))


def add_photo(connection: Connection, values: Mapping[str, Any]) -> None:
    """Keep a photo."""
    connection.execute(insert(PHOTO).values(**values))


def photo_by_id(connection: Connection, photo_id: str) -> PhotoRecord | None:
    """One photo without its picture."""
    row = connection.execute(select(*_COLUMNS).where(PHOTO.c.id == photo_id)).first()
    return None if row is None else PhotoRecord(*row)


def change_photo(connection: Connection, photo_id: str, values: Mapping[str, Any]) -> None:
    """Change a photo's note, or whether it goes into the report."""
    connection.execute(update(PHOTO).where(PHOTO.c.id == photo_id).values(**values))


def drop_photo(connection: Connection, photo_id: str) -> None:
    """Take a photo away."""
    connection.execute(delete(PHOTO).where(PHOTO.c.id == photo_id))
