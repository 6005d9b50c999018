"""Jobs and vehicles."""

from dataclasses import replace
from typing import Annotated

from fastapi import Query, Response

from plumb.api.deps import Shop, Store, Tells
from plumb.api.intake import routes_of
from plumb.api.schemas import (
    EngineIn,
    InjectorIn,
    InjectorsEach,
    JobChangeIn,
    NewJobIn,
    ReachOrderIn,
    TakeLayoutIn,
)
from plumb.jobfile.models import FuelSystem
from plumb.service.uses import blanks as blank
from plumb.service.uses import engines, today, vehicles
from plumb.service.uses import jobs as service
from plumb.service.views.job import BlanksView, JobLineView, JobView, VehicleView
from plumb.service.views.sheet import SheetView

router = routes_of("jobs")

Find = Annotated[str, Query(max_length=120, description="words to look for")]


@router.get("/jobs")
def list_jobs(
    response: Response,
    store: Store,
    shop: Shop,
    tells: Tells,
    find: Find = "",
    *,
    closed: bool = False,
    skip: Annotated[int, Query(ge=0, le=10**9, description="jobs of earlier pages")] = 0,
) -> list[JobLineView]:
    """A page of jobs, newest first, by number, plate, vehicle, complaint or code; open ones at first.

    The header ``X-Total-Count`` says how many there are in all, with a ``+`` where there are more than that.
    """
    page = today.list_jobs(store, shop.thresholds(), find, closed=closed, skip=skip)
    response.headers["X-Total-Count"] = f"{page.total}{'+' if page.more else ''}"
    return [j if tells(j.number) else replace(j, next_title="", next_sub="") for j in page.jobs]


@router.post("/jobs", status_code=201)
def new_job(wanted: NewJobIn, store: Store, shop: Shop) -> SheetView:
    """Open a job with its first sheet; the answer is that sheet."""
    given = service.NewJob(**{**wanted.model_dump(), "codes": tuple(wanted.codes)})
    return service.new_job(store, given, shop.thresholds())


@router.get("/blanks/{fuel_system}")
def blanks(
    fuel_system: FuelSystem,
    store: Store,
    shop: Shop,
    *,
    injectors: InjectorsEach = "one_each",
    banks: Annotated[int, Query(ge=1, le=2)] = 1,
) -> BlanksView:
    """A job as it would begin, with every sheet of its route, for a browser that goes where no server is."""
    return blank.blanks(store, fuel_system, injectors, banks, shop.thresholds())


@router.get("/jobs/{number}")
def show_job(number: str, store: Store, shop: Shop, tells: Tells) -> JobView:
    """A job with its vehicle and its route."""
    return service.show_job(store, number, shop.thresholds(), told=tells(number))


@router.patch("/jobs/{number}")
def change_job(number: str, change: JobChangeIn, store: Store, shop: Shop, tells: Tells) -> JobView:
    """Change complaint or codes (409 when someone did meanwhile), set aside, open again."""
    wanted = service.JobChange(
        version=change.version,
        complaint=change.complaint,
        codes=change.codes,
        distance=change.distance,
        closed=change.closed,
        aside=(change.aside.kind, change.aside.reason) if change.aside else None,
        accepted=(change.accepted.injector, change.accepted.reason) if change.accepted else None,
        ordered=(change.ordered.what, change.ordered.due) if change.ordered else None,
        dated=(change.dated.day, change.dated.because) if change.dated else None,
    )
    return service.change_job(store, number, wanted, shop.thresholds(), told=tells(number))


@router.delete("/jobs/{number}", status_code=204)
def drop_job(number: str, store: Store, shop: Shop) -> None:
    """Take a job away on which nothing was noted; 409 where something was."""
    service.drop_job(store, number, shop.thresholds())


@router.get("/vehicles")
def find_vehicles(
    store: Store, find: Find = "", *, most: Annotated[int, Query(ge=1, le=200)] = 12
) -> list[VehicleView]:
    """The newest vehicles by name or plate, so many at most."""
    return vehicles.find_vehicles(store, find, most)


@router.put("/vehicles/{vehicle_id}/reach-order")
def set_reach_order(vehicle_id: int, wanted: ReachOrderIn, store: Store) -> VehicleView:
    """The order in which the injectors are reached."""
    return vehicles.set_reach_order(store, vehicle_id, wanted.order)


@router.patch("/vehicles/{vehicle_id}/injectors/{label:path}")
def change_injector(vehicle_id: int, label: str, wanted: InjectorIn, store: Store) -> VehicleView:
    """Bank and feed of an injector."""
    return vehicles.change_injector(store, vehicle_id, label, wanted.bank, wanted.feed)


@router.put("/vehicles/{vehicle_id}/engine")
def change_engine(vehicle_id: int, wanted: EngineIn, store: Store) -> VehicleView:
    """The vehicle and its injectors as a whole: added, removed or retired, renamed, moved."""
    seats = tuple(engines.Seat(**i.model_dump()) for i in wanted.injectors)
    change = engines.EngineChange(
        **{
            **wanted.model_dump(), "seen": tuple(wanted.seen), "injectors": seats,
            "firing_order": tuple(wanted.firing_order),
        }
    )  # fmt: skip
    return engines.change_engine(store, vehicle_id, change)


@router.put("/vehicles/{vehicle_id}/layout")
def take_layout(vehicle_id: int, wanted: TakeLayoutIn, store: Store) -> VehicleView:
    """Banks and feeds from a layout of the shelf."""
    return vehicles.take_layout(store, vehicle_id, wanted.layout_id)
