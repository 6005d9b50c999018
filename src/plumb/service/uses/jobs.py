"""What a person does with jobs: a new job, its route, closing it."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any, Final

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import IntegrityError

from plumb.core.measure.codes import written
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import Conflict, NotThere, PlumbError, Problem
from plumb.core.measure.quantities import KM_PER_MILE, plain
from plumb.core.procedures import USUAL_FIRST, route
from plumb.service.kinds.typed_units import figure_in
from plumb.service.people.roles import must_be
from plumb.service.screens.finishing import Charged
from plumb.service.screens.job import Around, job_view, untold
from plumb.service.screens.sheet import sheet_view
from plumb.service.stored.commonness import common_here
from plumb.service.stored.finishing import chances_here, prices_here
from plumb.service.stored.gauges import Gauge
from plumb.service.stored.known import known_job, known_labels, known_sheet, known_vehicle
from plumb.service.stored.others import all_with_others
from plumb.service.stored.parts import both_kept, filled, instant, noted_now, now, now_typed
from plumb.service.uses.dated import on_day, redated
from plumb.service.uses.engines import make_injectors
from plumb.service.uses.new_sheets import Wanted, start_sheet
from plumb.service.uses.sheets import empty_or_refused
from plumb.service.uses.vehicles import lay_out
from plumb.service.views.job import JobView
from plumb.service.views.sheet import SheetView
from plumb.store import jobs as store
from plumb.store import sheets as sheet_store
from plumb.store.actor import signed
from plumb.store.finishing import kept_of
from plumb.store.records import JobRecord, VehicleRecord, WholeSheet
from plumb.store.session import retried, transaction


@dataclass(frozen=True, slots=True, kw_only=True)
class NewJob:
    """A new job: a vehicle that is known, or what is needed to make one.

    Injectors are made for a new vehicle's ``cylinders``, in two banks when ``banks`` is 2, or as the
    shelf's layout says; ``begin_with`` is the first sheet, ``distance`` as it is typed.
    ``day`` is when the visit was, where it was earlier, and ``day_because`` why it is noted later.
    """

    request_id: str
    vehicle_id: int | None = None
    vehicle_name: str = ""
    registration: str = ""
    fuel_system: str = "port"
    cylinders: int = 4
    banks: int = 1
    injectors: str = "one_each"
    distance: str | None = None
    distance_unit: str = "km"
    layout_id: int | None = None
    complaint: str = ""
    codes: tuple[str, ...] = ()
    gauge_id: int | None = None
    begin_with: str = USUAL_FIRST
    day: str = ""
    day_because: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class JobChange:
    """What may be changed of a job; None stays.

    ``version`` is the job's when the person saw complaint and codes.  ``aside`` is (kind, reason): a
    procedure that will not be done; an empty reason takes it back.  ``dated`` is (day, reason): when
    the visit was, and why it is noted later.  ``ordered`` is (what, when it is due): parts that the job
    waits for; without any it waits no more.  ``accepted`` is (injector, why its value is taken as it is); an empty
    reason takes that back.
    """

    version: int | None = None

    complaint: str | None = None
    codes: list[str] | None = None
    distance: str | None = None
    closed: bool | None = None
    aside: tuple[str, str] | None = None
    dated: tuple[str, str] | None = None
    ordered: tuple[str, str] | None = None
    accepted: tuple[str, str] | None = None


@retried
def show_job(engine: Engine, number: str, thresholds: Thresholds, *, told: bool = True) -> JobView:
    """A job with its vehicle, its route and its verdict; not ``told``, without what it all says."""
    with transaction(engine) as connection:
        seen = _seen(connection, number)
    whole = seen(thresholds=thresholds)
    return whole if told else untold(whole, seen(thresholds=thresholds, sheets=[]))


def job_shown(connection: Connection, number: str, thresholds: Thresholds) -> JobView:
    """The same within a transaction that does more than look."""
    return _seen(connection, number)(thresholds=thresholds)


def _seen(connection: Connection, number: str) -> Callable[..., JobView]:
    """A job as it stands in the store; it is worked out when called, the store not needed any more."""
    job, vehicle = known_job(connection, number)
    injectors = sheet_store.injectors_of(connection, vehicle.id)
    sheets = all_with_others(connection, sheet_store.sheets_of(connection, job.id))
    kept = kept_of(connection, job.id)
    around = Around(
        common=common_here(connection, vehicle.fuel_system),
        kept=kept,
        charged=Charged(
            prices=prices_here(connection, job, vehicle, kept),
            chances=chances_here(connection, vehicle.fuel_system),
        ),
    )
    return partial(job_view, job, vehicle, injectors, sheets=sheets, around=around)


@retried
def new_job(engine: Engine, wanted: NewJob, thresholds: Thresholds) -> SheetView:
    """Open a job with its first sheet; the same request again gives the same job.

    Raises :class:`PlumbError` without a vehicle, :class:`NotThere` for one that is not there.
    """
    try:
        with transaction(engine) as connection:
            whole = _open(connection, wanted)
    except IntegrityError:
        # The same request came twice at once: the other one made the job.
        with transaction(engine) as connection:
            if store.job_number_by_request(connection, wanted.request_id) is None:
                raise
            whole = _open(connection, wanted)
    return sheet_view(whole, thresholds)


def _open(connection: Connection, wanted: NewJob) -> WholeSheet:
    number = store.job_number_by_request(connection, wanted.request_id)
    if number is None:
        vehicle_id = _vehicle(connection, wanted)
        vehicle_there = known_vehicle(connection, vehicle_id)
        number = store.next_job_number(connection)
        back = on_day(wanted.day, wanted.day_because) if wanted.day else None
        opened = back or now_typed()
        store.add_job(
            connection,
            {
                "number": number,
                "vehicle_id": vehicle_id,
                "opened_typed": opened,
                "opened_at": instant(opened),
                "complaint": wanted.complaint,
                "codes": list(wanted.codes),
                "distance_typed": km_of(wanted.distance, vehicle_there.distance_unit),
                "request_id": wanted.request_id,
                "dated_because": wanted.day_because.strip() if back else None,
                "extras": both_kept(job=filled(**{"x-by": signed("")})),
            },
        )
        job, vehicle = known_job(connection, number)
        gauge = _gauge(connection, wanted.gauge_id)
        first = Wanted(request_id=wanted.request_id, kind=wanted.begin_with, gauge=gauge)
        sheet_id = start_sheet(connection, job, vehicle, first)
    else:
        job, _vehicle_there = known_job(connection, number)
        sheet_id = sheet_store.sheet_ids(connection, job.id)[0]
    return known_sheet(connection, sheet_id)


def km_of(typed: str | None, unit: str) -> str | None:
    """A distance in a vehicle's unit as it is kept, in km; None for none, :class:`PlumbError` for a slip."""
    if typed is None or not typed.strip():
        return None
    distance = figure_in(typed, unit, "distance")
    if not 0 <= distance <= MOST_DISTANCE:
        raise PlumbError(
            Problem(
                path="distance", rule=f"from 0 to {MOST_DISTANCE}", value=typed,
                code="does_not_fit",
            )
        )  # fmt: skip
    return plain(distance * KM_PER_MILE if unit == "mi" else distance)


MOST_DISTANCE: Final = 10_000_000
"""No vehicle has gone so far; beyond it a distance is a slip."""


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
        else make_injectors(wanted.cylinders, wanted.banks, wanted.injectors)
    )
    return store.add_vehicle(
        connection,
        {
            "name": wanted.vehicle_name.strip(),
            "registration": wanted.registration.strip(),
            "fuel_system": wanted.fuel_system,
            "extras": None,
            "distance_unit": wanted.distance_unit,
            "cylinders": wanted.cylinders if wanted.layout_id is None else 0,
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


def change_job(
    engine: Engine, number: str, change: JobChange, thresholds: Thresholds, *, told: bool = True
) -> JobView:
    """Change complaint or codes, set a procedure aside, close a job or open it again.

    Raises :class:`Conflict` when someone changed complaint or codes since ``change.version``.
    """
    _change(engine, number, change)
    return show_job(engine, number, thresholds, told=told)


@retried
def _change(engine: Engine, number: str, change: JobChange) -> None:
    if change.closed is False:
        must_be("lead", "to open a job again")
    with transaction(engine) as connection:
        job, vehicle = known_job(connection, number, lock=True)
        said = {"complaint": change.complaint, "codes": change.codes}
        values: dict[str, Any] = {name: v for name, v in said.items() if v is not None}
        if values and job.version != change.version:
            raise Conflict(
                Problem(
                    path="version",
                    value=str(change.version),
                    code="newer_there",
                    rule="complaint or codes were changed meanwhile: "
                    f"{', '.join((job.complaint, *job.codes)) or 'they are empty now'}",
                )
            )
        if change.codes is not None:
            values["codes"] = [written(code) or code for code in change.codes]
            sheet_store.put_codes(connection, job.id, values["codes"])
        if values:
            values["version"] = job.version + 1
        if change.closed is not None:
            values["closed_at"] = now() if change.closed else None
        if {change.closed, change.complaint} != {None} or change.codes is not None:
            # A sheet says whether it takes figures, whether the engine starts, what was told.
            sheet_store.touch_sheets_of(connection, job.id)
        values |= _beside(connection, job, vehicle, change)
        if values:
            store.change_job(connection, job.id, values)


def _beside(
    connection: Connection, job: JobRecord, vehicle: VehicleRecord, change: JobChange
) -> dict[str, Any]:
    """Distance, day and what is set aside: nobody has to have seen how they stood."""
    values: dict[str, Any] = {}
    if change.distance is not None:
        values["distance_typed"] = km_of(change.distance, vehicle.distance_unit)
    if change.dated is not None:
        values |= redated(connection, job, *change.dated)
    if change.aside is not None:
        values["set_aside"] = _aside(job, vehicle, change.aside)
    if change.ordered is not None:
        what, due = (text.strip() for text in change.ordered)
        values["ordered"] = filled(what=what, due=due) if what else None
    if change.accepted is not None:
        values["accepted"] = _accepted(connection, job, *change.accepted)
    return values


def _accepted(
    connection: Connection, job: JobRecord, injector: str, reason: str
) -> list[dict[str, Any]]:
    """Who is taken as it is by then; :class:`PlumbError` for an injector that is none of this engine."""
    known_labels(connection, job.vehicle_id, (injector,), "accepted.injector")
    kept = [a for a in job.accepted or [] if a["injector"] != injector]
    if not reason.strip():
        return kept
    one = filled(injector=injector, reason=reason.strip(), by=signed(""), at=noted_now(job))
    return [*kept, one]


def _aside(job: JobRecord, vehicle: VehicleRecord, aside: tuple[str, str]) -> list[dict[str, Any]]:
    kind, reason = aside
    if kind not in {k.code for k in route(vehicle.fuel_system)}:
        raise PlumbError(
            Problem(
                path="aside.kind", rule="a sheet of this route", value=kind, code="no_procedure"
            )
        )
    kept = [s for s in job.set_aside or [] if s["kind"] != kind]
    return [*kept, {"kind": kind, "reason": reason.strip()}] if reason.strip() else kept


@retried
def drop_job(engine: Engine, number: str, thresholds: Thresholds) -> None:
    """Take a job away on which nothing was noted; :class:`Conflict` where something was."""
    with transaction(engine) as connection:
        job, vehicle = known_job(connection, number, lock=True)
        for whole in sheet_store.sheets_of(connection, job.id):
            empty_or_refused(connection, whole, thresholds)
        store.drop_job(connection, job.id, vehicle.id)
