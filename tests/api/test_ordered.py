"""Parts on order and codes of parts: the job waits, every place says for what, and the codes are kept."""

from typing import Any

from tests.drivers import Desk, new_id


def order(desk: Desk, number: str, what: str, due: str = "") -> dict[str, Any]:
    """Note that parts are on order; nothing: that they have come."""
    body = {"ordered": {"what": what, "due": due}}
    answer = desk.client.patch(f"/api/jobs/{number}", json=body)
    assert answer.status_code == 200, answer.text
    made: dict[str, Any] = answer.json()
    return made


def line(desk: Desk) -> dict[str, Any]:
    """The only job on Today."""
    made: dict[str, Any] = desk.client.get("/api/jobs").json()[0]
    return made


def test_a_job_waits_for_its_parts(desk: Desk) -> None:
    """Today, the job, its file and its report say the same; when they have come it goes on as before."""
    sheet = desk.open_job()
    for n, figures in zip("1234", ("50 26", "50 26.5", "50 31.5", "50 26"), strict=True):
        desk.type(sheet, n, figures)
    number = sheet["job_number"]
    before = line(desk)
    words = "Parts on order: one injector, due 4 Dec 2026"
    assert order(desk, number, "one injector", "2026-12-04")["ordered"]["words"] == words
    assert (line(desk)["waits"], line(desk)["next_title"]) == ("parts", words)
    file = desk.client.get(f"/api/jobs/{number}/file").json()
    assert file["job"]["ordered"] == {"what": "one injector", "due": "2026-12-04"}
    file["job"]["number"] = "901"
    assert desk.bring_in(file).status_code == 200
    assert desk.client.get("/api/jobs/901").json()["ordered"]["words"] == words
    assert order(desk, "901", "a nozzle")["ordered"]["words"] == "Parts on order: a nozzle"
    assert order(desk, "901", "")["ordered"] is None
    assert order(desk, number, "  ")["ordered"] is None
    after = next(x for x in desk.client.get("/api/jobs").json() if x["number"] == number)
    assert after == before


def test_a_day_that_is_none_is_refused(desk: Desk) -> None:
    """It would stand in every view of the job."""
    number = desk.open_job()["job_number"]
    body = {"ordered": {"what": "one injector", "due": "2026-13-45"}}
    assert desk.client.patch(f"/api/jobs/{number}", json=body).status_code == 422
    assert desk.client.get(f"/api/jobs/{number}").json()["ordered"] is None


def test_a_closed_job_waits_for_nothing(desk: Desk) -> None:
    """Whatever was on order when it was signed."""
    sheet = desk.open_job()
    order(desk, sheet["job_number"], "one injector")
    assert desk.close(sheet["job_number"]).status_code == 200
    assert desk.client.get(f"/api/jobs/{sheet['job_number']}").json()["ordered"] is None


def test_every_new_part_has_its_own_code(desk: Desk) -> None:
    """Common rail injectors bring a code for the controller: kept with the part, shown, and in the file."""
    sheet = desk.open_job(fuel_system="common_rail", begin_with="correction")
    number = sheet["job_number"]
    for injector, code in (("1", "8AC4 19B7"), ("3", "77D0 2E41")):
        part = {"make": "Brannock", "number": "BR-88", "serial": f"00{injector}", "code": code}
        body = {"injector": injector, "done": "replaced", "part": part}
        answer = desk.client.put(f"/api/jobs/{number}/repairs/{new_id()}", json=body)
        assert answer.status_code == 200, answer.text
    told = [r["words"] for r in answer.json()["finishing"]["repairs"]]
    assert {w for w in told if "code" in w} == set(told)
    assert sum("code 77D0 2E41" in w for w in told) == 1
    file = desk.client.get(f"/api/jobs/{number}/file").json()
    assert {r["part"]["code"] for r in file["repairs"]} == {"8AC4 19B7", "77D0 2E41"}
    vehicle = answer.json()["vehicle"]["id"]
    seats = desk.client.get(f"/api/vehicles/{vehicle}/years").json()["seats"]
    assert {s["place"]: s["part"]["code"] for s in seats if s["part"]["code"]} == {
        "1": "8AC4 19B7", "3": "77D0 2E41",
    }  # fmt: skip
