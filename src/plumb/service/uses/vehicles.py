"""What a person does with vehicles: find, order of reach, banks and feeds, layouts."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy import Connection, Engine

from plumb.core.measure.problems import NotThere, PlumbError, Problem
from plumb.service.screens.job import vehicle_view
from plumb.service.stored.known import known_vehicle
from plumb.service.views.job import VehicleView
from plumb.store import jobs as store
from plumb.store import sheets as sheet_store
from plumb.store.records import InjectorRecord, VehicleRecord
from plumb.store.session import retried, transaction


@retried
def find_vehicles(engine: Engine, find: str, most: int = 12) -> list[VehicleView]:
    """Vehicles by name or plate, newest first."""
    with transaction(engine) as connection:
        return [
            vehicle_view(v, sheet_store.injectors_of(connection, v.id))
            for v in store.find_vehicles(connection, find, most)
        ]


@retried
def set_reach_order(engine: Engine, vehicle_id: int, labels: Sequence[str]) -> VehicleView:
    """The order in which the injectors are reached; remembered for the vehicle."""
    with transaction(engine) as connection:
        vehicle, injectors = _known_vehicle(connection, vehicle_id, lock=True)
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
        gone = [
            i.id
            for i in sheet_store.injectors_of(connection, vehicle_id, retired=True)
            if i.retired
        ]
        store.set_reach_order(connection, vehicle_id, [*(by_label[x].id for x in labels), *gone])
        return vehicle_view(vehicle, sheet_store.injectors_of(connection, vehicle_id))


@retried
def change_injector(
    engine: Engine, vehicle_id: int, label: str, bank: str | None, feed: str | None
) -> VehicleView:
    """Say on which bank an injector sits and what feeds it."""
    with transaction(engine) as connection:
        vehicle, injectors = _known_vehicle(connection, vehicle_id, lock=True)
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
    connection: Connection, vehicle_id: int, *, lock: bool = False
) -> tuple[VehicleRecord, tuple[InjectorRecord, ...]]:
    vehicle = known_vehicle(connection, vehicle_id, lock=lock)
    return vehicle, sheet_store.injectors_of(connection, vehicle_id)


def lay_out(connection: Connection, layout_id: int) -> list[dict[str, Any]]:
    """The injectors of a layout on the shelf; :class:`NotThere` when there is none."""
    found = next((e for e in store.shelf(connection, "layout") if e.id == layout_id), None)
    if found is None:
        raise NotThere(
            Problem(
                path="layout_id",
                rule="there is no such layout",
                value=str(layout_id),
                code="no_such_entry",
            )
        )
    return [
        {
            "label": str(i["id"]),
            "cylinder": int(i["cylinder"]),
            "bank": str(i.get("bank", "")),
            "feed": str(i.get("feed", "")),
            "set_name": str(i.get("set", "")),
            "retired": False,
            "extras": None,
        }
        for i in found.body["injectors"]
    ]


@retried
def take_layout(engine: Engine, vehicle_id: int, layout_id: int) -> VehicleView:
    """Put banks and feeds of a layout on a vehicle; it must have the same injectors."""
    with transaction(engine) as connection:
        vehicle, injectors = _known_vehicle(connection, vehicle_id, lock=True)
        wanted = {i["label"]: i for i in lay_out(connection, layout_id)}
        labels = {i.label for i in injectors}
        if set(wanted) != labels:
            raise PlumbError(
                Problem(
                    path="layout_id",
                    rule="the layout is for injectors " + ", ".join(sorted(wanted)),
                    value=", ".join(sorted(labels)),
                    code="not_the_same_set",
                )
            )
        for one in injectors:
            values = {"bank": wanted[one.label]["bank"], "feed": wanted[one.label]["feed"]}
            store.change_injector(connection, vehicle_id, one.id, values)
        return vehicle_view(vehicle, sheet_store.injectors_of(connection, vehicle_id))
