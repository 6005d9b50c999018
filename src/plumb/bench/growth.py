"""A shop of any size, for a bench: jobs of the demo brought in, then copied within the database.

The jobs that are copied are closed and lie back in time, one after the other; as many stay open as the demo has.
"""

from typing import Any, Final

from sqlalchemy import (
    Connection,
    Engine,
    Integer,
    Table,
    cast,
    func,
    insert,
    literal,
    select,
    table,
    text,
)
from sqlalchemy import column as named

from plumb.core.causes.table import FAULTS
from plumb.demo.load import JOBS as FILES
from plumb.service.uses.transfer import import_job
from plumb.store import taught, words
from plumb.store.causes import confirm
from plumb.store.jobs import all_numbers, job_by_number
from plumb.store.session import quiet, transaction
from plumb.store.tables import Base

LEAST_READINGS: Final = 14
"""Jobs with fewer are not copied: a shop of a hundred thousand jobs has two million readings."""
_APART: Final = 1000
"""Ids of one copy and the next."""
_IN_A_GO: Final = 200


def grow(engine: Engine, jobs: int) -> tuple[int, int]:
    """Fill a store that is empty; how many jobs and how many live readings it has then."""
    for path in sorted(FILES.glob("*.json")):
        import_job(engine, path.read_bytes())
    with transaction(engine) as connection:
        _teach(connection)
        copied = _copied(connection)
        there = len(all_numbers(connection))
    copies = -(-(jobs - there) // len(copied))
    for first in range(1, copies + 1, _IN_A_GO):
        with transaction(engine) as connection, quiet(connection):
            connection.execute(text("SET SESSION foreign_key_checks = 0, unique_checks = 0"))
            _copy(connection, copied, first, min(first + _IN_A_GO - 1, copies))
            connection.execute(text("SET SESSION foreign_key_checks = 1, unique_checks = 1"))
    with transaction(engine) as connection:
        words.fill(connection)
        taught.changed(connection)
        for name in _TABLES:
            connection.execute(text(f"ANALYZE TABLE {name}"))
        return _count(connection, "job"), _count(connection, "reading")


_TABLES: Final = ("vehicle", "injector", "job", "sheet", "reading", "confirmed_cause", "found_by")


def _table(name: str) -> Table:
    return Base.metadata.tables[name]


def _count(connection: Connection, name: str) -> int:
    return connection.scalar(select(func.count()).select_from(_table(name))) or 0


def _copied(connection: Connection) -> list[int]:
    """The jobs that are copied."""
    sheet, reading = _table("sheet"), _table("reading")
    query = select(sheet.c.job_id).join(reading, reading.c.sheet_id == sheet.c.id)
    grouped = query.group_by(sheet.c.job_id).having(func.count() >= LEAST_READINGS)
    return list(connection.scalars(grouped))


def _teach(connection: Connection) -> None:
    """Let every job have found something, so that each copy counts among what is common here."""
    for number in all_numbers(connection):
        found = job_by_number(connection, number)
        if found is not None:
            job, vehicle = found
            fault = next(f for f in FAULTS.values() if vehicle.fuel_system in f.common)
            confirm(connection, job.id, fault.code, "")


def _copy(connection: Connection, jobs: list[int], first: int, last: int) -> None:
    """Copies of these jobs and of all that hangs on them, with ids further on."""
    copy = table(f"seq_{first}_to_{last}", named("seq")).alias("copy")
    number = cast(copy.c.seq, Integer)
    shift = number * _APART
    job, vehicle = _table("job"), _table("vehicle")
    mine = select(job.c.vehicle_id).where(job.c.id.in_(jobs))
    sheets = select(_table("sheet").c.id).where(_table("sheet").c.job_id.in_(jobs))
    back = func.timestampadd(text("MINUTE"), -30 * number, job.c.opened_at)
    changed: dict[str, dict[str, Any]] = {
        "vehicle": {
            "name": func.concat(vehicle.c.name, " ", number % 40),
            "registration": func.concat("SM ", number, "-", func.lpad(vehicle.c.id, 3, "0")),
        },
        "job": {
            "number": func.concat(number * _APART + job.c.id), "opened_at": back,
            "closed_at": back, "request_id": literal(None),
        },
        "sheet": {"request_id": literal(None)},
        "reading": {
            # The time-low of a UUID tells one copy's readings from another's.
            "id": func.concat(func.lpad(func.hex(copy.c.seq), 8, "0"), func.substr(_table("reading").c.id, 9)),
            "replaces": literal(None),
        },
    }  # fmt: skip
    which = {
        "vehicle": vehicle.c.id.in_(mine),
        "injector": _table("injector").c.vehicle_id.in_(mine),
        "job": job.c.id.in_(jobs),
        "sheet": _table("sheet").c.job_id.in_(jobs),
        "reading": _table("reading").c.sheet_id.in_(sheets),
        "confirmed_cause": _table("confirmed_cause").c.job_id.in_(jobs),
    }
    for name, wanted in which.items():
        source = _table(name)
        values: dict[str, Any] = {
            c.name: c + shift if c.name == "id" or c.name.endswith("_id") else c for c in source.c
        } | changed.get(name, {})
        query = select(*values.values()).select_from(source.join(copy, literal(1) == 1))
        connection.execute(insert(source).from_select(list(values), query.where(wanted)))
