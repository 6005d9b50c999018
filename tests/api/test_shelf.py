"""The shelf: gauges, windows, rules, layouts; a sheet copies what it takes."""

from typing import Any

import pytest
from tests.drivers import Desk, new_id

WINDOW = {
    "what": "window", "name": "card 3", "kind": "coil_resistance", "unit": "ohm",
    "values": {"window.low": "11", "window.high": "14", "window.from_c": "10",
               "window.to_c": "32", "window.source": "card 3"},
}  # fmt: skip
RULE = {
    "what": "rule", "name": "ours", "unit": "psi",
    "values": {"name": "plain_mean", "limit": "2", "source": "workshop meeting"},
}  # fmt: skip


def test_a_window_is_kept_changed_and_taken_off(desk: Desk) -> None:
    """Once a name; gone is gone."""
    made = desk.client.post("/api/shelf", json=WINDOW)
    assert made.status_code == 201
    entry = made.json()
    assert desk.client.post("/api/shelf", json=WINDOW).status_code == 409
    changed = {**WINDOW, "values": {**WINDOW["values"], "window.high": "15"}}
    path = f"/api/shelf/{entry['id']}"
    assert desk.client.put(path, json=changed).json()["values"]["window.high"] == "15"
    assert desk.client.delete(path).status_code == 204
    assert desk.client.delete(path).status_code == 404
    assert desk.client.put(path, json=WINDOW).status_code == 404
    assert desk.client.get("/api/shelf").json() == []


def test_a_meter_is_told_in_the_digits_typed(desk: Desk) -> None:
    """Whole counts stay whole."""
    meter = {"name": "meter", "unit": "ohm", "step": "0.1", "percent": "0.50", "counts": "2"}
    assert desk.client.post("/api/gauges", json=meter).status_code == 201
    (kept,) = desk.client.get("/api/gauges").json()
    assert (kept["percent"], kept["counts"]) == ("0.50", "2")


def test_a_gauges_class_goes_from_the_shelf_to_the_decision(desk: Desk) -> None:
    """1.6 of 100 psi, asked for or assumed: a rail one psi below its window is called without it, and not with it."""
    dial = {"name": "dial C", "unit": "psi", "step": "0.5", "span": "100", "reads": "dial"}
    assert desk.client.post("/api/gauges", json=dial).status_code == 201
    (kept,) = desk.client.get("/api/gauges").json()
    assert kept["class_words"] == "class 1.6 % of 100 psi, assumed"
    sheet = desk.open_job(begin_with="supply_pressure")
    path = f"/api/sheets/{sheet['id']}"
    assert sheet["gauge"]["class_words"] == kept["class_words"]
    read = {"id": new_id(), "injector": "key_on", "value": "39"}
    assert desk.client.post(f"{path}/readings", json=read).is_success
    now = desk.client.get(path).json()
    window = {"windows.key_on.low": "40", "windows.key_on.high": "60"}
    made = desk.client.patch(path, json={"version": now["version"], "put": window}).json()
    assert made["rows"][0]["words"] == "not settled"
    assert any(
        "class leaves a figure near its limit open: ±1.8 psi (95 %)" in n for n in made["notes"]
    )
    told = desk.client.get(f"{path}/working").json()
    assert told["injectors"]["key_on"][0]["figure"] == "39.0"
    lines = told["shared"]
    assert {"u of the gauge's class": "0.924"}.items() <= {
        x["label"]: x["figure"] for x in lines
    }.items()
    for slip, said in (
        ({"span": "wide"}, "Full scale"),
        ({"span": "100", "class_percent": "250"}, "Class of the gauge"),
    ):
        wrong = {"name": "dial C", "unit": "psi", "step": "0.5", **slip}
        answer = desk.client.patch(path, json={"version": made["version"], "gauge": wrong})
        assert [p["path"] for p in answer.json()["problems"]] == [said]
    plain_one = {"name": "dial C", "unit": "psi", "step": "0.5"}
    exact = desk.client.patch(path, json={"version": made["version"], "gauge": plain_one}).json()
    assert exact["rows"][0]["words"] == "too low"


@pytest.mark.parametrize(
    ("change", "path", "rule"),
    [
        ({"class_percent": "1.6"}, "span", "share of the span"),
        ({"class_percent": "0", "span": "100"}, "class_percent", "above zero"),
        ({"class_percent": "25", "span": "100"}, "class_percent", "20 %"),
        ({"span": "-5"}, "span", "not below zero"),
        ({"span": "wide"}, "span", "typed with digits"),
        ({"reads": "clock"}, "reads", ""),
    ],
)
def test_a_class_that_does_not_fit_is_named(
    desk: Desk, change: dict[str, Any], path: str, rule: str
) -> None:
    """Where, which rule."""
    gauge = {"name": "dial C", "unit": "psi", "step": "0.5", **change}
    answer = desk.client.post("/api/gauges", json=gauge)
    assert answer.status_code == 422
    (problem,) = answer.json()["problems"]
    assert path in problem["path"]
    assert rule in problem["rule"]
    assert desk.client.get("/api/gauges").json() == []


@pytest.mark.parametrize(
    ("change", "path"),
    [
        ({"name": " "}, "name"),
        ({"unit": "psi"}, "unit"),
        ({"values": {"window.low": "eleven"}}, "window.low"),
        ({"values": {"window.colour": "red"}}, "window.colour"),
        ({"values": {"window.source": "me"}}, "values"),
        ({"values": {"window.low": "14", "window.high": "11"}}, "window"),
        ({"kind": ""}, "kind"),
    ],
)
def test_a_window_that_does_not_fit_is_named(desk: Desk, change: dict[str, Any], path: str) -> None:
    """By its key; nothing kept."""
    answer = desk.client.post("/api/shelf", json={**WINDOW, **change})
    assert answer.status_code == 422
    assert path in [p["path"] for p in answer.json()["problems"]]
    assert desk.client.get("/api/shelf").json() == []


def test_a_rule_needs_limits_that_fit(desk: Desk) -> None:
    """A rule that is not known, a limit below zero."""
    assert desk.client.post("/api/shelf", json=RULE).status_code == 201
    for values in ({"name": "guess"}, {"name": "plain_mean", "limit": "-1"}):
        answer = desk.client.post("/api/shelf", json={**RULE, "name": "x", "values": values})
        assert answer.status_code == 422


def test_changing_the_shelf_never_changes_a_sheet_that_used_it(desk: Desk) -> None:
    """Gauge and window are copies."""
    gauge = {"name": "M", "unit": "ohm", "step": "0.1", "lead": "0.3"}
    made = desk.client.post("/api/gauges", json=gauge).json()
    number = desk.open_job()["job_number"]
    body = {"request_id": new_id(), "kind": "coil_resistance"}
    sheet = desk.client.post(f"/api/jobs/{number}/sheets", json=body).json()
    assert (sheet["gauge"]["name"], sheet["gauge"]["lead"]) == ("M", "0.3")
    entry = desk.client.post("/api/shelf", json=WINDOW).json()
    path = f"/api/sheets/{sheet['id']}"
    desk.client.patch(path, json={"version": sheet["version"], "put": entry["values"]})
    before = desk.client.get(path).json()
    desk.client.put(f"/api/gauges/{made['id']}", json={**gauge, "step": "1", "lead": "0.9"})
    desk.client.put(f"/api/shelf/{entry['id']}", json={**WINDOW, "values": {"window.low": "5"}})
    desk.client.delete(f"/api/gauges/{made['id']}")
    assert desk.client.get(path).json() == before


def test_a_layout_is_kept_from_one_vehicle_and_put_on_the_next(desk: Desk) -> None:
    """Banks and feeds; only where the injectors are the same."""
    first = desk.open_job(6, banks=2)
    vehicle = desk.client.get(f"/api/jobs/{first['job_number']}").json()["vehicle"]["id"]
    desk.client.patch(f"/api/vehicles/{vehicle}/injectors/1", json={"feed": "1+4"})
    body = {"name": "V6", "vehicle_id": vehicle}
    layout = desk.client.post("/api/layouts", json=body).json()
    assert layout["values"]["1"] == "bank A, feed 1+4"
    assert desk.client.post("/api/layouts", json=body).status_code == 409
    new = desk.open_job(layout_id=layout["id"])
    assert [(r["bank"], r["feed"]) for r in new["rows"]][:2] == [("A", "1+4"), ("B", "")]
    plain = desk.open_job(6)
    other = desk.client.get(f"/api/jobs/{plain['job_number']}").json()["vehicle"]["id"]
    path = f"/api/vehicles/{other}/layout"
    made = desk.client.put(path, json={"layout_id": layout["id"]}).json()
    assert made["injectors"][0]["feed"] == "1+4"
    four = desk.client.get(f"/api/jobs/{desk.open_job(4)['job_number']}").json()["vehicle"]["id"]
    bad = desk.client.put(f"/api/vehicles/{four}/layout", json={"layout_id": layout["id"]})
    assert bad.json()["problems"][0]["code"] == "not_the_same_set"
