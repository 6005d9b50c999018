"""What the store hands out: plain records, one for each table, and a whole sheet."""

from dataclasses import dataclass, fields
from datetime import datetime
from typing import Any, NamedTuple, TypeVar

from sqlalchemy import Row, Table

from plumb.jobfile.carried import NOTHING, Carried


@dataclass(frozen=True, slots=True)
class VehicleRecord:
    """A vehicle."""

    id: int
    name: str
    registration: str
    fuel_system: str
    extras: dict[str, Any] | None
    distance_unit: str
    cylinders: int
    firing_order: list[int] | None
    boosted: bool


@dataclass(frozen=True, slots=True)
class InjectorRecord:
    """An injector; ``position`` is its place in the reach order, ``listed`` in the file.

    A ``cylinder`` of nought feeds all of them.
    """

    id: int
    vehicle_id: int
    label: str
    cylinder: int
    bank: str
    feed: str
    position: int
    listed: int
    extras: dict[str, Any] | None
    set_name: str
    retired: bool


@dataclass(frozen=True, slots=True)
class GaugeRecord:
    """A gauge on the shelf."""

    id: int
    name: str
    unit: str
    step_typed: str
    step: float
    extras: dict[str, Any] | None
    address: str
    command: str


@dataclass(frozen=True, slots=True)
class ShelfRecord:
    """A window, a rule or a layout on the shelf."""

    id: int
    what: str
    name: str
    kind: str
    unit: str
    body: dict[str, Any]


@dataclass(frozen=True, slots=True)
class JobRecord:
    """A job; ``codes`` is a list of fault codes, ``version`` counts changes of both.

    ``dated_because``: it was opened on another day than it was noted, and why; ``ordered``: which parts
    it waits for, and until when; ``accepted``: values that are not settled, and are taken as they are.
    """

    id: int
    number: str
    vehicle_id: int
    opened_at: datetime
    opened_typed: str
    closed_at: datetime | None
    complaint: str
    codes: list[str]
    version: int
    distance_typed: str | None
    set_aside: list[dict[str, Any]] | None
    request_id: str | None
    extras: dict[str, Any] | None
    prices: dict[str, Any] | None
    dated_because: str | None
    ordered: dict[str, Any] | None
    accepted: list[dict[str, Any]] | None


@dataclass(frozen=True, slots=True)
class SheetRecord:
    """A sheet's head: conditions, gauge as it was, rule, version."""

    id: int
    job_id: int
    vehicle_id: int
    key: str
    kind: str
    version: int
    taken_at: datetime
    taken_typed: str
    unit: str
    gauge_name: str
    gauge_step_typed: str
    gauge_step: float
    rule_name: str
    rule_limits: dict[str, Any]
    conditions: dict[str, Any]
    request_id: str | None
    extras: dict[str, Any] | None


@dataclass(frozen=True, slots=True)
class ReadingRecord:
    """A reading of an injector or of a slot; ``live`` is 1, or None when it was taken back."""

    id: str
    sheet_id: int
    vehicle_id: int
    injector_id: int | None
    slot: str | None
    shape: str
    number: int
    first_typed: str | None
    second_typed: str | None
    unit: str
    first_kpa: float | None
    second_kpa: float | None
    value_typed: str | None
    value: float | None
    at_typed: str | None
    at_s: float | None
    word: str | None
    spray: str | None
    mark: str | None
    sound: str | None
    fires_at_typed: str | None
    seat: str | None
    shim_typed: str | None
    note: str
    taken_at: datetime
    live: int | None
    replaces: str | None
    sequence: int
    extras: dict[str, Any] | None


class Stamp(NamedTuple):
    """What tells one state of a sheet from every other one."""

    id: int
    version: int
    taken_at: datetime


@dataclass(frozen=True, slots=True)
class WholeSheet:
    """A sheet with the injectors that are on it in reach order, and its live readings.

    Those are the vehicle's, of the sheet's set where it has one; a retired one where it was read.

    ``learnt`` is what other sheets of the shop know that this one is analysed with; ``closed``: its
    job takes nothing until it is opened again; ``starts``: the engine does, as far as anybody said;
    ``complaint`` and ``codes`` are the job's.
    ``place`` counts the sheets of its kind on the job, ``carried`` is what it takes over from them;
    ``sets`` are the names of the engine's sets of injectors.
    """

    sheet: SheetRecord
    job_number: str
    fuel_system: str
    injectors: tuple[InjectorRecord, ...]
    readings: tuple[ReadingRecord, ...]
    learnt: tuple[Any, ...] = ()
    closed: bool = False
    starts: bool = True
    complaint: str = ""
    codes: tuple[str, ...] = ()
    place: int = 1
    cylinders: int = 0
    firing_order: tuple[int, ...] = ()
    sets: tuple[str, ...] = ()
    carried: Carried = NOTHING

    @property
    def stamp(self) -> Stamp:
        """Which state of the sheet this is."""
        return Stamp(self.sheet.id, self.sheet.version, self.sheet.taken_at)


Record = TypeVar(
    "Record",
    VehicleRecord,
    InjectorRecord,
    GaugeRecord,
    ShelfRecord,
    JobRecord,
    SheetRecord,
    ReadingRecord,
)


def record(kind: type[Record], row: Row[Any], table: Table) -> Record:
    """A record from a row that selected the whole table (other columns are passed over)."""
    values = row._mapping  # noqa: SLF001  the public name for it in SQLAlchemy
    return kind(**{f.name: values[table.c[f.name]] for f in fields(kind)})
