"""The shelf: gauges, windows, rules, layouts."""

from typing import Annotated, Literal

from fastapi import Query

from plumb.api.deps import Shop, Store
from plumb.api.intake import CSV_BYTES, JOB_FILE_BYTES, routes_of
from plumb.api.routes_sheets import gauge_of
from plumb.api.schemas import GaugeIn, LayoutIn, LearningIn, ShelfIn
from plumb.core.procedures.kind import Setting
from plumb.jobfile.models import FuelSystem
from plumb.service.screens.catalogue import catalogue, guide_view
from plumb.service.uses import learning
from plumb.service.uses import shelf as service
from plumb.service.views.catalogue import CatalogueView, GuideView, LargestView
from plumb.service.views.job import ShelfView
from plumb.service.views.learning import LearningView
from plumb.service.views.sheet import GaugeView

router = routes_of("shelf")

What = Annotated[
    Literal["window", "rule", "layout", "price", "box"] | None, Query(description="only these")
]


@router.get("/catalogue")
def show_catalogue(shop: Shop) -> CatalogueView:
    """What there is to choose from: kinds of sheet with their limits, rules, fuel systems."""
    trace = shop.upload_limit_mb * 2**20
    return catalogue(LargestView(job_file=JOB_FILE_BYTES, csv=CSV_BYTES, trace=trace))


@router.get("/kinds/{kind}/guide")
def show_guide(kind: str, fuel_system: FuelSystem = "port", *, starts: bool = True) -> GuideView:
    """How a procedure is done: what it shows and what not, the steps, the usual slips."""
    return guide_view(kind, Setting(fuel_system=fuel_system, starts=starts))


@router.get("/learning")
def show_learning(store: Store) -> LearningView:
    """Whether closed jobs count into how common faults are, and what they say."""
    return learning.show_learning(store)


@router.put("/learning")
def set_learning(wanted: LearningIn, store: Store) -> LearningView:
    """Let closed jobs count, or not."""
    return learning.set_learning(store, on=wanted.on)


@router.get("/gauges")
def list_gauges(store: Store) -> list[GaugeView]:
    """The gauges on the shelf."""
    return service.list_gauges(store)


@router.post("/gauges", status_code=201)
def add_gauge(wanted: GaugeIn, store: Store) -> GaugeView:
    """Put a gauge on the shelf."""
    return service.add_gauge(store, gauge_of(wanted))


@router.put("/gauges/{gauge_id}")
def change_gauge(gauge_id: int, wanted: GaugeIn, store: Store) -> GaugeView:
    """Change a gauge; sheets that used it keep what they copied."""
    return service.change_gauge(store, gauge_id, gauge_of(wanted))


@router.delete("/gauges/{gauge_id}", status_code=204)
def drop_gauge(gauge_id: int, store: Store) -> None:
    """Take a gauge off the shelf."""
    service.drop_gauge(store, gauge_id)


@router.get("/shelf")
def list_shelf(store: Store, what: What = None) -> list[ShelfView]:
    """Windows, rules, layouts and prices."""
    return service.list_shelf(store, what)


def _entry(wanted: ShelfIn, entry_id: int) -> ShelfView:
    return ShelfView(
        id=entry_id, what=wanted.what, name=wanted.name, kind=wanted.kind, unit=wanted.unit,
        values=dict(wanted.values),
    )  # fmt: skip


@router.post("/shelf", status_code=201)
def add_to_shelf(wanted: ShelfIn, store: Store) -> ShelfView:
    """Put a window, a rule or prices on the shelf."""
    return service.keep(store, _entry(wanted, 0))


@router.put("/shelf/{entry_id}")
def change_on_shelf(entry_id: int, wanted: ShelfIn, store: Store) -> ShelfView:
    """Change a window, a rule or prices; who used it keeps what was copied."""
    return service.keep(store, _entry(wanted, entry_id))


@router.delete("/shelf/{entry_id}", status_code=204)
def drop_from_shelf(entry_id: int, store: Store) -> None:
    """Take an entry off the shelf."""
    service.drop(store, entry_id)


@router.post("/layouts", status_code=201)
def keep_layout(wanted: LayoutIn, store: Store) -> ShelfView:
    """Keep a vehicle's cylinders, banks and feeds for the next one of its make."""
    return service.keep_layout(store, wanted.name, wanted.vehicle_id)
