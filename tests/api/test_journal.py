"""What was changed by whom: written down, searched, sealed, looked over."""

import json
import re
from collections.abc import Iterator
from datetime import timedelta
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError
from tests.api.conftest import Person, person_id
from tests.drivers import Desk, new_id

from plumb.service.people import coming_in, journal


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


def test_without_a_network_nobody_is_asked(desk: Desk) -> None:
    """Everything is open, and is done by this workshop."""
    here = desk.client.get("/api/here").json()
    assert (here["network"], here["person"]) == (False, None)
    sheet = desk.open_job()
    view = desk.type(sheet, "1", "50 26", by="Wen L.").json()
    assert view["rows"][0]["readings"][0]["by"] == "Wen L."
    assert {c["by"] for c in changes(desk.client, job=sheet["job_number"])} == {""}
    assert desk.client.post("/api/sign-in", json={"name": "x", "password": "y"}).status_code == 409
