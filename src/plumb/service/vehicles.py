"""What a person does with vehicles and gauges: find, order of reach, banks and feeds, the shelf."""

from collections.abc import Sequence

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import IntegrityError

from plumb.core.problems import Conflict, NotThere, PlumbError, Problem
from plumb.core.quantities import kpa_per
from plumb.service.sheets import typed_step
from plumb.service.views import GaugeView, InjectorView, VehicleView
from plumb.store import jobs as store
from plumb.store import sheets as sheet_store
from plumb.store.records import InjectorRecord, VehicleRecord
from plumb.store.session import transaction


def vehicle_view(vehicle: VehicleRecord, injectors: Sequence[InjectorRecord]) -> VehicleView:
    """A vehicle for a screen."""
    return VehicleView(
        id=vehicle.id,
        name=vehicle.name,
        registration=vehicle.registration,
        fuel_system=vehicle.fuel_system,
        injectors=[
            InjectorView(label=i.label, cylinder=i.cylinder, bank=i.bank, feed=i.feed)
            for i in injectors
        ],
    )


def find_vehicles(engine: Engine, find: str, most: int = 12) -> list[VehicleView]:
    """Vehicles by name or plate, newest first."""
    with transaction(engine) as connection:
        return [
            vehicle_view(v, sheet_store.injectors_of(connection, v.id))
            for v in store.find_vehicles(connection, find, most)
        ]


def set_reach_order(engine: Engine, vehicle_id: int, labels: Sequence[str]) -> VehicleView:
    """The order in which the injectors are reached; remembered for the vehicle."""
    with transaction(engine) as connection:
        vehicle, injectors = _known_vehicle(connection, vehicle_id)
        by_label = {i.label: i for i in injectors}
        if sorted(labels) != sorted(by_label):
            raise PlumbError(
                Problem(
                    path="order",
                    value=", ".join(labels),
                    code="not_the_same_set",
                    rule="the order names every injector once: " + ", ".join(sorted(by_label)),
                )
            )
        store.set_reach_order(connection, vehicle_id, [by_label[x].id for x in labels])
        return vehicle_view(vehicle, sheet_store.injectors_of(connection, vehicle_id))


def change_injector(
    engine: Engine, vehicle_id: int, label: str, bank: str | None, feed: str | None
) -> VehicleView:
    """Say on which bank an injector sits and what feeds it."""
    with transaction(engine) as connection:
        vehicle, injectors = _known_vehicle(connection, vehicle_id)
        one = next((i for i in injectors if i.label == label), None)
        if one is None:
            raise NotThere(
                Problem(
                    path="injector",
                    rule="there is no such injector",
                    value=label,
                    code="unknown_injector",
                )
            )
        values = {k: v for k, v in (("bank", bank), ("feed", feed)) if v is not None}
        if values:
            store.change_injector(connection, vehicle_id, one.id, values)
        return vehicle_view(vehicle, sheet_store.injectors_of(connection, vehicle_id))


def _known_vehicle(
    connection: Connection, vehicle_id: int
) -> tuple[VehicleRecord, tuple[InjectorRecord, ...]]:
    vehicle = store.vehicle_by_id(connection, vehicle_id)
    if vehicle is None:
        raise NotThere(
            Problem(
                path="vehicle",
                rule="there is no such vehicle",
                value=str(vehicle_id),
                code="no_such_vehicle",
            )
        )
    return vehicle, sheet_store.injectors_of(connection, vehicle_id)


def list_gauges(engine: Engine) -> list[GaugeView]:
    """The gauges on the shelf."""
    with transaction(engine) as connection:
        return [
            GaugeView(id=g.id, name=g.name, unit=g.unit, step=g.step_typed)
            for g in store.gauges(connection)
        ]


def add_gauge(engine: Engine, name: str, unit: str, step: str) -> GaugeView:
    """Put a gauge on the shelf; :class:`Conflict` when the name is taken."""
    value = typed_step(step)
    factor = kpa_per(unit, "unit")
    if not name.strip():
        raise PlumbError(Problem(path="name", rule="name the gauge", code="missing"))
    try:
        with transaction(engine) as connection:
            gauge_id = store.add_gauge(
                connection,
                {
                    "name": name.strip(),
                    "unit": unit,
                    "step_typed": str(value),
                    "step": float(value) * factor,
                },
            )
    except IntegrityError:
        raise Conflict(
            Problem(
                path="name", rule="there is a gauge of that name", value=name, code="name_taken"
            )
        ) from None
    return GaugeView(id=gauge_id, name=name.strip(), unit=unit, step=str(value))
