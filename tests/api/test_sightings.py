"""What a person found, over the API: noted, told everywhere, put right, kept, taken back."""

from typing import Any

import pytest
from sqlalchemy import Engine, text
from tests.drivers import Desk, new_id

from plumb.store.session import transaction

ROD = {
    "fault": "other",
    "words": "a bent push rod",
    "how": "valve cover off",
    "explains": ["smoke_black"],
    "by": "Wen L.",
}


def smoking(desk: Desk) -> str:
    """A tractor that smokes; its number."""
    job = desk.open_job(
        3, fuel_system="mechanical_diesel", begin_with="walk_round", complaint="black smoke"
    )
    return str(job["job_number"])


def find(desk: Desk, number: str, **body: Any) -> dict[str, Any]:
    """Note what was found; the job as it is then."""
    answer = desk.client.put(f"/api/jobs/{number}/sightings/{new_id()}", json=body)
    assert answer.status_code == 200, answer.text
    made: dict[str, Any] = answer.json()
    return made


def said(spans: list[dict[str, Any]]) -> str:
    """A sentence."""
    return "".join(s["text"] for s in spans)


def test_what_was_found_is_told_everywhere_and_ends_the_search(desk: Desk) -> None:
    """Verdict, causes, list, what can be put right, file, result and report say the rod."""
    number = smoking(desk)
    assert desk.client.get(f"/api/jobs/{number}").json()["next"]["kind"] == "walk_round"
    job = find(desk, number, **ROD)
    assert said(job["verdict"]["sentence"]).startswith(
        "The black smoke is explained: a bent push rod."
    )
    assert job["diagnosis"]["explained"] == "yes"
    assert job["diagnosis"]["causes"][0]["words"] == "a bent push rod"
    assert (job["next"]["title"], job["next"]["asks"]) == ("Put right: a bent push rod", True)
    [noted] = job["finishing"]["sightings"]
    assert (noted["words"], noted["how"], noted["by"]) == (
        "a bent push rod", "valve cover off", "Wen L.",
    )  # fmt: skip
    assert {"code": "other", "words": "a bent push rod"} in job["finishing"]["engine"]
    mended = {"done": "put_right", "cause": "other", "note": "push rod of cylinder 2 renewed"}
    desk.client.put(f"/api/jobs/{number}/repairs/{new_id()}", json=mended).raise_for_status()
    desk.client.put(
        f"/api/jobs/{number}/answers/smoke_black", json={"answer": "gone"}
    ).raise_for_status()
    assert desk.client.get(f"/api/jobs/{number}").json()["finishing"]["over"]
    page = desk.client.get(f"/api/jobs/{number}/report.html").text
    assert "Found on the engine: a bent push rod." in page
    assert "put right on the engine: push rod of cylinder 2 renewed" in page.replace("Put", "put")


def test_it_goes_out_with_the_file_and_comes_back(desk: Desk) -> None:
    """The same list, the same diagnosis, under another number."""
    number = smoking(desk)
    before = find(desk, number, **ROD)
    file = desk.client.get(f"/api/jobs/{number}/file").json()
    assert file["sightings"][0] | {"at": ""} == {**ROD, "at": ""}
    file["job"]["number"] = "977"
    assert desk.bring_in(file).status_code == 200
    now = desk.client.get("/api/jobs/977").json()
    assert now["diagnosis"] == before["diagnosis"]
    again = desk.client.get("/api/jobs/977/file").json()
    assert again["sightings"] == file["sightings"]


def test_taken_back_it_counts_no_more_and_stays_in_the_store(desk: Desk, engine: Engine) -> None:
    """The diagnosis is open again; another job's is refused; the row and the journal keep it."""
    number = smoking(desk)
    job = find(desk, number, **ROD)
    kept = job["finishing"]["sightings"][0]["id"]
    other = smoking(desk)
    assert desk.client.delete(f"/api/jobs/{other}/sightings/{kept}").status_code == 404
    now = desk.client.delete(f"/api/jobs/{number}/sightings/{kept}").json()
    assert now["finishing"]["sightings"] == []
    assert now["diagnosis"]["explained"] == "open"
    with transaction(engine) as connection:
        rows = "SELECT COUNT(*) FROM sighting WHERE live IS NULL"
        told = "SELECT GROUP_CONCAT(doing ORDER BY id) FROM change_entry WHERE what = 'sighting'"
        assert connection.scalar(text(rows)) == 1
        assert connection.scalar(text(told)) == "made,changed"


def test_sent_twice_it_is_once(desk: Desk) -> None:
    """The same id."""
    number, kept = smoking(desk), new_id()
    for _ in range(2):
        path = f"/api/jobs/{number}/sightings/{kept}"
        desk.client.put(path, json=ROD).raise_for_status()
    assert len(desk.client.get(f"/api/jobs/{number}").json()["finishing"]["sightings"]) == 1


@pytest.mark.parametrize(
    ("change", "rule"),
    [
        ({"words": " "}, "words of its own"),
        ({"fault": "compression"}, "name the injector"),
        ({"fault": "air", "injector": "2"}, "on the engine"),
        ({"fault": "seat_leaks", "injector": "9"}, "an injector of this engine: 1, 2, 3"),
    ],
)
def test_what_does_not_fit_is_refused(desk: Desk, change: dict[str, Any], rule: str) -> None:
    """With its rule, and nothing is kept."""
    number = smoking(desk)
    path = f"/api/jobs/{number}/sightings/{new_id()}"
    answer = desk.client.put(path, json=ROD | change)
    assert answer.status_code in {400, 422}
    assert rule in answer.text
    assert not desk.client.get(f"/api/jobs/{number}").json()["finishing"]["sightings"]


def test_a_closed_job_takes_none(desk: Desk) -> None:
    """It is opened first."""
    number = smoking(desk)
    desk.close(number).raise_for_status()
    path = f"/api/jobs/{number}/sightings/{new_id()}"
    assert desk.client.put(path, json=ROD).status_code == 409
