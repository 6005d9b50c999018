"""How often somebody may go wrong, and what a password and a PIN have to be."""

import importlib.util
import re
from datetime import UTC, datetime, timedelta

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text
from tests.api.conftest import PASSWORD, Browser, person_id

from plumb.service.people import coming_in, limits, words
from plumb.service.people.refusals import TooOften
from plumb.store import people as store


def test_after_five_wrong_ones_nobody_is_asked_for_a_while(
    owner: TestClient, tablet: TestClient, engine: Engine
) -> None:
    """The sixth is not even looked at, right or wrong; the pause doubles; then the right one works."""
    assert owner
    ines = person_id(tablet, "Ines K.")
    wrong, right = {"person_id": ines, "pin": "1111"}, {"person_id": ines, "pin": "2580"}
    for _ in range(limits.FREE):
        assert tablet.post("/api/sign-in", json=wrong).status_code == 401
    slowed = tablet.post("/api/sign-in", json=right)
    assert slowed.status_code == 429
    first = int(slowed.headers["retry-after"])
    assert 1 <= first <= limits.FIRST_WAIT_S
    over(engine)
    assert tablet.post("/api/sign-in", json=wrong).status_code == 401
    second = int(tablet.post("/api/sign-in", json=right).headers["retry-after"])
    assert limits.FIRST_WAIT_S < second <= 2 * limits.FIRST_WAIT_S
    over(engine)
    assert tablet.post("/api/sign-in", json=right).status_code == 200
    assert tablet.post("/api/sign-in", json=wrong).status_code == 401


def over(engine: Engine) -> None:
    """The pause is over."""
    with engine.begin() as connection:
        connection.execute(text("UPDATE attempt SET wait_until = UTC_TIMESTAMP(6)"))


def test_guessing_codes_and_names_is_slowed_too(anybody: Browser, owner: TestClient) -> None:
    """Whatever is tried from one place, it is counted."""
    assert owner
    client = anybody()
    for _ in range(limits.FREE):
        client.post("/api/pairing/claim", json={"code": words.new_code(), "name": "bay 9"})
    claim = client.post("/api/pairing/claim", json={"code": words.new_code(), "name": "bay 9"})
    assert claim.status_code == 429
    for n in range(limits.FREE_IN_ALL):
        client.post("/api/sign-in", json={"name": f"nobody {n}", "password": PASSWORD})
    assert (
        client.post("/api/sign-in", json={"name": "Ines K.", "password": PASSWORD}).status_code
        == 429
    )


def test_what_was_wrong_is_not_told(owner: TestClient, anybody: Browser) -> None:
    """A name that is none, and a wrong password, are answered alike."""
    assert owner
    answers = [
        anybody().post("/api/sign-in", json={"name": name, "password": "another long word"}).json()
        for name in ("Ines K.", "Nobody at all")
    ]
    assert answers[0] == answers[1]


@pytest.mark.parametrize(
    ("word", "said"),
    [
        ("short", "12 to 128"), ("x" * 129, "12 to 128"), ("aaaaaaaaaaaa", "guessed"),
        ("letmeinletmein", "guessed"), ("qwertyuiop12", "guessed"),
    ],
)  # fmt: skip
def test_a_weak_password_is_refused_with_the_reason(
    owner: TestClient, word: str, said: str
) -> None:
    """Too short, too long, or among the first that anybody tries."""
    answer = owner.put("/api/me", json={"current": PASSWORD, "password": word})
    assert answer.status_code == 422
    assert said in answer.text


@pytest.mark.parametrize("pin", ["123", "123456789", "1111", "1234", "9876", "12a4", "٣٤٥٦"])
def test_a_weak_pin_is_refused(owner: TestClient, pin: str) -> None:
    """Four to eight digits, not all alike and not in a row."""
    assert owner.put("/api/me", json={"current": PASSWORD, "pin": pin}).status_code == 422


def test_a_new_password_ends_every_other_sign_in(owner: TestClient, anybody: Browser) -> None:
    """Whoever had got hold of the old one is out; who changed it stays."""
    other = anybody()
    other.post("/api/sign-in", json={"name": "ines k.", "password": PASSWORD})
    assert other.get("/api/jobs").status_code == 200
    wrong = owner.put(
        "/api/me", json={"current": "not it at all", "password": "five warm kettles sing"}
    )
    assert wrong.status_code == 401
    changed = owner.put("/api/me", json={"current": PASSWORD, "password": "five warm kettles sing"})
    assert changed.status_code == 204
    assert other.get("/api/jobs").status_code == 401
    assert owner.get("/api/jobs").status_code == 200
    assert (
        other.post("/api/sign-in", json={"name": "Ines K.", "password": PASSWORD}).status_code
        == 401
    )


def test_a_pin_does_not_change_a_password(owner: TestClient, tablet: TestClient) -> None:
    """Four digits at a tablet are enough for a new PIN there, never for a password."""
    assert owner
    tablet.post("/api/sign-in", json={"person_id": person_id(tablet, "Ines K."), "pin": "2580"})
    body = {"current": "2580", "password": "five warm kettles sing"}
    assert tablet.put("/api/me", json=body).status_code == 401
    assert tablet.put("/api/me", json={"current": "2580", "pin": "7391"}).status_code == 204


def test_old_codes_and_attempts_are_forgotten(engine: Engine) -> None:
    """What is a month old is of no use to anybody."""
    at = datetime.now(UTC).replace(tzinfo=None) - timedelta(days=31)
    with engine.begin() as connection:
        store.put_attempt(connection, "person 1", 9, at)
        row = {"purpose": "pair", "code_hash": words.code_hash("x"), "until": at}
        store.add_code(connection, row)
    coming_in.owner_code(engine)
    with engine.connect() as connection:
        assert connection.execute(text("SELECT COUNT(*) FROM attempt")).scalar_one() == 0
        assert (
            connection.execute(
                text("SELECT COUNT(*) FROM code WHERE purpose = 'pair'")
            ).scalar_one()
            == 0
        )


@pytest.mark.parametrize(("ahead_s", "asked"), [(-1, True), (600, False), (3600, True)])
def test_a_pause_ends_though_the_clock_was_set_back(
    engine: Engine, ahead_s: int, *, asked: bool
) -> None:
    """One that is longer than any was made before the clock was set back; nobody waits for it."""
    counted = limits.keys("person 1", "bay 2")
    at = datetime.now(UTC).replace(tzinfo=None) + timedelta(seconds=ahead_s)
    with engine.begin() as connection:
        store.put_attempt(connection, next(iter(counted)), 9, at)
        if asked:
            limits.may_try(connection, counted)
        else:
            with pytest.raises(TooOften):
                limits.may_try(connection, counted)


def test_a_password_is_hashed_at_full_cost() -> None:
    """Argon2id with at least 19 MiB and two rounds (OWASP Password Storage Cheat Sheet, from memory)."""
    spec = importlib.util.find_spec("plumb.service.people.words")
    assert spec is not None
    assert spec.loader is not None
    fresh = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(fresh)
    kept = fresh.kept(PASSWORD)
    found = re.match(r"\$argon2id\$v=19\$m=(\d+),t=(\d+),p=\d+\$", kept)
    assert found is not None
    assert int(found[1]) >= 19 * 1024
    assert int(found[2]) >= 2
    assert fresh.fits(PASSWORD, kept)
    assert not fresh.fits(PASSWORD + " ", kept)
