"""Strokes of a hand pump as they are kept: shims, looks, and what a type of nozzle teaches."""

from typing import Any

import pytest
from tests.api.test_traces import sheet_of
from tests.drivers import Desk, new_id


def stroke(desk: Desk, sheet: dict[str, Any], injector: str, **figures: Any) -> dict[str, Any]:
    """One stroke of the hand pump."""
    body = {"id": new_id(), "injector": injector, **figures}
    answer = desk.client.post(f"/api/sheets/{sheet['id']}/readings", json=body)
    assert answer.status_code == 200, answer.text
    made: dict[str, Any] = answer.json()
    return made


def set_up(desk: Desk, **put: str) -> dict[str, Any]:
    """An opening sheet with its window, its nozzles and a drawer."""
    sheet = sheet_of(desk, "opening_pressure", "mechanical_diesel")
    texts = {"window.low": "122", "window.high": "132", "nozzle.name": "P3",
             "shims_mm": "0.02 0.05 0.10 0.20", **put}  # fmt: skip
    return desk.put(sheet, **texts)


def test_what_one_job_learns_of_a_nozzle_the_next_one_plans_with(desk: Desk) -> None:
    """Three changes on one tractor narrow the ghost's range on another; another type does not."""

    def width(sheet: dict[str, Any]) -> float:
        plan = stroke(desk, sheet, "1", value="116", shim="1.00")["rows"][0]["nozzle"]["plan"]
        return float(plan["high"] - plan["low"])

    before = width(set_up(desk))
    teacher = set_up(desk)
    for injector in "123":
        stroke(desk, teacher, injector, value="118", shim="1.00")
        stroke(desk, teacher, injector, value="127", shim="1.04")
    waiting = set_up(desk)
    path = f"/api/sheets/{waiting['id']}"
    tag = desk.client.get(path).headers["etag"]
    tags = {tag}
    # One more change, then another stroke after it: each time the screen must be drawn anew.
    for change in ({"value": "130", "shim": "1.06"}, {"value": "131"}):
        stroke(desk, teacher, "1", **change)
        fresh = desk.client.get(path, headers={"If-None-Match": tag})
        assert fresh.status_code == 200
        tag = fresh.headers["etag"]
        tags.add(tag)
    assert len(tags) == 3
    assert desk.client.get(path, headers={"If-None-Match": tag}).status_code == 304
    assert width(waiting) < before
    # Named otherwise, those nozzles teach nothing of this type any more.
    now = desk.client.get(f"/api/sheets/{teacher['id']}").json()
    renamed = {"version": now["version"], "put": {"nozzle.name": "Q9"}}
    assert desk.client.patch(f"/api/sheets/{teacher['id']}", json=renamed).status_code == 200
    assert width(set_up(desk)) == pytest.approx(before)
    assert width(set_up(desk, **{"nozzle.name": "another"})) == pytest.approx(before)


def test_shims_in_thousandths_are_kept_in_mm_and_shown_as_typed(desk: Desk) -> None:
    """40 thou are 1.016 mm; the drawer is told in thou as well."""
    sheet = set_up(desk, shim_unit="thou", shims_mm="2 4")
    now = stroke(
        desk, sheet, "1", value="116", shim="40", seat="dry", sound="chatters", spray="even"
    )
    reading = now["rows"][0]["readings"][0]
    assert (reading["shim"], reading["seat"], reading["sound"]) == ("40", "dry", "chatters")
    file = desk.client.get(f"/api/jobs/{sheet['job_number']}/file").json()
    kept = file["sheets"][0]
    assert kept["shims_mm"] == [0.0508, 0.1016]
    assert kept["readings"][0]["shim_mm"] == 1.016
    assert "thou" in now["rows"][0]["under"]


def test_a_look_at_a_kept_stroke_does_not_change_its_shims(desk: Desk) -> None:
    """Typed in mm, told in thou, then the seat is noted: the same stack, no change recorded."""
    sheet = set_up(desk)
    row = stroke(desk, sheet, "1", value="126", shim="1.00")["rows"][0]
    version = desk.client.get(f"/api/sheets/{sheet['id']}").json()["version"]
    put = {"version": version, "put": {"shim_unit": "thou"}}
    assert desk.client.patch(f"/api/sheets/{sheet['id']}", json=put).status_code == 200
    seen = {"value": "126", "seat": "dry", "replaces": row["readings"][0]["id"], "id": new_id()}
    path = f"/api/sheets/{sheet['id']}/readings"
    for _ in range(2):
        answer = desk.client.post(path, json={"injector": "1", **seen})
        assert answer.status_code == 200, answer.text
    kept = desk.client.get(f"/api/jobs/{sheet['job_number']}/file").text
    assert '"shim_mm": 1.00' in kept
    assert kept.count('"shim_mm": ') == 1
    shown_as = answer.json()["rows"][0]["readings"][0]["shim"]
    more = stroke(desk, sheet, "1", value="126", shim=shown_as)["rows"][0]["nozzle"]
    assert more["shim"] == shown_as


@pytest.mark.parametrize(
    ("figures", "path"),
    [
        ({"value": "125", "sound": "clicks"}, "sound"),
        ({"value": "125", "shim": "104"}, "shim"),
        ({"value": "125", "mark": "none"}, "value"),
        ({"seat": "dry"}, "value"),
    ],
)
def test_a_stroke_that_does_not_fit(desk: Desk, figures: dict[str, Any], path: str) -> None:
    """Named by its field."""
    sheet = set_up(desk)
    body = {"id": new_id(), "injector": "1", **figures}
    answer = desk.client.post(f"/api/sheets/{sheet['id']}/readings", json=body)
    assert (answer.status_code, answer.json()["problems"][0]["path"]) == (422, path)


def test_a_makers_figure_for_a_shim(desk: Desk) -> None:
    """Typed in thou and psi as it stands on the card; the plan is made of it, and both are needed."""
    sheet = sheet_of(desk, "opening_pressure", "mechanical_diesel")
    sheet = desk.put(sheet, **{"shim_unit": "thou", "nozzle.shim_mm": "0.4", "nozzle.buys": "35 psi",
                               "nozzle.shim_of": "steel"})  # fmt: skip
    fields = {f["key"]: f["value"] for k in sheet["knobs"] for f in k["fields"]}
    assert (fields["nozzle.shim_mm"], fields["nozzle.shim_of"]) == ("0.4", "steel")
    assert float(fields["nozzle.buys"]) == pytest.approx(35 * 0.0689476, abs=0.01)
    working = desk.client.get(f"/api/sheets/{sheet['id']}/working").json()
    line = next(x for x in working["shared"] if x["label"] == "0.01 mm buys")
    assert line["source"] == "the maker's figure"
    body = {"version": sheet["version"], "put": {"nozzle.shim_mm": ""}}
    answer = desk.client.patch(f"/api/sheets/{sheet['id']}", json=body)
    assert answer.status_code == 422
    assert "needs the shim it is said of" in answer.text
