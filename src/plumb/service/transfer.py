"""Job files in and out.  In: whole or not at all."""

import uuid
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import IntegrityError

from plumb.core.problems import Conflict, PlumbError, Problem
from plumb.core.quantities import kpa_per, plain
from plumb.jobfile.exact import dumps
from plumb.jobfile.file import JobFile
from plumb.jobfile.models import DropReadingPart, DropSheetPart
from plumb.jobfile.reading import check, parse
from plumb.service.sheets import both_kept, instant, known_job, now, sheet_columns
from plumb.service.views import ImportView
from plumb.store import jobs as store
from plumb.store import sheets as sheet_store
from plumb.store.records import InjectorRecord, JobRecord, ReadingRecord, VehicleRecord, WholeSheet
from plumb.store.session import transaction


def export_job(engine: Engine, number: str) -> str:
    """A job as job file text, every figure as typed."""
    with transaction(engine) as connection:
        job, vehicle = known_job(connection, number)
        injectors = sheet_store.injectors_of(connection, vehicle.id)
        sheets = sheet_store.sheets_of(connection, job.id)
    data = {
        "plumb": 1,
        "job": _job_json(job),
        "vehicle": _vehicle_json(job, vehicle, injectors),
        "sheets": [sheet_json(w) for w in sheets],
        **_under(job.extras, "file"),
    }
    check(data)
    return dumps(data, indent=1) + "\n"


def _filled(**values: Any) -> dict[str, Any]:  # noqa: ANN401  JSON values
    """Only what says something: empty texts, lists and None are left out."""
    return {k: v for k, v in values.items() if v not in (None, "", [], {})}


def _under(extras: dict[str, Any] | None, name: str) -> dict[str, Any]:
    """The ``x-...`` keys of one part, as they were kept."""
    return dict((extras or {}).get(name) or {})


def _job_json(job: JobRecord) -> dict[str, Any]:
    return {
        **_filled(
            number=job.number, opened=job.opened_typed, complaint=job.complaint, codes=job.codes
        ),
        **_under(job.extras, "job"),
    }


def _vehicle_json(
    job: JobRecord, vehicle: VehicleRecord, injectors: tuple[InjectorRecord, ...]
) -> dict[str, Any]:
    distance = None if job.distance_typed is None else Decimal(job.distance_typed)
    return {
        **_filled(
            name=vehicle.name,
            registration=vehicle.registration,
            distance_km=distance,
            fuel_system=vehicle.fuel_system,
        ),
        "injectors": [
            {
                **_filled(id=i.label, cylinder=i.cylinder, bank=i.bank, feed=i.feed),
                **(i.extras or {}),
            }
            for i in injectors
        ],
        **(vehicle.extras or {}),
    }


def sheet_json(whole: WholeSheet) -> dict[str, Any]:
    """A stored sheet as the job file has it, figures as typed."""
    sheet = whole.sheet
    labels = {i.id: i.label for i in whole.injectors}
    return {
        "kind": sheet.kind,
        "id": sheet.key,
        "taken": sheet.taken_typed,
        "unit": sheet.unit,
        "gauge": {
            **_filled(name=sheet.gauge_name, step=Decimal(sheet.gauge_step_typed)),
            **_under(sheet.extras, "gauge"),
        },
        "rule": {"name": sheet.rule_name, **sheet.rule_limits},
        **sheet.conditions,
        "readings": [_reading_json(r, labels) for r in whole.readings],
        **_under(sheet.extras, "sheet"),
    }


def _reading_json(reading: ReadingRecord, labels: dict[int, str]) -> dict[str, Any]:
    """A mark takes the place of the note; a note beside it goes into ``x-note``."""

    def number(typed: str | None) -> Decimal | None:
        return None if typed is None else Decimal(typed)

    made: dict[str, Any] = {
        "injector": labels[reading.injector_id],
        "pass": reading.number,
        "first": number(reading.first_typed),
        "second": number(reading.second_typed),
    }
    made |= _filled(
        sound=reading.sound,
        fires_at=number(reading.fires_at_typed),
        note=reading.mark or reading.note,
        taken=reading.taken_at.replace(tzinfo=UTC).isoformat(),
    )
    made |= reading.extras or {}
    if reading.mark and reading.note:
        made["x-note"] = reading.note
    return made


def preview_job(engine: Engine, text: bytes) -> ImportView:
    """What importing this job file would do; nothing is stored."""
    try:
        file = parse(text)
        with transaction(engine) as connection:
            number = _number(connection, file)
    except PlumbError as error:
        return ImportView(
            fits=False,
            stored=False,
            summary="Nothing can be taken in.",
            job_number="",
            readings=0,
            problems=[p.text() for p in error.problems],
        )
    return ImportView(
        fits=True,
        stored=False,
        summary=_summary(file, number),
        job_number=number,
        readings=sum(len(s.readings) for s in file.sheets),
        problems=[],
    )


def _summary(file: JobFile, number: str) -> str:
    count = sum(len(s.readings) for s in file.sheets)
    return (
        f"Job {number}: {file.vehicle.name}, {len(file.vehicle.injectors)} injectors, "
        f"{len(file.sheets)} sheet{'s' * (len(file.sheets) != 1)}, {count} readings."
    )


def _number(connection: Connection, file: JobFile) -> str:
    """The job's number: the file's, which must be free, or the next one."""
    number = file.job.number or store.next_job_number(connection)
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


def import_job(engine: Engine, text: bytes) -> ImportView:
    """Bring a job file in, whole or not at all; :class:`PlumbError` with every problem."""
    file = parse(text)
    try:
        with transaction(engine) as connection:
            number = _number(connection, file)
            _store(connection, file, number)
    except IntegrityError as error:
        raise Conflict(
            Problem(
                path="job", rule="someone brought the same job in just now", code="number_taken"
            )
        ) from error
    return ImportView(
        fits=True,
        stored=True,
        summary=_summary(file, number),
        job_number=number,
        readings=sum(len(s.readings) for s in file.sheets),
        problems=[],
    )


def _store(connection: Connection, file: JobFile, number: str) -> None:
    vehicle_id = _vehicle(connection, file)
    opened = file.job.opened or datetime.now(UTC).isoformat(timespec="seconds")
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
            "distance_typed": None if distance is None else str(distance),
            "extras": both_kept(job=file.job.kept(), file=file.kept()),
        },
    )
    ids = {i.label: i.id for i in sheet_store.injectors_of(connection, vehicle_id)}
    for sheet in file.sheets:
        sheet_id = sheet_store.add_sheet(connection, sheet_columns(sheet, job_id, vehicle_id))
        sheet_store.add_readings(
            connection,
            [
                reading_columns(r, n, sheet, sheet_id, vehicle_id, ids[r.injector])
                for n, r in enumerate(sheet.readings, 1)
            ],
        )


def _vehicle(connection: Connection, file: JobFile) -> int:
    """The vehicle of the same name, plate, system and injectors, else a new one."""
    part = file.vehicle
    labels = sorted((i.id, i.cylinder, i.bank, i.feed) for i in part.injectors)
    for known in store.find_vehicles(connection, part.registration or part.name, 50):
        same = (known.name, known.registration, known.fuel_system) == (
            part.name,
            part.registration,
            part.fuel_system,
        )
        if (
            same
            and part.registration
            and labels
            == sorted(
                (i.label, i.cylinder, i.bank, i.feed)
                for i in sheet_store.injectors_of(connection, known.id)
            )
        ):
            return known.id
    return store.add_vehicle(
        connection,
        {
            "name": part.name,
            "registration": part.registration,
            "fuel_system": part.fuel_system,
            "extras": part.kept(),
        },
        [
            {
                "label": i.id,
                "cylinder": i.cylinder,
                "bank": i.bank,
                "feed": i.feed,
                "extras": i.kept(),
            }
            for i in part.injectors
        ],
    )


def reading_columns(
    reading: DropReadingPart,
    sequence: int,
    sheet: DropSheetPart,
    sheet_id: int,
    vehicle_id: int,
    injector_id: int,
) -> dict[str, Any]:
    """A reading of a file as the store keeps it."""
    factor = kpa_per(sheet.unit)

    def both(value: Decimal | None) -> tuple[str | None, float | None]:
        return (None, None) if value is None else (plain(value), float(value) * factor)

    first_typed, first = both(reading.first)
    second_typed, second = both(reading.second)
    extras = reading.kept() or {}
    side_note = extras.pop("x-note", "") if reading.mark else ""
    return {
        "id": str(uuid.uuid4()),
        "sheet_id": sheet_id,
        "vehicle_id": vehicle_id,
        "injector_id": injector_id,
        "number": reading.pass_,
        "first_typed": first_typed,
        "second_typed": second_typed,
        "unit": sheet.unit,
        "first_kpa": first,
        "second_kpa": second,
        "mark": reading.mark,
        "sound": reading.sound,
        "fires_at_typed": None if reading.fires_at is None else plain(reading.fires_at),
        "note": str(side_note) if reading.mark else reading.note,
        "taken_at": instant(reading.taken) if reading.taken else now(),
        "live": 1,
        "replaces": None,
        "sequence": sequence,
        "extras": extras or None,
    }
