"""What is kept of a job from the verdict on, and what the shop charges."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from datetime import date, datetime
from typing import Any, Final, TypeVar, cast

from sqlalchemy import (
    ColumnElement,
    Connection,
    Table,
    delete,
    exists,
    func,
    insert,
    select,
    update,
)
from sqlalchemy.dialects.mysql import insert as mysql_insert

from plumb.store import taught
from plumb.store.records import VehicleRecord, record
from plumb.store.sheets import JOB, VEHICLE
from plumb.store.sightings import SIGHTING, SightingRecord
from plumb.store.tables_finishing import (
    AnswerRow,
    ChoiceRow,
    CuredRow,
    PartRow,
    RepairRow,
    ShopRow,
    SignatureRow,
    ThingRow,
)

REPAIR = cast("Table", RepairRow.__table__)
PART = cast("Table", PartRow.__table__)
CHOICE = cast("Table", ChoiceRow.__table__)
THING = cast("Table", ThingRow.__table__)
ANSWER = cast("Table", AnswerRow.__table__)
SIGNATURE = cast("Table", SignatureRow.__table__)
CURED = cast("Table", CuredRow.__table__)
SHOP = cast("Table", ShopRow.__table__)


@dataclass(frozen=True, slots=True)
class RepairRecord:
    """What was done to an injector, or to the engine."""

    id: str
    job_id: int
    vehicle_id: int
    injector_id: int | None
    with_id: int | None
    done: str
    cause: str
    at: datetime
    at_typed: str
    by_whom: str
    note: str
    live: int | None
    extras: dict[str, Any] | None


@dataclass(frozen=True, slots=True)
class PartRecord:
    """A part: put in by a repair, or there from the beginning."""

    id: int
    vehicle_id: int
    injector_id: int
    repair_id: str | None
    make: str
    number: str
    serial: str
    mark: str
    note: str
    code: str


@dataclass(frozen=True, slots=True)
class ChoiceRecord:
    """The way that was chosen."""

    id: str
    job_id: int
    way: str
    injectors: list[str]
    reason: str
    by_whom: str
    at: datetime
    at_typed: str
    look_on: date | None
    look_km_typed: str | None
    extras: dict[str, Any] | None


@dataclass(frozen=True, slots=True)
class ThingRecord:
    """Something that goes with a repair."""

    job_id: int
    what: str
    done: bool
    reason: str
    by_whom: str
    at_typed: str


@dataclass(frozen=True, slots=True)
class AnswerRecord:
    """What became of one word of the complaint."""

    job_id: int
    word: str
    answer: str
    by_whom: str
    at_typed: str


@dataclass(frozen=True, slots=True)
class SignatureRecord:
    """A signature, with what was decided then."""

    id: int
    job_id: int
    by_whom: str
    at: datetime
    at_typed: str
    reason: str
    hand: str | None
    version: str
    result: str


@dataclass(frozen=True, slots=True)
class ShopRecord:
    """The shop as its papers name it."""

    name: str = ""
    address: str = ""
    currency: str = ""
    logo: bytes | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    """All of that of one job, oldest first; repairs and sightings only those that were not taken back."""

    sightings: tuple[SightingRecord, ...] = ()
    repairs: tuple[RepairRecord, ...] = ()
    parts: tuple[PartRecord, ...] = ()
    choices: tuple[ChoiceRecord, ...] = ()
    things: tuple[ThingRecord, ...] = ()
    answers: tuple[AnswerRecord, ...] = ()
    signatures: tuple[SignatureRecord, ...] = ()


Row = TypeVar(
    "Row",
    SightingRecord,
    RepairRecord,
    PartRecord,
    ChoiceRecord,
    ThingRecord,
    AnswerRecord,
    SignatureRecord,
)


def _rows(
    connection: Connection,
    kind: type[Row],
    table: Table,
    *where: ColumnElement[bool],
    by: Sequence[str] = (),
) -> list[Row]:
    query = select(*(table.c[f.name] for f in fields(kind))).where(*where)
    rows = connection.execute(query.order_by(*(table.c[name] for name in by)))
    return [kind(*row) for row in rows]


def done_on(connection: Connection, job_ids: Collection[int]) -> dict[int, Kept]:
    """What was done and asked on many jobs: all that weighing their sheets takes, and no more.

    A job without any of it is not there.  Signatures hold whole results; a list of jobs reads none.
    """
    ids = list(job_ids)
    repairs = _rows(
        connection, RepairRecord, REPAIR, REPAIR.c.job_id.in_(ids), REPAIR.c.live == 1,
        by=("at", "id"),
    )  # fmt: skip
    mine = [r.id for r in repairs]
    parts = (
        _rows(connection, PartRecord, PART, PART.c.repair_id.in_(mine), by=("id",)) if mine else []
    )
    answers = _rows(connection, AnswerRecord, ANSWER, ANSWER.c.job_id.in_(ids), by=("word",))
    seen = _rows(
        connection, SightingRecord, SIGHTING, SIGHTING.c.job_id.in_(ids), SIGHTING.c.live == 1,
        by=("at", "id"),
    )  # fmt: skip
    made: dict[int, Kept] = {}
    for job_id in ids:
        own = tuple(r for r in repairs if r.job_id == job_id)
        keys = {r.id for r in own}
        kept = Kept(
            sightings=tuple(s for s in seen if s.job_id == job_id),
            repairs=own,
            parts=tuple(p for p in parts if p.repair_id in keys),
            answers=tuple(a for a in answers if a.job_id == job_id),
        )
        if kept != Kept():
            made[job_id] = kept
    return made


def kept_of(connection: Connection, job_id: int) -> Kept:
    """All that is kept of one job."""
    choices = _rows(connection, ChoiceRecord, CHOICE, CHOICE.c.job_id == job_id, by=("at", "id"))
    things = _rows(connection, ThingRecord, THING, THING.c.job_id == job_id, by=("what",))
    signed = _rows(connection, SignatureRecord, SIGNATURE, SIGNATURE.c.job_id == job_id, by=("id",))
    return replace(
        done_on(connection, [job_id]).get(job_id, Kept()),
        choices=tuple(choices), things=tuple(things), signatures=tuple(signed),
    )  # fmt: skip


def repairs_of(connection: Connection, job_id: int) -> tuple[RepairRecord, ...]:
    """The repairs of a job that were not taken back, oldest first."""
    where = (REPAIR.c.job_id == job_id, REPAIR.c.live == 1)
    return tuple(_rows(connection, RepairRecord, REPAIR, *where, by=("at", "id")))


def repairs_of_vehicle(connection: Connection, vehicle_id: int) -> tuple[RepairRecord, ...]:
    """Every repair of a vehicle that was not taken back, oldest first."""
    where = (REPAIR.c.vehicle_id == vehicle_id, REPAIR.c.live == 1)
    return tuple(_rows(connection, RepairRecord, REPAIR, *where, by=("at", "id")))


def parts_of_vehicle(connection: Connection, vehicle_id: int) -> tuple[PartRecord, ...]:
    """Every part of a vehicle."""
    where = (PART.c.vehicle_id == vehicle_id,)
    return tuple(_rows(connection, PartRecord, PART, *where, by=("id",)))


def repair_by_id(connection: Connection, repair_id: str) -> RepairRecord | None:
    """One repair, taken back or not."""
    found = _rows(connection, RepairRecord, REPAIR, REPAIR.c.id == repair_id)
    return found[0] if found else None


def add_repair(
    connection: Connection, values: Mapping[str, Any], part: Mapping[str, Any] | None
) -> None:
    """Keep a repair, with the part that was put in."""
    connection.execute(insert(REPAIR).values(**values))
    if part is not None:
        where = {"vehicle_id": values["vehicle_id"], "injector_id": values["injector_id"]}
        connection.execute(insert(PART).values(repair_id=values["id"], **where, **part))


def take_back(connection: Connection, repair_id: str) -> None:
    """Let a repair hold no more; it stays in the store."""
    connection.execute(update(REPAIR).where(REPAIR.c.id == repair_id).values(live=None))


def put_first_part(
    connection: Connection, vehicle_id: int, injector_id: int, part: Mapping[str, Any]
) -> None:
    """Say which part sat in a place from the beginning."""
    mine = (PART.c.injector_id == injector_id, PART.c.repair_id.is_(None))
    if connection.scalar(select(PART.c.id).where(*mine)) is None:
        values = {"vehicle_id": vehicle_id, "injector_id": injector_id, "repair_id": None}
        connection.execute(insert(PART).values(**values, **part))
    else:
        connection.execute(update(PART).where(*mine).values(**part))


def put_part(connection: Connection, part_id: int, values: Mapping[str, Any]) -> None:
    """Change what is known of a part."""
    connection.execute(update(PART).where(PART.c.id == part_id).values(**values))


def add_choice(connection: Connection, values: Mapping[str, Any]) -> None:
    """Keep the way that was chosen; the same one twice is one."""
    query = mysql_insert(CHOICE).values(**values)
    connection.execute(query.on_duplicate_key_update(id=query.inserted.id))


def _put(connection: Connection, table: Table, values: Mapping[str, Any]) -> None:
    query = mysql_insert(table).values(**values)
    keys = {c.name for c in table.primary_key}
    connection.execute(
        query.on_duplicate_key_update({n: query.inserted[n] for n in values if n not in keys})
    )


def put_thing(connection: Connection, values: Mapping[str, Any]) -> None:
    """Tick something that goes with the repair, or set it aside."""
    _put(connection, THING, values)


def drop_thing(connection: Connection, job_id: int, what: str) -> None:
    """Take a tick back."""
    connection.execute(delete(THING).where(THING.c.job_id == job_id, THING.c.what == what))


def put_answer(connection: Connection, values: Mapping[str, Any]) -> None:
    """Keep what became of a word of the complaint."""
    _put(connection, ANSWER, values)


def drop_answer(connection: Connection, job_id: int, word: str) -> None:
    """Take an answer back."""
    connection.execute(delete(ANSWER).where(ANSWER.c.job_id == job_id, ANSWER.c.word == word))


def sign(connection: Connection, values: Mapping[str, Any]) -> None:
    """Keep a signature."""
    connection.execute(insert(SIGNATURE).values(**values))


def count_cured(
    connection: Connection, job_id: int, outcomes: Sequence[tuple[int, str, bool]]
) -> None:
    """Keep what cleaning did on a job, as (injector, condition, cured); what was kept before goes."""
    connection.execute(delete(CURED).where(CURED.c.job_id == job_id))
    for injector_id, found, cured in outcomes:
        row = {"job_id": job_id, "injector_id": injector_id, "found": found, "cured": cured}
        connection.execute(insert(CURED).values(**row))
    taught.changed(connection)


MOST_CURES: Final = 5000
"""So many of the newest injectors that were cleaned count: the trade's fluids and parts change."""


def cured_on(connection: Connection, fuel_system: str) -> dict[str, tuple[int, int]]:
    """How many of how many injectors cleaning has cured on closed jobs of late, by condition."""
    return taught.counted(connection, "cured", fuel_system, _count_cured)


def _count_cured(connection: Connection, fuel_system: str) -> dict[str, tuple[int, int]]:
    some = (
        select(CURED.c.found, CURED.c.cured)
        .join(JOB, JOB.c.id == CURED.c.job_id)
        .join(VEHICLE, VEHICLE.c.id == JOB.c.vehicle_id)
        .where(JOB.c.closed_at.is_not(None), VEHICLE.c.fuel_system == fuel_system)
        .order_by(CURED.c.job_id.desc())
        .limit(MOST_CURES)
        .subquery()
    )
    query = select(some.c.found, func.sum(some.c.cured), func.count()).group_by(some.c.found)
    return {found: (int(cured), int(tried)) for found, cured, tried in connection.execute(query)}


def shop(connection: Connection) -> ShopRecord:
    """The shop as its papers name it; all empty where nobody has said."""
    query = select(SHOP.c.name, SHOP.c.address, SHOP.c.currency, SHOP.c.logo)
    row = connection.execute(query).first()
    return ShopRecord(*row) if row is not None else ShopRecord()


def put_shop(connection: Connection, values: Mapping[str, Any]) -> None:
    """Say what the shop's papers name it."""
    _put(connection, SHOP, {"id": 1, "name": "", "address": "", "currency": "", **values})


def due_to_look(
    connection: Connection, until: date
) -> list[tuple[str, VehicleRecord, ChoiceRecord]]:
    """Jobs whose fault was left until a day that has come, with vehicle and choice; the oldest first.

    Who chose another way since, or has brought the vehicle in again, waits no more.
    """
    later, newer = CHOICE.alias("later"), JOB.alias("newer")
    query = (
        select(
            JOB.c.number,
            VEHICLE,
            *(CHOICE.c[f.name].label(f"c_{f.name}") for f in fields(ChoiceRecord)),
        )
        .join(JOB, JOB.c.id == CHOICE.c.job_id)
        .join(VEHICLE, VEHICLE.c.id == JOB.c.vehicle_id)
        .where(
            CHOICE.c.way == "wait",
            CHOICE.c.look_on <= until,
            ~exists().where(later.c.job_id == CHOICE.c.job_id, later.c.at > CHOICE.c.at),
            ~exists().where(
                newer.c.vehicle_id == JOB.c.vehicle_id,
                newer.c.id > JOB.c.id,
                newer.c.opened_at >= JOB.c.opened_at,
            ),
        )
        .order_by(CHOICE.c.look_on, CHOICE.c.id)
    )
    return [
        (
            row.number, record(VehicleRecord, row, VEHICLE),
            ChoiceRecord(*(row._mapping[f"c_{f.name}"] for f in fields(ChoiceRecord))),  # noqa: SLF001
        )
        for row in connection.execute(query)
    ]  # fmt: skip
