"""Jobs, vehicles and gauges in the store."""

from collections.abc import Mapping, Sequence
from contextlib import nullcontext
from datetime import datetime
from typing import Any, Final, cast

from sqlalchemy import Connection, Table, delete, func, insert, select, update
from sqlalchemy.dialects.mysql import insert as mysql_insert

from plumb.store import changes, taught, words
from plumb.store.records import GaugeRecord, JobRecord, ShelfRecord, VehicleRecord, record
from plumb.store.sheets import INJECTOR, JOB, READING, SHEET, VEHICLE, inserted
from plumb.store.tables import CounterRow, GaugeRow, ShelfRow

GAUGE = cast("Table", GaugeRow.__table__)
SHELF = cast("Table", ShelfRow.__table__)
COUNTER = cast("Table", CounterRow.__table__)

_WITH_VEHICLE = select(JOB, VEHICLE).join(VEHICLE, VEHICLE.c.id == JOB.c.vehicle_id)


def job_by_number(
    connection: Connection, number: str, *, lock: bool = False
) -> tuple[JobRecord, VehicleRecord] | None:
    """A job and its vehicle; ``lock`` holds the job, not the vehicle, until the transaction ends."""
    if lock:
        connection.execute(select(JOB.c.id).where(JOB.c.number == number).with_for_update())
    row = connection.execute(_WITH_VEHICLE.where(JOB.c.number == number)).first()
    if row is None:
        return None
    return record(JobRecord, row, JOB), record(VehicleRecord, row, VEHICLE)


def job_number_by_request(connection: Connection, request_id: str) -> str | None:
    """The job that a browser's request made already."""
    return connection.scalar(select(JOB.c.number).where(JOB.c.request_id == request_id))


def find_jobs(
    connection: Connection, find: str, *, closed: bool, skip: int, most: int
) -> tuple[int, list[tuple[JobRecord, VehicleRecord]]]:
    """Jobs by number, plate, vehicle, complaint or code; every word must be found somewhere.

    How many there are in all, counted up to one beyond :data:`words.MOST_COUNTED`, and ``most`` of them,
    newest first, after ``skip`` others.
    """
    if find.strip():
        places = (words.OPEN_JOB, words.CLOSED_JOB) if closed else (words.OPEN_JOB,)
        total, ids = words.search(connection, find, places, skip=skip, most=most)
    else:
        every = select(JOB.c.id) if closed else select(JOB.c.id).where(JOB.c.closed_at.is_(None))
        some = every.limit(words.MOST_COUNTED + 1).subquery()
        total = connection.scalar(select(func.count()).select_from(some)) or 0
        in_order = every.order_by(JOB.c.opened_at.desc(), JOB.c.id.desc())
        ids = list(connection.scalars(in_order.offset(skip).limit(most)))
    rows = {row.id: row for row in connection.execute(_WITH_VEHICLE.where(JOB.c.id.in_(ids)))}
    found = [rows[n] for n in ids if n in rows]
    return total, [(record(JobRecord, r, JOB), record(VehicleRecord, r, VEHICLE)) for r in found]


def jobs_opened(
    connection: Connection, since: datetime, until: datetime, most: int
) -> list[tuple[JobRecord, VehicleRecord]]:
    """The jobs that were opened between two moments, oldest first, so many at most."""
    query = _WITH_VEHICLE.where(JOB.c.opened_at >= since, JOB.c.opened_at <= until)
    rows = connection.execute(query.order_by(JOB.c.opened_at, JOB.c.id).limit(most))
    return [(record(JobRecord, r, JOB), record(VehicleRecord, r, VEHICLE)) for r in rows]


def find_vehicles(connection: Connection, find: str, most: int) -> list[VehicleRecord]:
    """Vehicles by name or plate, newest first; every word must be found in one of them."""
    query = select(VEHICLE)
    if find.strip():
        _, ids = words.search(connection, find, (words.OF_VEHICLE,), skip=0, most=most)
        query = query.where(VEHICLE.c.id.in_(ids))
    rows = connection.execute(query.order_by(VEHICLE.c.id.desc()).limit(most))
    return [record(VehicleRecord, r, VEHICLE) for r in rows]


def vehicles_named(
    connection: Connection, name: str, registration: str, fuel_system: str
) -> list[VehicleRecord]:
    """The vehicles of exactly this name, plate and fuel system, newest first."""
    same = (
        VEHICLE.c.registration == registration, VEHICLE.c.name == name,
        VEHICLE.c.fuel_system == fuel_system,
    )  # fmt: skip
    rows = connection.execute(select(VEHICLE).where(*same).order_by(VEHICLE.c.id.desc()))
    found = [record(VehicleRecord, r, VEHICLE) for r in rows]
    # The database takes letters of another case, or with an accent, for the same.
    return [v for v in found if (v.name, v.registration) == (name, registration)]


def vehicle_by_id(
    connection: Connection, vehicle_id: int, *, lock: bool = False
) -> VehicleRecord | None:
    """One vehicle; ``lock`` holds it and all of its sheets, in that order.

    Everybody who changes things holds them in one order: vehicle, job, sheet, then injectors and
    readings.  Who types holds a sheet and then looks at an injector, so whoever moves injectors
    holds the sheets first.
    """
    query = select(VEHICLE).where(VEHICLE.c.id == vehicle_id)
    row = connection.execute(query.with_for_update() if lock else query).first()
    if lock:
        sheets = select(SHEET.c.id).where(SHEET.c.vehicle_id == vehicle_id).order_by(SHEET.c.id)
        connection.execute(sheets.with_for_update())
    return None if row is None else record(VehicleRecord, row, VEHICLE)


_COUNT = select(COUNTER.c.value).where(COUNTER.c.name == "job")
_COUNT_UP = (
    mysql_insert(COUNTER)
    .values(name="job", value=1)
    .on_duplicate_key_update(value=COUNTER.c.value + 1)
)


def next_job_number(connection: Connection, *, take: bool = True) -> str:
    """The next number of the shop's own count, past those that came in with files.

    Without ``take`` it is only looked at.  Counting holds the counter until the transaction ends,
    so that two jobs never draw the same number.
    """
    if take:
        connection.execute(_COUNT_UP)
    number = int(connection.scalar(_COUNT) or 0) + (not take)
    while connection.scalar(select(JOB.c.id).where(JOB.c.number == str(number))) is not None:
        number += 1
    if take:
        count_from(connection, number)
    return str(number)


def count_from(connection: Connection, number: int) -> None:
    """Let the shop's own count go on after this number."""
    row = mysql_insert(COUNTER).values(name="job", value=number)
    connection.execute(row.on_duplicate_key_update(value=number))


def add_vehicle(
    connection: Connection, vehicle: Mapping[str, Any], injectors: Sequence[Mapping[str, Any]]
) -> int:
    """Store a vehicle and its injectors in the order given; its new id."""
    vehicle_id = inserted(connection, VEHICLE, vehicle)
    connection.execute(
        insert(INJECTOR),
        [
            {"vehicle_id": vehicle_id, "position": n, "listed": n, **i}
            for n, i in enumerate(injectors)
        ],
    )
    words.made_vehicle(connection, vehicle_id)
    return vehicle_id


def add_job(connection: Connection, values: Mapping[str, Any]) -> int:
    """Store a job; its new id."""
    job_id = inserted(connection, JOB, values)
    words.made_job(connection, job_id)
    return job_id


_LOOKED_FOR: Final = frozenset({"complaint", "codes", "closed_at", "number", "opened_at"})


def change_job(connection: Connection, job_id: int, values: Mapping[str, Any]) -> None:
    """Change a job."""
    found_anew = words.followed(connection, job_id=job_id)
    with found_anew if _LOOKED_FOR & values.keys() else nullcontext():
        connection.execute(update(JOB).where(JOB.c.id == job_id).values(**values))
    if "closed_at" in values:
        taught.changed(connection)


def set_reach_order(connection: Connection, vehicle_id: int, ids: Sequence[int]) -> None:
    """Put the injectors in this order; every sheet of the vehicle changes with it.

    Two steps, because positions are unique within a vehicle.
    """
    for offset in (1000, 0):
        for n, injector_id in enumerate(ids):
            connection.execute(
                update(INJECTOR)
                .values(position=n + offset)
                .where(INJECTOR.c.id == injector_id, INJECTOR.c.vehicle_id == vehicle_id)
            )
    _touch_sheets(connection, vehicle_id)


def _touch_sheets(connection: Connection, vehicle_id: int) -> None:
    """Count the version of every sheet of a vehicle up."""
    connection.execute(
        update(SHEET).where(SHEET.c.vehicle_id == vehicle_id).values(version=SHEET.c.version + 1)
    )
    changes.note(connection, vehicles=(vehicle_id,))


def change_injector(
    connection: Connection, vehicle_id: int, injector_id: int, values: Mapping[str, Any]
) -> None:
    """Change bank, feed or cylinder of an injector; every sheet of the vehicle changes with it."""
    connection.execute(update(INJECTOR).where(INJECTOR.c.id == injector_id).values(**values))
    _touch_sheets(connection, vehicle_id)


def change_vehicle(connection: Connection, vehicle_id: int, values: Mapping[str, Any]) -> None:
    """Change what a vehicle is called, and how its distance and cylinders are counted."""
    with words.followed(connection, vehicle_id=vehicle_id):
        connection.execute(update(VEHICLE).where(VEHICLE.c.id == vehicle_id).values(**values))


def was_read(connection: Connection, injector_id: int) -> bool:
    """Whether an injector was ever read, what was taken back included."""
    query = select(READING.c.id).where(READING.c.injector_id == injector_id).limit(1)
    return connection.scalar(query) is not None


def add_injector(connection: Connection, vehicle_id: int, values: Mapping[str, Any]) -> int:
    """Put an injector on an engine, behind all others; its new id."""
    last = select(func.max(INJECTOR.c.position)).where(INJECTOR.c.vehicle_id == vehicle_id)
    behind = (connection.scalar(last) or 0) + 1
    place = {"vehicle_id": vehicle_id, "position": behind, "listed": behind}
    taught.changed(connection)
    return inserted(connection, INJECTOR, {**place, **values})


def set_injector(connection: Connection, injector_id: int, values: Mapping[str, Any]) -> None:
    """Change an injector; whoever calls this counts the sheets' versions up."""
    connection.execute(update(INJECTOR).where(INJECTOR.c.id == injector_id).values(**values))


def drop_injector(connection: Connection, injector_id: int) -> None:
    """Take an injector away that was never read."""
    taught.changed(connection)
    connection.execute(delete(INJECTOR).where(INJECTOR.c.id == injector_id))


def drop_job(connection: Connection, job_id: int, vehicle_id: int) -> None:
    """Take an empty job away, with its empty sheets, and its vehicle where it has no other job."""
    with words.followed(connection, job_id=job_id, vehicle_id=vehicle_id):
        connection.execute(delete(SHEET).where(SHEET.c.job_id == job_id))
        connection.execute(delete(JOB).where(JOB.c.id == job_id))
        others = select(JOB.c.id).where(JOB.c.vehicle_id == vehicle_id)
        if connection.scalar(others.limit(1)) is None:
            connection.execute(delete(VEHICLE).where(VEHICLE.c.id == vehicle_id))


def gauges(connection: Connection) -> list[GaugeRecord]:
    """All gauges of the shelf, by name."""
    rows = connection.execute(select(GAUGE).order_by(GAUGE.c.name))
    return [record(GaugeRecord, r, GAUGE) for r in rows]


def add_gauge(connection: Connection, values: Mapping[str, Any]) -> int:
    """Put a gauge on the shelf; its new id."""
    return inserted(connection, GAUGE, values)


def all_numbers(connection: Connection) -> list[str]:
    """The number of every job, oldest first."""
    return list(connection.scalars(select(JOB.c.number).order_by(JOB.c.id)))


def count_jobs(connection: Connection) -> int:
    """How many jobs there are in all."""
    return connection.scalar(select(func.count()).select_from(JOB)) or 0


def change_gauge(connection: Connection, gauge_id: int, values: Mapping[str, Any]) -> int:
    """Change a gauge of the shelf; how many there were of that id."""
    return connection.execute(update(GAUGE).where(GAUGE.c.id == gauge_id).values(**values)).rowcount


def drop_gauge(connection: Connection, gauge_id: int) -> int:
    """Take a gauge off the shelf; sheets keep the copy they have."""
    return connection.execute(delete(GAUGE).where(GAUGE.c.id == gauge_id)).rowcount


def shelf(connection: Connection, what: str | None = None) -> list[ShelfRecord]:
    """The windows, rules and layouts of the shelf, by name."""
    query = select(SHELF).order_by(SHELF.c.what, SHELF.c.name)
    if what is not None:
        query = query.where(SHELF.c.what == what)
    return [record(ShelfRecord, r, SHELF) for r in connection.execute(query)]


def add_to_shelf(connection: Connection, values: Mapping[str, Any]) -> int:
    """Put a window, a rule or a layout on the shelf; its new id."""
    return inserted(connection, SHELF, values)


def change_on_shelf(connection: Connection, entry_id: int, values: Mapping[str, Any]) -> int:
    """Change an entry of the shelf; how many there were of that id."""
    return connection.execute(update(SHELF).where(SHELF.c.id == entry_id).values(**values)).rowcount


def drop_from_shelf(connection: Connection, entry_id: int) -> int:
    """Take an entry off the shelf; sheets keep the copy they have."""
    return connection.execute(delete(SHELF).where(SHELF.c.id == entry_id)).rowcount
