"""No file may poison the shop: odd numbers, names, figures, times, and what goes out to spreadsheets."""

import csv
import io
import json
from copy import deepcopy
from typing import Any

import pytest
from sqlalchemy import Engine
from tests.drivers import Desk, load_demo, new_id

from plumb.jobfile.plaincells import meant, plain_cell

FILE: dict[str, Any] = {
    "plumb": 1,
    "job": {"number": "77"},
    "vehicle": {
        "name": "Torvik Lundy 1.8",
        "fuel_system": "port",
        "injectors": [{"id": "1", "cylinder": 1}, {"id": "2", "cylinder": 2}],
    },
    "sheets": [
        {
            "kind": "pressure_drop",
            "id": "s1",
            "taken": "2026-05-12T09:10:00+02:00",
            "unit": "psi",
            "gauge": {"step": 0.5},
            "readings": [{"injector": "1", "first": 50, "second": 26}],
        }
    ],
}


def _file(path: str, value: object) -> dict[str, Any]:
    """The file with one value put in another's place."""
    made = deepcopy(FILE)
    at: Any = made
    *way, last = [int(p) if p.isdecimal() else p for p in path.split(".")]
    for part in way:
        at = at[part]
    at[last] = value
    return made


def test_a_huge_number_that_came_in_ends_nothing(desk: Desk) -> None:
    """The shop counts for itself, past what it finds there."""
    for number in ("999999999999", "2", "3", "1e9"):
        assert desk.bring_in(_file("job.number", number)).status_code == 200, number
    assert [desk.open_job()["job_number"] for _ in range(3)] == ["1", "4", "5"]
    none = desk.bring_in(_file("job", {})).json()
    assert none["job_number"] == "6"
    seen = desk.send("/api/job-files", json.dumps(_file("job", {})), "application/json",
                     preview=True)  # fmt: skip
    assert seen.json()["job_number"] == "7"
    assert desk.open_job()["job_number"] == "7"


def test_the_demo_goes_on_counting_after_its_jobs(desk: Desk, engine: Engine) -> None:
    """Its numbers are the shop's own."""
    load_demo(engine)
    numbers = [
        int(j["number"]) for j in desk.client.get("/api/jobs", params={"closed": True}).json()
    ]
    assert int(desk.open_job()["job_number"]) == max(numbers) + 1


REFUSED = [
    ("job.number", "26/115"),
    ("job.number", ".."),
    ("job.number", "."),
    ("job.number", " 7"),
    ("job.number", "7 "),
    ("job.number", "a\u2028b"),
    ("job.number", "a\u0000"),
    ("sheets.0.id", "s/1"),
    ("vehicle.injectors.0.id", "../1"),
    ("vehicle.injectors.0.id", "="),
    ("sheets.0.gauge.step", 0),
    ("sheets.0.taken", "0001-01-01T00:00:00+02:00"),
    ("sheets.0.taken", "9999-12-31T23:59:59-02:00"),
    ("job.opened", "0001-01-01T00:00:00+02:00"),
    ("job.opened", "9999-12-31T23:59:59-02:00"),
]


@pytest.mark.parametrize(("path", "value"), REFUSED)
def test_odd_names_and_times_are_refused_with_place_and_rule(
    desk: Desk, path: str, value: object
) -> None:
    """Nothing is stored."""
    answer = desk.bring_in(_file(path, value))
    assert answer.status_code == 422
    shown = path.replace(".0", "[0]")
    assert answer.json()["problems"][0]["path"] in {shown, shown.rpartition(".")[0]}
    assert answer.json()["problems"][0]["rule"]
    assert desk.client.get("/api/jobs").json() == []


@pytest.mark.parametrize("number", ["26-115", "A 7", "Ä12", "26.115", "a_b", "x+y"])
def test_other_numbers_can_be_opened(desk: Desk, number: str) -> None:
    """Every number that is taken in has an address."""
    assert desk.bring_in(_file("job.number", number)).status_code == 200
    assert desk.client.get(f"/api/jobs/{number}").json()["number"] == number


FIGURES = {
    "forty-one digits": "1" * 41,
    "a step that is none": "1e-400",
    "beyond all": "1e999999999",
    "too fine": "0." + "0" * 30 + "1",
    "a long fraction": "0." + "3" * 60,
}


@pytest.mark.parametrize("name", FIGURES)
def test_figures_no_instrument_shows_are_refused_everywhere(desk: Desk, name: str) -> None:
    """In a file, in CSV, typed, and as a gauge's step."""
    figure = FIGURES[name]
    for path in ("sheets.0.gauge.step", "sheets.0.readings.0.first", "vehicle.distance_km"):
        text = json.dumps(_file(path, "FIGURE")).replace('"FIGURE"', figure)
        answer = desk.bring_in(text)
        assert answer.status_code == 422, path
        assert "a figure" in answer.json()["problems"][0]["rule"]
    sheet = desk.open_job()
    rows = f"injector,quantity,value\n1,first,{figure}\n1,second,20\n"
    assert desk.send(f"/api/sheets/{sheet['id']}/csv", rows).status_code == 422
    assert desk.type(sheet, "1", f"{figure} 20").status_code == 422
    gauge = {"name": "dial A", "unit": "psi", "step": figure}
    assert desk.client.post("/api/gauges", json=gauge).status_code == 422


def test_names_that_differ_only_in_capitals_are_refused(desk: Desk) -> None:
    """Nobody could say which one was meant; accents are another letter."""
    pair = [{"id": "a", "cylinder": 1}, {"id": "A", "cylinder": 2}]
    answer = desk.bring_in(_file("vehicle.injectors", pair))
    assert answer.status_code == 422
    assert "capitals" in answer.json()["problems"][0]["rule"]
    twice = _file("sheets", [{**FILE["sheets"][0], "id": i} for i in ("s1", "S1")])
    assert "capitals" in desk.bring_in(twice).json()["problems"][0]["rule"]
    pair = [{"id": "1", "cylinder": 1}, {"id": "e", "cylinder": 2}, {"id": "é", "cylinder": 3}]
    assert desk.bring_in(_file("vehicle.injectors", pair)).status_code == 200


def test_half_a_character_is_refused_wherever_it_comes(desk: Desk) -> None:
    """Typed, in a file, in an address."""
    sheet = desk.open_job()
    body = json.dumps({"id": new_id(), "injector": "1", "first": "5", "second": "2"})
    head = {"content-type": "application/json"}
    for key in ("injector", "note", "word", "first"):
        sent = json.dumps({**json.loads(body), key: "\ud800"})
        answer = desk.client.post(f"/api/sheets/{sheet['id']}/readings", content=sent, headers=head)
        assert answer.status_code == 422, key
        assert answer.json()["problems"][0]["path"] == key
    assert desk.client.get("/api/jobs/%ed%a0%80").status_code == 404
    assert desk.client.get("/api/jobs", params={"find": "\ufffd\u0000x"}).status_code == 200


RISKY = ["=1+1", "+49 4321", "-x", "@SUM(A1)", "'=1", "''@x", "\tx"]


@pytest.mark.parametrize("note", RISKY)
def test_csv_carries_no_formula_and_loses_nothing(desk: Desk, note: str) -> None:
    """A text that a spreadsheet would run goes out quoted and comes back as it was."""
    made = _file("sheets.0.readings.0.note", note.strip())
    made["job"]["number"] = new_id()[:8]
    number = desk.bring_in(made).json()["job_number"]
    route = desk.client.get(f"/api/jobs/{number}").json()["route"]
    sheet_id = next(k["sheet_id"] for k in route if k["sheet_id"])
    text = desk.client.get(f"/api/sheets/{sheet_id}/csv").text
    for row in csv.reader(io.StringIO(text)):
        for cell in row:
            assert cell[:1] not in tuple("=+-@\t\r"), row
    assert meant(plain_cell(note)) == note
    other = desk.open_job(2)
    assert desk.send(f"/api/sheets/{other['id']}/csv", _retargeted(text)).status_code == 200
    again = desk.client.get(f"/api/sheets/{other['id']}/csv").text
    assert note.strip() in [meant(row[8]) for row in csv.reader(io.StringIO(again))]


def _retargeted(text: str) -> str:
    """The same rows for another sheet."""
    rows = list(csv.reader(io.StringIO(text)))
    out = io.StringIO()
    writer = csv.writer(out)
    for row in rows:
        writer.writerow(row[2:])
    return out.getvalue()


def test_figures_go_out_as_numbers(desk: Desk) -> None:
    """Also the ones below zero."""
    assert [plain_cell(c) for c in ("-0.5", "+14", "26,5", "-1e3", ".5")] == [
        "-0.5", "+14", "26,5", "-1e3", ".5",
    ]  # fmt: skip
    sheet = desk.open_job(fuel_system="common_rail", begin_with="correction")
    body = {"id": new_id(), "injector": "1", "value": "-0.5"}
    assert desk.client.post(f"/api/sheets/{sheet['id']}/readings", json=body).status_code == 200
    text = desk.client.get(f"/api/sheets/{sheet['id']}/csv").text
    assert "-0.5" in [row[6] for row in csv.reader(io.StringIO(text))]


def test_a_trace_goes_out_without_formulas(desk: Desk) -> None:
    """Names of columns are text too; everything else is as it came."""
    sheet = desk.open_job(fuel_system="common_rail", begin_with="rail_pressure")
    lines = [f"{t / 10},{300 + (t % 7)},{300}" for t in range(400)]
    text = "time [s],=1+1 [bar],-x [bar]\n" + "\n".join(lines) + "\n"
    picks = {"time": "time", "wanted": "=1+1", "actual": "-x"}
    answer = desk.send(
        f"/api/sheets/{sheet['id']}/trace", text, request_id=new_id(), name="t.csv", **picks
    )
    assert answer.status_code == 200, answer.text
    came = desk.client.get(f"/api/traces/{answer.json()['id']}/csv").text
    assert came == text.replace("=1+1", "'=1+1").replace("-x", "'-x")
    seen = desk.send("/api/trace-columns", came, kind="rail_pressure").json()
    assert [c["name"] for c in seen["columns"]] == ["time", "=1+1", "-x"]
