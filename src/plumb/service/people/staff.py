"""Who belongs to the shop, in which role; who is signed in now."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import IntegrityError

from plumb.core.measure.problems import Conflict, NotThere, PlumbError, Problem
from plumb.service.people import words
from plumb.service.people.coming_in import PERSON_CODE, Known
from plumb.service.people.roles import at_least, may_not
from plumb.service.people.stay import Stay
from plumb.service.stored.parts import now, utc_text
from plumb.service.views.people import HereView, SignInView, StaffView, TileView
from plumb.store import people as store
from plumb.store.people import PersonRecord
from plumb.store.session import retried, transaction


@dataclass(frozen=True, slots=True, kw_only=True)
class PersonChange:
    """What may be changed of a person; None stays."""

    name: str | None = None
    role: str | None = None
    active: bool | None = None


@retried
def people(engine: Engine) -> list[StaffView]:
    """Everybody who ever belonged to the shop."""
    with transaction(engine) as connection:
        found = store.people(connection)
        waiting = store.code_waits(connection, [p.id for p in found], now())
        return [person_view(p, waiting) for p in found]


@retried
def here(engine: Engine, who: Known, stay: Stay) -> HereView:
    """Who is at a screen of a Plumb that people sign in to."""
    with transaction(engine) as connection:
        tiles = store.people(connection) if who.device or who.person else []
        return HereView(
            network=True,
            owner_wanted=not store.owners(connection),
            person=person_view(who.person) if who.person else None,
            device=who.device.name if who.device else "",
            people=[
                TileView(id=p.id, name=p.name, pin=p.pin_hash is not None)
                for p in tiles
                if p.active and who.device
            ],
            idle_minutes=int(stay.idle.total_seconds() // 60),
        )


def open_to_all() -> HereView:
    """Who is at a screen of a Plumb that stays on its own machine: this workshop."""
    return HereView(
        network=False, owner_wanted=False, person=None, device="", people=[], idle_minutes=0
    )


def person_view(person: PersonRecord, waiting: Collection[int] = ()) -> StaffView:
    """A person without a secret."""
    return StaffView(
        id=person.id, name=person.name, role=person.role, active=person.active,
        pin=person.pin_hash is not None, password=person.password_hash is not None,
        code=person.id in waiting,
    )  # fmt: skip


@retried
def add(engine: Engine, name: str, role: str) -> tuple[StaffView, str, datetime]:
    """Somebody new, with the code that they come in with the first time.

    Raises :class:`Conflict` when the name is taken; names of those who left are.
    """
    try:
        with transaction(engine) as connection:
            row = {"name": _named(name), "role": role, "active": True, "made_at": now()}
            person_id = store.add_person(connection, row)
            code, until = _code(connection, person_id)
            return person_view(_known(connection, person_id), {person_id}), code, until
    except IntegrityError as error:
        raise _taken(name) from error


def _named(name: str) -> str:
    if not name.strip():
        raise PlumbError(Problem(path="name", rule="a name, as it shall stand beside what they do"))
    return name.strip()


def _taken(name: str) -> Conflict:
    rule = "somebody of that name is, or was, of this shop; add what tells them apart"
    return Conflict(Problem(path="name", rule=rule, value=name, code="taken"))


def _code(connection: Connection, person_id: int) -> tuple[str, datetime]:
    code, until = words.new_code(), now() + PERSON_CODE
    row = {
        "purpose": "person", "person_id": person_id, "code_hash": words.code_hash(code), "until": until,
    }  # fmt: skip
    store.add_code(connection, row)
    return code, until


def _known(connection: Connection, person_id: int, *, lock: bool = False) -> PersonRecord:
    person = store.person_by_id(connection, person_id, lock=lock)
    if person is None:
        raise NotThere(
            Problem(path="person", rule="there is nobody like that", value=str(person_id))
        )
    return person


@retried
def new_code(engine: Engine, person_id: int) -> tuple[StaffView, str, datetime]:
    """A new code for somebody who forgot theirs, or whose first one is too old."""
    with transaction(engine) as connection:
        person = _known(connection, person_id, lock=True)
        code, until = _code(connection, person_id)
        return person_view(person, {person_id}), code, until


@retried
def change(engine: Engine, person_id: int, wanted: PersonChange) -> StaffView:
    """Another name or role, or somebody leaves or comes back; who leaves is signed out at once.

    Raises :class:`Conflict` where no owner would be left.
    """
    values = {
        name: value
        for name, value in (
            ("name", _named(wanted.name) if wanted.name is not None else None),
            ("role", wanted.role), ("active", wanted.active),
        )
        if value is not None
    }  # fmt: skip
    try:
        with transaction(engine) as connection:
            owners = store.owners(connection, lock=True)
            person = _known(connection, person_id, lock=True)
            stays = values.get("role", person.role) == "owner" and values.get(
                "active", person.active
            )
            if owners == [person_id] and not stays:
                rule = "a shop has an owner: make somebody else one first"
                raise Conflict(Problem(path="person", rule=rule, code="last_owner"))
            if values:
                store.change_person(connection, person_id, values)
            if wanted.active is False or (wanted.role is not None and wanted.role != person.role):
                store.end_sign_ins(connection, now(), person_id=person_id)
            return person_view(_known(connection, person_id))
    except IntegrityError as error:
        raise _taken(wanted.name or "") from error


@retried
def sign_ins(engine: Engine, who: Known, stay: Stay) -> list[SignInView]:
    """Who is signed in: oneself everywhere, and for an owner everybody."""
    at = now()
    with transaction(engine) as connection:
        found = store.open_sign_ins(connection, at - stay.longest, at - stay.idle)
    return [
        SignInView(
            id=s.id, person=name, device=device, where=s.where_from, begun=utc_text(s.begun_at),
            seen=utc_text(s.last_seen), mine=who.sign_in is not None and s.id == who.sign_in.id,
        )
        for s, name, device in found
        if _concerns(who, s.person_id)
    ]  # fmt: skip


def _concerns(who: Known, person_id: int) -> bool:
    return who.person is None or who.person.id == person_id or at_least(who.person.role, "owner")


@retried
def end_sign_in(engine: Engine, sign_in_id: int, who: Known) -> None:
    """End one; of others only an owner may.  Raises :class:`NotThere`, :class:`MayNot`."""
    with transaction(engine) as connection:
        found = store.sign_in_by_id(connection, sign_in_id)
        if found is None or found.ended_at is not None:
            rule = "nobody is signed in by that number"
            raise NotThere(Problem(path="sign_in", rule=rule, value=str(sign_in_id)))
        if not _concerns(who, found.person_id):
            raise may_not("owner", "to sign somebody else out")
        store.end_sign_ins(connection, now(), id=sign_in_id)
