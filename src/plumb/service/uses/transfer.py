"""Job files in and out.  In: whole or not at all."""

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import IntegrityError

from plumb.core.measure.problems import Conflict, PlumbError, Problem, told
from plumb.jobfile.exact import dumps
from plumb.jobfile.file import JobFile
from plumb.jobfile.reading import check, parse
from plumb.jobfile.to_core import entries_of
from plumb.service.stored.finishing import (
    finishing_json,
    part_values,
    parts_before,
    prices_here,
    store_finishing,
    utc,
)
from plumb.service.stored.known import known_job
from plumb.service.stored.parts import (
    both_kept,
    count_of,
    filled,
    ids_of,
    instant,
    now_typed,
    reading_columns,
    sheet_columns,
    sheet_json,
    under,
)
from plumb.service.views.job import ImportView
from plumb.store import jobs as store
from plumb.store import sheets as sheet_store
from plumb.store.finishing import kept_of, put_first_part
from plumb.store.records import InjectorRecord, JobRecord, VehicleRecord
from plumb.store.session import retried, transaction


@retried
def export_job(engine: Engine, number: str) -> str:
    """A job as job file text, every figure as typed."""
    with transaction(engine) as connection:
        data = job_json(connection, *known_job(connection, number))
    check(data)
    return dumps(data, indent=1) + "\n"


def job_json(connection: Connection, job: JobRecord, vehicle: VehicleRecord) -> dict[str, Any]:
    """A stored job as the job file has it, every figure as typed."""
    injectors = sheet_store.injectors_of(connection, vehicle.id, retired=True)
    sheets = sheet_store.sheets_of(connection, job.id)
    kept = kept_of(connection, job.id)
    labels = {i.id: i.label for i in injectors}
    prices = prices_here(connection, job, vehicle, kept)
    parts = parts_before(connection, vehicle.id, labels, utc(job.opened_at))
    return {
        "plumb": 1,
        "job": _job_json(job),
        "vehicle": _vehicle_json(job, vehicle, injectors, parts),
        "sheets": [sheet_json(w) for w in sheets],
        **finishing_json(kept, prices, labels),
        **under(job.extras, "file"),
    }


def _job_json(job: JobRecord) -> dict[str, Any]:
    return {
        **filled(
            number=job.number,
            opened=job.opened_typed,
            closed=utc(job.closed_at).isoformat() if job.closed_at else None,
            complaint=job.complaint,
            codes=job.codes,
            set_aside=job.set_aside,
            dated_because=job.dated_because,
            ordered=job.ordered,
            accepted=job.accepted,
        ),
        **under(job.extras, "job"),
    }


def _vehicle_json(
    job: JobRecord,
    vehicle: VehicleRecord,
    injectors: tuple[InjectorRecord, ...],
    parts: Mapping[str, dict[str, str]],
) -> dict[str, Any]:
    distance = None if job.distance_typed is None else Decimal(job.distance_typed)
    return {
        **filled(
            name=vehicle.name,
            registration=vehicle.registration,
            distance_km=distance,
            fuel_system=vehicle.fuel_system,
            distance_unit="" if vehicle.distance_unit == "km" else vehicle.distance_unit,
            cylinders=vehicle.cylinders or None,
            firing_order=vehicle.firing_order,
            boosted=vehicle.boosted or None,
        ),
        "injectors": [
            {
                **filled(
                    id=i.label,
                    cylinder=i.cylinder or None,
                    bank=i.bank,
                    feed=i.feed,
                    set=i.set_name,
                    retired=i.retired or None,
                    part=parts.get(i.label),
                ),
                **(i.extras or {}),
            }
            for i in injectors
        ],
        **(vehicle.extras or {}),
    }


@retried
def preview_job(engine: Engine, text: bytes) -> ImportView:
    """What importing this job file would do; nothing is stored."""
    try:
        file = parse(text)
        with transaction(engine) as connection:
            number = free_number(connection, file, take=False)
    except PlumbError as error:
        return ImportView(
            fits=False,
            stored=False,
            summary="Nothing can be taken in.",
            job_number="",
            readings=0,
            problems=[p.text() for p in told(error.problems)],
        )
    return import_view(file, number, stored=False)


def import_view(file: JobFile, number: str, *, stored: bool) -> ImportView:
    """What bringing a job file in does, or did."""
    count = sum(count_of(s) for s in file.sheets)
    return ImportView(
        fits=True,
        stored=stored,
        summary=f"Job {number}: {file.vehicle.name}, {len(file.vehicle.injectors)} injectors, "
        f"{len(file.sheets)} sheet{'s' * (len(file.sheets) != 1)}, {count} readings.",
        job_number=number,
        readings=count,
        problems=[],
    )


def free_number(connection: Connection, file: JobFile, *, take: bool) -> str:
    """The job's number: the file's, which must be free, or the shop's next one."""
    number = file.job.number or store.next_job_number(connection, take=take)
    if store.job_by_number(connection, number) is not None:
        raise Conflict(
            Problem(
                path="job.number",
                value=number,
                code="number_taken",
                rule="a job of that number is here already; change the number in "
                "the file to bring it in as another",
            )
        )
    return number


@retried
def import_job(engine: Engine, text: bytes) -> ImportView:
    """Bring a job file in, whole or not at all; :class:`PlumbError` with every problem."""
    file = parse(text)
    try:
        with transaction(engine) as connection:
            number = free_number(connection, file, take=True)
            store_job(connection, file, number)
    except IntegrityError as error:
        raise Conflict(
            Problem(
                path="job", rule="someone brought the same job in just now", code="number_taken"
            )
        ) from error
    return import_view(file, number, stored=True)


def store_job(connection: Connection, file: JobFile, number: str) -> int:
    """Keep a checked job file under a number; the job's new id."""
    vehicle_id = _vehicle(connection, file)
    opened = file.job.opened or now_typed()
    distance = file.vehicle.distance_km
    job_id = store.add_job(
        connection,
        {
            "number": number,
            "vehicle_id": vehicle_id,
            "opened_typed": opened,
            "opened_at": instant(opened),
            "complaint": file.job.complaint,
            "codes": file.job.codes,
            "set_aside": [{"kind": s.kind, "reason": s.reason} for s in file.job.set_aside],
            "distance_typed": None if distance is None else str(distance),
            "dated_because": file.job.dated_because or None,
            "accepted": [a.model_dump(exclude_none=True) for a in file.job.accepted] or None,
            "ordered": file.job.ordered.model_dump(exclude_none=True) if file.job.ordered else None,
            "closed_at": instant(file.job.closed) if file.job.closed else None,
            "prices": file.prices.model_dump(exclude_none=True) if file.prices else None,
            "extras": both_kept(job=file.job.kept(), file=file.kept()),
        },
    )
    ids = ids_of(sheet_store.injectors_of(connection, vehicle_id, retired=True))
    for sheet in file.sheets:
        sheet_id = sheet_store.add_sheet(connection, sheet_columns(sheet, job_id, vehicle_id))
        sheet_store.add_readings(
            connection,
            [
                reading_columns(entry, n, sheet, (sheet_id, vehicle_id), ids)
                for n, entry in enumerate(entries_of(sheet), 1)
            ],
        )
    for injector in file.vehicle.injectors:
        if injector.part is not None:
            values = part_values(injector.part)
            put_first_part(connection, vehicle_id, ids[injector.id], values)
    store_finishing(connection, file, (job_id, vehicle_id), ids)
    return job_id


def _vehicle(connection: Connection, file: JobFile) -> int:
    """The vehicle of the same name, plate, system and injectors, else a new one."""
    part = file.vehicle
    labels = sorted((i.id, i.cylinder, i.bank, i.feed, i.set, i.retired) for i in part.injectors)
    same = (part.name, part.registration, part.fuel_system)
    for known in store.vehicles_named(connection, *same) if part.registration else []:
        there = sheet_store.injectors_of(connection, known.id, retired=True)
        if labels == sorted(
            (i.label, i.cylinder, i.bank, i.feed, i.set_name, i.retired) for i in there
        ):
            return known.id
    return store.add_vehicle(
        connection,
        {
            "name": part.name,
            "registration": part.registration,
            "fuel_system": part.fuel_system,
            "extras": part.kept(),
            "distance_unit": part.distance_unit,
            "cylinders": part.cylinders or 0,
            "firing_order": part.firing_order or None,
            "boosted": part.boosted,
        },
        [
            {
                "label": i.id,
                "cylinder": i.cylinder,
                "bank": i.bank,
                "feed": i.feed,
                "set_name": i.set,
                "retired": i.retired,
                "extras": i.kept(),
            }
            for i in part.injectors
        ],
    )
