"""What is asked for by number, id or label: there, or an error that says what is."""

from sqlalchemy import Connection

from plumb.core.measure.problems import NotThere, PlumbError, Problem
from plumb.core.measure.quantities import kpa_per
from plumb.service.stored.lessons import with_learnt
from plumb.store import jobs as job_store
from plumb.store import sheets as store
from plumb.store.records import InjectorRecord, JobRecord, VehicleRecord, WholeSheet


def known_sheet(connection: Connection, sheet_id: int, *, lock: bool = False) -> WholeSheet:
    """A sheet with everything on it; :class:`NotThere` when there is none."""
    whole = store.whole_sheet(connection, sheet_id, lock=lock)
    if whole is None:
        raise NotThere(
            Problem(
                path="sheet",
                rule="there is no such sheet",
                value=str(sheet_id),
                code="no_such_sheet",
            )
        )
    return with_learnt(connection, whole)


def known_job(
    connection: Connection, number: str, *, lock: bool = False
) -> tuple[JobRecord, VehicleRecord]:
    """A job and its vehicle; :class:`NotThere` when there is none of that number."""
    found = job_store.job_by_number(connection, number, lock=lock)
    if found is None:
        raise no_such_job(number)
    return found


def no_such_job(number: str) -> NotThere:
    """The error for a job that is not there."""
    return NotThere(
        Problem(path="job", rule="there is no such job", value=number, code="no_such_job")
    )


def known_unit(unit: str | None) -> None:
    """Refuse a unit that is none; None is the gauge's own."""
    if unit is not None:
        kpa_per(unit, "unit")


def injector_of(whole: WholeSheet, label: str) -> InjectorRecord:
    """The injector of that label; :class:`PlumbError` with the labels there are."""
    for one in whole.injectors:
        if one.label == label:
            return one
    known = ", ".join(i.label for i in whole.injectors)
    raise PlumbError(
        Problem(
            path="injector",
            rule=f"an injector of this engine: {known}",
            value=label,
            code="unknown_injector",
        )
    )
