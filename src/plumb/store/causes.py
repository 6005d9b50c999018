"""What closed jobs have confirmed, and what the shop has chosen about learning from it."""

from typing import Final, cast

from sqlalchemy import Connection, Table, func, select
from sqlalchemy.dialects.mysql import insert

from plumb.core.causes.common import Counts
from plumb.store import taught
from plumb.store.tables import (
    ConfirmedCause,
    InjectorRow,
    JobRow,
    Preference,
    VehicleRow,
)

CAUSE = cast("Table", ConfirmedCause.__table__)
PREFERENCE = cast("Table", Preference.__table__)
JOB = cast("Table", JobRow.__table__)
VEHICLE = cast("Table", VehicleRow.__table__)
INJECTOR = cast("Table", InjectorRow.__table__)
LEARNING = "learn_from_closed_jobs"


def confirm(connection: Connection, job_id: int, fault: str, place: str = "") -> None:
    """Keep that a repair has shown this to be the cause on that job; once is enough."""
    query = insert(CAUSE).values(job_id=job_id, fault=fault, place=place)
    connection.execute(query.on_duplicate_key_update(fault=query.inserted.fault))
    taught.changed(connection)


MOST_TAUGHT: Final = 2000
"""So many of the newest closed jobs of a fuel system teach: what was common long ago is not, today."""


def counts_on(connection: Connection, fuel_system: str) -> Counts:
    """What the newest closed jobs of a fuel system confirmed."""
    return taught.counted(connection, "causes", fuel_system, _count)


def _count(connection: Connection, fuel_system: str) -> Counts:
    jobs = (
        select(CAUSE.c.job_id)
        .join(JOB, JOB.c.id == CAUSE.c.job_id)
        .join(VEHICLE, VEHICLE.c.id == JOB.c.vehicle_id)
        .where(JOB.c.closed_at.is_not(None), VEHICLE.c.fuel_system == fuel_system)
        .distinct()
        .order_by(CAUSE.c.job_id.desc())
        .limit(MOST_TAUGHT)
        .subquery()
    )
    number = connection.execute(select(func.count()).select_from(jobs)).scalar_one()
    if not number:
        return Counts()
    faults = select(CAUSE.c.fault, func.count()).join(jobs, jobs.c.job_id == CAUSE.c.job_id)
    injectors = (
        select(func.count())
        .select_from(jobs)
        .join(JOB, JOB.c.id == jobs.c.job_id)
        .join(INJECTOR, INJECTOR.c.vehicle_id == JOB.c.vehicle_id)
    )
    return Counts(
        jobs=number,
        injectors=connection.execute(injectors).scalar_one(),
        faults={row[0]: row[1] for row in connection.execute(faults.group_by(CAUSE.c.fault))},
    )


def preference(connection: Connection, name: str) -> str:
    """What was chosen; empty where nobody did."""
    query = select(PREFERENCE.c.value).where(PREFERENCE.c.name == name)
    return str(connection.execute(query).scalar() or "")


def choose(connection: Connection, name: str, value: str) -> None:
    """Choose for the whole shop."""
    query = insert(PREFERENCE).values(name=name, value=value)
    connection.execute(query.on_duplicate_key_update(value=query.inserted.value))
