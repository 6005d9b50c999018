"""Vehicles over the years."""

from typing import Annotated

from fastapi import Query, Request

from plumb.api.deps import InTurn, Shop, ShownUnit, Store
from plumb.api.intake import CSV_BYTES, body_of, routes_of, takes
from plumb.api.schemas_finishing import PartIn
from plumb.service.uses import years as service
from plumb.service.uses.baselines import baselines_for
from plumb.service.views.job import ImportView
from plumb.service.views.years import BaselineView, LastView, LearntWindowView, YearsView

router = routes_of("years")

Preview = Annotated[bool, Query(description="only say what would happen")]


@router.get("/vehicles/{vehicle_id}/years")
def show_years(vehicle_id: int, store: Store, shop: Shop) -> YearsView:
    """A vehicle with its visits, its parts in their places, and every quantity over the years."""
    return service.show_years(store, vehicle_id, shop.thresholds())


@router.put("/vehicles/{vehicle_id}/parts/{label:path}")
def put_part(vehicle_id: int, label: str, wanted: PartIn, store: Store, shop: Shop) -> YearsView:
    """Say what is known of the part that sits in a place now."""
    return service.put_part(store, vehicle_id, label, wanted.model_dump(), shop.thresholds())


@router.post(
    "/vehicles/{vehicle_id}/old-figures",
    openapi_extra=takes("text/csv", CSV_BYTES, {"type": "string"}),
)
async def bring_in_old(
    vehicle_id: int, request: Request, store: Store, turns: InTurn, *, preview: Preview = False
) -> ImportView:
    """Bring in figures from paper, with their own dates: all of them or none."""
    async with turns.queue():
        text = await body_of(request)
        return await turns.run(service.bring_in_old, store, vehicle_id, text, store_it=not preview)


@router.get("/sheets/{sheet_id}/last-time")
def last_time(sheet_id: int, store: Store, shop: Shop, unit: ShownUnit = None) -> list[LastView]:
    """Where each row of a sheet hung on the vehicle's visit before this one."""
    return service.last_time(store, sheet_id, shop.thresholds(), unit)


@router.get("/sheets/{sheet_id}/baselines")
def baselines(sheet_id: int, store: Store, shop: Shop) -> list[BaselineView]:
    """Earlier sound sets, of this vehicle and of others of its name, that can be taken as what is expected."""
    return baselines_for(store, sheet_id, shop.thresholds())


@router.get("/sheets/{sheet_id}/learnt-window")
def learnt_for(sheet_id: int, store: Store, shop: Shop) -> LearntWindowView | None:
    """A window from the shop's own sound parts of the same vehicle or number; null: from too few."""
    return service.learnt_for(store, sheet_id, shop.thresholds())
