"""Sheets over HTTP: readings kept at once, slips asked about, versions, taking back."""

import threading
from typing import Any

import pytest
from fastapi.testclient import TestClient
from tests.drivers import Desk, new_id


def state(client: TestClient, sheet: dict[str, Any], **query: str) -> dict[str, Any]:
    """The sheet as it is now."""
    made: dict[str, Any] = client.get(f"/api/sheets/{sheet['id']}", params=query).json()
    return made


def knob(sheet: dict[str, Any], name: str) -> str:
    """What a condition of the sheet shows."""
    return str(next(k["value"] for k in sheet["knobs"] if k["name"] == name))


def test_a_reading_is_kept_and_the_new_state_comes_back(desk: Desk) -> None:
    """One call."""
    sheet = desk.open_job()
    for injector, figures in zip("1234", ("50 26", "50.5 26.5", "50 31.5", "50 26"), strict=True):
        answer = desk.type(sheet, injector, figures)
        assert answer.status_code == 200
    made = answer.json()
    assert [r["state"] for r in made["rows"]] == ["in_plumb", "in_plumb", "low", "in_plumb"]
    assert made["version"] == sheet["version"] + 4
    assert made["rows"][1]["readings"][0]["first_typed"] == "50.5"
    assert state(desk.client, sheet) == made


@pytest.mark.parametrize(
    ("figures", "code", "suggestion", "confirmable"),
    [
        ("26 50", "swapped", "50 26", False),
        ("500 26", "point_missing", "50 26", True),
        ("50.3 26", "off_step", "", True),
        ("50 50.5", "rise", "", True),
    ],
)
def test_a_slip_is_asked_about_and_never_stored(
    desk: Desk,
    figures: str,
    code: str,
    suggestion: str,
    confirmable: bool,  # noqa: FBT001
) -> None:
    """422 with the question; "I meant it" stores it where that can be."""
    sheet = desk.open_job()
    answer = desk.type(sheet, "1", figures)
    problem = answer.json()["problems"][0]
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"
    assert (problem["code"], problem["suggestion"], problem["confirmable"]) == (
        code, suggestion, confirmable)  # fmt: skip
    assert state(desk.client, sheet)["measured"] == 0
    again = desk.type(sheet, "1", figures, confirmed=[code])
    assert (again.status_code == 200) is confirmable


def test_the_same_id_again_changes_nothing(desk: Desk) -> None:
    """A browser that did not hear the answer sends it again."""
    sheet = desk.open_job()
    body = {"id": new_id(), "injector": "1", "first": "50", "second": "26"}
    path = f"/api/sheets/{sheet['id']}/readings"
    first = desk.client.post(path, json=body).json()
    again = desk.client.post(path, json=body)
    assert again.json() == first
    other = desk.client.post(path, json={**body, "second": "27"})
    assert (other.status_code, other.json()["problems"][0]["code"]) == (409, "id_taken")


def test_a_late_repeat_does_not_raise_what_was_taken_back(desk: Desk) -> None:
    """Typed, taken back, and the lost first request arrives again: it stays taken back."""
    sheet = desk.open_job()
    body = {"id": new_id(), "injector": "1", "first": "50", "second": "26"}
    path = f"/api/sheets/{sheet['id']}/readings"
    desk.client.post(path, json=body)
    desk.client.delete(f"{path}/{body['id']}")
    assert desk.client.post(path, json=body).json()["measured"] == 0


def test_two_people_on_one_pass_are_told(desk: Desk) -> None:
    """The second is not lost and does not overwrite: 409 with what is there."""
    sheet = desk.open_job()
    desk.type(sheet, "1", "50 26", pass_number=1)
    second = desk.type(sheet, "1", "50 31", pass_number=1)
    assert second.status_code == 409
    assert second.json()["problems"][0]["value"] == "50 26"
    third = desk.type(sheet, "1", "50 26.5")
    assert [r["pass_number"] for r in third.json()["rows"][0]["readings"]] == [1, 2]


def test_at_the_same_moment_each_gets_a_pass_of_its_own(desk: Desk) -> None:
    """Eight bursts at once on one injector: eight passes, none lost."""
    sheet = desk.open_job()
    codes: list[int] = []
    threads = [
        threading.Thread(target=lambda: codes.append(desk.type(sheet, "1", "50 26").status_code))
        for _ in range(8)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert codes == [200] * 8
    there = desk.client.get(f"/api/sheets/{sheet['id']}/rows/1/readings").json()
    passes = [r["pass_number"] for r in there]
    assert sorted(passes) == list(range(1, 9))


def test_a_correction_replaces_and_can_be_taken_back(desk: Desk) -> None:
    """Taking the correction back brings the corrected one into force again."""
    sheet = desk.open_job()
    old = desk.type(sheet, "1", "50 31").json()["rows"][0]["readings"][0]["id"]
    made = desk.type(sheet, "1", "50 26", replaces=old).json()["rows"][0]["readings"]
    assert [(r["shown"], r["pass_number"]) for r in made] == [("50.0 26.0", 1)]
    path = f"/api/sheets/{sheet['id']}/readings/{made[0]['id']}"
    back = desk.client.delete(path).json()["rows"][0]["readings"]
    assert [r["id"] for r in back] == [old]
    assert desk.client.delete(path).json()["rows"][0]["readings"] == back


def test_correcting_what_is_gone_is_a_conflict(desk: Desk) -> None:
    """Someone took it back meanwhile."""
    sheet = desk.open_job()
    answer = desk.type(sheet, "1", "50 26", replaces=new_id())
    assert (answer.status_code, answer.json()["problems"][0]["code"]) == (409, "gone")


def test_no_response_needs_no_figure(desk: Desk) -> None:
    """X."""
    sheet = desk.open_job()
    body = {"id": new_id(), "injector": "2", "mark": "none", "sound": "none"}
    answer = desk.client.post(f"/api/sheets/{sheet['id']}/readings", json=body)
    assert answer.json()["rows"][1]["state"] == "no_response"


@pytest.mark.parametrize(
    ("body", "path"),
    [
        ({"injector": "9", "first": "50", "second": "26"}, "injector"),
        ({"injector": "1", "first": "50"}, "second"),
        ({"injector": "1", "first": "fifty", "second": "26"}, "first"),
        ({"injector": "1", "first": "50", "second": "26", "colour": "red"}, "colour"),
        ({"injector": "1", "first": "50", "second": "26", "mark": "none"}, "second"),
        ({"injector": "1", "first": "-5", "second": "-9"}, "first"),
    ],
)
def test_what_does_not_fit_is_named(desk: Desk, body: dict[str, str], path: str) -> None:
    """Path in the problem; nothing stored."""
    sheet = desk.open_job()
    answer = desk.client.post(f"/api/sheets/{sheet['id']}/readings", json={"id": new_id(), **body})
    assert answer.status_code == 422
    assert path in [p["path"] for p in answer.json()["problems"]]
    assert state(desk.client, sheet)["measured"] == 0


def test_an_older_view_never_overwrites_a_newer_one(desk: Desk) -> None:
    """Conditions carry the version that was seen."""
    sheet = desk.open_job()
    path = f"/api/sheets/{sheet['id']}"
    change = {"version": 1, "put": {"burst.pulses": "60", "burst.on_ms": "10"}}
    assert knob(desk.client.patch(path, json=change).json(), "Burst") == "60 × 10 ms"
    stale = desk.client.patch(path, json={"version": 1, "put": {"burst.pulses": "40"}})
    assert (stale.status_code, stale.json()["problems"][0]["code"]) == (409, "newer_there")
    assert knob(state(desk.client, sheet), "Burst") == "60 × 10 ms"


def test_conditions_are_kept_as_typed_and_change_the_verdict(desk: Desk) -> None:
    """A coarser gauge unsettles what a fine one had settled; another rule decides otherwise."""
    sheet = desk.open_job()
    for injector, figures in zip("1234", ("50 26", "50 26", "50 30", "50 26"), strict=True):
        made = desk.type(sheet, injector, figures).json()
    assert made["rows"][2]["state"] == "low"
    path = f"/api/sheets/{sheet['id']}"
    coarse = {"name": "dial", "unit": "psi", "step": "2.0"}
    made = desk.client.patch(path, json={"version": made["version"], "gauge": coarse}).json()
    assert made["gauge"]["step"] == "2.0"
    assert made["rows"][2]["state"] == "unsettled"
    ruled = {"name": "plain_mean", "limit": "1.5", "source": "shop sheet 7"}
    made = desk.client.patch(path, json={"version": made["version"], "rule": ruled}).json()
    assert made["rows"][2]["state"] == "low"
    assert made["rule"]["limits"] == {"limit": "1.5"}
    assert next(r for r in made["rules"] if r["chosen"])["source"] == "shop sheet 7"


def test_another_unit_needs_an_empty_sheet(desk: Desk) -> None:
    """Figures typed in psi do not become bar by a click."""
    sheet = desk.open_job()
    bar = {"name": "D", "unit": "bar", "step": "0.02"}
    path = f"/api/sheets/{sheet['id']}"
    assert desk.client.patch(path, json={"version": 1, "gauge": bar}).json()["unit"] == "bar"
    sheet = desk.open_job()
    desk.type(sheet, "1", "50 26")
    refused = desk.client.patch(f"/api/sheets/{sheet['id']}", json={"version": 2, "gauge": bar})
    assert refused.json()["problems"][0]["code"] == "has_readings"


def test_expected_drop_settles_a_split(desk: Desk) -> None:
    """And can be taken away again."""
    sheet = desk.open_job()
    for injector, figures in zip("1234", ("40 32", "40 28", "40 28", "40 32"), strict=True):
        made = desk.type(sheet, injector, figures).json()
    assert made["split"]
    path = f"/api/sheets/{sheet['id']}"
    card = {
        "put": {"expected.drop": "12", "expected.source": "card"}, "version": made["version"],
    }  # fmt: skip
    made = desk.client.patch(path, json=card).json()
    assert [r["state"] for r in made["rows"]] == ["low", "in_plumb", "in_plumb", "low"]
    made = desk.client.patch(
        path, json={"version": made["version"], "put": {"expected.drop": ""}}
    ).json()
    assert made["split"]


@pytest.mark.parametrize(("unit", "first"), [("kPa", "345"), ("bar", "3.45"), ("psi", "50.0")])
def test_shown_in_another_unit(desk: Desk, unit: str, first: str) -> None:
    """Digits as far as the gauge tells; what was typed stays."""
    sheet = desk.open_job()
    desk.type(sheet, "1", "50 26")
    reading = state(desk.client, sheet, unit=unit)["rows"][0]["readings"][0]
    assert (reading["shown"].split()[0], reading["first_typed"]) == (first, "50")


def test_a_browser_that_has_this_version_is_not_sent_it_again(desk: Desk) -> None:
    """304, until something changes."""
    sheet = desk.open_job()
    path = f"/api/sheets/{sheet['id']}"
    tag = desk.client.get(path).headers["etag"]
    assert desk.client.get(path, headers={"If-None-Match": tag}).status_code == 304
    desk.type(sheet, "1", "50 26")
    assert desk.client.get(path, headers={"If-None-Match": tag}).status_code == 200


def test_the_working_names_its_sources(desk: Desk) -> None:
    """Every figure of the set and of each measured injector."""
    sheet = desk.open_job()
    for injector in "1234":
        desk.type(sheet, injector, "50 26")
    working = desk.client.get(f"/api/sheets/{sheet['id']}/working").json()
    assert set(working["injectors"]) == set("1234")
    sources = " ".join(line["source"] for line in working["shared"])
    assert "JCGM 100" in sources


def test_a_row_shows_its_newest_readings_and_all_of_them_on_request(desk: Desk) -> None:
    """The answer to a save does not grow with the passes."""
    sheet = desk.open_job(2)
    size = {}
    for n in range(1, 13):
        answer = desk.type(sheet, "1", f"50 {20 + n / 2}")
        size[n] = len(answer.content)
    row = answer.json()["rows"][0]
    assert (row["count"], row["figures"], row["last_pass"]) == (12, 12, 12)
    assert [r["pass_number"] for r in row["readings"]] == [9, 10, 11, 12]
    assert size[12] < size[4] * 1.2
    path = f"/api/sheets/{sheet['id']}/rows"
    passes = desk.client.get(f"{path}/1/readings").json()
    assert [r["second_typed"] for r in passes] == [f"{20 + n / 2}" for n in range(1, 13)]
    assert desk.client.get(f"{path}/2/readings").json() == []
    kpa = desk.client.get(f"{path}/1/readings", params={"unit": "kPa"}).json()
    assert kpa[0]["shown"].startswith("345")
    assert desk.client.get(f"{path}/9/readings").status_code == 404


def test_pass_one_hundred_is_refused_with_words(desk: Desk) -> None:
    """And the ninety-nine stay as they are, in the sheet and in the file."""
    sheet = desk.open_job(2)
    rows = "injector,pass,quantity,value\n" + "".join(
        f"1,{n},first,50\n1,{n},second,26\n" for n in range(1, 100)
    )
    assert desk.send(f"/api/sheets/{sheet['id']}/csv", rows).json()["stored"]
    answer = desk.type(sheet, "1", "50 26")
    assert answer.status_code == 422
    assert "99 passes" in answer.json()["problems"][0]["rule"]
    assert desk.type(sheet, "2", "50 26").status_code == 200
    assert desk.client.get(f"/api/jobs/{sheet['job_number']}/file").status_code == 200


def test_a_unit_typed_with_the_figures_is_read_and_kept(desk: Desk) -> None:
    """Shown in the gauge's unit; what was typed goes with the job's file; sent twice it is one."""
    sheet = desk.open_job()
    reading = {"id": new_id(), "injector": "1", "first": "3.45bar", "second": "1.79 bar"}
    path = f"/api/sheets/{sheet['id']}/readings"
    for _ in range(2):
        answer = desk.client.post(path, json=reading)
        assert answer.status_code == 200, answer.text
    row = answer.json()["rows"][0]
    assert [r["shown"] for r in row["readings"]] == ["50.04 25.96"]
    file = desk.client.get(f"/api/jobs/{sheet['job_number']}/file").json()
    kept = file["sheets"][0]["readings"][0]
    assert (kept["first"], kept["x-typed"]) == (50.04, "3.45bar, 1.79 bar")


@pytest.mark.parametrize("first", ["-50", "1e3", "12V", "50 26"])
def test_what_is_no_pressure_is_refused_with_words(desk: Desk, first: str) -> None:
    """Nothing of it is swallowed, and nothing is stored."""
    sheet = desk.open_job()
    answer = desk.client.post(
        f"/api/sheets/{sheet['id']}/readings",
        json={"id": new_id(), "injector": "1", "first": first, "second": "26"},
    )
    assert answer.status_code == 422
    assert answer.json()["problems"][0]["path"] == "first"
    assert desk.client.get(f"/api/sheets/{sheet['id']}").json()["measured"] == 0


def test_a_pass_goes_altogether_or_only_its_last_change(desk: Desk) -> None:
    """Taken back, what was corrected stands again; taken back altogether, the pass is gone."""
    sheet = desk.open_job()
    path = f"/api/sheets/{sheet['id']}/readings"
    ids = [new_id() for _ in range(3)]
    for reading, second, replaces in zip(ids, ("26", "27", "28"), (None, *ids), strict=False):
        body = {
            "id": reading,
            "injector": "1",
            "first": "50",
            "second": second,
            "replaces": replaces,
        }
        assert desk.client.post(path, json=body).status_code == 200
    row = desk.client.delete(f"{path}/{ids[2]}").json()["rows"][0]
    assert [r["second_typed"] for r in row["readings"]] == ["27"]
    row = desk.client.delete(f"{path}/{ids[1]}", params={"altogether": True}).json()["rows"][0]
    assert row["readings"] == []


@pytest.mark.parametrize(
    ("kind", "system", "put", "said"),
    [
        ("supply_pressure", "port", {"windows.key_on.low": "48", "windows.key_on.high": "41"},
         "Key on: low 48 is above high 41"),
        ("coil_resistance", "port", {"window.low": "14", "window.high": "14"},
         "Window: low 14 is the same as high 14"),
        ("coil_resistance", "port", {"window.from_c": "40", "window.to_c": "10"},
         "from 40 °C is above to 10 °C"),
        ("pressure_drop", "port", {"engine.temperature_c": "900"},
         "Engine temperature: at most 200"),
        ("pressure_drop", "port", {"supply_v": "0"}, "Supply of the tester: above 0"),
        ("pressure_drop", "port", {"burst.pulses": "2.5"}, "Pulses: a whole number"),
        ("pressure_drop", "port", {"supply_v": "much"}, "Supply of the tester: "),
        ("hold", "port", {"window.lost_at_most": "5"},
         "a largest loss needs the seconds within which it holds"),
    ],
)  # fmt: skip
def test_conditions_that_cannot_be_are_told_by_the_words_of_the_screen(
    desk: Desk, kind: str, system: str, put: dict[str, str], said: str
) -> None:
    """By the name that stands beside the field; never by a key of the file."""
    sheet = desk.open_job(4, begin_with=kind, fuel_system=system)
    answer = desk.client.patch(
        f"/api/sheets/{sheet['id']}", json={"version": sheet["version"], "put": put}
    )
    assert answer.status_code == 422
    detail = answer.json()["detail"]
    assert said in detail
    assert not any(part in detail for part in ("_", "Input should", "window"))


def test_a_meters_accuracy_is_told_as_meters_tell_it(desk: Desk) -> None:
    """Per cent and counts, with what the leads add."""
    sheet = desk.open_job(4, begin_with="coil_resistance")
    put = {"gauge.lead": "0.2", "gauge.percent": "0.8", "gauge.counts": "2"}
    told = desk.client.patch(
        f"/api/sheets/{sheet['id']}", json={"version": sheet["version"], "put": put}
    ).json()
    assert (
        next(k["value"] for k in told["knobs"] if k["name"] == "Leads")
        == "0.2 ohm, ±0.8 % + 2 counts"
    )


def test_a_coil_without_a_temperature_is_as_read(desk: Desk) -> None:
    """No figure stands under 20 °C where nobody noted how warm it was."""
    sheet = desk.open_job(4, begin_with="coil_resistance")
    body = {"id": new_id(), "injector": "1", "value": "14.2"}
    told = desk.client.post(f"/api/sheets/{sheet['id']}/readings", json=body).json()
    assert told["rows"][0]["cells"] == ["14.2", ""]
    assert "20 °C" not in told["rows"][0]["because"]


def test_the_testers_volts_stay_with_the_reading(desk: Desk) -> None:
    """9.8 V while 3 was dead, 12.6 V when it was read again: each keeps its own, and 3 is good."""
    sheet = desk.put(desk.open_job(4), supply_v="9.8")
    for label in ("1", "2", "4"):
        desk.type(sheet, label, "50 26").raise_for_status()
    silent = {"id": new_id(), "injector": "3", "mark": "none"}
    desk.client.post(f"/api/sheets/{sheet['id']}/readings", json=silent).raise_for_status()
    sheet = desk.client.get(f"/api/sheets/{sheet['id']}").json()
    sheet = desk.put(sheet, supply_v="12.6")
    again = desk.type(sheet, "3", "50 26", pass_number=2)
    assert again.status_code == 200, again.text
    rows = {r["injector"]: r for r in again.json()["rows"]}
    assert [r["supply_v"] for r in rows["3"]["readings"]] == ["9.8", "12.6"]
    assert rows["3"]["words"] == rows["1"]["words"]
    # A note is no new burst: it keeps what the burst was taken with.
    noted = rows["1"]["readings"][0]["id"]
    answer = desk.type(sheet, "1", "50 26", replaces=noted, note="hose kinked")
    assert answer.status_code == 200, answer.text
    one = next(r for r in answer.json()["rows"] if r["injector"] == "1")
    assert [r["supply_v"] for r in one["readings"]] == ["9.8"]
    file = desk.client.get(f"/api/jobs/{sheet['job_number']}/file").json()
    kept = {(r["injector"], r["pass"]): r["supply_v"] for r in file["sheets"][0]["readings"]}
    assert (kept["3", 1], kept["3", 2], kept["1", 1]) == (9.8, 12.6, 9.8)
    file["job"]["number"] = "978"
    assert desk.bring_in(file).status_code == 200
    back = desk.client.get("/api/jobs/978/file").json()
    assert back["sheets"][0]["readings"] == file["sheets"][0]["readings"]
