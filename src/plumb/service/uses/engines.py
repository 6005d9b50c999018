"""What a person does with an engine: injectors added, removed, renamed, moved; the vehicle's own data.

An injector that was ever read is never removed: it is retired, and its sheets keep it.
"""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

from pydantic import ValidationError
from sqlalchemy import Connection, Engine

from plumb.core.measure.problems import Conflict, PlumbError, Problem
from plumb.jobfile.models import VehiclePart
from plumb.jobfile.reading import problems_of
from plumb.service.screens.job import vehicle_view
from plumb.service.stored.known import known_vehicle
from plumb.service.stored.parts import filled
from plumb.service.views.job import VehicleView
from plumb.store import jobs as store
from plumb.store import sheets as sheet_store
from plumb.store.records import InjectorRecord, VehicleRecord
from plumb.store.session import retried, transaction


@dataclass(frozen=True, slots=True, kw_only=True)
class Seat:
    """An injector as it is to be; ``was`` is the label it has now, empty for one that is new."""

    was: str
    label: str
    cylinder: int
    bank: str = ""
    feed: str = ""
    set_name: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class EngineChange:
    """A vehicle as it is to be, its injectors in reach order; ``seen`` are the labels it had."""

    seen: tuple[str, ...]
    name: str
    registration: str
    distance_unit: str
    cylinders: int
    firing_order: tuple[int, ...]
    boosted: bool
    injectors: tuple[Seat, ...]


def make_injectors(cylinders: int, banks: int, each: str = "one_each") -> list[dict[str, Any]]:
    """The usual injectors of a new engine, labelled from 1 in the order of the cylinders.

    With two banks odd cylinders are on A, even ones on B; ``each`` is one_each, two_each,
    one_for_all, two_for_all or port_and_direct.  All of it can be changed.
    """

    def made(label: str, cylinder: int, set_name: str = "") -> dict[str, Any]:
        bank = "" if banks == 1 or not cylinder else ("A" if cylinder % 2 else "B")
        return {
            "label": label, "cylinder": cylinder, "feed": "", "bank": bank, "extras": None,
            "set_name": set_name, "retired": False,
        }  # fmt: skip

    numbers = range(1, cylinders + 1)
    if each == "one_for_all":
        return [made("1", 0)]
    if each == "two_for_all":
        return [made("1", 0), made("2", 0)]
    if each == "two_each":
        return [made(f"{n}{x}", n) for n in numbers for x in "ab"]
    if each == "port_and_direct":
        return [made(f"{n}{s[0].upper()}", n, s) for s in ("port", "direct") for n in numbers]
    return [made(str(n), n) for n in numbers]


@retried
def change_engine(engine: Engine, vehicle_id: int, wanted: EngineChange) -> VehicleView:
    """Change a vehicle and its injectors as one.

    Raises :class:`Conflict` when its injectors are no longer those that were seen, and
    :class:`PlumbError` for an engine that cannot be.
    """
    with transaction(engine) as connection:
        vehicle = known_vehicle(connection, vehicle_id, lock=True)
        there = sheet_store.injectors_of(connection, vehicle_id, retired=True)
        _same_as_seen(there, wanted)
        _can_be(vehicle, wanted, there)
        store.change_vehicle(
            connection,
            vehicle_id,
            {
                "name": wanted.name.strip(),
                "registration": wanted.registration.strip(),
                "distance_unit": wanted.distance_unit,
                "cylinders": wanted.cylinders,
                "firing_order": list(wanted.firing_order) or None,
                "boosted": wanted.boosted,
            },
        )
        _put(connection, vehicle_id, there, wanted.injectors)
        vehicle = known_vehicle(connection, vehicle_id)
        return vehicle_view(vehicle, sheet_store.injectors_of(connection, vehicle_id))


def _same_as_seen(there: Sequence[InjectorRecord], wanted: EngineChange) -> None:
    labels = sorted(i.label for i in there if not i.retired)
    known = {s.was for s in wanted.injectors if s.was}
    if labels != sorted(wanted.seen) or not known <= set(labels):
        raise Conflict(
            Problem(
                path="seen", value=", ".join(wanted.seen), code="newer_there",
                rule="the injectors were changed meanwhile: they are " + ", ".join(labels),
            )
        )  # fmt: skip


def _can_be(vehicle: VehicleRecord, wanted: EngineChange, there: Sequence[InjectorRecord]) -> None:
    """:class:`PlumbError` for a vehicle that a job file could not hold."""
    kept = {s.was for s in wanted.injectors} | {s.label for s in wanted.injectors}
    gone = [i for i in there if i.retired and i.label not in kept]
    try:
        VehiclePart.model_validate(
            {
                "name": wanted.name.strip(), "fuel_system": vehicle.fuel_system,
                **filled(
                    registration=wanted.registration.strip(), distance_unit=wanted.distance_unit,
                    cylinders=wanted.cylinders, firing_order=list(wanted.firing_order),
                ),
                "injectors": [
                    {"id": s.label, "cylinder": s.cylinder, "bank": s.bank, "feed": s.feed,
                     "set": s.set_name}
                    for s in wanted.injectors
                ]
                + [{"id": i.label, "cylinder": i.cylinder, "retired": True} for i in gone],
            }
        )  # fmt: skip
    except ValidationError as error:
        raise PlumbError(problems_of(error)) from error


def _put(
    connection: Connection,
    vehicle_id: int,
    there: Sequence[InjectorRecord],
    seats: Sequence[Seat],
) -> None:
    """Change, add, take away or retire injectors, then put them in their order."""
    by_label = {i.label: i for i in there}
    # A label that was retired and is typed again is the same injector, back on the engine.
    seated = [(seat, by_label.get(seat.was or seat.label)) for seat in seats]
    staying = {one.id for _, one in seated if one is not None}
    retired = []
    for one in (i for i in there if i.id not in staying):
        if one.retired or store.was_read(connection, one.id):
            store.set_injector(connection, one.id, {"retired": True})
            retired.append(one.id)
        else:
            store.drop_injector(connection, one.id)
    # Two that swap their labels must not meet on the way.
    for n, (seat, known) in enumerate(seated):
        if known is not None and known.label != seat.label:
            store.set_injector(connection, known.id, {"label": f"~{n}"})
    ids = [_seat(connection, vehicle_id, seat, known) for seat, known in seated]
    renamed = {s.was: s.label for s in seats if s.was and s.was != s.label}
    sheet_store.rename_suspects(connection, vehicle_id, renamed)
    store.set_reach_order(connection, vehicle_id, [*ids, *retired])


def _seat(connection: Connection, vehicle_id: int, seat: Seat, known: InjectorRecord | None) -> int:
    """Put an injector in its seat; its id."""
    values = {k: v for k, v in asdict(seat).items() if k != "was"} | {"retired": False}
    if known is not None:
        store.set_injector(connection, known.id, values)
        return known.id
    return store.add_injector(connection, vehicle_id, values)
