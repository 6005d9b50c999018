"""The store of practice: a database of its own, with the shop's tables and one for the runs."""

from collections.abc import Mapping
from dataclasses import dataclass, fields
from datetime import datetime
from typing import Any, Final, cast

from sqlalchemy import Connection, Engine, Table, insert, select, text, update

from plumb.store.schema import upgrade
from plumb.store.session import transaction
from plumb.store.tables import JobRow
from plumb.store.tables_practice import PracticeRunRow

RUN = cast("Table", PracticeRunRow.__table__)
FIRST_ID: Final = 1_000_000_000
"""The first id of a job, a sheet and the like in practice: what is remembered of one by its id, or told
to those who look at it, can never be taken for one of the shop's."""
_NUMBERED: Final = ("vehicle", "injector", "gauge", "shelf", "job", "sheet", "trace")


@dataclass(frozen=True, slots=True)
class RunRecord:
    """One exercise worked once; ``body`` is what the service keeps of it."""

    job_number: str
    request_id: str
    exercise: str
    by_whom: str
    exam: bool
    begun_at: datetime
    ended_at: datetime | None
    points: float | None
    body: Mapping[str, Any]


_COLUMNS: Final = [RUN.c[f.name] for f in fields(RunRecord)]


def open_practice(engine: Engine) -> None:
    """Bring its tables to the newest version; the first time its ids are set apart from the shop's.

    Raises :class:`plumb.store.schema.NewerTables`.
    """
    if upgrade(engine):
        with transaction(engine) as connection:
            for table in _NUMBERED:
                connection.execute(text(f"ALTER TABLE `{table}` AUTO_INCREMENT = {FIRST_ID}"))


def add_run(connection: Connection, values: Mapping[str, Any]) -> None:
    """A new run."""
    connection.execute(insert(RUN).values(**values))


def run_of(connection: Connection, job_number: str, *, lock: bool = False) -> RunRecord | None:
    """The run of a job; with ``lock`` it is held until the transaction ends."""
    query = select(*_COLUMNS).where(RUN.c.job_number == job_number)
    row = connection.execute(query.with_for_update() if lock else query).first()
    return RunRecord(*row) if row else None


def run_by_request(connection: Connection, request_id: str) -> RunRecord | None:
    """The run that a request began."""
    row = connection.execute(select(*_COLUMNS).where(RUN.c.request_id == request_id)).first()
    return RunRecord(*row) if row else None


def runs(connection: Connection) -> list[RunRecord]:
    """All of them, the newest first."""
    query = select(*_COLUMNS).order_by(RUN.c.begun_at.desc(), RUN.c.job_number.desc())
    return [RunRecord(*row) for row in connection.execute(query)]


def change_run(connection: Connection, job_number: str, values: Mapping[str, Any]) -> None:
    """Keep what has become of a run."""
    connection.execute(update(RUN).where(RUN.c.job_number == job_number).values(**values))


def vehicle_of_job(connection: Connection, job_number: str) -> int:
    """The id of the vehicle of a job that is there."""
    query = select(JobRow.vehicle_id).where(JobRow.number == job_number)
    return int(connection.execute(query).scalar_one())
