"""Engines of any kind over HTTP: injectors and cylinders apart, sets, renamed, retired; the vehicle."""

import json
from typing import Any

import pytest
from tests.drivers import Desk, new_id

from plumb.jobfile.exact import loads


def seats(vehicle: dict[str, Any]) -> list[dict[str, Any]]:
    """The injectors as they are, ready to be changed."""
    return [
        {"was": i["label"], **{k: i[k] for k in ("label", "cylinder", "bank", "feed", "set_name")}}
        for i in vehicle["injectors"]
    ]


def job_of(desk: Desk, sheet: dict[str, Any]) -> dict[str, Any]:
    """The job that a sheet is on."""
    made: dict[str, Any] = desk.client.get(f"/api/jobs/{sheet['job_number']}").json()
    return made


def sheet_of(desk: Desk, sheet: dict[str, Any]) -> dict[str, Any]:
    """The sheet as it is now."""
    made: dict[str, Any] = desk.client.get(f"/api/sheets/{sheet['id']}").json()
    return made


def put_engine(desk: Desk, vehicle: dict[str, Any], status: int = 200, **change: Any) -> Any:
    """Change a vehicle and its engine."""
    body = {
        "seen": [i["label"] for i in vehicle["injectors"]], "name": vehicle["name"],
        "registration": vehicle["registration"], "distance_unit": vehicle["distance_unit"],
        "cylinders": vehicle["cylinders"], "firing_order": vehicle["firing_order"],
        "injectors": seats(vehicle), **change,
    }  # fmt: skip
    answer = desk.client.put(f"/api/vehicles/{vehicle['id']}/engine", json=body)
    assert answer.status_code == status, answer.text
    return answer.json()


@pytest.mark.parametrize(
    ("cylinders", "each", "system", "labels"),
    [
        (1, "one_each", "port", "1"),
        (12, "one_each", "port", "1 2 3 4 5 6 7 8 9 10 11 12"),
        (3, "two_each", "port", "1a 1b 2a 2b 3a 3b"),
        (4, "one_for_all", "throttle_body", "1"),
        (4, "two_for_all", "throttle_body", "1 2"),
        (2, "port_and_direct", "direct", "1P 2P"),
    ],
)
def test_an_engine_of_any_kind_in_the_new_job(
    desk: Desk, cylinders: int, each: str, system: str, labels: str
) -> None:
    """The rows of its first sheet, and as many cylinders as were told."""
    sheet = desk.open_job(cylinders, injectors=each, fuel_system=system)
    assert [r["injector"] for r in sheet["rows"]] == labels.split()
    vehicle = job_of(desk, sheet)["vehicle"]
    assert vehicle["cylinders"] == cylinders
    assert len(vehicle["injectors"]) == {"port_and_direct": 4}.get(each, len(labels.split()))


def test_sixteen_cylinders_with_two_each_can_be_measured(desk: Desk) -> None:
    """Thirty-two rows, one that gives less is found, the file goes out and comes in again."""
    sheet = desk.open_job(16, injectors="two_each")
    for row in sheet["rows"]:
        end = 32 if row["injector"] == "7b" else 26
        assert desk.type(sheet, row["injector"], f"50 {end}").status_code == 200
    verdict = job_of(desk, sheet)["verdict"]
    assert [r["injector"] for r in verdict["rows"] if r["condition"] == "gives_less"] == ["7b"]
    text = desk.client.get(f"/api/jobs/{sheet['job_number']}/file").text
    again = desk.bring_in(text.replace(f'"number": "{sheet["job_number"]}"', '"number": "881"'))
    assert again.is_success, again.text


def test_one_injector_for_all_is_asked_what_it_should_give(desk: Desk) -> None:
    """Never to be repeated; with an expected drop it is judged."""
    sheet = desk.open_job(4, injectors="one_for_all", fuel_system="throttle_body")
    alone = desk.type(sheet, "1", "12 8").json()
    assert alone["next"]["title"] == "Say what it should give"
    row = job_of(desk, sheet)["verdict"]["rows"][0]
    assert "repeat" not in row["action_words"]
    told = desk.client.patch(
        f"/api/sheets/{sheet['id']}",
        json={
            "version": alone["version"],
            "put": {"expected.drop": "6", "expected.source": "card"},
        },
    ).json()
    assert told["rows"][0]["words"] == "gives less"


def test_humps_are_noted_by_cylinder_where_one_injector_feeds_all(desk: Desk) -> None:
    """Four rows that are no injectors; a low hump comes before the injector, in CSV and file too."""
    sheet = desk.open_job(4, injectors="one_each", fuel_system="mechanical_diesel",
                          begin_with="walk_round")  # fmt: skip
    vehicle = job_of(desk, sheet)["vehicle"]
    only = [{**seats(vehicle)[0], "cylinder": 0}]
    put_engine(desk, vehicle, injectors=only)
    made = desk.client.post(
        f"/api/jobs/{sheet['job_number']}/sheets",
        json={"request_id": new_id(), "kind": "cranking_balance"},
    ).json()
    assert [r["injector"] for r in made["rows"]] == [f"cylinder {n}" for n in (1, 2, 3, 4)]
    for n, hump in enumerate((100, 101, 80, 99), 1):
        body = {"id": new_id(), "injector": f"cylinder {n}", "value": str(hump)}
        answer = desk.client.post(f"/api/sheets/{made['id']}/readings", json=body)
        assert answer.status_code == 200, answer.text
    assert [r["words"] for r in answer.json()["rows"]][2] == "weak hump"
    assert answer.json()["rows"][2]["name"] == "Cylinder 3"
    row = job_of(desk, sheet)["verdict"]["rows"][0]
    assert row["condition"] == "not_the_injector"
    assert "the hump of one of its cylinders is low" in row["evidence"]
    csv = desk.client.get(f"/api/sheets/{made['id']}/csv").text
    assert ",cylinder 3,1,value,80," in csv
    file = loads(desk.client.get(f"/api/jobs/{sheet['job_number']}/file").text)
    assert [r["cylinder"] for r in file["sheets"][-1]["readings"]] == [1, 2, 3, 4]
    file["job"]["number"] = "882"
    assert desk.bring_in(json.dumps(file, default=float)).is_success
    there = desk.client.get("/api/jobs/882").json()["verdict"]["rows"][0]
    assert there["condition"] == "not_the_injector"


def test_both_injectors_of_a_cylinder_hear_of_its_hump(desk: Desk) -> None:
    """A hump is a cylinder's: one row for the two of them."""
    sheet = desk.open_job(3, injectors="two_each", fuel_system="common_rail",
                          begin_with="cranking_balance")  # fmt: skip
    assert [r["injector"] for r in sheet["rows"]] == ["1a", "2a", "3a"]
    for label, hump in (("1a", 100), ("2a", 78), ("3a", 101)):
        body = {"id": new_id(), "injector": label, "value": str(hump)}
        assert desk.client.post(f"/api/sheets/{sheet['id']}/readings", json=body).is_success
    rows = job_of(desk, sheet)["verdict"]["rows"]
    weak = [r["injector"] for r in rows if r["condition"] == "not_the_injector"]
    assert weak == ["2a", "2b"]


def test_port_and_direct_are_never_compared_with_each_other(desk: Desk) -> None:
    """A sheet for each set; the second is asked for, and takes the other set by itself."""
    sheet = desk.open_job(4, injectors="port_and_direct", fuel_system="direct")
    assert {r["injector"][-1] for r in sheet["rows"]} == {"P"}
    for row in sheet["rows"]:
        desk.type(sheet, row["injector"], "50 26")
    job = job_of(desk, sheet)
    assert job["next"]["injectors"] == ["1D", "2D", "3D", "4D"]
    assert job["next"]["anew"]
    second = desk.client.post(
        f"/api/jobs/{sheet['job_number']}/sheets",
        json={"request_id": new_id(), "kind": "pressure_drop"},
    ).json()
    assert [r["injector"] for r in second["rows"]] == ["1D", "2D", "3D", "4D"]
    for row in second["rows"]:
        end = 38 if row["injector"] == "2D" else 30
        desk.type(second, row["injector"], f"60 {end}")
    rows = {r["injector"]: r["condition"] for r in job_of(desk, sheet)["verdict"]["rows"]}
    assert rows.pop("2D") == "gives_less"
    assert set(rows.values()) == {"sound"}
    change = {"version": sheet_of(desk, second)["version"], "put": {"set": "turbo"}}
    answer = desk.client.patch(f"/api/sheets/{second['id']}", json=change)
    assert answer.status_code == 422
    assert answer.json()["problems"][0]["rule"] == "a set of this engine: port, direct"


def test_injectors_are_renamed_moved_and_added(desk: Desk) -> None:
    """Two swap their labels, a third joins; readings stay with whom they were read on."""
    sheet = desk.open_job(2)
    desk.type(sheet, "1", "50 26")
    desk.type(sheet, "2", "50 31.5")
    vehicle = job_of(desk, sheet)["vehicle"]
    one, two = seats(vehicle)
    third = {"was": "", "label": "Cold", "cylinder": 0, "bank": "", "feed": "", "set_name": ""}
    wanted = [third, {**two, "label": "1", "bank": "B"}, {**one, "label": "2", "cylinder": 2}]
    after = put_engine(desk, vehicle, cylinders=3, injectors=wanted)
    assert [i["label"] for i in after["injectors"]] == ["Cold", "1", "2"]
    rows = {r["injector"]: r for r in sheet_of(desk, sheet)["rows"]}
    assert rows["1"]["readings"][0]["shown"] == "50.0 31.5"
    assert (rows["1"]["bank"], rows["2"]["cylinder"]) == ("B", 2)
    assert rows["Cold"]["readings"] == []


def test_who_was_read_is_retired_and_who_was_not_is_gone(desk: Desk) -> None:
    """Its sheet keeps it, a new one does not; typed again it is back, with its readings."""
    sheet = desk.open_job(3)
    for n, end in (("1", 26), ("3", 27)):
        desk.type(sheet, n, f"50 {end}")
    vehicle = job_of(desk, sheet)["vehicle"]
    after = put_engine(desk, vehicle, cylinders=1, injectors=seats(vehicle)[:1])
    assert [i["label"] for i in after["injectors"]] == ["1"]
    assert [r["injector"] for r in sheet_of(desk, sheet)["rows"]] == ["1", "3"]
    assert [r["injector"] for r in job_of(desk, sheet)["verdict"]["rows"]] == ["1"]
    fresh = desk.client.post(
        f"/api/jobs/{sheet['job_number']}/sheets",
        json={"request_id": new_id(), "kind": "coil_resistance"},
    ).json()
    assert [r["injector"] for r in fresh["rows"]] == ["1"]
    file = loads(desk.client.get(f"/api/jobs/{sheet['job_number']}/file").text)
    assert [(i["id"], i.get("retired", False)) for i in file["vehicle"]["injectors"]] == [
        ("1", False), ("3", True)
    ]  # fmt: skip
    file["job"]["number"] = "883"
    assert desk.bring_in(json.dumps(file, default=float)).is_success
    back = {"was": "", "label": "3", "cylinder": 1, "bank": "", "feed": "", "set_name": ""}
    put_engine(desk, after, injectors=[*seats(after), back])
    assert [r["injector"] for r in sheet_of(desk, fresh)["rows"]] == ["1", "3"]
    assert sheet_of(desk, sheet)["rows"][1]["readings"][0]["shown"] == "50.0 27.0"


@pytest.mark.parametrize(
    ("change", "status", "rule"),
    [
        ({"seen": ["1"]}, 409, "changed meanwhile"),
        ({"injectors": []}, 422, "at least 1"),
        ({"cylinders": 17}, 422, "16"),
        ({"cylinders": 1}, 422, "a cylinder that this engine does not have"),
        ({"firing_order": [1, 2, 2]}, 422, "names every one of 2 cylinders once"),
        ({"name": "  "}, 422, "at least 1"),
    ],
)
def test_an_engine_that_cannot_be(
    desk: Desk, change: dict[str, Any], status: int, rule: str
) -> None:
    """Said in words, and nothing changes."""
    sheet = desk.open_job(2)
    vehicle = job_of(desk, sheet)["vehicle"]
    answer = put_engine(desk, vehicle, status, **change)
    assert rule in answer["problems"][0]["rule"]
    assert job_of(desk, sheet)["vehicle"] == vehicle


def test_two_of_one_label_are_refused(desk: Desk) -> None:
    """Also one that differs in capitals alone."""
    sheet = desk.open_job(2)
    vehicle = job_of(desk, sheet)["vehicle"]
    one, two = seats(vehicle)
    said = put_engine(desk, vehicle, 422, injectors=[{**one, "label": "A"}, {**two, "label": "a"}])
    assert "differ only in capitals" in said["problems"][0]["rule"]


def test_a_suspect_keeps_its_rule_under_another_label(desk: Desk) -> None:
    """The rule that leaves a suspect out goes with the injector."""
    sheet = desk.open_job(3)
    rule = {"name": "suspect_left_out", "suspect": "2"}
    put = {"version": sheet["version"], "put": {}, "rule": rule}
    assert desk.client.patch(f"/api/sheets/{sheet['id']}", json=put).is_success
    vehicle = job_of(desk, sheet)["vehicle"]
    wanted = [{**s, "label": {"2": "Aft"}.get(s["label"], s["label"])} for s in seats(vehicle)]
    put_engine(desk, vehicle, injectors=wanted)
    assert sheet_of(desk, sheet)["rule"]["limits"]["suspect"] == "Aft"


def test_complaint_codes_and_distance_can_be_changed(desk: Desk) -> None:
    """Miles are kept as kilometres (one is 1.609344 by definition) and shown as they were typed."""
    sheet = desk.open_job(4, distance_unit="mi", distance="52000", complaint="rough idle")
    job = job_of(desk, sheet)
    assert (job["distance"], job["distance_km"]) == ("52000", "83685.888000")
    change = {"version": job["version"], "complaint": "does not start", "codes": ["P0201"],
              "distance": "52010"}  # fmt: skip
    after = desk.client.patch(f"/api/jobs/{job['number']}", json=change).json()
    assert (after["complaint"], after["codes"], after["distance"]) == (
        "does not start", ["P0201"], "52010"
    )  # fmt: skip
    assert not sheet_of(desk, sheet)["starts"]
    none = desk.client.patch(f"/api/jobs/{job['number']}", json={"distance": ""}).json()
    assert none["distance"] == ""
    wrong = desk.client.patch(f"/api/jobs/{job['number']}", json={"distance": "far"})
    assert wrong.status_code == 422


def test_an_empty_sheet_and_an_empty_job_can_be_taken_away(desk: Desk) -> None:
    """What was noted on, taken back included, is kept."""
    sheet = desk.open_job(2)
    number = sheet["job_number"]
    extra = desk.client.post(
        f"/api/jobs/{number}/sheets", json={"request_id": new_id(), "kind": "coil_resistance"}
    ).json()
    assert desk.client.delete(f"/api/sheets/{extra['id']}").status_code == 204
    assert desk.client.get(f"/api/sheets/{extra['id']}").status_code == 404
    reading = new_id()
    desk.client.post(f"/api/sheets/{sheet['id']}/readings",
                     json={"id": reading, "injector": "1", "first": "50", "second": "26"})  # fmt: skip
    assert desk.client.delete(f"/api/sheets/{sheet['id']}").status_code == 409
    taken_back = desk.client.delete(f"/api/sheets/{sheet['id']}/readings/{reading}")
    assert taken_back.is_success
    assert desk.client.delete(f"/api/sheets/{sheet['id']}").status_code == 409
    assert desk.client.delete(f"/api/jobs/{number}").status_code == 409
    other = desk.open_job(2)
    assert desk.client.delete(f"/api/jobs/{other['job_number']}").status_code == 204
    assert desk.client.get(f"/api/jobs/{other['job_number']}").status_code == 404
    assert [j["number"] for j in desk.client.get("/api/jobs").json()] == [number]


def test_an_opened_empty_sheet_can_be_set_aside(desk: Desk) -> None:
    """It stands crossed out on the route with its reason, and can be taken up by typing on it."""
    sheet = desk.open_job(2)
    number = sheet["job_number"]
    aside = {"aside": {"kind": "pressure_drop", "reason": "no gauge that fits"}}
    job = desk.client.patch(f"/api/jobs/{number}", json=aside).json()
    knot = next(k for k in job["route"] if k["kind"] == "pressure_drop")
    assert (knot["state"], knot["sub"], knot["empty"]) == ("aside", "no gauge that fits", True)
    desk.type(sheet, "1", "50 26")
    knot = next(k for k in job_of(desk, sheet)["route"] if k["kind"] == "pressure_drop")
    assert knot["state"] != "aside"


def test_a_repeat_is_taken_as_the_one_before_and_says_what_it_comes_after(desk: Desk) -> None:
    """After cleaning: number, reason, the same burst; whom it did not read is carried over."""
    sheet = desk.open_job(4)
    put = {"version": sheet["version"], "put": {"burst.pulses": "50", "burst.on_ms": "10"}}
    assert desk.client.patch(f"/api/sheets/{sheet['id']}", json=put).is_success
    for n, end in enumerate((26, 26.5, 26, 32), 1):
        for _ in range(2):
            desk.type(sheet, str(n), f"50 {end}")
    repeat = job_of(desk, sheet)["repeat"]
    assert (repeat["kind"], repeat["injectors"], repeat["when"]) == (
        "pressure_drop", ["4"], "after_cleaning"
    )  # fmt: skip
    body = {"request_id": new_id(), "kind": repeat["kind"], "when": repeat["when"],
            "because": repeat["reason"], "injectors": repeat["injectors"]}  # fmt: skip
    second = desk.client.post(f"/api/jobs/{sheet['job_number']}/sheets", json=body).json()
    assert (second["again"]["words"], second["again"]["reason"]) == ("2nd", "after cleaning")
    assert second["carried"] == ""
    assert [r["injector"] for r in second["rows"] if not r["spared"]] == ["4"]
    for _ in range(2):
        desk.type(second, "4", "50 26")
    there = sheet_of(desk, second)
    assert there["carried"] == "Carried over: 1, 2 and 3 from s1, just before."
    assert there["measured"] == 1
    assert there["rows"][0]["cells"] == ["50.0", "26.0", "24.0"]
    assert there["rows"][0]["under"] == "carried over from s1, just before"
    job = job_of(desk, sheet)
    assert {r["condition"] for r in job["verdict"]["rows"]} == {"sound"}
    assert job["next"] is None or job["next"]["kind"] != "pressure_drop"
    assert ("more to measure" in job["verdict"]["sub"]) == (job["next"] is not None)
    knots = [k for k in job["route"] if k["kind"] == "pressure_drop"]
    assert [k["state"] for k in knots] == ["done", "done"]
    assert [k["again"] and k["again"]["number"] for k in knots] == [None, 2]


def test_what_an_engine_that_does_not_start_cannot_do_is_said_on_its_route(desk: Desk) -> None:
    """Corrections need it to idle; the others can be begun."""
    sheet = desk.open_job(
        4, fuel_system="common_rail", begin_with="walk_round", complaint="does not start"
    )
    subs = {k["kind"]: k["sub"] for k in job_of(desk, sheet)["route"]}
    assert subs["correction"] == "needs an engine that idles"
    assert "idles" not in subs["return_volume"] + subs["rail_pressure"]
    begun = desk.client.post(
        f"/api/jobs/{sheet['job_number']}/sheets",
        json={"request_id": new_id(), "kind": "return_volume"},
    ).json()
    assert next(k["value"] for k in begun["knobs"] if k["name"] == "Spell").startswith("cranking")


def test_a_boosted_engine_and_its_hours(desk: Desk) -> None:
    """A launch counts hours, as typed; under boost the lean one comes first on the verdict; the file brings both back."""
    sheet = desk.open_job()
    number = sheet["job_number"]
    vehicle = put_engine(desk, job_of(desk, sheet)["vehicle"], boosted=True, distance_unit="h")
    assert (vehicle["boosted"], vehicle["distance_unit"]) == (True, "h")
    desk.client.patch(f"/api/jobs/{number}", json={"distance": "1250.5"})
    for n, figures in zip("1234", ("50 26", "50 26.5", "50 33", "50 26"), strict=True):
        desk.type(sheet, n, figures)
    job = job_of(desk, sheet)
    assert job["distance"] == "1250.5"
    assert job["verdict"]["advice"][0]["title"] == "Boosted, and lean on 3"
    file = desk.client.get(f"/api/jobs/{number}/file").json()
    assert (file["vehicle"]["boosted"], file["vehicle"]["distance_unit"]) == (True, "h")
    file["job"]["number"] = "902"
    file["vehicle"]["registration"] = "SM-L9"
    assert desk.bring_in(file).status_code == 200
    back = desk.client.get("/api/jobs/902").json()
    assert (back["distance"], back["vehicle"]["boosted"]) == ("1250.5", True)


def test_humps_told_by_eye(desk: Desk) -> None:
    """One press says that all are even, or whose is low; a cylinder that is not there is refused."""
    sheet = desk.open_job(fuel_system="common_rail", begin_with="cranking_balance")
    assert sheet["form"]["looked"] is False
    sheet = desk.put(sheet, **{"by_eye.looked": "yes"})
    assert [r["words"] for r in sheet["rows"]] == ["even"] * 4
    assert (sheet["form"]["looked"], sheet["measured"]) == (True, 4)
    sheet = desk.put(sheet, **{"by_eye.low": "3"})
    assert [r["words"] for r in sheet["rows"]] == ["even", "even", "weak hump", "even"]
    body = {"version": sheet["version"], "put": {"by_eye.low": "7"}}
    answer = desk.client.patch(f"/api/sheets/{sheet['id']}", json=body)
    assert answer.status_code == 422
    file = desk.client.get(f"/api/jobs/{sheet['job_number']}/file").json()
    assert file["sheets"][0]["by_eye"] == {"looked": True, "low": [3]}
    sheet = desk.put(sheet, **{"by_eye.looked": "", "by_eye.low": ""})
    assert [r["words"] for r in sheet["rows"]] == [""] * 4
