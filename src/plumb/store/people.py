"""Queries for people, tablets, sign-ins, codes and attempts."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Final, cast

from sqlalchemy import Connection, Table, func, insert, or_, select, update
from sqlalchemy.dialects.mysql import insert as mysql_insert

from plumb.store.tables_people import AttemptRow, CodeRow, DeviceRow, PersonRow, SignInRow

PERSON = cast("Table", PersonRow.__table__)
DEVICE = cast("Table", DeviceRow.__table__)
SIGN_IN = cast("Table", SignInRow.__table__)
CODE = cast("Table", CodeRow.__table__)
ATTEMPT = cast("Table", AttemptRow.__table__)


@dataclass(frozen=True, slots=True)
class PersonRecord:
    """A person; the hashes are for the eyes of the one piece that compares them."""

    id: int
    name: str
    role: str
    active: bool
    made_at: datetime
    password_hash: str | None
    pin_hash: str | None


@dataclass(frozen=True, slots=True)
class DeviceRecord:
    """A paired tablet."""

    id: int
    name: str
    paired_at: datetime
    paired_by: str
    last_seen: datetime
    ended_at: datetime | None


@dataclass(frozen=True, slots=True)
class SignInRecord:
    """One time that somebody was signed in."""

    id: int
    person_id: int
    device_id: int | None
    where_from: str
    begun_at: datetime
    last_seen: datetime
    ended_at: datetime | None


@dataclass(frozen=True, slots=True)
class CodeRecord:
    """A word that works once."""

    id: int
    purpose: str
    person_id: int | None
    made_by: str
    until: datetime
    used_at: datetime | None


_PERSON: Final = [PERSON.c[n] for n in PersonRecord.__slots__]
_DEVICE: Final = [DEVICE.c[n] for n in DeviceRecord.__slots__]
_SIGN_IN: Final = [SIGN_IN.c[n] for n in SignInRecord.__slots__]
_CODE: Final = [CODE.c[n] for n in CodeRecord.__slots__]


def people(connection: Connection) -> list[PersonRecord]:
    """Everybody, by name."""
    return [PersonRecord(*r) for r in connection.execute(select(*_PERSON).order_by(PERSON.c.name))]


def person_by_id(
    connection: Connection, person_id: int, *, lock: bool = False
) -> PersonRecord | None:
    """One person; with ``lock`` held until the transaction ends."""
    query = select(*_PERSON).where(PERSON.c.id == person_id)
    row = connection.execute(query.with_for_update() if lock else query).first()
    return PersonRecord(*row) if row else None


def person_by_name(connection: Connection, name: str) -> PersonRecord | None:
    """One person, by the name however its letters are written."""
    row = connection.execute(select(*_PERSON).where(PERSON.c.name == name)).first()
    return PersonRecord(*row) if row else None


def owners(connection: Connection, *, lock: bool = False) -> list[int]:
    """Ids of the owners who are here; with ``lock`` nobody else changes them meanwhile."""
    query = select(PERSON.c.id).where(PERSON.c.role == "owner", PERSON.c.active.is_(True))
    return list(connection.execute(query.with_for_update() if lock else query).scalars())


def add_person(connection: Connection, values: Mapping[str, Any]) -> int:
    """A new person; the id."""
    key = connection.execute(insert(PERSON).values(**values)).inserted_primary_key
    return int(key[0]) if key else 0


def change_person(connection: Connection, person_id: int, values: Mapping[str, Any]) -> None:
    """Change what is known of a person."""
    connection.execute(update(PERSON).where(PERSON.c.id == person_id).values(**values))


def devices(connection: Connection) -> list[DeviceRecord]:
    """Every tablet that was ever paired, those in use first."""
    query = select(*_DEVICE).order_by(DEVICE.c.ended_at.is_not(None), DEVICE.c.paired_at.desc())
    return [DeviceRecord(*r) for r in connection.execute(query)]


def device_by_token(connection: Connection, token_hash: str) -> DeviceRecord | None:
    """The tablet in use that holds this word."""
    query = select(*_DEVICE).where(DEVICE.c.token_hash == token_hash, DEVICE.c.ended_at.is_(None))
    row = connection.execute(query).first()
    return DeviceRecord(*row) if row else None


def add_device(connection: Connection, values: Mapping[str, Any]) -> int:
    """A newly paired tablet; the id."""
    key = connection.execute(insert(DEVICE).values(**values)).inserted_primary_key
    return int(key[0]) if key else 0


def end_device(connection: Connection, device_id: int, at: datetime) -> int:
    """End a tablet, and everybody's sign-in at it; how many tablets that were."""
    end_sign_ins(connection, at, device_id=device_id)
    mine = (DEVICE.c.id == device_id, DEVICE.c.ended_at.is_(None))
    return connection.execute(update(DEVICE).where(*mine).values(ended_at=at)).rowcount


def add_sign_in(connection: Connection, values: Mapping[str, Any]) -> None:
    """Somebody is signed in."""
    connection.execute(insert(SIGN_IN).values(**values))


def signed_in(
    connection: Connection, token_hash: str, began_after: datetime, seen_after: datetime
) -> tuple[SignInRecord, PersonRecord] | None:
    """Who holds this word, unless it was ended, is too old, or was idle for too long."""
    query = (
        select(*_SIGN_IN, *_PERSON)
        .join(PERSON, PERSON.c.id == SIGN_IN.c.person_id)
        .where(
            SIGN_IN.c.token_hash == token_hash,
            SIGN_IN.c.ended_at.is_(None),
            SIGN_IN.c.begun_at > began_after,
            SIGN_IN.c.last_seen > seen_after,
            PERSON.c.active.is_(True),
        )
    )
    row = connection.execute(query).first()
    if row is None:
        return None
    parts = tuple(row)
    return SignInRecord(*parts[: len(_SIGN_IN)]), PersonRecord(*parts[len(_SIGN_IN) :])


def seen(connection: Connection, sign_in_id: int, device_id: int | None, at: datetime) -> None:
    """Note that somebody is still there."""
    connection.execute(update(SIGN_IN).where(SIGN_IN.c.id == sign_in_id).values(last_seen=at))
    if device_id is not None:
        connection.execute(update(DEVICE).where(DEVICE.c.id == device_id).values(last_seen=at))


def end_sign_ins(connection: Connection, at: datetime, *, but: int = 0, **which: Any) -> int:  # noqa: ANN401  a column's value
    """End those that are open and fit (``id``, ``token_hash``, ``person_id``, ``device_id``), ``but`` one; how many."""
    mine = [SIGN_IN.c[name] == value for name, value in which.items()]
    open_ = (SIGN_IN.c.ended_at.is_(None), SIGN_IN.c.id != but)
    return connection.execute(update(SIGN_IN).where(*open_, *mine).values(ended_at=at)).rowcount


def open_sign_ins(
    connection: Connection, began_after: datetime, seen_after: datetime
) -> list[tuple[SignInRecord, str, str]]:
    """Everybody who is signed in now, with name and tablet; the newest first."""
    query = (
        select(*_SIGN_IN, PERSON.c.name, func.coalesce(DEVICE.c.name, ""))
        .join(PERSON, PERSON.c.id == SIGN_IN.c.person_id)
        .join(DEVICE, DEVICE.c.id == SIGN_IN.c.device_id, isouter=True)
        .where(
            SIGN_IN.c.ended_at.is_(None),
            SIGN_IN.c.begun_at > began_after,
            SIGN_IN.c.last_seen > seen_after,
        )
        .order_by(SIGN_IN.c.begun_at.desc())
    )
    count = len(_SIGN_IN)
    rows = [tuple(r) for r in connection.execute(query)]
    return [(SignInRecord(*r[:count]), r[count], r[count + 1]) for r in rows]


def sign_in_by_id(connection: Connection, sign_in_id: int) -> SignInRecord | None:
    """One of them."""
    row = connection.execute(select(*_SIGN_IN).where(SIGN_IN.c.id == sign_in_id)).first()
    return SignInRecord(*row) if row else None


def add_code(connection: Connection, values: Mapping[str, Any]) -> None:
    """A new code; those of the same purpose for the same person work no longer."""
    person_id = values.get("person_id")
    same = [
        CODE.c.purpose == values["purpose"],
        CODE.c.used_at.is_(None),
        CODE.c.person_id.is_(None) if person_id is None else CODE.c.person_id == person_id,
    ]
    if values["purpose"] != "pair":
        connection.execute(CODE.delete().where(*same))
    connection.execute(insert(CODE).values(**values))


def code_by_hash(connection: Connection, code_hash: str) -> CodeRecord | None:
    """A code, locked, so that it is used once only."""
    query = select(*_CODE).where(CODE.c.code_hash == code_hash).with_for_update()
    row = connection.execute(query).first()
    return CodeRecord(*row) if row else None


def use_code(connection: Connection, code_id: int, at: datetime) -> None:
    """It has worked."""
    connection.execute(update(CODE).where(CODE.c.id == code_id).values(used_at=at))


def code_waits(connection: Connection, person_ids: Collection[int], at: datetime) -> set[int]:
    """For whom of these a code lies ready."""
    query = select(CODE.c.person_id).where(
        CODE.c.person_id.in_(person_ids), CODE.c.used_at.is_(None), CODE.c.until > at
    )
    return {int(i) for i in connection.execute(query).scalars() if i is not None}


def attempts(connection: Connection, whats: Collection[str]) -> dict[str, tuple[int, datetime]]:
    """How often each went wrong in a row, and until when nobody is asked."""
    query = select(ATTEMPT.c.what, ATTEMPT.c.fails, ATTEMPT.c.wait_until)
    rows = connection.execute(query.where(ATTEMPT.c.what.in_(whats)))
    return {r.what: (r.fails, r.wait_until) for r in rows}


def put_attempt(connection: Connection, what: str, fails: int, until: datetime) -> None:
    """Note one that went wrong."""
    put = mysql_insert(ATTEMPT).values(what=what, fails=fails, wait_until=until)
    connection.execute(put.on_duplicate_key_update(fails=fails, wait_until=until))


def forget_attempts(connection: Connection, whats: Collection[str]) -> None:
    """It went well."""
    connection.execute(ATTEMPT.delete().where(ATTEMPT.c.what.in_(whats)))


def forget_old(connection: Connection, before: datetime) -> None:
    """Codes and attempts of long ago are of no use to anybody."""
    connection.execute(CODE.delete().where(CODE.c.until < before))
    connection.execute(
        ATTEMPT.delete().where(or_(ATTEMPT.c.wait_until < before, ATTEMPT.c.fails == 0))
    )
