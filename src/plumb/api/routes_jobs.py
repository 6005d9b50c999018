"""Jobs, vehicles and gauges."""

from typing import Annotated

from fastapi import APIRouter, Query

from plumb.api.deps import Shop, Store
from plumb.api.problems import RESPONSES
from plumb.api.schemas import GaugeIn, InjectorIn, JobChangeIn, NewJobIn, ReachOrderIn
from plumb.service import jobs as service
from plumb.service import vehicles
from plumb.service.views import GaugeView, JobLineView, JobView, SheetView, VehicleView

router = APIRouter(tags=["jobs"], responses=RESPONSES)

Find = Annotated[str, Query(max_length=120, description="words to look for")]


@router.get("/jobs")
def list_jobs(
    store: Store, shop: Shop, find: Find = "", *, closed: bool = False
) -> list[JobLineView]:
    """Jobs, newest first, by number, plate, vehicle, complaint or code; open ones only at first."""
    return service.list_jobs(store, shop.thresholds(), find, closed=closed)


@router.post("/jobs", status_code=201)
def new_job(wanted: NewJobIn, store: Store, shop: Shop) -> SheetView:
    """Open a job with its first drop sheet; the answer is that sheet."""
    given = service.NewJob(**{**wanted.model_dump(), "codes": tuple(wanted.codes)})
    return service.new_job(store, given, shop.thresholds())


@router.get("/jobs/{number}")
def show_job(number: str, store: Store, shop: Shop) -> JobView:
    """A job with its vehicle and its route."""
    return service.show_job(store, number, shop.thresholds())


@router.patch("/jobs/{number}")
def change_job(number: str, change: JobChangeIn, store: Store, shop: Shop) -> JobView:
    """Change complaint or codes; close a job or open it again."""
    wanted = service.JobChange(complaint=change.complaint, codes=change.codes, closed=change.closed)
    return service.change_job(store, number, wanted, shop.thresholds())


@router.get("/vehicles")
def find_vehicles(store: Store, find: Find = "") -> list[VehicleView]:
    """Vehicles by name or plate."""
    return vehicles.find_vehicles(store, find)


@router.put("/vehicles/{vehicle_id}/reach-order")
def set_reach_order(vehicle_id: int, wanted: ReachOrderIn, store: Store) -> VehicleView:
    """The order in which the injectors are reached."""
    return vehicles.set_reach_order(store, vehicle_id, wanted.order)


@router.patch("/vehicles/{vehicle_id}/injectors/{label}")
def change_injector(vehicle_id: int, label: str, wanted: InjectorIn, store: Store) -> VehicleView:
    """Bank and feed of an injector."""
    return vehicles.change_injector(store, vehicle_id, label, wanted.bank, wanted.feed)


@router.get("/gauges")
def list_gauges(store: Store) -> list[GaugeView]:
    """The gauges on the shelf."""
    return vehicles.list_gauges(store)


@router.post("/gauges", status_code=201)
def add_gauge(wanted: GaugeIn, store: Store) -> GaugeView:
    """Put a gauge on the shelf."""
    return vehicles.add_gauge(store, wanted.name, wanted.unit, wanted.step)
