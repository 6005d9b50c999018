"""What a person does with jobs: today's list, a new job, its route, closing it."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import IntegrityError

from plumb.core.decision import Thresholds
from plumb.core.evidence import newest
from plumb.core.job import ROUTES
from plumb.core.problems import Conflict, NotThere, PlumbError, Problem
from plumb.core.words_next import TITLES, step_words
from plumb.core.words_verdict import sentence
from plumb.service.analysis import analysed, compared, weighed
from plumb.service.bobs import HUNG, bobs_of
from plumb.service.job_screen import job_view, knot_words
from plumb.service.job_views import JobLineView, JobView
from plumb.service.nozzles import all_with_learnt
from plumb.service.parts import instant, now
from plumb.service.sheet_view import sheet_view
from plumb.service.sheets import Gauge, known_job, known_sheet, start_sheet
from plumb.service.vehicles import lay_out
from plumb.service.views import SheetView
from plumb.store import jobs as store
from plumb.store import sheets as sheet_store
from plumb.store.records import InjectorRecord, JobRecord, VehicleRecord, WholeSheet
from plumb.store.session import transaction


@dataclass(frozen=True, slots=True, kw_only=True)
class NewJob:
    """A new job: a vehicle that is known, or what is needed to make one.

    ``cylinders`` injectors are made for a new vehicle, in two banks when ``banks`` is 2, or as the
    shelf's layout says; ``begin_with`` is the first sheet.
    """

    request_id: str
    vehicle_id: int | None = None
    vehicle_name: str = ""
    registration: str = ""
    fuel_system: str = "port"
    cylinders: int = 4
    banks: int = 1
    layout_id: int | None = None
    complaint: str = ""
    codes: tuple[str, ...] = ()
    gauge_id: int | None = None
    begin_with: str = "pressure_drop"


@dataclass(frozen=True, slots=True, kw_only=True)
class JobChange:
    """What may be changed of a job; None stays.

    ``aside`` is (kind, reason): a procedure that will not be done; an empty reason takes it back.
    """

    complaint: str | None = None
    codes: list[str] | None = None
    closed: bool | None = None
    aside: tuple[str, str] | None = None


def list_jobs(
    engine: Engine, thresholds: Thresholds, find: str = "", *, closed: bool = False, most: int = 60
) -> list[JobLineView]:
    """Today: the jobs, newest first, each with its bobs and what it waits for."""
    with transaction(engine) as connection:
        found = store.find_jobs(connection, find, closed=closed, most=most)
        of_jobs = sheet_store.sheets_of_jobs(connection, [job.id for job, _ in found])
        sheets: dict[int, list[WholeSheet]] = {}
        for whole in all_with_learnt(connection, [w for mine in of_jobs.values() for w in mine]):
            sheets.setdefault(whole.sheet.job_id, []).append(whole)
        injectors = {v.id: sheet_store.injectors_of(connection, v.id) for _, v in found}
    return [
        _line(job, vehicle, sheets.get(job.id, []), injectors[vehicle.id], thresholds)
        for job, vehicle in found
    ]


def _line(
    job: JobRecord,
    vehicle: VehicleRecord,
    sheets: list[WholeSheet],
    injectors: tuple[InjectorRecord, ...],
    thresholds: Thresholds,
) -> JobLineView:
    result = weighed(job, vehicle.fuel_system, injectors, sheets, thresholds)
    step = result.next_step
    there = newest(result.sheets)
    hung = next((there[k][1] for k in HUNG if k in there), None)
    flow = compared(hung) if hung is not None else None
    on = compared(there[step.kind][1]) if step and step.kind in there else None
    latest = next((w for w in reversed(sheets) if w.readings), sheets[-1] if sheets else None)
    done = step is None or job.closed_at is not None
    return JobLineView(
        number=job.number,
        vehicle=vehicle.name,
        registration=vehicle.registration,
        complaint=job.complaint,
        codes=list(job.codes),
        opened=job.opened_typed,
        closed=job.closed_at is not None,
        cylinders=len(injectors),
        fuel_system=vehicle.fuel_system,
        waits="done" if done else "now" if result.verdicts else "start",
        next_title=step_words(step, on).title
        if step
        else "".join(s.text for s in sentence(result)).strip(),
        next_sub=_sub(latest, thresholds),
        corridor_percent=round(100.0 * flow.tolerance, 2) if flow else 10.0,
        bobs=bobs_of(hung) if hung is not None else [],
    )


def _sub(whole: WholeSheet | None, thresholds: Thresholds) -> str:
    if whole is None:
        return "nothing measured"
    words = knot_words(whole, analysed(whole, thresholds))
    return f"{TITLES[whole.sheet.kind]}, {words[0].lower()}{words[1:]}"


def show_job(engine: Engine, number: str, thresholds: Thresholds) -> JobView:
    """A job with its vehicle, its route and its verdict."""
    with transaction(engine) as connection:
        job, vehicle = known_job(connection, number)
        injectors = sheet_store.injectors_of(connection, vehicle.id)
        sheets = all_with_learnt(connection, sheet_store.sheets_of(connection, job.id))
    return job_view(job, vehicle, injectors, sheets, thresholds)


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
    """Open a job with its first sheet; the same request again gives the same job.

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
        store.add_job(
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
        job, vehicle = known_job(connection, number)
        gauge = _gauge(connection, wanted.gauge_id)
        sheet_id = start_sheet(
            connection, job, vehicle, wanted.begin_with, gauge, wanted.request_id
        )
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
        return known.id
    if not wanted.vehicle_name.strip():
        raise PlumbError(Problem(path="vehicle_name", rule="name the vehicle", code="missing"))
    injectors = (
        lay_out(connection, wanted.layout_id)
        if wanted.layout_id is not None
        else make_injectors(wanted.cylinders, wanted.banks)
    )
    return store.add_vehicle(
        connection,
        {
            "name": wanted.vehicle_name.strip(),
            "registration": wanted.registration.strip(),
            "fuel_system": wanted.fuel_system,
            "extras": None,
        },
        injectors,
    )


def _gauge(connection: Connection, gauge_id: int | None) -> Gauge | None:
    """The gauge asked for; None leaves it to the sheet."""
    if gauge_id is None:
        return None
    chosen = next((g for g in store.gauges(connection) if g.id == gauge_id), None)
    if chosen is None:
        raise NotThere(
            Problem(
                path="gauge_id",
                rule="there is no such gauge",
                value=str(gauge_id),
                code="no_such_gauge",
            )
        )
    return Gauge(name=chosen.name, unit=chosen.unit, step=chosen.step_typed)


def change_job(engine: Engine, number: str, change: JobChange, thresholds: Thresholds) -> JobView:
    """Change complaint or codes, set a procedure aside, close a job or open it again."""
    with transaction(engine) as connection:
        job, vehicle = known_job(connection, number, lock=True)
        values: dict[str, Any] = {}
        if change.complaint is not None:
            values["complaint"] = change.complaint
        if change.codes is not None:
            values["codes"] = change.codes
        if change.closed is not None:
            values["closed_at"] = now() if change.closed else None
        if change.aside is not None:
            values["set_aside"] = _aside(job, vehicle, change.aside)
        if values:
            store.change_job(connection, job.id, values)
    return show_job(engine, number, thresholds)


def _aside(job: JobRecord, vehicle: VehicleRecord, aside: tuple[str, str]) -> list[dict[str, Any]]:
    kind, reason = aside
    if kind not in ROUTES.get(vehicle.fuel_system, ()):
        raise PlumbError(
            Problem(
                path="aside.kind", rule="a sheet of this route", value=kind, code="no_procedure"
            )
        )
    kept = [s for s in job.set_aside or [] if s["kind"] != kind]
    return [*kept, {"kind": kind, "reason": reason.strip()}] if reason.strip() else kept
