"""The tables from the verdict on: what was chosen, done, asked afterwards, signed; parts; old figures; photos."""

from datetime import date, datetime
from typing import Any

from sqlalchemy import (
    CheckConstraint,
    ForeignKey,
    ForeignKeyConstraint,
    Index,
    String,
    UniqueConstraint,
)
from sqlalchemy.dialects.mysql import DATE, DOUBLE, LONGBLOB, LONGTEXT, TINYINT
from sqlalchemy.orm import Mapped, mapped_column

from plumb.core.mend.finish import ANSWERS
from plumb.core.mend.options import OPTIONS
from plumb.core.mend.repairs import DONE, ENGINE_ONLY
from plumb.store.columns import ExactJson
from plumb.store.tables import Base, Digits, Named, one_of

Person = String(40)


class RepairRow(Base):
    """What was done to an injector, or to the engine; one that was taken back stays, not ``live``."""

    __tablename__ = "repair"
    __table_args__ = (
        ForeignKeyConstraint(
            ["job_id", "vehicle_id"], ["job.id", "job.vehicle_id"], ondelete="CASCADE"
        ),
        ForeignKeyConstraint(
            ["vehicle_id", "injector_id"],
            ["injector.vehicle_id", "injector.id"],
            name="fk_repair_injector_injector_id",
            ondelete="RESTRICT",
        ),
        ForeignKeyConstraint(
            ["vehicle_id", "with_id"],
            ["injector.vehicle_id", "injector.id"],
            name="fk_repair_injector_with_id",
            ondelete="RESTRICT",
        ),
        CheckConstraint(one_of("done", tuple(DONE)), name="done"),
        CheckConstraint(f"(injector_id IS NULL) = (done = '{ENGINE_ONLY}')", name="whose"),
        CheckConstraint("(with_id IS NULL) = (done <> 'swapped')", name="swapped"),
        CheckConstraint("with_id IS NULL OR with_id <> injector_id", name="two"),
        CheckConstraint("live IS NULL OR live = 1", name="live"),
        Index("ix_repair_vehicle_id_at", "vehicle_id", "at"),
    )
    id: Mapped[str] = mapped_column(String(36), primary_key=True)
    job_id: Mapped[int]
    vehicle_id: Mapped[int]
    injector_id: Mapped[int | None]
    with_id: Mapped[int | None]
    done: Mapped[str] = mapped_column(String(12))
    cause: Mapped[str] = mapped_column(String(30), default="")
    at: Mapped[datetime]
    at_typed: Mapped[str] = mapped_column(String(40))
    by_whom: Mapped[str] = mapped_column(Person, default="")
    note: Mapped[str] = mapped_column(String(500), default="")
    live: Mapped[int | None] = mapped_column(TINYINT(), default=1)
    extras: Mapped[dict[str, Any] | None] = mapped_column(ExactJson)


class SightingRow(Base):
    """A cause that a person found; one that was taken back stays, not ``live``."""

    __tablename__ = "sighting"
    __table_args__ = (
        ForeignKeyConstraint(
            ["job_id", "vehicle_id"], ["job.id", "job.vehicle_id"], ondelete="CASCADE"
        ),
        ForeignKeyConstraint(
            ["vehicle_id", "injector_id"],
            ["injector.vehicle_id", "injector.id"],
            ondelete="RESTRICT",
        ),
    )
    id: Mapped[str] = mapped_column(String(36), primary_key=True)
    job_id: Mapped[int]
    vehicle_id: Mapped[int]
    injector_id: Mapped[int | None]
    fault: Mapped[str] = mapped_column(String(30))
    words: Mapped[str] = mapped_column(String(120), default="")
    how: Mapped[str] = mapped_column(String(200), default="")
    explains: Mapped[list[str]] = mapped_column(ExactJson)
    at: Mapped[datetime]
    at_typed: Mapped[str] = mapped_column(String(40))
    by_whom: Mapped[str] = mapped_column(Person, default="")
    live: Mapped[int | None] = mapped_column(TINYINT(), default=1)
    extras: Mapped[dict[str, Any] | None] = mapped_column(ExactJson)


class PartRow(Base):
    """A part with an identity of its own: put in by a repair, or (without one) there from the beginning."""

    __tablename__ = "part"
    __table_args__ = (
        ForeignKeyConstraint(
            ["vehicle_id", "injector_id"],
            ["injector.vehicle_id", "injector.id"],
            ondelete="CASCADE",
        ),
        ForeignKeyConstraint(["repair_id"], ["repair.id"], ondelete="CASCADE"),
        UniqueConstraint("repair_id"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    vehicle_id: Mapped[int]
    injector_id: Mapped[int]
    repair_id: Mapped[str | None] = mapped_column(String(36))
    make: Mapped[str] = mapped_column(String(60), default="")
    number: Mapped[str] = mapped_column(String(60), default="", index=True)
    serial: Mapped[str] = mapped_column(String(60), default="")
    mark: Mapped[str] = mapped_column(String(60), default="")
    note: Mapped[str] = mapped_column(String(200), default="")
    code: Mapped[str] = mapped_column(String(60), default="", server_default="")


class ChoiceRow(Base):
    """The way that was chosen to put it right; later ones stand beside earlier ones."""

    __tablename__ = "choice"
    __table_args__ = (
        ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        CheckConstraint(one_of("way", tuple(OPTIONS)), name="way"),
        Index("ix_choice_look_on", "look_on"),
    )
    id: Mapped[str] = mapped_column(String(36), primary_key=True)
    job_id: Mapped[int]
    way: Mapped[str] = mapped_column(String(24))
    injectors: Mapped[list[str]] = mapped_column(ExactJson)
    reason: Mapped[str] = mapped_column(String(500), default="")
    by_whom: Mapped[str] = mapped_column(Person, default="")
    at: Mapped[datetime]
    at_typed: Mapped[str] = mapped_column(String(40))
    look_on: Mapped[date | None] = mapped_column(DATE())
    look_km_typed: Mapped[str | None] = mapped_column(Digits)
    extras: Mapped[dict[str, Any] | None] = mapped_column(ExactJson)


class ThingRow(Base):
    """Something that goes with a repair: done, or set aside with a reason."""

    __tablename__ = "thing"
    __table_args__ = (
        ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        CheckConstraint("done OR reason <> ''", name="reason"),
    )
    job_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    what: Mapped[str] = mapped_column(String(24), primary_key=True)
    done: Mapped[bool]
    reason: Mapped[str] = mapped_column(String(200), default="")
    by_whom: Mapped[str] = mapped_column(Person, default="")
    at_typed: Mapped[str] = mapped_column(String(40))


class AnswerRow(Base):
    """What became of one word of the complaint."""

    __tablename__ = "answer"
    __table_args__ = (
        ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        CheckConstraint(one_of("answer", tuple(ANSWERS)), name="answer"),
    )
    job_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    word: Mapped[str] = mapped_column(String(24), primary_key=True)
    answer: Mapped[str] = mapped_column(String(12))
    by_whom: Mapped[str] = mapped_column(Person, default="")
    at_typed: Mapped[str] = mapped_column(String(40))


class SignatureRow(Base):
    """A signature under a job, with all that was decided then; a job that is opened again keeps it."""

    __tablename__ = "signature"
    __table_args__ = (
        ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        CheckConstraint("by_whom <> ''", name="by_whom"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int]
    by_whom: Mapped[str] = mapped_column(Person)
    at: Mapped[datetime]
    at_typed: Mapped[str] = mapped_column(String(40))
    reason: Mapped[str] = mapped_column(String(500), default="")
    hand: Mapped[str | None] = mapped_column(LONGTEXT)
    version: Mapped[str] = mapped_column(String(20))
    result: Mapped[str] = mapped_column(LONGTEXT)


class CuredRow(Base):
    """An injector that was cleaned on a closed job, and whether that put it right."""

    __tablename__ = "cured"
    __table_args__ = (
        UniqueConstraint("job_id", "injector_id", "found"),
        ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        ForeignKeyConstraint(["injector_id"], ["injector.id"], ondelete="CASCADE"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int]
    injector_id: Mapped[int]
    found: Mapped[str] = mapped_column(String(30))
    cured: Mapped[bool]


class ShopRow(Base):
    """The shop as its papers name it; there is one."""

    __tablename__ = "shop"
    __table_args__ = (CheckConstraint("id = 1", name="one"),)
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    name: Mapped[str] = mapped_column(String(120), default="")
    address: Mapped[str] = mapped_column(String(500), default="")
    currency: Mapped[str] = mapped_column(String(3), default="")
    logo: Mapped[bytes | None] = mapped_column(LONGBLOB)


class OldFigureRow(Base):
    """A figure from paper: what a place or a part gave on a day before Plumb measured it here."""

    __tablename__ = "old_figure"
    __table_args__ = (
        ForeignKeyConstraint(
            ["vehicle_id", "injector_id"],
            ["injector.vehicle_id", "injector.id"],
            ondelete="CASCADE",
        ),
        UniqueConstraint("vehicle_id", "injector_id", "kind", "taken_on"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    vehicle_id: Mapped[int]
    injector_id: Mapped[int]
    kind: Mapped[str] = mapped_column(String(30))
    taken_on: Mapped[date] = mapped_column(DATE())
    distance_typed: Mapped[str | None] = mapped_column(Digits)
    value_typed: Mapped[str] = mapped_column(Digits)
    value: Mapped[float] = mapped_column(DOUBLE(asdecimal=False))
    unit: Mapped[str] = mapped_column(String(12))
    source: Mapped[str] = mapped_column(String(120), default="")


class PhotoRow(Base):
    """A photo of a job, upright, small enough, without place and device; ``small`` is its print."""

    __tablename__ = "photo"
    __table_args__ = (
        ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        Index("ix_photo_job_id_taken_at", "job_id", "taken_at"),
    )
    id: Mapped[str] = mapped_column(String(36), primary_key=True)
    job_id: Mapped[int]
    sheet_id: Mapped[int | None] = mapped_column(ForeignKey("sheet.id", ondelete="SET NULL"))
    place: Mapped[str] = mapped_column(Named(40), default="")
    note: Mapped[str] = mapped_column(String(200), default="")
    in_report: Mapped[bool] = mapped_column(default=False)
    by_whom: Mapped[str] = mapped_column(Person, default="")
    taken_at: Mapped[datetime]
    taken_typed: Mapped[str] = mapped_column(String(40))
    width: Mapped[int]
    height: Mapped[int]
    data: Mapped[bytes] = mapped_column(LONGBLOB)
    small: Mapped[bytes] = mapped_column(LONGBLOB)
