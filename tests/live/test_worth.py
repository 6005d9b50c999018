"""What rules are worth over the API: the bench's own figures, piece by piece."""

import threading
from typing import Any, cast

import pytest
from tests.drivers import Desk, eventually

from plumb.bench.power import EVERY_RULE, detect
from plumb.bench.rail import Setup
from plumb.core.measure.quantities import KPA_PER

ASKED = {"unit": "psi", "step": 0.5, "first": 50, "second": 26, "size": 6}


def until_done(desk: Desk, run: dict[str, Any]) -> dict[str, Any]:
    """Look at it until it has ended."""

    def ended() -> dict[str, Any] | None:
        now: dict[str, Any] = desk.client.get(f"/api/rules/worth/{run['id']}").json()
        return None if now["running"] else now

    return cast("dict[str, Any]", eventually(ended))


def test_the_page_says_what_the_bench_says(desk: Desk) -> None:
    """The same sets in pieces and in another process: the very same counts."""
    shop = {"name": "flow_index", "tolerance_percent": "8"}
    kept = {"what": "rule", "name": "Saltmere, 8 %", "values": shop}
    assert desk.client.post("/api/shelf", json=kept).status_code == 201
    begun = desk.client.post("/api/rules/worth", json={**ASKED, "sets": 30}).json()
    assert 0 < begun["sets"] < 30, "the first few are there at once"
    ended = until_done(desk, begun)
    assert (ended["sets"], ended["running"]) == (30, False)
    setup = Setup(step=0.5, rails=((50.0, 26.0),), sizes=(6,))
    truth = detect(setup, sets=30, seed=7)
    shown = {r["code"]: r for r in ended["rules"]}
    assert shown.keys() == {*EVERY_RULE, "shop:Saltmere, 8 %"}
    for code, cell in truth.items():
        row = cell.row()
        assert shown[code]["caught"]["percent"] == pytest.approx(100.0 * row["caught"])
        assert shown[code]["condemned"]["percent"] == pytest.approx(100.0 * row["false_alarms"])
        assert shown[code]["accused"]["of"] == cell.healthy_sets
        assert shown[code]["caught"]["low"] <= shown[code]["caught"]["percent"]
    assert shown["shop:Saltmere, 8 %"]["repeats"] > shown["flow_index"]["repeats"]
    assert [r["code"] for r in ended["rules"] if r["chosen"]] == ["flow_index"]


def test_it_stops_when_told(desk: Desk) -> None:
    """What it says so far stays; a new one takes the place of one that goes on."""
    begun = desk.client.post("/api/rules/worth", json={**ASKED, "sets": 2000}).json()
    stopped = desk.client.delete(f"/api/rules/worth/{begun['id']}").json()
    assert stopped["running"] is False
    eventually(lambda: all(t.name != "worth" for t in threading.enumerate()))
    later = desk.client.get(f"/api/rules/worth/{begun['id']}").json()
    assert later["sets"] == stopped["sets"]
    assert desk.client.get("/api/rules/worth/999").status_code == 404


def test_a_sheet_lends_its_gauge_and_rail(desk: Desk) -> None:
    """Its step, the middle of its readings, its set and its rule."""
    sheet = desk.open_job(3)
    for injector, figures in (("1", "50 26"), ("2", "50 27"), ("3", "49 26")):
        assert desk.type(sheet, injector, figures).status_code == 200
    setup = desk.client.get("/api/rules/worth/setup", params={"sheet": sheet["id"]}).json()
    assert (setup["unit"], setup["step"], setup["size"]) == ("psi", 0.5, 3)
    assert (setup["first"], setup["second"], setup["rule"]) == (50.0, 26.0, "flow_index")
    assert KPA_PER["psi"] * setup["first"] == pytest.approx(344.74, abs=0.01)
    usual = desk.client.get("/api/rules/worth/setup").json()
    assert usual["told"] != setup["told"]


@pytest.mark.parametrize(
    ("wrong", "path"),
    [
        ({"second": 60}, "second"),
        ({"step": 20}, "step"),
        ({"size": 2}, "size"),
        ({"unit": "ohm"}, "unit"),
    ],
)
def test_what_cannot_be_simulated_is_told(desk: Desk, wrong: dict[str, Any], path: str) -> None:
    """Where, and which rule."""
    answer = desk.client.post("/api/rules/worth", json={**ASKED, **wrong})
    assert answer.status_code == 422
    assert answer.json()["problems"][0]["path"] == path


def test_a_plan_over_the_api(desk: Desk) -> None:
    """Φ(0.418) = 66.2 of 100 as it is (by hand in tests/core/test_planning.py); minutes of the procedure."""
    planned = desk.client.post(
        "/api/rules/plan", json={**ASKED, "off_percent": 15, "certainty_percent": 95}
    ).json()
    assert planned["now_percent"] == 66.2
    assert [(p["bursts"], p["passes"]) for p in planned["plans"]] == [(12, 2)]
    within = desk.client.post("/api/rules/plan", json={**ASKED, "off_percent": 9})
    assert within.json()["problems"][0]["code"] == "within"
