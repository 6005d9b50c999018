"""Coming in and going: by password, by PIN at a paired tablet, with a code the first time."""

import threading
from dataclasses import dataclass
from datetime import timedelta
from typing import Final

from sqlalchemy import Connection, Engine

from plumb.core.measure.problems import PlumbError, Problem
from plumb.service.people import limits, words
from plumb.service.people.refusals import NotSignedIn, not_in
from plumb.service.people.stay import Stay
from plumb.service.stored.parts import now
from plumb.store import people as store
from plumb.store.actor import Actor, acting
from plumb.store.people import DeviceRecord, PersonRecord, SignInRecord
from plumb.store.session import act_as, retried, transaction

SEEN_EVERY: Final = timedelta(seconds=60)
"""Not more often is it noted that somebody is still there."""
OWNER_CODE: Final = timedelta(hours=24)
PERSON_CODE: Final = timedelta(days=7)
_comparing = threading.BoundedSemaphore(2)
"""A password takes 64 MB while it is compared: a crowd at the door waits in line."""


@dataclass(frozen=True, slots=True)
class Known:
    """Who asks: a person who is signed in, or nobody yet; at a paired tablet, or elsewhere."""

    person: PersonRecord | None = None
    device: DeviceRecord | None = None
    sign_in: SignInRecord | None = None

    def actor(self) -> Actor:
        """Under which name it is written down."""
        person = self.person
        return Actor(
            person.id if person else None,
            person.name if person else "",
            self.device.name if self.device else "",
            person.role if person else "",
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """Where somebody wants to come in: the tablet's word, if it is one, and the network's address."""

    device_token: str = ""
    address: str = ""
    looks_like: str = ""


@retried
def known(engine: Engine, token: str, device_token: str, stay: Stay) -> Known:
    """Who asks, by their cookies; that they are still there is noted now and then."""
    at = now()
    with transaction(engine) as connection:
        device = _device(connection, device_token)
        found = None
        if token:
            hashed = words.token_hash(token)
            found = store.signed_in(connection, hashed, at - stay.longest, at - stay.idle)
        if found is None:
            return Known(device=device)
        sign_in, person = found
        if sign_in.device_id is not None and (device is None or device.id != sign_in.device_id):
            # What was begun at a tablet is of no use anywhere else.
            return Known(device=device)
        if at - sign_in.last_seen > SEEN_EVERY:
            store.seen(connection, sign_in.id, sign_in.device_id, at)
        return Known(person, device, sign_in)


def _device(connection: Connection, token: str) -> DeviceRecord | None:
    return store.device_by_token(connection, words.token_hash(token)) if token else None


@retried
def by_password(engine: Engine, name: str, password: str, place: Place) -> str:
    """The word for the cookie; :class:`NotSignedIn` that tells nothing of what was wrong."""
    with transaction(engine) as connection:
        person = store.person_by_name(connection, name.strip())
        # Counted by the name as it was typed: whether somebody is called so is not told by it.
        typed = words.token_hash(name.strip().casefold())[:16]
        counted = limits.keys(f"name {typed}", _at(place))
        limits.may_try(connection, counted)
    hashed = person.password_hash if person and person.active else None
    right = _compared(password, hashed)
    return _begin(engine, person if right else None, place, counted, _NO_PASSWORD)


@retried
def by_pin(engine: Engine, person_id: int, pin: str, place: Place) -> str:
    """The same by PIN, at a paired tablet only."""
    with transaction(engine) as connection:
        if _device(connection, place.device_token) is None:
            rule = "a PIN is for tablets that were paired"
            raise not_in(rule, "pin", "not_paired")
        person = store.person_by_id(connection, person_id)
        counted = limits.keys(f"person {person_id}", _at(place))
        limits.may_try(connection, counted)
    hashed = person.pin_hash if person and person.active else None
    right = _compared(pin, hashed)
    return _begin(engine, person if right else None, place, counted, _NO_PIN)


def _compared(word: str, hashed: str | None) -> bool:
    with _comparing:
        return words.fits(word[: words.MOST_PASSWORD], hashed)


def _at(place: Place) -> str:
    """What a place is counted by: a tablet by its word, anything else by its address."""
    return words.token_hash(place.device_token)[:16] if place.device_token else place.address


_NO_PASSWORD: Final = ("name and password do not go together", "password", "wrong")
_NO_PIN: Final = ("that is not the PIN", "pin", "wrong")
_NOT_PRESENT: Final = ("that is not your present password or PIN", "current", "wrong")


def _wrong(engine: Engine, counted: dict[str, int], told: tuple[str, str, str]) -> NotSignedIn:
    """Count that it went wrong; what is told of it."""
    limits.went_wrong(engine, counted)
    return not_in(*told)


def _begin(
    engine: Engine, person: PersonRecord | None, place: Place, counted: dict[str, int],
    told: tuple[str, str, str],
) -> str:  # fmt: skip
    """Sign in who showed the right word; ``told`` where it was nobody's."""
    if person is None:
        raise _wrong(engine, counted, told)
    with transaction(engine) as connection:
        limits.went_well(connection, counted)
        return begin(connection, person, place)


def begin(connection: Connection, person: PersonRecord, place: Place) -> str:
    """Sign somebody in: a new word each time, so that an old one is worth nothing."""
    token, at = words.new_token(), now()
    device = _device(connection, place.device_token)
    act_as(connection, Known(person, device).actor())
    if device is not None:
        # One person at a tablet: who was there before is no longer.
        store.end_sign_ins(connection, at, device_id=device.id)
    store.add_sign_in(
        connection,
        {
            "token_hash": words.token_hash(token), "person_id": person.id,
            "device_id": device.id if device else None,
            "where_from": f"{place.address} {place.looks_like}".strip()[:120],
            "begun_at": at, "last_seen": at,
        },
    )  # fmt: skip
    return token


@retried
def go(engine: Engine, token: str) -> None:
    """Sign out; nothing happens where nobody was signed in."""
    with transaction(engine) as connection:
        store.end_sign_ins(connection, now(), token_hash=words.token_hash(token))


@dataclass(frozen=True, slots=True, kw_only=True)
class FirstTime:
    """Who comes in with a code: their name, and what they choose to come in by from now on."""

    name: str
    code: str
    password: str = ""
    pin: str = ""


@retried
def first_time(engine: Engine, wanted: FirstTime, place: Place) -> str:
    """Come in with a code and choose password, PIN or both; the word for the cookie.

    The code of the first start makes its holder the owner; a person's code is for that person alone.
    Raises :class:`NotSignedIn` for a code that does not work, :class:`PlumbError` for words that are
    too weak.
    """
    counted = limits.keys("code", _at(place))
    try:
        with transaction(engine) as connection:
            limits.may_try(connection, counted)
            person_id = _opened(connection, wanted)
            store.change_person(connection, person_id, _kept(wanted.password, wanted.pin))
            limits.went_well(connection, counted)
            person = store.person_by_id(connection, person_id)
            if person is None:
                raise _no_code()
            store.end_sign_ins(connection, now(), person_id=person.id)
            return begin(connection, person, place)
    except NotSignedIn:
        limits.went_wrong(engine, counted)
        raise


def _kept(password: str, pin: str) -> dict[str, str]:
    """What is kept of those that were chosen."""
    chosen = {"password_hash": password, "pin_hash": pin}
    return {name: words.kept(word) for name, word in chosen.items() if word}


def _no_code() -> NotSignedIn:
    return not_in("this code does not work, or no longer; ask for a new one", "code", "code")


def _opened(connection: Connection, wanted: FirstTime) -> int:
    """The id of the person that the code is for; it is used up."""
    code = store.code_by_hash(connection, words.code_hash(wanted.code))
    at = now()
    if code is None or code.used_at is not None or code.until < at or code.purpose == "pair":
        raise _no_code()
    person = store.person_by_id(connection, code.person_id) if code.person_id else None
    if code.purpose == "owner":
        if store.owners(connection, lock=True):
            raise _no_code()
    elif (
        person is None
        or not person.active
        or person.name.casefold() != wanted.name.strip().casefold()
    ):
        raise _no_code()
    role = person.role if person else "owner"
    _good_enough(wanted, role)
    name = wanted.name.strip()
    act_as(connection, Actor(code.person_id, name, acting.get().device, role))
    store.use_code(connection, code.id, at)
    if person is not None:
        return person.id
    row = {"name": name, "role": "owner", "active": True, "made_at": at}
    return store.add_person(connection, row)


def _good_enough(wanted: FirstTime, role: str) -> None:
    """Whether what was chosen is: an owner has a password, everybody has one or the other."""
    if not wanted.name.strip():
        raise PlumbError(Problem(path="name", rule="a name, as it shall stand beside what you do"))
    if wanted.password or role == "owner":
        words.check_password(wanted.password, wanted.name)
    if wanted.pin or not wanted.password:
        words.check_pin(wanted.pin)


@retried
def owner_code(engine: Engine) -> str | None:
    """A code for the first owner, None where there is one; it is told on the console only."""
    with transaction(engine) as connection:
        store.forget_old(connection, now() - timedelta(days=30))
        if store.owners(connection):
            return None
        code = words.new_code()
        row = {"purpose": "owner", "code_hash": words.code_hash(code), "until": now() + OWNER_CODE}
        store.add_code(connection, row)
        return code


@retried
def change_own(
    engine: Engine, who: PersonRecord, current: str, *, password: str = "", pin: str = "",
    place: Place, keep: SignInRecord | None,
) -> None:  # fmt: skip
    """Choose a new password or PIN; ``current`` is the one they came in by.

    Every other sign-in of theirs ends.  Raises :class:`NotSignedIn`, :class:`PlumbError`.
    """
    counted = limits.keys(f"person {who.id}", _at(place))
    with transaction(engine) as connection:
        limits.may_try(connection, counted)
    # A PIN is worth something at a paired tablet only, where it was good enough to come in.
    pin_counts = keep is not None and keep.device_id is not None and not password
    right = _compared(current, who.password_hash) or (
        pin_counts and _compared(current, who.pin_hash)
    )
    if not right:
        raise _wrong(engine, counted, _NOT_PRESENT)
    if password:
        words.check_password(password, who.name)
    if pin:
        words.check_pin(pin)
    values = _kept(password, pin)
    with transaction(engine) as connection:
        store.change_person(connection, who.id, values)
        store.end_sign_ins(connection, now(), but=keep.id if keep else 0, person_id=who.id)
