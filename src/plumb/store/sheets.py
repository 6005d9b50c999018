"""Sheets and their readings in the store."""

from collections import OrderedDict
from collections.abc import Collection, Mapping, Sequence
from typing import Any, cast
from weakref import WeakKeyDictionary

from sqlalchemy import (
    ColumnElement,
    Connection,
    Engine,
    Row,
    Table,
    bindparam,
    delete,
    func,
    insert,
    select,
    update,
)

from plumb.core.measure.spoken import starts
from plumb.jobfile.kinds import FILE_KINDS
from plumb.store import changes, words
from plumb.store.records import (
    InjectorRecord,
    ReadingRecord,
    SheetRecord,
    Stamp,
    WholeSheet,
    record,
)
from plumb.store.tables import InjectorRow, JobRow, ReadingRow, SheetRow, TraceRow, VehicleRow

SHEET = cast("Table", SheetRow.__table__)
READING = cast("Table", ReadingRow.__table__)
INJECTOR = cast("Table", InjectorRow.__table__)
JOB = cast("Table", JobRow.__table__)
VEHICLE = cast("Table", VehicleRow.__table__)
TRACE = cast("Table", TraceRow.__table__)

_WALK = SHEET.alias("walk")
_ROUND = (
    select(_WALK.c.conditions)
    .where(
        _WALK.c.job_id == SHEET.c.job_id,
        func.json_exists(_WALK.c.conditions, "$.complaint[0]") == 1,
    )
    .order_by(_WALK.c.id.desc())
    .limit(1)
    .scalar_subquery()
)
"""What the newest sheet of the same job that notes a complaint has."""
_SAME = SHEET.alias("same")
_PLACE = (
    select(func.count())
    .where(_SAME.c.job_id == SHEET.c.job_id, _SAME.c.kind == SHEET.c.kind, _SAME.c.id <= SHEET.c.id)
    .scalar_subquery()
)
"""How many sheets of its kind the job had when it was begun, itself among them."""
_HEAD = (
    select(
        SHEET,
        JOB.c.complaint.label("complaint"),
        JOB.c.codes.label("codes"),
        _PLACE.label("place"),
        _ROUND.label("walked"),
        JOB.c.number.label("job_number"),
        JOB.c.closed_at.label("job_closed"),
        VEHICLE.c.fuel_system.label("fuel"),
        VEHICLE.c.cylinders.label("cylinders"),
        VEHICLE.c.firing_order.label("firing"),
    )
    .join(JOB, JOB.c.id == SHEET.c.job_id)
    .join(VEHICLE, VEHICLE.c.id == SHEET.c.vehicle_id)
)
_HEAD_BY_ID = _HEAD.where(SHEET.c.id == bindparam("sheet_id"))
_INJECTORS = (
    select(INJECTOR)
    .where(INJECTOR.c.vehicle_id == bindparam("vehicle_id"))
    .order_by(INJECTOR.c.position)
)
_READINGS = (
    select(*(READING.c[f] for f in ReadingRecord.__slots__))
    .where(READING.c.sheet_id == bindparam("sheet_id"), READING.c.live == 1)
    .order_by(READING.c.sequence)
)


def _starts(row: Row[Any]) -> bool:
    """Whether the engine starts, as the job's complaint and its walk-round have it."""
    return starts(row.complaint, (row.walked or {}).get("complaint") or ())


def injectors_of(
    connection: Connection, vehicle_id: int, *, retired: bool = False
) -> tuple[InjectorRecord, ...]:
    """A vehicle's injectors in reach order; those that are off the engine only when asked for."""
    rows = connection.execute(_INJECTORS, {"vehicle_id": vehicle_id})
    made = (InjectorRecord(*row) for row in rows)
    return tuple(i for i in made if retired or not i.retired)


def _whole(
    row: Row[Any], injectors: Sequence[InjectorRecord], readings: tuple[ReadingRecord, ...]
) -> WholeSheet:
    """A sheet from its head, all injectors of its vehicle, and its readings."""
    head = record(SheetRecord, row, SHEET)
    own_set = head.conditions.get("set", "")
    read = {r.injector_id for r in readings}
    return WholeSheet(
        sheet=head,
        job_number=row.job_number,
        fuel_system=row.fuel,
        closed=row.job_closed is not None,
        starts=_starts(row),
        complaint=row.complaint,
        codes=tuple(row.codes),
        place=row.place,
        cylinders=row.cylinders,
        firing_order=tuple(row.firing or ()),
        injectors=tuple(
            i
            for i in injectors
            if i.id in read or not (i.retired or (own_set and i.set_name != own_set))
        ),
        readings=readings,
        sets=tuple(dict.fromkeys(i.set_name for i in injectors if not i.retired)),
    )


def readings_of(connection: Connection, sheet_id: int) -> tuple[ReadingRecord, ...]:
    """A sheet's live readings in the order they were taken."""
    rows = connection.execute(_READINGS, {"sheet_id": sheet_id})
    return tuple(ReadingRecord(*row) for row in rows)


_VERSION = select(SHEET.c.version).where(SHEET.c.id == bindparam("sheet_id"))
_VERSION_LOCKED = _VERSION.with_for_update()
_MOST_KEPT = 64
_IN_A_PIECE = 500
_kept: WeakKeyDictionary[Engine, OrderedDict[int, WholeSheet]] = WeakKeyDictionary()


def remember(engine: Engine, whole: WholeSheet) -> None:
    """Keep a sheet in memory as it was committed; its version says whether it still holds.

    Everything that changes what is on a sheet counts its version up, so one small question to the
    database replaces three large ones while someone types.
    """
    shelf = _kept.setdefault(engine, OrderedDict())
    shelf[whole.sheet.id] = whole
    shelf.move_to_end(whole.sheet.id)
    while len(shelf) > _MOST_KEPT:
        shelf.popitem(last=False)


def whole_sheet(connection: Connection, sheet_id: int, *, lock: bool = False) -> WholeSheet | None:
    """A sheet with everything on it; ``lock`` holds it until the transaction ends."""
    query = _VERSION_LOCKED if lock else _VERSION
    version = connection.scalar(query, {"sheet_id": sheet_id})
    if version is None:
        return None
    known = _kept.get(connection.engine, OrderedDict()).get(sheet_id)
    if known is not None and known.sheet.version == version:
        return known
    row = connection.execute(_HEAD_BY_ID, {"sheet_id": sheet_id}).one()
    injectors = injectors_of(connection, row.vehicle_id, retired=True)
    return _whole(row, injectors, readings_of(connection, sheet_id))


def sheet_ids(connection: Connection, job_id: int) -> list[int]:
    """The sheets of a job, oldest first."""
    query = select(SHEET.c.id).where(SHEET.c.job_id == job_id).order_by(SHEET.c.id)
    return list(connection.scalars(query))


def sheets_before(connection: Connection, sheet: SheetRecord) -> list[WholeSheet]:
    """The sheets of the same kind on the same job that were begun before it, oldest first."""
    return _whole_sheets(
        connection,
        (SHEET.c.job_id == sheet.job_id) & (SHEET.c.kind == sheet.kind) & (SHEET.c.id < sheet.id),
    )


def sheet_kinds(connection: Connection, job_id: int) -> dict[str, str]:
    """The kinds of a job's sheets by their keys, oldest first."""
    query = select(SHEET.c.key, SHEET.c.kind).where(SHEET.c.job_id == job_id).order_by(SHEET.c.id)
    return {row.key: row.kind for row in connection.execute(query)}


def sheets_of(connection: Connection, job_id: int) -> list[WholeSheet]:
    """The whole sheets of a job, oldest first."""
    return sheets_of_jobs(connection, [job_id]).get(job_id, [])


def sheets_of_jobs(connection: Connection, job_ids: Sequence[int]) -> dict[int, list[WholeSheet]]:
    """The whole sheets of many jobs by job, oldest first, in three questions to the database."""
    made: dict[int, list[WholeSheet]] = {}
    for whole in _whole_sheets(connection, SHEET.c.job_id.in_(job_ids)):
        made.setdefault(whole.sheet.job_id, []).append(whole)
    return made


def complaint_noted(connection: Connection, job_id: int) -> list[str]:
    """The words of the complaint that a job's newest walk-round noted; none where none did."""
    noted = func.json_exists(SHEET.c.conditions, "$.complaint[0]") == 1
    query = select(SHEET.c.conditions).where(SHEET.c.job_id == job_id, noted)
    kept = connection.scalar(query.order_by(SHEET.c.id.desc()).limit(1))
    return list((kept or {}).get("complaint") or ())


def newest_of_kind(
    connection: Connection, kind: str, most: int, fuel_system: str = ""
) -> list[WholeSheet]:
    """The shop's newest sheets of a kind, the newest last.

    With ``fuel_system`` only those of vehicles that have it.
    """
    query = select(SHEET.c.id).where(SHEET.c.kind == kind)
    if fuel_system:
        query = query.join(VEHICLE, VEHICLE.c.id == SHEET.c.vehicle_id).where(
            VEHICLE.c.fuel_system == fuel_system
        )
    newest = connection.scalars(query.order_by(SHEET.c.id.desc()).limit(most))
    return sheets_by_id(connection, list(newest))


def stamps_about(connection: Connection, kind: str, about: str, most: int) -> list[Stamp]:
    """What tells one state of the newest sheets of a kind about a type of part, oldest first."""
    query = select(SHEET.c.id, SHEET.c.version, SHEET.c.taken_at)
    query = query.where(SHEET.c.about == about, SHEET.c.kind == kind)
    rows = connection.execute(query.order_by(SHEET.c.id.desc()).limit(most)).all()
    return [Stamp(*row) for row in reversed(rows)]


def versions_of(connection: Connection, sheet_ids: Collection[int]) -> dict[int, int]:
    """The versions of some sheets."""
    query = select(SHEET.c.id, SHEET.c.version).where(SHEET.c.id.in_(sheet_ids))
    return {row.id: row.version for row in connection.execute(query)}


def states_of_jobs(
    connection: Connection, numbers: Collection[str]
) -> dict[int, tuple[int, int, int]]:
    """For some jobs, by id: their version, how many sheets they have, and the sum of those versions."""
    query = (
        select(JOB.c.id, JOB.c.version, func.count(SHEET.c.id), func.sum(SHEET.c.version))
        .outerjoin(SHEET, SHEET.c.job_id == JOB.c.id)
        .where(JOB.c.number.in_(numbers))
        .group_by(JOB.c.id)
    )
    return {n: (v, count, int(s or 0)) for n, v, count, s in connection.execute(query)}


def stamps_of_jobs(
    connection: Connection, job_ids: Collection[int]
) -> dict[int, list[tuple[str, str, Stamp]]]:
    """Kind, type of part and state of every sheet of some jobs, oldest first."""
    columns = [SHEET.c[n] for n in ("job_id", "kind", "about", *Stamp._fields)]
    made: dict[int, list[tuple[str, str, Stamp]]] = {}
    query = select(*columns).where(SHEET.c.job_id.in_(job_ids)).order_by(SHEET.c.id)
    for job_id, kind, about, *stamp in connection.execute(query):
        made.setdefault(job_id, []).append((kind, about, Stamp(*stamp)))
    return made


def sheets_by_id(connection: Connection, sheet_ids: Collection[int]) -> list[WholeSheet]:
    """Those sheets, oldest first."""
    return _whole_sheets(connection, SHEET.c.id.in_(sheet_ids))


def _whole_sheets(connection: Connection, which: ColumnElement[bool]) -> list[WholeSheet]:
    # Put in order here: the database sorts rows of long texts in a file, which a full disk has no room for.
    heads = sorted(connection.execute(_HEAD.where(which)).all(), key=lambda row: row.id)
    vehicles = {row.vehicle_id for row in heads}
    injectors: dict[int, list[InjectorRecord]] = {}
    rows = connection.execute(
        select(INJECTOR).where(INJECTOR.c.vehicle_id.in_(vehicles)).order_by(INJECTOR.c.position)
    )
    for one in (InjectorRecord(*row) for row in rows):
        injectors.setdefault(one.vehicle_id, []).append(one)
    readings: dict[int, list[ReadingRecord]] = {}
    rows = connection.execute(
        select(*(READING.c[f] for f in ReadingRecord.__slots__)).where(
            READING.c.sheet_id.in_([row.id for row in heads]), READING.c.live == 1
        )
    )
    for reading in sorted((ReadingRecord(*row) for row in rows), key=lambda one: one.sequence):
        readings.setdefault(reading.sheet_id, []).append(reading)
    return [
        _whole(row, injectors.get(row.vehicle_id, []), tuple(readings.get(row.id, [])))
        for row in heads
    ]


def inserted(connection: Connection, table: Table, values: Mapping[str, Any]) -> int:
    """Insert one row; the id the database gave it."""
    key = connection.execute(insert(table).values(**values)).inserted_primary_key
    return int(key[0]) if key else 0


def about(kind: str, conditions: Mapping[str, Any]) -> str:
    """The type of part that a sheet is about, in small letters; empty where its kind learns nothing by it."""
    lessons = FILE_KINDS[kind].lessons
    return lessons.name_of(conditions).strip().lower() if lessons else ""


def fill_about(connection: Connection) -> None:
    """Say anew of every sheet which type of part it is about."""
    learning = [code for code, kind in FILE_KINDS.items() if kind.lessons is not None]
    query = select(SHEET.c.id, SHEET.c.kind, SHEET.c.conditions).where(SHEET.c.kind.in_(learning))
    for sheet_id, kind, conditions in connection.execute(query).all():
        part = {"about": about(kind, conditions)}
        connection.execute(update(SHEET).where(SHEET.c.id == sheet_id).values(**part))


def add_sheet(connection: Connection, values: Mapping[str, Any]) -> int:
    """Store a sheet's head; its new id."""
    changes.note(connection, jobs=(values["job_id"],))
    part = about(values["kind"], values["conditions"])
    return inserted(connection, SHEET, {**values, "about": part})


def sheet_by_request(connection: Connection, request_id: str) -> int | None:
    """The sheet that a browser's request made already."""
    return connection.scalar(select(SHEET.c.id).where(SHEET.c.request_id == request_id))


def change_sheet(connection: Connection, sheet_id: int, values: Mapping[str, Any]) -> None:
    """Change a sheet's head and count its version up."""
    if "conditions" in values:
        kind = connection.execute(select(SHEET.c.kind).where(SHEET.c.id == sheet_id)).scalar_one()
        values = {**values, "about": about(kind, values["conditions"])}
    connection.execute(
        update(SHEET).where(SHEET.c.id == sheet_id).values(version=SHEET.c.version + 1, **values)
    )
    changes.note(connection, sheets=(sheet_id,))


_TOUCH = (
    update(SHEET).where(SHEET.c.id == bindparam("sheet_id")).values(version=SHEET.c.version + 1)
)


def put_codes(connection: Connection, job_id: int, codes: Sequence[str]) -> None:
    """Let the job and its walk-rounds that note codes have the same ones."""
    with words.followed(connection, job_id=job_id):
        values = {"codes": list(codes), "version": JOB.c.version + 1}
        connection.execute(update(JOB).where(JOB.c.id == job_id).values(values))
    noted = func.json_exists(SHEET.c.conditions, "$.codes") == 1
    query = select(SHEET.c.id, SHEET.c.conditions).where(SHEET.c.job_id == job_id, noted)
    for sheet_id, kept in connection.execute(query).all():
        if list(kept["codes"]) != list(codes):
            change_sheet(connection, sheet_id, {"conditions": {**kept, "codes": list(codes)}})


def hold_job_of(connection: Connection, sheet_id: int) -> None:
    """Hold the job of a sheet until the transaction ends: who changes both holds it first."""
    mine = select(SHEET.c.job_id).where(SHEET.c.id == sheet_id).scalar_subquery()
    connection.execute(select(JOB.c.id).where(JOB.c.id == mine).with_for_update())


def touch_sheet(connection: Connection, sheet_id: int) -> None:
    """Count a sheet's version up: something on it changed."""
    connection.execute(_TOUCH, {"sheet_id": sheet_id})
    changes.note(connection, sheets=(sheet_id,))


def touch_sheets_of(connection: Connection, job_id: int) -> None:
    """Count the version of every sheet of a job up: what holds for all of them changed."""
    connection.execute(
        update(SHEET).where(SHEET.c.job_id == job_id).values(version=SHEET.c.version + 1)
    )
    changes.note(connection, jobs=(job_id,))


def rename_suspects(connection: Connection, vehicle_id: int, renamed: Mapping[str, str]) -> None:
    """Let the rules of a vehicle's sheets that leave a suspect out follow its new label."""
    if not renamed:
        return
    query = select(SHEET.c.id, SHEET.c.rule_limits).where(SHEET.c.vehicle_id == vehicle_id)
    for sheet_id, limits in connection.execute(query).all():
        if (new := renamed.get((limits or {}).get("suspect", ""))) is not None:
            values = {"rule_limits": {**limits, "suspect": new}}
            connection.execute(update(SHEET).where(SHEET.c.id == sheet_id).values(**values))


def ever_noted(connection: Connection, sheet_id: int) -> bool:
    """Whether a sheet ever had a reading or a trace, what was taken back included."""
    readings = select(READING.c.id).where(READING.c.sheet_id == sheet_id)
    traces = select(TRACE.c.id).where(TRACE.c.sheet_id == sheet_id)
    return any(connection.execute(q.limit(1)).first() for q in (readings, traces))


def drop_sheet(connection: Connection, sheet_id: int) -> None:
    """Take an empty sheet away."""
    connection.execute(delete(SHEET).where(SHEET.c.id == sheet_id))


def reading_by_id(connection: Connection, reading_id: str) -> ReadingRecord | None:
    """One reading, taken back or not."""
    query = select(*(READING.c[f] for f in ReadingRecord.__slots__))
    row = connection.execute(query.where(READING.c.id == reading_id)).first()
    return None if row is None else ReadingRecord(*row)


def add_readings(connection: Connection, values: Sequence[Mapping[str, Any]]) -> None:
    """Store readings; many of them in pieces, each within what one statement may hold."""
    for start in range(0, len(values), _IN_A_PIECE):
        connection.execute(insert(READING), [dict(v) for v in values[start : start + _IN_A_PIECE]])


def set_live(connection: Connection, reading_id: str, *, live: bool) -> None:
    """Take a reading back, or put it in force again."""
    connection.execute(
        update(READING).where(READING.c.id == reading_id).values(live=1 if live else None)
    )
