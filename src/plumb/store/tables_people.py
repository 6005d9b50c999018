"""The tables of people: who they are, their tablets, when they signed in, and what was changed by whom.

Of passwords, PINs, cookies and codes only hashes are here.
"""

from datetime import datetime
from typing import Final

from sqlalchemy import CheckConstraint, ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.dialects.mysql import LONGTEXT
from sqlalchemy.orm import Mapped, mapped_column

from plumb.store.tables import Base, Named, one_of

ROLES: Final = ("reader", "technician", "lead", "owner")
"""Each may do what those before it may."""
PURPOSES: Final = ("owner", "pair", "person")
DOINGS: Final = ("made", "changed", "taken away")


class PersonRow(Base):
    """Somebody of the shop; who has left is not ``active`` and keeps what carries the name."""

    __tablename__ = "person"
    __table_args__ = (
        UniqueConstraint("name"),
        CheckConstraint("name <> ''", name="named"),
        CheckConstraint(one_of("role", ROLES), name="role"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(40))
    role: Mapped[str] = mapped_column(String(12))
    active: Mapped[bool] = mapped_column(default=True)
    made_at: Mapped[datetime]
    password_hash: Mapped[str | None] = mapped_column(String(200))
    pin_hash: Mapped[str | None] = mapped_column(String(200))


class DeviceRow(Base):
    """A tablet of the shop, paired once; it stays until somebody ends it."""

    __tablename__ = "device"
    __table_args__ = (
        UniqueConstraint("token_hash"),
        CheckConstraint("name <> ''", name="named"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60))
    token_hash: Mapped[str] = mapped_column(Named(64))
    paired_at: Mapped[datetime]
    paired_by: Mapped[str] = mapped_column(String(40))
    last_seen: Mapped[datetime]
    ended_at: Mapped[datetime | None]


class SignInRow(Base):
    """One time that somebody was signed in, at a paired tablet or elsewhere."""

    __tablename__ = "sign_in"
    __table_args__ = (UniqueConstraint("token_hash"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    token_hash: Mapped[str] = mapped_column(Named(64))
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="RESTRICT"))
    device_id: Mapped[int | None] = mapped_column(ForeignKey("device.id", ondelete="RESTRICT"))
    where_from: Mapped[str] = mapped_column(String(120), default="")
    begun_at: Mapped[datetime]
    last_seen: Mapped[datetime]
    ended_at: Mapped[datetime | None]


class CodeRow(Base):
    """A word that works once: to become the owner, to pair a tablet, to choose a first PIN."""

    __tablename__ = "code"
    __table_args__ = (
        UniqueConstraint("code_hash"),
        CheckConstraint(one_of("purpose", PURPOSES), name="purpose"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    code_hash: Mapped[str] = mapped_column(Named(64))
    purpose: Mapped[str] = mapped_column(String(8))
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"))
    made_by: Mapped[str] = mapped_column(String(40), default="")
    until: Mapped[datetime]
    used_at: Mapped[datetime | None]


class AttemptRow(Base):
    """How often somebody was not let in since it last went well, and until when nobody is asked."""

    __tablename__ = "attempt"
    what: Mapped[str] = mapped_column(Named(80), primary_key=True)
    fails: Mapped[int]
    wait_until: Mapped[datetime]


class ChangeRow(Base):
    """One change of anything, written by the database itself (``journal.py``); it is never changed.

    ``was`` and ``became`` are rows as JSON; ``seq`` and ``hash`` seal it, each over the one before.
    """

    __tablename__ = "change_entry"
    __table_args__ = (
        UniqueConstraint("seq"),
        CheckConstraint(one_of("doing", DOINGS), name="doing"),
        CheckConstraint("(seq IS NULL) = (hash IS NULL)", name="sealed"),
        Index("ix_change_entry_job", "job_id", "id"),
        Index("ix_change_entry_sheet", "sheet_id", "id"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    by_id: Mapped[int | None]
    by_name: Mapped[str] = mapped_column(String(40), index=True)
    device: Mapped[str] = mapped_column(String(60))
    what: Mapped[str] = mapped_column(String(24), index=True)
    doing: Mapped[str] = mapped_column(String(12))
    job_id: Mapped[int | None]
    sheet_id: Mapped[int | None]
    row_key: Mapped[str] = mapped_column(String(120))
    was: Mapped[str | None] = mapped_column(LONGTEXT)
    became: Mapped[str | None] = mapped_column(LONGTEXT)
    seq: Mapped[int | None]
    hash: Mapped[str | None] = mapped_column(Named(64))


class ChangeHeadRow(Base):
    """The last sealed entry: how many there are, and its hash; so that none can be cut off the end."""

    __tablename__ = "change_head"
    __table_args__ = (CheckConstraint("id = 1", name="one"),)
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    seq: Mapped[int]
    hash: Mapped[str] = mapped_column(Named(64))
