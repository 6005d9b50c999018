"""Jobs, vehicles, gauges and files over HTTP."""

import json
from decimal import Decimal
from typing import Any

import pytest
from sqlalchemy import Engine
from tests.drivers import DEMO, Desk, job_file, new_id, open_demo

from plumb.demo import load
from plumb.jobfile.exact import loads


def test_numbers_count_up_and_a_repeated_request_makes_one_job(desk: Desk) -> None:
    """A double click opens one job."""
    request = new_id()
    one = desk.open_job(request_id=request)
    again = desk.open_job(request_id=request)
    two = desk.open_job()
    assert one["job_number"] == again["job_number"]
    assert int(two["job_number"]) == int(one["job_number"]) + 1
    assert len(desk.client.get("/api/jobs").json()) == 2


def test_a_job_begins_with_its_sheet(desk: Desk) -> None:
    """Two banks, six injectors, the first gauge of the shelf."""
    gauge = {"name": "dial A", "unit": "kPa", "step": "2"}
    assert desk.client.post("/api/gauges", json=gauge).status_code == 201
    sheet = desk.open_job(6, banks=2, complaint="rough idle", codes=["P0304"])
    assert [r["bank"] for r in sheet["rows"]] == ["A", "B"] * 3
    assert sheet["gauge"]["unit"] == "kPa"
    job = desk.client.get(f"/api/jobs/{sheet['job_number']}").json()
    assert job["complaint"] == "rough idle"
    begun = [k["kind"] for k in job["route"] if k["sheet_id"]]
    assert begun == ["pressure_drop"]
    assert job["route"][0]["kind"] == "walk_round"


@pytest.mark.parametrize(
    ("change", "status", "path"),
    [
        ({"vehicle_name": "  "}, 422, "vehicle_name"),
        ({"vehicle_id": 999}, 404, "vehicle_id"),
        ({"gauge_id": 999}, 404, "gauge_id"),
        ({"cylinders": 0}, 422, "cylinders"),
        ({"fuel_system": "steam"}, 422, "fuel_system"),
        ({"fuel_system": "mechanical_diesel"}, 422, "kind"),
        ({"request_id": "mine"}, 422, "request_id"),
    ],
)
def test_a_job_that_does_not_fit(
    desk: Desk, change: dict[str, Any], status: int, path: str
) -> None:
    """Named by path; nothing opened."""
    body = {"request_id": new_id(), "vehicle_name": "Van", **change}
    answer = desk.client.post("/api/jobs", json=body)
    assert answer.status_code == status
    assert answer.json()["problems"][0]["path"] == path
    assert desk.client.get("/api/jobs").json() == []


@pytest.mark.parametrize(
    ("find", "count"),
    [("pilot", 1), ("P0304", 1), ("lundy mail", 1), ("no such", 0), ("%", 0), ("Torvik", 2)],
)
def test_jobs_are_found_by_any_word(desk: Desk, find: str, count: int) -> None:
    """Plate, vehicle, complaint, code; signs of the database mean themselves."""
    desk.open_job(vehicle_name="Torvik Fastnet", registration="pilot 1", codes=["P0304"])
    desk.open_job(vehicle_name="Torvik Lundy", complaint="mail van smells")
    assert len(desk.client.get("/api/jobs", params={"find": find}).json()) == count


@pytest.mark.parametrize("find", ["SM-14", "sm14", "SM 14", "sm-14", "mf1", "MF 1", "mf 1 sm14"])
def test_a_plate_is_found_however_it_is_typed(desk: Desk, find: str) -> None:
    """Capitals, dashes and blanks apart; and only that vehicle, also among vehicles."""
    for name, plate in (("MF 1 tractor", "SM-14"), ("MF 7 tractor", "SM-22"), ("Van", "")):
        desk.open_job(vehicle_name=name, registration=plate)
    found = desk.client.get("/api/jobs", params={"find": find}).json()
    assert [j["vehicle"] for j in found] == ["MF 1 tractor"]
    vehicles = desk.client.get("/api/vehicles", params={"find": find}).json()
    assert [v["name"] for v in vehicles] == ["MF 1 tractor"]


def test_a_closed_job_takes_nothing_until_it_is_opened_again(desk: Desk) -> None:
    """No reading, none taken back, no condition, no sheet, no CSV; one sent twice is no harm."""
    sheet = desk.open_job()
    number, path = sheet["job_number"], f"/api/sheets/{sheet['id']}"
    kept = {"id": new_id(), "injector": "1", "first": "50", "second": "26"}
    assert desk.client.post(f"{path}/readings", json=kept).status_code == 200
    desk.close(number)
    shown = desk.client.get(path).json()
    assert shown["closed"]
    gauge = {"name": "dial", "unit": "psi", "step": "1"}
    tries = (
        desk.client.post(f"{path}/readings", json={**kept, "id": new_id(), "injector": "2"}),
        desk.client.delete(f"{path}/readings/{kept['id']}"),
        desk.client.patch(path, json={"version": shown["version"], "gauge": gauge}),
        desk.client.post(f"{path}/engine-runs"),
        desk.client.post(
            f"/api/jobs/{number}/sheets", json={"request_id": new_id(), "kind": "pressure_drop"}
        ),
        desk.send(f"{path}/csv", "injector,quantity,value\n2,first,50\n2,second,26\n"),
    )
    for answer in tries:
        assert answer.status_code == 409, answer.text
        assert answer.json()["problems"][0]["code"] == "closed"
    assert desk.client.post(f"{path}/readings", json=kept).status_code == 200
    desk.client.patch(f"/api/jobs/{number}", json={"closed": False})
    again = {**kept, "id": new_id(), "injector": "2"}
    assert desk.client.post(f"{path}/readings", json=again).json()["measured"] == 2


def test_a_closed_job_leaves_today_and_comes_back(desk: Desk) -> None:
    """Found again among the closed ones."""
    number = desk.open_job()["job_number"]
    desk.close(number)
    assert desk.client.get("/api/jobs").json() == []
    assert len(desk.client.get("/api/jobs", params={"closed": True}).json()) == 1
    desk.client.patch(f"/api/jobs/{number}", json={"closed": False})
    assert len(desk.client.get("/api/jobs").json()) == 1


def test_the_order_of_reach_is_remembered_for_the_vehicle(desk: Desk) -> None:
    """For this sheet, and for the vehicle's next job."""
    sheet = desk.open_job()
    vehicle = desk.client.get(f"/api/jobs/{sheet['job_number']}").json()["vehicle"]["id"]
    path = f"/api/vehicles/{vehicle}/reach-order"
    assert desk.client.put(path, json={"order": ["3", "1", "4", "2"]}).status_code == 200
    now = desk.client.get(f"/api/sheets/{sheet['id']}").json()
    assert [r["injector"] for r in now["rows"]] == ["3", "1", "4", "2"]
    assert now["version"] > sheet["version"]
    later = desk.open_job(vehicle_id=vehicle)
    assert [r["injector"] for r in later["rows"]] == ["3", "1", "4", "2"]
    bad = desk.client.put(path, json={"order": ["3", "1", "4", "4"]})
    assert bad.json()["problems"][0]["code"] == "not_the_same_set"


def test_feeds_show_on_the_sheet(desk: Desk) -> None:
    """Even on one that was held in memory."""
    sheet = desk.open_job()
    desk.type(sheet, "1", "50 26")
    vehicle = desk.client.get(f"/api/jobs/{sheet['job_number']}").json()["vehicle"]["id"]
    desk.client.patch(f"/api/vehicles/{vehicle}/injectors/1", json={"feed": "1+4", "bank": "A"})
    row = desk.client.get(f"/api/sheets/{sheet['id']}").json()["rows"][0]
    assert (row["feed"], row["bank"]) == ("1+4", "A")


def test_after_the_fix_a_second_sheet(desk: Desk) -> None:
    """Its own readings; the request repeated gives the same sheet."""
    sheet = desk.open_job()
    desk.type(sheet, "1", "50 26")
    body = {"request_id": new_id(), "gauge": {"name": "E", "unit": "psi", "step": "0.1"}}
    path = f"/api/jobs/{sheet['job_number']}/sheets"
    made = desk.client.post(path, json=body).json()
    assert (made["key"], made["measured"]) == ("s2", 0)
    assert desk.client.post(path, json=body).json()["id"] == made["id"]


def test_a_gauges_name_is_taken_once(desk: Desk) -> None:
    """And its step is above zero."""
    gauge = {"name": "A", "unit": "psi", "step": "0.5"}
    assert desk.client.post("/api/gauges", json=gauge).status_code == 201
    assert desk.client.post("/api/gauges", json=gauge).status_code == 409
    bad = desk.client.post("/api/gauges", json={**gauge, "name": "B", "step": "0"})
    assert bad.json()["problems"][0]["code"] == "not_positive"


def bare(value: Any) -> Any:
    """A JSON value with its digits as text, without the times and what stands by default."""
    defaults = {("pass", "1"), ("state", "key_on_engine_off")}
    if isinstance(value, dict):
        return {
            k: bare(v)
            for k, v in value.items()
            if k != "taken" and v != [] and (k, str(v)) not in defaults
        }
    return [bare(v) for v in value] if isinstance(value, list) else str(value)


@pytest.mark.parametrize("path", sorted(DEMO.glob("*.json")), ids=lambda p: p.stem)
def test_a_job_file_goes_round(desk: Desk, path: Any) -> None:
    """In and out: every number with its digits, every mark, every note."""
    assert desk.bring_in(path.read_text()).status_code == 200
    number = loads(path.read_text())["job"]["number"]
    out = loads(desk.client.get(f"/api/jobs/{number}/file").text)
    given = loads(path.read_text())
    for one, two in zip(given["sheets"], out["sheets"], strict=True):
        for key, value in one.items():
            assert bare(two[key]) == bare(value), key
    assert bare(given["job"]) == bare(out["job"])
    assert given["vehicle"] == out["vehicle"]


def test_own_keys_and_odd_digits_are_kept(desk: Desk) -> None:
    """x-... everywhere, 50.50 with both its zeros, a note beside a mark."""
    file = job_file([(Decimal("50.50"), Decimal("26.0")), (50, 26)])
    text = json.dumps(file, default=str).replace('"50.50"', "50.50").replace('"26.0"', "26.0")
    data = loads(text)
    data["x-shop"] = {"a": 1}
    data["job"]["x-ticket"] = Decimal("7.10")
    data["vehicle"]["x-fleet"] = "harbour"
    data["vehicle"]["injectors"][0]["x-part"] = "old"
    data["sheets"][0]["x-room"] = 2
    data["sheets"][0]["gauge"]["x-serial"] = "B-7"
    data["sheets"][0]["readings"][0] |= {"note": "read_late", "x-note": "hose kinked"}
    from plumb.jobfile.exact import dumps  # noqa: PLC0415

    assert desk.bring_in(dumps(data)).status_code == 200
    text = desk.client.get("/api/jobs/900/file").text
    out = loads(text)
    assert "50.50" in text
    assert "7.10" in text
    assert out["job"]["x-ticket"] == Decimal("7.10")
    assert out["vehicle"]["x-fleet"] == "harbour"
    assert out["vehicle"]["injectors"][0]["x-part"] == "old"
    assert out["sheets"][0]["x-room"] == 2
    assert out["sheets"][0]["gauge"]["x-serial"] == "B-7"
    first = out["sheets"][0]["readings"][0]
    assert (first["note"], first["x-note"]) == ("read_late", "hose kinked")
    assert out["x-shop"] == {"a": 1}


def test_a_preview_stores_nothing_and_a_taken_number_is_a_conflict(desk: Desk) -> None:
    """All or nothing."""
    content = json.dumps(job_file())
    seen = desk.send("/api/job-files", content, "application/json", preview=True).json()
    assert (seen["fits"], seen["stored"], seen["readings"]) == (True, False, 3)
    assert desk.client.get("/api/jobs").json() == []
    assert desk.bring_in(job_file()).json()["stored"]
    assert desk.bring_in(job_file()).status_code == 409
    bad = desk.send("/api/job-files", "{", "application/json", preview=True).json()
    assert not bad["fits"]
    assert bad["problems"]


def test_readings_from_csv_are_all_or_nothing(desk: Desk) -> None:
    """Preview, problems by place, then all at once; a taken pass is refused."""
    sheet = desk.open_job()
    path = f"/api/sheets/{sheet['id']}/csv"
    good = "injector,quantity,value\n1,first,50\n1,second,26\n2,first,50\n2,second,26.5\n"
    bad = good + "9,first,50\n9,second,20\n"
    seen = desk.send(path, bad, preview=True).json()
    assert (seen["fits"], len(seen["problems"])) == (False, 2)
    assert "line 6, injector" in seen["problems"][0]
    assert desk.send(path, bad).status_code == 422
    assert desk.client.get(f"/api/sheets/{sheet['id']}").json()["measured"] == 0
    assert desk.send(path, good).json()["stored"]
    now = desk.client.get(f"/api/sheets/{sheet['id']}").json()
    assert (now["measured"], now["version"]) == (2, 2)
    again = desk.send(path, good)
    assert again.json()["problems"][0]["code"] == "slot_taken"
    assert desk.client.get(path).text.count(",first,") == 2


def test_the_demo_is_loaded_once(engine: Engine, desk: Desk) -> None:
    """A second start changes nothing."""
    load.once(engine)
    count = len(desk.client.get("/api/jobs").json())
    load.once(engine)
    assert len(desk.client.get("/api/jobs").json()) == count == len(open_demo())


def _walk(desk: Desk, **told: Any) -> dict[str, Any]:
    """The walk-round of a new job that was opened with these words."""
    return desk.open_job(4, begin_with="walk_round", **told)


def test_what_was_told_stands_on_the_walk_round(desk: Desk) -> None:
    """Its words are chosen before anybody chose, and kept with the first tick."""
    sheet = _walk(desk, complaint="long crank when cold, misfires", codes=["P0304"])
    assert sheet["form"]["told"] == "long crank when cold, misfires"
    assert sheet["form"]["complaint"] == ["long_crank", "misfire"]
    assert sheet["form"]["codes"] == ["P0304"]
    assert sheet["measured"] == 0
    noted = desk.put(sheet, hose="dry")
    assert noted["form"]["complaint"] == ["long_crank", "misfire"]
    file = loads(desk.client.get(f"/api/jobs/{sheet['job_number']}/file").text)
    assert file["sheets"][0]["complaint"] == ["long_crank", "misfire"]
    assert file["sheets"][0]["codes"] == ["P0304"]
    cleared = desk.put(noted, complaint="")
    assert cleared["form"]["complaint"] == []


def test_a_code_alone_is_a_complaint_and_stands_everywhere(desk: Desk) -> None:
    """Noted on the walk-round it is in the job's head, on Today, and found; changed there, here too."""
    sheet = _walk(desk)
    noted = desk.put(sheet, codes="P0302 P0171")
    assert "".join(s["text"] for s in noted["headline"]) == "Noted: codes P0302 and P0171."
    number = sheet["job_number"]
    job = desk.client.get(f"/api/jobs/{number}").json()
    assert job["codes"] == ["P0302", "P0171"]
    found = desk.client.get("/api/jobs", params={"find": "p0171"}).json()
    assert [(j["number"], j["codes"]) for j in found] == [(number, ["P0302", "P0171"])]
    change = {"version": job["version"], "codes": ["157-18"]}
    assert desk.client.patch(f"/api/jobs/{number}", json=change).json()["codes"] == ["157-18"]
    assert desk.client.get(f"/api/sheets/{sheet['id']}").json()["form"]["codes"] == ["157-18"]


@pytest.mark.parametrize("code", ["P9999", "304", "P03", "XP0304", "P0304 "[:-1] + "Z", "SPN"])
def test_what_is_no_code_is_refused_in_words(desk: Desk, code: str) -> None:
    """SAE J2012: a letter P, B, C, U, a digit 0 to 3, three more; SAE J1939-73: two numbers."""
    body = {"request_id": new_id(), "vehicle_name": "Van", "codes": [code]}
    answer = desk.client.post("/api/jobs", json=body)
    assert answer.status_code == 422
    assert "a code is P, B, C or U with four digits" in answer.json()["problems"][0]["rule"]
    sheet = _walk(desk)
    put = {"version": sheet["version"], "put": {"codes": code}}
    assert desk.client.patch(f"/api/sheets/{sheet['id']}", json=put).status_code == 422


@pytest.mark.parametrize("code", ["P0304", "p0304", "U3FFF", "B1A2C-1F", "157-18"])
def test_codes_of_either_form_are_taken(desk: Desk, code: str) -> None:
    """Small letters too."""
    assert desk.open_job(4, codes=[code])["job_number"]
