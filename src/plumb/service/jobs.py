"""What a person does with jobs: today's list, a new job, its route, closing it, the engine."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import IntegrityError

from plumb.core.decision import State, Thresholds
from plumb.core.next_step import next_step
from plumb.core.problems import Conflict, NotThere, PlumbError, Problem
from plumb.core.words import headline, step_words
from plumb.jobfile.models import DropSheetPart, GaugePart
from plumb.service.analysis import TONES, analysed, sheet_view
from plumb.service.sheets import instant, known_job, known_sheet, now, sheet_columns
from plumb.service.vehicles import vehicle_view
from plumb.service.views import (
    BobView,
    JobLineView,
    JobView,
    KnotView,
    SheetView,
)
from plumb.store import jobs as store
from plumb.store import sheets as sheet_store
from plumb.store.records import JobRecord, VehicleRecord, WholeSheet
from plumb.store.session import transaction

DROP_SYSTEMS = ("port", "throttle_body", "direct")
"""Fuel systems with a pressure drop sheet."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NewJob:
    """A new job: a vehicle that is known, or what is needed to make one.

    ``cylinders`` injectors are made for a new vehicle, in two banks when ``banks`` is 2.
    """

    request_id: str
    vehicle_id: int | None = None
    vehicle_name: str = ""
    registration: str = ""
    fuel_system: str = "port"
    cylinders: int = 4
    banks: int = 1
    complaint: str = ""
    codes: tuple[str, ...] = ()
    gauge_id: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class JobChange:
    """What may be changed of a job; None stays."""

    complaint: str | None = None
    codes: list[str] | None = None
    closed: bool | None = None


def list_jobs(
    engine: Engine, thresholds: Thresholds, find: str = "", *, closed: bool = False, most: int = 60
) -> list[JobLineView]:
    """Today: the jobs, newest first, each with its bobs and what it waits for."""
    with transaction(engine) as connection:
        found = store.find_jobs(connection, find, closed=closed, most=most)
        sheets = [_latest(connection, job.id) for job, _ in found]
        counts = [len(sheet_store.injectors_of(connection, v.id)) for _, v in found]
    return [
        _line(job, vehicle, sheet, count, thresholds)
        for (job, vehicle), sheet, count in zip(found, sheets, counts, strict=True)
    ]


def _latest(connection: Connection, job_id: int) -> WholeSheet | None:
    """The newest sheet with readings, else the newest one."""
    newest = None
    for sheet_id in reversed(sheet_store.sheet_ids(connection, job_id)):
        whole = sheet_store.whole_sheet(connection, sheet_id)
        newest = newest or whole
        if whole is not None and whole.readings:
            return whole
    return newest


def _line(
    job: JobRecord,
    vehicle: VehicleRecord,
    whole: WholeSheet | None,
    cylinders: int,
    thresholds: Thresholds,
) -> JobLineView:
    title, sub, waits, corridor = "Start the drop sheet", "nothing measured", "start", 10.0
    bobs: list[BobView] = []
    if whole is not None:
        result = analysed(whole, thresholds)
        step = next_step(result)
        corridor = 100.0 * result.tolerance
        bobs = [
            BobView(
                injector=f.injector,
                state=f.state.value,
                deviation_percent=round(100 * f.deviation, 2),
            )
            for f in result.findings
            if f.deviation is not None
        ]
        title = (
            "".join(s.text for s in headline(result))
            if step is None
            else (step_words(step, result).title)
        )
        waits = "done" if step is None else "now"
        sub = _sub(whole, result.findings)
    if job.closed_at is not None:
        waits = "done"
    return JobLineView(
        number=job.number,
        vehicle=vehicle.name,
        registration=vehicle.registration,
        complaint=job.complaint,
        codes=list(job.codes),
        opened=job.opened_typed,
        closed=job.closed_at is not None,
        cylinders=cylinders,
        fuel_system=vehicle.fuel_system,
        waits=waits,
        next_title=title,
        next_sub=sub,
        corridor_percent=round(corridor, 2),
        bobs=bobs,
    )


def _sub(whole: WholeSheet, findings: Sequence[Any]) -> str:
    measured = sum(1 for f in findings if f.passes or f.state is State.NO_RESPONSE)
    unsettled = sum(1 for f in findings if f.state is State.UNSETTLED)
    leaning = sum(1 for f in findings if TONES.get(f.state) and f.state is not State.UNSETTLED)
    text = f"Drop per injector, {measured} of {len(whole.injectors)}"
    if unsettled:
        text += f", {unsettled} to repeat"
    return text + (f", {leaning} out" if leaning else "")


def show_job(engine: Engine, number: str, thresholds: Thresholds) -> JobView:
    """A job with its vehicle and its route."""
    with transaction(engine) as connection:
        job, vehicle = known_job(connection, number)
        injectors = sheet_store.injectors_of(connection, vehicle.id)
        sheets = sheet_store.sheets_of(connection, job.id)
    return JobView(
        number=job.number,
        opened=job.opened_typed,
        closed=job.closed_at is not None,
        complaint=job.complaint,
        codes=list(job.codes),
        distance_km=job.distance_typed,
        vehicle=vehicle_view(vehicle, injectors),
        route=[_knot(w, n, thresholds) for n, w in enumerate(sheets)],
    )


def _knot(whole: WholeSheet, position: int, thresholds: Thresholds) -> KnotView:
    result = analysed(whole, thresholds)
    done = bool(whole.readings) and next_step(result) is None
    return KnotView(
        sheet_id=whole.sheet.id,
        key=whole.sheet.key,
        kind=whole.sheet.kind,
        title="Drop per injector" if position == 0 else "Drop, once more",
        sub=_sub(whole, result.findings).removeprefix("Drop per injector, "),
        state="done" if done else "now",
    )


def make_injectors(cylinders: int, banks: int) -> list[dict[str, Any]]:
    """Injectors 1 to n; with two banks odd ones on A, even ones on B (it can be changed)."""
    return [
        {
            "label": str(n),
            "cylinder": n,
            "feed": "",
            "bank": "" if banks == 1 else ("A" if n % 2 else "B"),
            "extras": None,
        }
        for n in range(1, cylinders + 1)
    ]


def new_job(engine: Engine, wanted: NewJob, thresholds: Thresholds) -> SheetView:
    """Open a job with its first drop sheet; the same request again gives the same job.

    Raises :class:`PlumbError` without a vehicle, :class:`NotThere` for one that is not there.
    """
    for _ in range(5):
        try:
            with transaction(engine) as connection:
                whole = _open(connection, wanted)
            break
        except IntegrityError:
            # Two jobs were opened in the same moment and drew the same number.
            continue
    else:
        raise Conflict(
            Problem(
                path="number", rule="no free job number was found; try again", code="number_taken"
            )
        )
    return sheet_view(whole, thresholds)


def _open(connection: Connection, wanted: NewJob) -> WholeSheet:
    number = store.job_number_by_request(connection, wanted.request_id)
    if number is None:
        vehicle_id = _vehicle(connection, wanted)
        number = store.next_job_number(connection)
        opened = datetime.now(UTC).isoformat(timespec="seconds")
        job_id = store.add_job(
            connection,
            {
                "number": number,
                "vehicle_id": vehicle_id,
                "opened_typed": opened,
                "opened_at": instant(opened),
                "complaint": wanted.complaint,
                "codes": list(wanted.codes),
                "request_id": wanted.request_id,
            },
        )
        gauge, unit = _gauge(connection, wanted.gauge_id)
        part = DropSheetPart(kind="pressure_drop", id="s1", unit=unit, gauge=gauge, readings=[])
        sheet_id = sheet_store.add_sheet(connection, sheet_columns(part, job_id, vehicle_id))
    else:
        job, _vehicle_there = known_job(connection, number)
        sheet_id = sheet_store.sheet_ids(connection, job.id)[0]
    return known_sheet(connection, sheet_id)


def _vehicle(connection: Connection, wanted: NewJob) -> int:
    if wanted.vehicle_id is not None:
        known = store.vehicle_by_id(connection, wanted.vehicle_id)
        if known is None:
            raise NotThere(
                Problem(
                    path="vehicle_id",
                    rule="there is no such vehicle",
                    value=str(wanted.vehicle_id),
                    code="no_such_vehicle",
                )
            )
        _has_drop(known.fuel_system)
        return known.id
    if not wanted.vehicle_name.strip():
        raise PlumbError(Problem(path="vehicle_name", rule="name the vehicle", code="missing"))
    _has_drop(wanted.fuel_system)
    return store.add_vehicle(
        connection,
        {
            "name": wanted.vehicle_name.strip(),
            "registration": wanted.registration.strip(),
            "fuel_system": wanted.fuel_system,
            "extras": None,
        },
        make_injectors(wanted.cylinders, wanted.banks),
    )


def _has_drop(fuel_system: str) -> None:
    if fuel_system not in DROP_SYSTEMS:
        raise PlumbError(
            Problem(
                path="fuel_system",
                value=fuel_system,
                code="no_procedure",
                rule="the drop sheet is for port, throttle-body and direct injection",
            )
        )


def _gauge(connection: Connection, gauge_id: int | None) -> tuple[GaugePart, str]:
    """The gauge asked for, else the first of the shelf, else a plain dial to 0.5 psi."""
    shelf = store.gauges(connection)
    chosen = next((g for g in shelf if g.id == gauge_id), shelf[0] if shelf else None)
    if gauge_id is not None and (chosen is None or chosen.id != gauge_id):
        raise NotThere(
            Problem(
                path="gauge_id",
                rule="there is no such gauge",
                value=str(gauge_id),
                code="no_such_gauge",
            )
        )
    if chosen is None:
        return GaugePart(name="dial", step=Decimal("0.5")), "psi"
    return GaugePart(name=chosen.name, step=Decimal(chosen.step_typed)), chosen.unit


def change_job(engine: Engine, number: str, change: JobChange, thresholds: Thresholds) -> JobView:
    """Change complaint or codes, close a job or open it again."""
    with transaction(engine) as connection:
        job, _vehicle_there = known_job(connection, number, lock=True)
        values: dict[str, Any] = {}
        if change.complaint is not None:
            values["complaint"] = change.complaint
        if change.codes is not None:
            values["codes"] = change.codes
        if change.closed is not None:
            values["closed_at"] = now() if change.closed else None
        if values:
            store.change_job(connection, job.id, values)
    return show_job(engine, number, thresholds)
