"""What a vehicle has shown over the years: all of its jobs and sheets, and figures from paper."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, fields
from datetime import date, datetime, timedelta
from typing import Any, cast

from sqlalchemy import Connection, Table, select, update
from sqlalchemy.dialects.mysql import insert

from plumb.store.records import JobRecord, WholeSheet, record
from plumb.store.sheets import JOB, SHEET, VEHICLE, sheets_by_id, touch_sheets_of
from plumb.store.tables_finishing import OldFigureRow, PartRow

OLD = cast("Table", OldFigureRow.__table__)
PART = cast("Table", PartRow.__table__)


@dataclass(frozen=True, slots=True)
class OldFigure:
    """What an injector gave on a day before Plumb measured it here; ``value`` in the core's unit."""

    id: int
    vehicle_id: int
    injector_id: int
    kind: str
    taken_on: date
    distance_typed: str | None
    value_typed: str
    value: float
    unit: str
    source: str


def jobs_of_vehicle(connection: Connection, vehicle_id: int) -> list[JobRecord]:
    """Every job of a vehicle, oldest first."""
    query = select(JOB).where(JOB.c.vehicle_id == vehicle_id)
    rows = connection.execute(query.order_by(JOB.c.opened_at, JOB.c.id))
    return [record(JobRecord, row, JOB) for row in rows]


def old_figures(connection: Connection, vehicle_id: int) -> list[OldFigure]:
    """The figures from paper of a vehicle, oldest first."""
    columns = [OLD.c[f.name] for f in fields(OldFigure)]
    query = select(*columns).where(OLD.c.vehicle_id == vehicle_id)
    return [OldFigure(*row) for row in connection.execute(query.order_by(OLD.c.taken_on, OLD.c.id))]


def put_old_figures(connection: Connection, rows: Sequence[Mapping[str, Any]]) -> None:
    """Keep figures from paper; one of the same day, place and kind takes the older one's place."""
    if not rows:
        return
    query = insert(OLD)
    changed = {
        n: query.inserted[n] for n in ("value", "value_typed", "unit", "source", "distance_typed")
    }
    connection.execute(query.on_duplicate_key_update(changed), [dict(r) for r in rows])


def sheets_before_on_vehicle(
    connection: Connection, vehicle_id: int, kind: str, job_id: int
) -> list[WholeSheet]:
    """The sheets of a kind on earlier jobs of a vehicle, oldest first."""
    opened = select(JOB.c.opened_at).where(JOB.c.id == job_id).scalar_subquery()
    query = (
        select(SHEET.c.id)
        .join(JOB, JOB.c.id == SHEET.c.job_id)
        .where(
            SHEET.c.vehicle_id == vehicle_id, SHEET.c.kind == kind, JOB.c.id != job_id,
            JOB.c.opened_at <= opened,
        )
    )  # fmt: skip
    return sheets_by_id(connection, list(connection.scalars(query)))


def sheets_of_alike(
    connection: Connection, kind: str, name: str, numbers: Collection[str], most: int
) -> list[WholeSheet]:
    """The newest sheets of a kind on vehicles of a name, or with a part of one of these numbers."""
    with_part = select(PART.c.vehicle_id).where(PART.c.number.in_(numbers or [""]))
    # By one index each, and both together: one question with an "or" goes through every sheet of the kind.
    alike = select(VEHICLE.c.id).where(VEHICLE.c.name == name).union(with_part).subquery()
    query = (
        select(SHEET.c.id)
        .join(alike, alike.c.id == SHEET.c.vehicle_id)
        .where(SHEET.c.kind == kind)
        .order_by(SHEET.c.id.desc())
        .limit(most)
    )
    return sheets_by_id(connection, list(connection.scalars(query)))


def move_sheets_of(connection: Connection, job_id: int, days: int) -> None:
    """Let the sheets of a job have been taken so many days later, or earlier."""
    by = timedelta(days=days)
    query = select(SHEET.c.id, SHEET.c.taken_at, SHEET.c.taken_typed).where(
        SHEET.c.job_id == job_id
    )
    for sheet_id, at, typed in connection.execute(query).all():
        connection.execute(
            update(SHEET)
            .where(SHEET.c.id == sheet_id)
            .values(taken_at=at + by, taken_typed=(datetime.fromisoformat(typed) + by).isoformat())
        )
    touch_sheets_of(connection, job_id)
