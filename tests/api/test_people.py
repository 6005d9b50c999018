"""Who may come in, by what, how often; what was changed by whom.

The addresses that anybody may ask, and those that take more than a technician, are written down here by
hand, from what the roles are for; every other address is walked from the OpenAPI description.
"""

import importlib.util
import json
import re
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError
from starlette.websockets import WebSocketDisconnect
from tests.drivers import Desk, new_id

from plumb.api.app import make_app
from plumb.api.settings import Settings
from plumb.contract import openapi
from plumb.service.people import coming_in, journal, limits, words
from plumb.service.people.refusals import TooOften
from plumb.store import people as store

HERE = "https://workshop.local"
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
PASSWORD = "six cold anvils hum"


def addresses() -> list[tuple[str, str]]:
    """Every method and address of the API, practice's beside the shop's."""
    found = [
        (method.upper(), path) for path, methods in openapi()["paths"].items() for method in methods
    ]
    return found + [(m, "/practice" + p) for m, p in found if "/practice/" not in p]


def filled(path: str) -> str:
    """An address with something in the place of its names."""
    return re.sub(r"\{[^}]+\}", "1", path)


@pytest.fixture(scope="session")
def network(
    _engine: Engine, _practice: Engine, tmp_path_factory: pytest.TempPathFactory
) -> FastAPI:
    """The application as it stands on a workshop's network."""
    settings = Settings(network=True, hosts="workshop.local")
    pages = tmp_path_factory.mktemp("no-pages")
    return make_app(_engine, settings, pages=pages, practice=_practice)


Browser = Callable[[], TestClient]


@pytest.fixture
def anybody(engine: Engine, network: FastAPI) -> Browser:
    """A browser that nobody is signed in at."""
    assert engine.url

    def made() -> TestClient:
        return TestClient(network, base_url=HERE, raise_server_exceptions=False)

    return made


@pytest.fixture
def owner(anybody: Browser, engine: Engine) -> TestClient:
    """The first owner, who came in with the code of the first start."""
    code = coming_in.owner_code(engine)
    client = anybody()
    body = {"name": "Ines K.", "code": code, "password": PASSWORD, "pin": "2580"}
    assert client.post("/api/sign-in/first", json=body).status_code == 200
    return client


Person = Callable[[str, str], TestClient]


@pytest.fixture
def person(owner: TestClient, anybody: Browser) -> Person:
    """Somebody of a name and role, signed in by a password of their own."""

    def made(name: str, role: str) -> TestClient:
        code = owner.post("/api/people", json={"name": name, "role": role}).json()["code"]
        client = anybody()
        body = {"name": name, "code": code, "password": PASSWORD}
        assert client.post("/api/sign-in/first", json=body).status_code == 200
        return client

    return made


@pytest.fixture
def tablet(owner: TestClient, anybody: Browser) -> TestClient:
    """A tablet of the shop; nobody is signed in at it yet."""
    code = owner.post("/api/pairing").json()["code"]
    client = anybody()
    assert (
        client.post("/api/pairing/claim", json={"code": code, "name": "bay 2"}).status_code == 200
    )
    return client


def person_id(client: TestClient, name: str) -> int:
    """The number under which a tablet shows a name."""
    return next(int(p["id"]) for p in client.get("/api/here").json()["people"] if p["name"] == name)


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
def test_each_role_may_what_it_is_for(person: Person, role: str) -> None:
    """Every address, asked by every role: refused for its role exactly where it is for others."""
    client = person("Tomas R.", role)
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


def test_who_did_it_stands_on_job_sheet_and_reading(person: Person) -> None:
    """The person who is signed in, whatever name was typed."""
    wen = Desk(person("Wen L.", "technician"))
    sheet = wen.open_job()
    view = wen.type(sheet, "1", "50 26", by="Tomas R.").json()
    job = wen.client.get(f"/api/jobs/{sheet['job_number']}").json()
    assert (job["by"], view["by"], view["rows"][0]["readings"][0]["by"]) == ("Wen L.",) * 3


def changes(client: TestClient, **wanted: Any) -> list[dict[str, Any]]:
    """A page of the journal."""
    found: list[dict[str, Any]] = client.get("/api/journal", params=wanted).json()["changes"]
    return found


def test_every_change_is_written_down_with_before_and_after(
    person: Person, owner: TestClient
) -> None:
    """Reading, condition, repair, price and setting, each with who, and what it was and became."""
    desk = Desk(person("Wen L.", "technician"))
    sheet = desk.open_job()
    number = sheet["job_number"]
    first = new_id()
    desk.type(sheet, "1", "50 26", id=first)
    desk.type(sheet, "1", "50 27", replaces=first)
    version = desk.client.get(f"/api/sheets/{sheet['id']}").json()["version"]
    body = {"version": version, "put": {"burst.pulses": "50", "burst.on_ms": "10"}}
    assert desk.client.patch(f"/api/sheets/{sheet['id']}", json=body).status_code == 200
    repair = {"injector": "1", "done": "replaced"}
    desk.client.put(f"/api/jobs/{number}/repairs/{new_id()}", json=repair)
    owner.put("/api/learning", json={"on": False})
    of_job = changes(owner, job=number)
    assert {c["by"] for c in of_job} == {"Wen L."}
    assert {(c["what"], c["doing"]) for c in of_job} >= {
        ("job", "made"), ("sheet", "made"), ("reading", "made"), ("reading", "changed"),
        ("sheet", "changed"), ("repair", "made"),
    }  # fmt: skip
    taken = next(c for c in of_job if (c["what"], c["doing"]) == ("reading", "changed"))
    assert taken["where"] == "Drop per injector, injector 1"
    assert taken["fields"] == [{"field": "live", "was": "1", "became": ""}]
    condition = next(c for c in of_job if (c["what"], c["doing"]) == ("sheet", "changed"))
    (burst,) = condition["fields"]
    assert (burst["field"], json.loads(burst["became"])["pulses"]) == ("burst", 50)
    setting = changes(owner, what="preference")[0]
    assert (setting["by"], setting["doing"]) == ("Ines K.", "made")


def test_the_journal_is_searched_by_person_thing_and_word(
    person: Person, owner: TestClient
) -> None:
    """And goes on page by page, without one twice."""
    wen, tomas = Desk(person("Wen L.", "technician")), Desk(person("Tomas R.", "technician"))
    sheet = wen.open_job()
    tomas.open_job()
    wen.type(sheet, "2", "50 31.5", note="smells of fuel")
    assert {c["by"] for c in changes(owner, by="Tomas R.")} == {"Tomas R."}
    assert {c["what"] for c in changes(owner, what="reading")} == {"reading"}
    (found,) = changes(owner, find="smells of")
    assert found["job"] == sheet["job_number"]
    assert changes(owner, find="s_ells of") == []
    newest = changes(owner)
    older = changes(owner, before=newest[1]["id"])
    assert older[0]["id"] < newest[1]["id"]


def test_secrets_are_not_written_down(
    owner: TestClient, tablet: TestClient, engine: Engine
) -> None:
    """Neither hash nor code nor cookie stands in any entry."""
    tablet.post("/api/sign-in", json={"person_id": person_id(tablet, "Ines K."), "pin": "2580"})
    owner.post("/api/people", json={"name": "Wen L.", "role": "reader"})
    with engine.connect() as connection:
        rows = connection.execute(
            text("SELECT CONCAT(COALESCE(was, ''), COALESCE(became, '')) FROM change_entry")
        )
        whole = " ".join(rows.scalars())
    assert "Wen L." in whole
    assert "argon2" not in whole
    assert not re.search(r"[0-9a-f]{64}", whole)


@pytest.fixture
def sealed(owner: TestClient, engine: Engine) -> Iterator[Engine]:
    """A journal of a dozen sealed entries, whose own triggers are away, as for a hand at the files."""
    for n in range(12):
        owner.post("/api/gauges", json={"name": f"dial {n}", "unit": "psi", "step": "0.5"})
    assert owner.get("/api/journal/check").json()["wrong"] == ""
    with engine.begin() as connection:
        made = (
            connection.execute(text("SHOW CREATE TRIGGER plumb_keep_change_entry")).mappings().one()
        )
        held = (
            connection.execute(text("SHOW CREATE TRIGGER plumb_hold_change_entry")).mappings().one()
        )
        for name in ("keep", "hold"):
            connection.execute(text(f"DROP TRIGGER plumb_{name}_change_entry"))
    yield engine
    with engine.begin() as connection:
        for row in (made, held):
            statement = re.sub(r"DEFINER=\S+ ", "", row["SQL Original Statement"])
            connection.exec_driver_sql(statement)


@pytest.mark.parametrize(
    ("tampering", "said"),
    [
        ("UPDATE change_entry SET by_name = 'Tomas R.' WHERE seq = 6", "entry 6 is not what it was"),
        ("UPDATE change_entry SET became = REPLACE(became, '0.5', '1') WHERE seq = 9", "entry 9 is not"),
        ("UPDATE change_entry SET at = at + INTERVAL 1 HOUR WHERE seq = 7", "entry 7 is not"),
        ("DELETE FROM change_entry WHERE seq = 5", "after entry 4 comes entry 6"),
        ("DELETE FROM change_entry WHERE seq > 8", "entry 8 is the last; there were"),
        ("DELETE FROM change_entry WHERE seq = 1", "after entry 0 comes entry 2"),
    ],
)  # fmt: skip
def test_a_change_in_the_journal_is_found(
    sealed: Engine, owner: TestClient, tampering: str, said: str
) -> None:
    """In the middle, at the beginning, at the end."""
    with sealed.begin() as connection:
        connection.execute(text(tampering))
    assert said in owner.get("/api/journal/check").json()["wrong"]


@pytest.mark.parametrize(
    "statement",
    [
        "DELETE FROM change_entry WHERE seq = 1", "UPDATE change_entry SET by_name = 'x' WHERE seq = 1",
        "UPDATE change_entry SET hash = NULL, seq = NULL WHERE seq = 1",
    ],
)  # fmt: skip
def test_no_statement_changes_an_entry(owner: TestClient, engine: Engine, statement: str) -> None:
    """The database itself refuses it, whatever program asks."""
    owner.get("/api/journal/check")
    with engine.connect() as connection, pytest.raises(DBAPIError, match="stays written down"):
        connection.execute(text(statement))


def test_a_hand_at_the_database_is_written_down(owner: TestClient, engine: Engine) -> None:
    """Whoever changes a figure past Plumb stands there as nobody of the shop's."""
    sheet = Desk(owner).open_job()
    Desk(owner).type(sheet, "1", "50 26")
    raw = engine.raw_connection()
    with raw.cursor() as cursor:  # type: ignore[attr-defined]
        cursor.execute("SET @plumb_by = NULL, @plumb_by_id = NULL, @plumb_device = NULL")
        cursor.execute("UPDATE reading SET second_typed = '31'")
    raw.commit()
    raw.invalidate()
    entry = changes(owner, what="reading")[0]
    assert entry["by"] == "(not by Plumb)"
    assert entry["fields"] == [{"field": "second typed", "was": "26", "became": "31"}]


def test_an_exported_journal_is_looked_over_without_the_server(owner: TestClient) -> None:
    """Whole it passes; with a letter changed, or a line gone, it does not."""
    for n in range(5):
        owner.post("/api/gauges", json={"name": f"dial {n}", "unit": "psi", "step": "0.5"})
    sent = owner.get("/api/journal/entries")
    assert sent.headers["content-disposition"].endswith('plumb-journal.jsonl"')
    lines = sent.content.splitlines()
    whole = journal.check_lines(lines)
    assert (whole.wrong, whole.entries) == ("", len(lines))
    assert whole.hash == json.loads(lines[-1])["hash"]
    assert "are missing" in journal.check_lines(lines[:3] + lines[4:]).wrong
    changed = [line.replace(b"dial 2", b"dial 9") for line in lines]
    assert "not what it was" in journal.check_lines(changed).wrong


def test_without_a_network_nobody_is_asked(desk: Desk) -> None:
    """Everything is open, and is done by this workshop."""
    here = desk.client.get("/api/here").json()
    assert (here["network"], here["person"]) == (False, None)
    sheet = desk.open_job()
    view = desk.type(sheet, "1", "50 26", by="Wen L.").json()
    assert view["rows"][0]["readings"][0]["by"] == "Wen L."
    assert {c["by"] for c in changes(desk.client, job=sheet["job_number"])} == {""}
    assert desk.client.post("/api/sign-in", json={"name": "x", "password": "y"}).status_code == 409


def test_a_reading_costs_no_second_look_at_who_it_was(owner: TestClient, engine: Engine) -> None:
    """That somebody is still there is noted once a minute, not at each request."""
    with engine.connect() as connection:
        before = connection.execute(text("SELECT last_seen FROM sign_in")).scalar_one()
    owner.get("/api/jobs")
    with engine.begin() as connection:
        assert connection.execute(text("SELECT last_seen FROM sign_in")).scalar_one() == before
        then = before - coming_in.SEEN_EVERY - timedelta(seconds=1)
        connection.execute(text("UPDATE sign_in SET last_seen = :then"), {"then": then})
    owner.get("/api/jobs")
    with engine.connect() as connection:
        assert connection.execute(text("SELECT last_seen FROM sign_in")).scalar_one() > then


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
