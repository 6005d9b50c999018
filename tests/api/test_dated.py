"""A visit that is noted later than it was: its day, why, its sheets and repairs, and its place among the others."""

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from tests.drivers import Desk, new_id

THEN = "2023-05-12"
BOOK = "from the job book"


def redate(desk: Desk, number: str, day: str, because: str = BOOK) -> Any:
    """Say that a job's visit was on another day."""
    return desk.client.patch(
        f"/api/jobs/{number}", json={"dated": {"day": day, "because": because}}
    )


def job_of(desk: Desk, number: str) -> dict[str, Any]:
    """A job as it stands."""
    made: dict[str, Any] = desk.client.get(f"/api/jobs/{number}").json()
    return made


def test_an_old_visit_as_it_stands_on_paper(desk: Desk) -> None:
    """Typed as bursts under its own day: years show it before today's, today's is held against it."""
    old = desk.open_job(registration="SM-61", day=THEN, day_because=BOOK)
    for n, figures in zip("1234", ("51 27", "50 26", "50 26.5", "50 26"), strict=True):
        assert desk.type(old, n, figures).status_code == 200
    job = job_of(desk, old["job_number"])
    assert (job["opened"][:10], job["dated_because"]) == (THEN, BOOK)
    assert desk.client.get(f"/api/sheets/{old['id']}").json()["taken"][:10] == THEN
    vehicle = job["vehicle"]["id"]
    now = desk.open_job(vehicle_id=vehicle)
    (offer,) = desk.client.get(f"/api/sheets/{now['id']}/baselines").json()
    assert offer["words"].startswith("12 May 2023, ")
    assert [t["figures"] for t in offer["then"]][:2] == ["51 27", "50 26"]
    years = desk.client.get(f"/api/vehicles/{vehicle}/years").json()
    assert [v["opened"][:10] for v in years["visits"]][1] == THEN
    # A sheet that is begun on it later, and what was done, lie on its day too.
    request = {"request_id": new_id(), "kind": "coil_resistance"}
    more = desk.client.post(f"/api/jobs/{old['job_number']}/sheets", json=request).json()
    assert more["taken"][:10] == THEN
    done = {"injector": "1", "done": "replaced"}
    answer = desk.client.put(f"/api/jobs/{old['job_number']}/repairs/{new_id()}", json=done)
    assert answer.json()["finishing"]["repairs"][0]["at"][:10] == THEN
    seats = desk.client.get(f"/api/vehicles/{vehicle}/years").json()["seats"]
    assert next(s for s in seats if s["place"] == "1")["since"][:10] == THEN


def test_a_job_moves_with_its_sheets_and_the_journal_says_why(desk: Desk) -> None:
    """Whole days; the time of day stays; the file takes the reason along and brings it back."""
    sheet = desk.open_job()
    desk.type(sheet, "1", "50 26")
    before = desk.client.get(f"/api/sheets/{sheet['id']}").json()
    number = sheet["job_number"]
    assert redate(desk, number, THEN).status_code == 200
    after = desk.client.get(f"/api/sheets/{sheet['id']}").json()
    assert after["taken"] == THEN + before["taken"][10:]
    assert after["version"] > before["version"]
    changes = desk.client.get("/api/journal", params={"job": number}).json()["changes"]
    told = [f for c in changes for f in c["fields"] if f["became"] == BOOK]
    assert told
    file = desk.client.get(f"/api/jobs/{number}/file").json()
    assert file["job"]["dated_because"] == BOOK
    assert file["job"]["opened"][:10] == THEN
    file["job"]["number"] = "900"
    assert desk.bring_in(file).status_code == 200
    assert job_of(desk, "900")["dated_because"] == BOOK


@pytest.mark.parametrize(
    ("day", "because", "rule"),
    [
        ("last May", BOOK, "a day like 2024-05-12"),
        ("1969-12-31", BOOK, "from 1970 to today"),
        (f"{datetime.now(UTC) + timedelta(days=2):%Y-%m-%d}", BOOK, "from 1970 to today"),
        (THEN, "  ", "say why"),
    ],
)
def test_what_is_no_day_that_was(desk: Desk, day: str, because: str, rule: str) -> None:
    """Told where, and nothing is changed; the same at the beginning of a job."""
    sheet = desk.open_job()
    answer = redate(desk, sheet["job_number"], day, because)
    assert answer.status_code == 422
    assert rule in answer.text
    assert job_of(desk, sheet["job_number"])["dated_because"] == ""
    body = {
        "request_id": new_id(), "vehicle_name": "Torvik", "day": day, "day_because": because,
    }  # fmt: skip
    assert desk.client.post("/api/jobs", json=body).status_code == 422


def test_what_was_done_has_days_of_its_own(desk: Desk) -> None:
    """A part that was fitted today was not fitted in another year because its job moves."""
    sheet = desk.open_job()
    done = {"injector": "1", "done": "replaced"}
    desk.client.put(f"/api/jobs/{sheet['job_number']}/repairs/{new_id()}", json=done)
    answer = redate(desk, sheet["job_number"], THEN)
    assert answer.status_code == 409
    assert "take them back first" in answer.text
