"""What is asked for by number, id or label: there, or an error that says what is."""

from collections.abc import Sequence

from sqlalchemy import Connection

from plumb.core.measure.problems import Conflict, NotThere, PlumbError, Problem
from plumb.core.measure.quantities import kpa_per
from plumb.service.stored.others import with_others
from plumb.store import jobs as job_store
from plumb.store import sheets as store
from plumb.store.records import InjectorRecord, JobRecord, VehicleRecord, WholeSheet


def known_sheet(
    connection: Connection, sheet_id: int, *, lock: bool = False, though_closed: bool = False
) -> WholeSheet:
    """A sheet with everything on it, locked for who changes it; :class:`NotThere` when there is none.

    A sheet of a closed job is not handed out to be changed, unless ``though_closed``.
    """
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
    if lock and not though_closed:
        still_open(closed=whole.closed, number=whole.job_number)
    return with_others(connection, whole)


def still_open(*, closed: bool, number: str) -> None:
    """:class:`Conflict` for a job that is closed."""
    if closed:
        raise Conflict(
            Problem(
                path="job",
                rule="this job is closed: open it again, then note what belongs to it",
                value=number,
                code="closed",
            )
        )


def known_job(
    connection: Connection, number: str, *, lock: bool = False
) -> tuple[JobRecord, VehicleRecord]:
    """A job and its vehicle; :class:`NotThere` when there is none of that number."""
    found = job_store.job_by_number(connection, number, lock=lock)
    if found is None:
        raise no_such_job(number)
    return found


def known_vehicle(connection: Connection, vehicle_id: int, *, lock: bool = False) -> VehicleRecord:
    """A vehicle; :class:`NotThere` when there is none of that id."""
    vehicle = job_store.vehicle_by_id(connection, vehicle_id, lock=lock)
    if vehicle is None:
        raise NotThere(
            Problem(
                path="vehicle", rule="there is no such vehicle", value=str(vehicle_id),
                code="no_such_vehicle",
            )
        )  # fmt: skip
    return vehicle


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


def known_labels(
    connection: Connection, vehicle_id: int, labels: Sequence[str], path: str = "injector"
) -> dict[str, int]:
    """The ids of a vehicle's injectors by label; :class:`PlumbError` for one that it does not have."""
    ids = {i.label: i.id for i in store.injectors_of(connection, vehicle_id)}
    for label in labels:
        if label not in ids:
            raise PlumbError(
                Problem(
                    path=path, rule=f"an injector of this engine: {', '.join(ids)}",
                    value=label, code="unknown_injector",
                )
            )  # fmt: skip
    return ids
