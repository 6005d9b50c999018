"""Tablets of the shop: paired once with a code that works once, ended by the shop."""

from dataclasses import replace
from datetime import datetime, timedelta
from typing import Final

from sqlalchemy import Engine

from plumb.core.measure.problems import NotThere, PlumbError, Problem
from plumb.service.people import limits, words
from plumb.service.people.coming_in import Place
from plumb.service.people.refusals import NotSignedIn, not_in
from plumb.service.stored.parts import now, utc_text
from plumb.service.views.people import DeviceView
from plumb.store import people as store
from plumb.store.actor import acting
from plumb.store.people import DeviceRecord
from plumb.store.session import act_as, retried, transaction

PAIR_CODE: Final = timedelta(minutes=10)
LONGEST_NAME: Final = 60


@retried
def pairing_code(engine: Engine) -> tuple[str, datetime]:
    """A new code for one tablet, and until when it works."""
    code, until = words.new_code(), now() + PAIR_CODE
    with transaction(engine) as connection:
        row = {
            "purpose": "pair", "code_hash": words.code_hash(code), "until": until,
            "made_by": acting.get().name,
        }  # fmt: skip
        store.add_code(connection, row)
    return code, until


@retried
def claim(engine: Engine, code: str, name: str, place: Place) -> str:
    """Pair the tablet that shows the code; the word for its cookie.

    Raises :class:`NotSignedIn` for a code that was used, is too old or is none, :class:`PlumbError`
    for a name that is none.
    """
    name = name.strip()
    if not 1 <= len(name) <= LONGEST_NAME:
        rule = f"a name of up to {LONGEST_NAME} letters, such as bay 2"
        raise PlumbError(Problem(path="name", rule=rule, value=name))
    counted = limits.keys("pairing", place.address)
    token, at = words.new_token(), now()
    try:
        with transaction(engine) as connection:
            limits.may_try(connection, counted)
            found = store.code_by_hash(connection, words.code_hash(code))
            if found is None or found.purpose != "pair" or found.used_at or found.until < at:
                rule = "this code does not work, or no longer; ask for a new one"
                raise not_in(rule, "code", "code")
            act_as(connection, replace(acting.get(), device=name))
            store.use_code(connection, found.id, at)
            row = {
                "name": name, "token_hash": words.token_hash(token), "paired_at": at,
                "paired_by": found.made_by, "last_seen": at,
            }  # fmt: skip
            store.add_device(connection, row)
            limits.went_well(connection, counted)
    except NotSignedIn:
        limits.went_wrong(engine, counted)
        raise
    return token


@retried
def devices(engine: Engine) -> list[DeviceView]:
    """Every tablet that was ever paired."""
    with transaction(engine) as connection:
        return [_view(d) for d in store.devices(connection)]


@retried
def end(engine: Engine, device_id: int) -> None:
    """A tablet is lost, or gone: its word, and whoever is signed in at it, are worth nothing now."""
    with transaction(engine) as connection:
        if store.end_device(connection, device_id, now()) == 0:
            rule = "there is no such tablet in use"
            raise NotThere(Problem(path="device", rule=rule, value=str(device_id)))


def _view(device: DeviceRecord) -> DeviceView:
    return DeviceView(
        id=device.id, name=device.name, paired=utc_text(device.paired_at),
        paired_by=device.paired_by, seen=utc_text(device.last_seen),
        ended=utc_text(device.ended_at) if device.ended_at else "",
    )  # fmt: skip
