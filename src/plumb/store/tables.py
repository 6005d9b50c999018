"""The tables.  Constraints, not good manners, keep nonsense out.

A reading can only name an injector of the vehicle its sheet's job is about: ``vehicle_id`` runs
through job, sheet and reading, and composite foreign keys tie the three together.  A reading that
was taken back stays, with ``live`` empty; one live reading per injector and pass.
"""

from datetime import datetime
from typing import Any, ClassVar, Final

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    ForeignKey,
    ForeignKeyConstraint,
    Index,
    Integer,
    MetaData,
    String,
    UniqueConstraint,
    false,
)
from sqlalchemy.dialects.mysql import DATETIME, DOUBLE, LONGBLOB, LONGTEXT, TINYINT
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from plumb.core.measure.quantities import UNITS
from plumb.core.procedures import BY_CODE
from plumb.jobfile.kinds import FILE_KINDS
from plumb.store.columns import ExactJson

FUEL_SYSTEMS = ("port", "throttle_body", "direct", "common_rail", "mechanical_diesel")
SHELVES = ("window", "rule", "layout", "price", "box")
SOUNDS = ("clicks", "buzzes", "none", "chatters", "weak", "silent")
SEATS = ("dry", "damp", "wet")

_NAMES = {
    "ix": "ix_%(table_name)s_%(column_0_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(referred_table_name)s_%(column_0_name)s",
    "pk": "pk_%(table_name)s",
}


def one_of(column: str, words: tuple[str, ...]) -> str:
    """A constraint: the column holds one of these words."""
    return f"{column} IN ({', '.join(repr(w) for w in words)})"


_WITHOUT_GAUGE: Final = " OR ".join(
    f"kind = '{code}'"
    for code, kind in FILE_KINDS.items()
    if "unit" in kind.model.model_fields and "gauge" not in kind.model.model_fields
)
"""Sheets with a unit whose figures no gauge showed: they come as a trace."""


class Base(DeclarativeBase):
    """Common ground of the tables; a long typed figure is kept as text, see ``Digits``."""

    metadata = MetaData(naming_convention=_NAMES)
    type_annotation_map: ClassVar = {
        datetime: DATETIME(fsp=6),
        float: DOUBLE(asdecimal=False),
        dict[str, Any]: ExactJson,
    }


Digits = String(40)
"""A figure exactly as it was typed."""


def Named(length: int) -> String:  # noqa: N802  stands where a type stands
    """A name that is itself only when every letter is the same, accents and case too."""
    return String(length, collation="utf8mb4_bin")


class VehicleRow(Base):
    """A vehicle of the shop; its injectors hang on it."""

    __tablename__ = "vehicle"
    __table_args__ = (
        CheckConstraint(one_of("fuel_system", FUEL_SYSTEMS), name="fuel_system"),
        CheckConstraint("name <> ''", name="named"),
        CheckConstraint("cylinders BETWEEN 0 AND 16", name="cylinders"),
        CheckConstraint("distance_unit IN ('km', 'mi', 'h')", name="distance_unit"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120), index=True)
    registration: Mapped[str] = mapped_column(String(40), default="", index=True)
    fuel_system: Mapped[str] = mapped_column(String(20))
    extras: Mapped[dict[str, Any] | None] = mapped_column(ExactJson)
    distance_unit: Mapped[str] = mapped_column(String(2), default="km")
    cylinders: Mapped[int] = mapped_column(default=0)
    firing_order: Mapped[list[int] | None] = mapped_column(ExactJson)
    boosted: Mapped[bool] = mapped_column(default=False, server_default=false())


class InjectorRow(Base):
    """One injector: cylinder (nought: all of them), bank, feed, its place in the reach order.

    Those of another ``set_name`` sit on a rail of their own; a ``retired`` one is off the engine.
    """

    __tablename__ = "injector"
    __table_args__ = (
        UniqueConstraint("vehicle_id", "label"),
        UniqueConstraint("vehicle_id", "position"),
        UniqueConstraint("vehicle_id", "id"),
        CheckConstraint("cylinder BETWEEN 0 AND 16", name="cylinder"),
        CheckConstraint("label <> ''", name="labelled"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    vehicle_id: Mapped[int] = mapped_column(ForeignKey("vehicle.id", ondelete="CASCADE"))
    label: Mapped[str] = mapped_column(Named(12))
    cylinder: Mapped[int]
    bank: Mapped[str] = mapped_column(String(12), default="")
    feed: Mapped[str] = mapped_column(String(24), default="")
    position: Mapped[int]
    listed: Mapped[int]
    extras: Mapped[dict[str, Any] | None] = mapped_column(ExactJson)
    set_name: Mapped[str] = mapped_column(String(12), default="")
    retired: Mapped[bool] = mapped_column(default=False)


class GaugeRow(Base):
    """A gauge on the shelf: unit and smallest step; sheets copy them, so they may change.

    ``address`` and ``command`` are of the shop, not of a sheet: where it is asked, and what.
    """

    __tablename__ = "gauge"
    __table_args__ = (
        UniqueConstraint("name"),
        CheckConstraint(one_of("unit", UNITS), name="unit"),
        CheckConstraint("step > 0", name="step"),
        CheckConstraint("name <> ''", name="named"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60))
    unit: Mapped[str] = mapped_column(String(12))
    step_typed: Mapped[str] = mapped_column(Digits)
    step: Mapped[float]
    extras: Mapped[dict[str, Any] | None] = mapped_column(ExactJson)
    address: Mapped[str] = mapped_column(String(120), default="")
    command: Mapped[str] = mapped_column(String(60), default="")


class ShelfRow(Base):
    """A window, a rule of the shop, a layout of injectors, prices, or a burst box; who uses one copies it."""

    __tablename__ = "shelf"
    __table_args__ = (
        UniqueConstraint("what", "name"),
        CheckConstraint(one_of("what", SHELVES), name="what"),
        CheckConstraint("name <> ''", name="named"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    what: Mapped[str] = mapped_column(String(12))
    name: Mapped[str] = mapped_column(String(80))
    kind: Mapped[str] = mapped_column(String(30), default="")
    unit: Mapped[str] = mapped_column(String(12), default="")
    body: Mapped[dict[str, Any]] = mapped_column(ExactJson)


class JobRow(Base):
    """One visit of one vehicle."""

    __tablename__ = "job"
    __table_args__ = (
        UniqueConstraint("number"),
        UniqueConstraint("id", "vehicle_id"),
        UniqueConstraint("request_id"),
        CheckConstraint("number <> ''", name="numbered"),
        Index("ix_job_closed_opened", "closed_at", "opened_at"),
        Index("ix_job_opened", "opened_at"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    number: Mapped[str] = mapped_column(String(24))
    vehicle_id: Mapped[int] = mapped_column(ForeignKey("vehicle.id", ondelete="RESTRICT"))
    opened_at: Mapped[datetime]
    opened_typed: Mapped[str] = mapped_column(String(40))
    closed_at: Mapped[datetime | None]
    complaint: Mapped[str] = mapped_column(String(500), default="")
    codes: Mapped[list[str]] = mapped_column(ExactJson)
    version: Mapped[int] = mapped_column(default=1)
    distance_typed: Mapped[str | None] = mapped_column(Digits)
    set_aside: Mapped[list[dict[str, Any]] | None] = mapped_column(ExactJson)
    request_id: Mapped[str | None] = mapped_column(String(36))
    extras: Mapped[dict[str, Any] | None] = mapped_column(ExactJson)
    prices: Mapped[dict[str, Any] | None] = mapped_column(ExactJson)
    dated_because: Mapped[str | None] = mapped_column(String(200))
    ordered: Mapped[dict[str, Any] | None] = mapped_column(ExactJson)
    accepted: Mapped[list[dict[str, Any]] | None] = mapped_column(ExactJson)


class FoundRow(Base):
    """A word by which a job or a vehicle is found, see ``words.py``; it can be made anew at any time."""

    __tablename__ = "found_by"
    word: Mapped[str] = mapped_column(Named(10), primary_key=True)
    place: Mapped[int] = mapped_column(TINYINT(), primary_key=True, autoincrement=False)
    at: Mapped[datetime] = mapped_column(primary_key=True)
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)


class CounterRow(Base):
    """The last number that the shop itself gave, by what it counts."""

    __tablename__ = "counter"
    name: Mapped[str] = mapped_column(String(24), primary_key=True)
    value: Mapped[int] = mapped_column(BigInteger)


class SaidRow(Base):
    """What a job says on Today, and of which state of it; it can be worked out anew at any time."""

    __tablename__ = "said"
    job_id: Mapped[int] = mapped_column(
        ForeignKey("job.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    stamp: Mapped[str] = mapped_column(String(64))
    line: Mapped[str] = mapped_column(LONGTEXT)


class SheetRow(Base):
    """One procedure done once on one job: conditions, gauge as it was then, rule, version.

    ``about`` is the type of part in small letters where sheets of the kind learn from each other.
    """

    __tablename__ = "sheet"
    __table_args__ = (
        UniqueConstraint("job_id", "key"),
        UniqueConstraint("id", "vehicle_id"),
        UniqueConstraint("request_id"),
        ForeignKeyConstraint(
            ["job_id", "vehicle_id"], ["job.id", "job.vehicle_id"], ondelete="CASCADE"
        ),
        CheckConstraint(one_of("kind", tuple(BY_CODE)), name="kind"),
        CheckConstraint(one_of("unit", ("", *UNITS)), name="unit"),
        CheckConstraint(
            f"gauge_step > 0 OR (gauge_step = 0 AND (unit = '' OR {_WITHOUT_GAUGE}))",
            name="step",
        ),
        CheckConstraint("version >= 1", name="version"),
        Index("ix_sheet_kind", "kind"),
        Index("ix_sheet_about", "about", "kind"),
        Index("ix_sheet_vehicle", "vehicle_id", "kind"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int]
    vehicle_id: Mapped[int]
    key: Mapped[str] = mapped_column(Named(24))
    kind: Mapped[str] = mapped_column(String(30))
    version: Mapped[int] = mapped_column(default=1)
    taken_at: Mapped[datetime]
    taken_typed: Mapped[str] = mapped_column(String(40))
    unit: Mapped[str] = mapped_column(String(12))
    gauge_name: Mapped[str] = mapped_column(String(60), default="")
    gauge_step_typed: Mapped[str] = mapped_column(Digits)
    gauge_step: Mapped[float]
    rule_name: Mapped[str] = mapped_column(String(30))
    rule_limits: Mapped[dict[str, Any]] = mapped_column(ExactJson)
    conditions: Mapped[dict[str, Any]] = mapped_column(ExactJson)
    request_id: Mapped[str | None] = mapped_column(String(36))
    extras: Mapped[dict[str, Any] | None] = mapped_column(ExactJson)
    about: Mapped[str] = mapped_column(Named(80), default="")


class ReadingRow(Base):
    """One reading, as typed and in the core's unit; ``id`` is made by the browser.

    It belongs to an injector, or to a ``slot`` of the sheet: a state of the engine, a moment of the
    hold, a step of the isolation board.  ``shape`` says which of the columns are filled.
    """

    __tablename__ = "reading"
    __table_args__ = (
        UniqueConstraint("sheet_id", "injector_id", "number", "live"),
        UniqueConstraint("sheet_id", "slot", "number", "live"),
        ForeignKeyConstraint(
            ["sheet_id", "vehicle_id"], ["sheet.id", "sheet.vehicle_id"], ondelete="CASCADE"
        ),
        ForeignKeyConstraint(
            ["vehicle_id", "injector_id"],
            ["injector.vehicle_id", "injector.id"],
            ondelete="RESTRICT",
        ),
        CheckConstraint("number BETWEEN 1 AND 99", name="number"),
        CheckConstraint("first_kpa >= 0 AND first_kpa <= 400000", name="first"),
        CheckConstraint("second_kpa >= 0 AND second_kpa <= 400000", name="second"),
        CheckConstraint(
            "(shape = 'burst' AND second_kpa IS NOT NULL AND first_kpa IS NOT NULL"
            " AND (mark IS NULL OR mark = 'read_late'))"
            " OR (shape = 'burst' AND second_kpa IS NULL"
            " AND mark IS NOT NULL AND mark IN ('none', 'not_read'))"
            " OR (shape IN ('value', 'point') AND value IS NOT NULL"
            " AND (mark IS NULL OR mark = 'read_late'))"
            " OR (shape = 'value' AND value IS NULL"
            " AND mark IS NOT NULL AND mark IN ('none', 'not_read', 'over'))"
            " OR (shape = 'word' AND word IS NOT NULL AND mark IS NULL)",
            name="figure_or_mark",
        ),
        CheckConstraint("(injector_id IS NULL) <> (slot IS NULL)", name="one_place"),
        CheckConstraint("shape <> 'point' OR at_s IS NOT NULL", name="point_has_a_time"),
        CheckConstraint("value >= -1000", name="value"),
        CheckConstraint("at_s >= 0", name="at"),
        CheckConstraint("(value IS NULL) = (value_typed IS NULL)", name="value_typed"),
        CheckConstraint("(first_kpa IS NULL) = (first_typed IS NULL)", name="first_typed"),
        CheckConstraint("(second_kpa IS NULL) = (second_typed IS NULL)", name="second_typed"),
        CheckConstraint(one_of("sound", SOUNDS), name="sound"),
        CheckConstraint(one_of("seat", SEATS), name="seat"),
        CheckConstraint("live IS NULL OR live = 1", name="live"),
    )
    id: Mapped[str] = mapped_column(String(36), primary_key=True)
    sheet_id: Mapped[int]
    vehicle_id: Mapped[int]
    injector_id: Mapped[int | None]
    slot: Mapped[str | None] = mapped_column(String(40))
    shape: Mapped[str] = mapped_column(String(8), default="burst")
    number: Mapped[int]
    first_typed: Mapped[str | None] = mapped_column(Digits)
    second_typed: Mapped[str | None] = mapped_column(Digits)
    unit: Mapped[str] = mapped_column(String(12))
    first_kpa: Mapped[float | None]
    second_kpa: Mapped[float | None]
    value_typed: Mapped[str | None] = mapped_column(Digits)
    value: Mapped[float | None]
    at_typed: Mapped[str | None] = mapped_column(Digits)
    at_s: Mapped[float | None]
    word: Mapped[str | None] = mapped_column(String(16))
    spray: Mapped[str | None] = mapped_column(String(16))
    mark: Mapped[str | None] = mapped_column(String(12))
    sound: Mapped[str | None] = mapped_column(String(12))
    fires_at_typed: Mapped[str | None] = mapped_column(Digits)
    seat: Mapped[str | None] = mapped_column(String(12))
    shim_typed: Mapped[str | None] = mapped_column(Digits)
    note: Mapped[str] = mapped_column(String(500), default="")
    taken_at: Mapped[datetime]
    live: Mapped[int | None] = mapped_column(TINYINT(), default=1)
    replaces: Mapped[str | None] = mapped_column(String(36))
    sequence: Mapped[int] = mapped_column(Integer)
    extras: Mapped[dict[str, Any] | None] = mapped_column(ExactJson)


class TraceRow(Base):
    """A trace that figures were taken from; ``body`` is what was found in it and how it is drawn.

    Its text as it came lies in ``trace_part``, packed.
    """

    __tablename__ = "trace"
    __table_args__ = (
        UniqueConstraint("request_id"),
        CheckConstraint("samples >= 0", name="samples"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    sheet_id: Mapped[int] = mapped_column(ForeignKey("sheet.id", ondelete="CASCADE"))
    request_id: Mapped[str] = mapped_column(String(36))
    name: Mapped[str] = mapped_column(String(120))
    samples: Mapped[int]
    taken_at: Mapped[datetime]
    body: Mapped[dict[str, Any]] = mapped_column(ExactJson)


class TracePartRow(Base):
    """One packed piece of a trace's text."""

    __tablename__ = "trace_part"
    trace_id: Mapped[int] = mapped_column(
        ForeignKey("trace.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    data: Mapped[bytes] = mapped_column(LONGBLOB)


class ConfirmedCause(Base):
    """What a repair has shown to be the cause, on a closed job; it counts into how common that is.

    ``place`` is the injector or the feed, empty where it is the engine's.
    """

    __tablename__ = "confirmed_cause"
    __table_args__ = (
        UniqueConstraint("job_id", "fault", "place"),
        ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        CheckConstraint("fault <> ''", name="named"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int]
    fault: Mapped[str] = mapped_column(String(30))
    place: Mapped[str] = mapped_column(String(24), default="")


class Preference(Base):
    """What the whole shop has chosen, by name."""

    __tablename__ = "preference"
    name: Mapped[str] = mapped_column(String(40), primary_key=True)
    value: Mapped[str] = mapped_column(String(200))
