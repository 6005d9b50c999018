"""Who may come in, and what each role is for.

The addresses that anybody may ask, and those that take more than a technician, are written down here by
hand, from what the roles are for; every other address is walked from the OpenAPI description.
"""

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text
from starlette.responses import Response
from starlette.websockets import WebSocketDisconnect
from tests.api.conftest import HERE, PASSWORD, Browser, Person, addresses, filled, person_id
from tests.drivers import Desk

from plumb.api.guard import Guard
from plumb.service.people import coming_in, words

OPEN = {
    ("GET", "/api/here"), ("GET", "/api/health"), ("POST", "/api/sign-in"), ("POST", "/api/sign-in/first"),
    ("POST", "/api/sign-out"), ("POST", "/api/pairing/claim"),
}  # fmt: skip


OWN = {("PUT", "/api/me"), ("DELETE", "/api/sign-ins/{sign_in_id}")}
"""What even a reader changes: how they themselves come in."""


LEADS = {
    "/api/gauges", "/api/gauges/{gauge_id}", "/api/shelf", "/api/shelf/{entry_id}", "/api/layouts",
    "/api/learning", "/api/shop", "/api/shop/logo", "/api/instruments/try", "/api/pairing",
    "/api/devices", "/api/devices/{device_id}", "/api/journal", "/api/journal/check",
    "/api/keeping",
}  # fmt: skip


OWNERS = {
    "/api/people", "/api/people/{person_id}", "/api/people/{person_id}/code", "/api/journal/entries",
}  # fmt: skip


LOOKED_AT_BY_ALL = {"/api/gauges", "/api/shelf", "/api/learning", "/api/shop", "/api/shop/logo"}


def test_no_address_answers_who_is_nobody(anybody: Browser) -> None:
    """Without a cookie, and with one that nobody gave, each address but six is refused."""
    client, made_up = anybody(), anybody()
    made_up.cookies.set("__Host-plumb", words.new_token(), domain="workshop.local")
    for method, path in addresses():
        for one in (client, made_up):
            answer = one.request(method, filled(path))
            refused = answer.status_code == 401 and answer.json()["title"] == "Nobody is signed in"
            open_ = (method, path.removeprefix("/practice")) in OPEN
            assert refused != open_, (method, path, answer.status_code)


@pytest.mark.parametrize("role", ["reader", "technician", "lead", "owner"])
def test_each_role_may_what_it_is_for(
    person: Person, network: FastAPI, monkeypatch: pytest.MonkeyPatch, role: str
) -> None:
    """Every address, asked by every role: refused for its role exactly where it is for others."""
    client = person("Tomas R.", role)
    # Whoever is let in would be answered by what stands behind: here that is not what is looked at.
    monkeypatch.setattr(_guard_of(network), "_app", Response(status_code=204))
    rank = ["reader", "technician", "lead", "owner"].index(role)
    for method, whole in addresses():
        path = whole.removeprefix("/practice")
        if (method, path) in OPEN | OWN:
            continue
        needs = 0 if method == "GET" else 1
        if path in LEADS and not (method == "GET" and path in LOOKED_AT_BY_ALL):
            needs = 2
        if path in OWNERS:
            needs = 3
        answer = client.request(method, filled(whole))
        refused = answer.status_code == 403 and "your role" in answer.text
        assert refused == (rank < needs), (method, whole, role, answer.status_code)
        assert answer.status_code in {204, 403}


def _guard_of(network: FastAPI) -> Guard:
    """It stands before all that the application does."""
    at: Any = network.middleware_stack
    while not isinstance(at, Guard):
        at = getattr(at, "app", None) or at._app
    return at


def test_a_foreign_page_and_a_foreign_name_are_turned_away_everywhere(owner: TestClient) -> None:
    """An owner's cookie is of no use to a page of another origin, nor under another name."""
    for method, path in addresses():
        foreign = owner.request(
            method, filled(path), headers={"origin": "https://harbour-news.example"}
        )
        assert foreign.status_code == 403, (method, path)
        assert "Plumb's own" in foreign.text
        rebound = owner.request(method, filled(path), headers={"host": "harbour-news.example"})
        assert rebound.status_code == 421, (method, path)


def test_a_cookie_is_worth_nothing_after_signing_out(owner: TestClient, anybody: Browser) -> None:
    """What was copied before is refused after; so is what was idle too long, or is too old."""
    word = owner.cookies["__Host-plumb"]
    copied = anybody()
    copied.cookies.set("__Host-plumb", word, domain="workshop.local")
    assert copied.get("/api/jobs").status_code == 200
    assert owner.post("/api/sign-out").status_code == 204
    assert copied.get("/api/jobs").status_code == 401


@pytest.mark.parametrize(
    ("column", "ago", "status"),
    [
        ("last_seen", timedelta(minutes=59), 200), ("last_seen", timedelta(minutes=61), 401),
        ("begun_at", timedelta(hours=11, minutes=59), 200), ("begun_at", timedelta(hours=12, minutes=1), 401),
    ],
)  # fmt: skip
def test_a_sign_in_ends_by_itself(
    owner: TestClient, engine: Engine, column: str, ago: timedelta, status: int
) -> None:
    """After an hour without a sign, and after twelve hours in any case."""
    then = datetime.now(UTC).replace(tzinfo=None) - ago
    with engine.begin() as connection:
        connection.execute(text(f"UPDATE sign_in SET {column} = :then"), {"then": then})
    assert owner.get("/api/jobs").status_code == status


def test_cookies_are_for_this_server_alone(anybody: Browser, engine: Engine) -> None:
    """Secure, out of reach of scripts, never sent along from another site, of this very host."""
    client = anybody()
    body = {"name": "Ines K.", "code": coming_in.owner_code(engine), "password": PASSWORD}
    sent = client.post("/api/sign-in/first", json=body).headers["set-cookie"]
    assert sent.startswith("__Host-plumb=")
    for said in ("HttpOnly", "Secure", "SameSite=strict", "Path=/"):
        assert said in sent
    assert "Domain" not in sent


def test_the_code_of_the_first_start_makes_one_owner(anybody: Browser, engine: Engine) -> None:
    """It works once; with an owner there is none any more, and a weak password does not use it up."""
    code = coming_in.owner_code(engine)
    assert code is not None
    client = anybody()
    body = {"name": "Ines K.", "code": code.lower(), "password": "passwordpassword"}
    weak = client.post("/api/sign-in/first", json=body)
    assert weak.status_code == 422
    assert "guessed" in weak.text
    body["password"] = PASSWORD
    made = client.post("/api/sign-in/first", json=body).json()
    assert made["person"]["role"] == "owner"
    assert coming_in.owner_code(engine) is None
    again = anybody().post("/api/sign-in/first", json=body | {"name": "Wen L."})
    assert again.status_code == 401


def test_a_pairing_code_works_once_and_for_ten_minutes(
    owner: TestClient, anybody: Browser, engine: Engine
) -> None:
    """The second tablet with the same code is refused, and one that comes late."""
    made = owner.post("/api/pairing").json()
    until = datetime.fromisoformat(made["until"]) - datetime.now(UTC)
    assert timedelta(minutes=9, seconds=50) < until <= timedelta(minutes=10)
    assert made["address"].startswith(f"{HERE}/pair#")
    assert made["picture"].startswith("data:image/svg+xml")
    body = {"code": made["code"], "name": "bay 2"}
    assert anybody().post("/api/pairing/claim", json=body).status_code == 200
    assert anybody().post("/api/pairing/claim", json=body).status_code == 401
    late = owner.post("/api/pairing").json()["code"]
    with engine.begin() as connection:
        connection.execute(text("UPDATE code SET until = UTC_TIMESTAMP(6) - INTERVAL 1 SECOND"))
    body = {"code": late, "name": "bay 3"}
    assert anybody().post("/api/pairing/claim", json=body).status_code == 401


def test_a_pin_counts_at_a_paired_tablet_only(
    owner: TestClient, tablet: TestClient, anybody: Browser
) -> None:
    """Tap a name, four digits; elsewhere the same digits are nothing, and so is the cookie they gave."""
    ines = person_id(tablet, "Ines K.")
    elsewhere = anybody().post("/api/sign-in", json={"person_id": ines, "pin": "2580"})
    assert elsewhere.status_code == 401
    here = tablet.post("/api/sign-in", json={"person_id": ines, "pin": "2580"})
    assert here.json()["person"]["name"] == "Ines K."
    assert here.json()["device"] == "bay 2"
    carried = anybody()
    carried.cookies.set("__Host-plumb", tablet.cookies["__Host-plumb"], domain="workshop.local")
    assert carried.get("/api/jobs").status_code == 401
    assert owner.get("/api/jobs").status_code == 200


def test_one_person_at_a_tablet(tablet: TestClient, owner: TestClient) -> None:
    """Who comes after ends the sign-in of who was there before."""
    made = owner.post("/api/people", json={"name": "Wen L.", "role": "technician"}).json()
    before = tablet.post(
        "/api/sign-in", json={"person_id": person_id(tablet, "Ines K."), "pin": "2580"}
    )
    old = tablet.cookies["__Host-plumb"]
    assert before.status_code == 200
    body = {"name": "wen l.", "code": made["code"], "pin": "7391"}
    assert tablet.post("/api/sign-in/first", json=body).json()["person"]["name"] == "Wen L."
    tablet.cookies.set("__Host-plumb", old, domain="workshop.local")
    assert tablet.get("/api/jobs").status_code == 401


def test_a_tablet_that_is_ended_shows_no_names(owner: TestClient, tablet: TestClient) -> None:
    """Its word, and whoever is signed in at it, are worth nothing."""
    ines = person_id(tablet, "Ines K.")
    tablet.post("/api/sign-in", json={"person_id": ines, "pin": "2580"})
    (shown,) = owner.get("/api/devices").json()
    assert (shown["name"], shown["paired_by"], shown["ended"]) == ("bay 2", "Ines K.", "")
    device = shown["id"]
    assert owner.delete(f"/api/devices/{device}").status_code == 204
    assert tablet.get("/api/jobs").status_code == 401
    assert tablet.get("/api/here").json()["people"] == []
    assert tablet.post("/api/sign-in", json={"person_id": ines, "pin": "2580"}).status_code == 401


def test_who_leaves_is_out_at_once_and_the_last_owner_stays(
    owner: TestClient, person: Person
) -> None:
    """Somebody inactive cannot come in; no owner, no shop."""
    wen = person("Wen L.", "technician")
    everybody = owner.get("/api/people").json()
    ids = {p["name"]: p["id"] for p in everybody}
    assert owner.patch(f"/api/people/{ids['Wen L.']}", json={"active": False}).status_code == 200
    assert wen.get("/api/jobs").status_code == 401
    assert (
        wen.post("/api/sign-in", json={"name": "Wen L.", "password": PASSWORD}).status_code == 401
    )
    for change in ({"active": False}, {"role": "lead"}):
        kept = owner.patch(f"/api/people/{ids['Ines K.']}", json=change)
        assert kept.status_code == 409
        assert "owner" in kept.json()["detail"]
    assert owner.post("/api/people", json={"name": "wen l.", "role": "reader"}).status_code == 409


def test_sign_ins_are_listed_and_ended(owner: TestClient, person: Person) -> None:
    """One sees one's own, an owner sees all; each may end what they see."""
    wen = person("Wen L.", "reader")
    tomas = person("Tomas R.", "technician")
    (own,) = wen.get("/api/sign-ins").json()
    assert (own["person"], own["mine"]) == ("Wen L.", True)
    all_ = owner.get("/api/sign-ins").json()
    assert {s["person"] for s in all_} == {"Ines K.", "Wen L.", "Tomas R."}
    assert tomas.delete(f"/api/sign-ins/{own['id']}").status_code == 403
    assert wen.get("/api/jobs").status_code == 200
    assert owner.delete(f"/api/sign-ins/{own['id']}").status_code == 204
    assert wen.get("/api/jobs").status_code == 401


def test_the_line_that_stays_open_is_for_people_only(anybody: Browser, owner: TestClient) -> None:
    """A web socket without a cookie is refused; with one it opens."""
    with (
        pytest.raises(WebSocketDisconnect),
        anybody().websocket_connect("wss://workshop.local/api/live"),
    ):
        pytest.fail("a stranger was let in")
    with owner.websocket_connect("wss://workshop.local/api/live") as line:
        line.close()


@pytest.mark.parametrize(("role", "count"), [("reader", 0), ("technician", 1)])
def test_a_reader_pushes_no_figures_on_the_line(
    person: Person, network: FastAPI, monkeypatch: pytest.MonkeyPatch, role: str, count: int
) -> None:
    """The line is for looking; what a serial port reads goes in for those who may note it."""
    pushed: list[tuple[int, list[float]]] = []
    monkeypatch.setattr(network.state.captures, "push", lambda s, v: pushed.append((s, v)))
    with person("Wen L.", role).websocket_connect("wss://workshop.local/api/live?sheet=7") as line:
        line.send_text('{"values": [50, 26]}')
        line.close()
    assert pushed == [(7, [50.0, 26.0])] * count


def test_opening_a_job_again_is_for_a_lead(person: Person) -> None:
    """A technician closes, a lead opens again."""
    wen, lead = person("Wen L.", "technician"), person("Tomas R.", "lead")
    number = Desk(wen).open_job()["job_number"]
    assert Desk(wen).close(number).status_code == 200
    refused = wen.patch(f"/api/jobs/{number}", json={"closed": False})
    assert refused.status_code == 403
    assert "a lead" in refused.json()["detail"]
    assert lead.patch(f"/api/jobs/{number}", json={"closed": False}).status_code == 200
