"""Whatever is sent to whatever is there: never a fault, always the described shape.

A shop with one of each thing is asked, so that what is sent reaches the code behind the address.
With ``./plumb test --faults`` there are more than twenty thousand cases.
"""

import io
import os
import random
from typing import Any

import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from PIL import Image
from sqlalchemy import Engine
from tests.api.test_traces import log_csv
from tests.drivers import Desk, new_id, put_back, set_aside

from plumb.contract import openapi
from plumb.service.stored.parts import now
from plumb.store import people

LONG = bool(os.environ.get("PLUMB_LONG_TESTS"))

Ids = dict[str, list[Any]]


_made: list[tuple[Ids, str, str]] = []


@pytest.fixture
def ids(desk: Desk, practice: Engine, engine: Engine) -> Ids:
    """One of each thing, by the name under which addresses ask for it: made once, then put back as it was."""
    if _made:
        there, shop, practised = _made[0]
        put_back(engine, shop)
        put_back(practice, practised)
    else:
        there = _one_of_each(desk, engine)
        _made.append(
            (there, set_aside(engine, "one_of_each"), set_aside(practice, "one_practised"))
        )
    return there


def _one_of_each(desk: Desk, engine: Engine) -> Ids:
    sheet = desk.open_job(4)
    number = sheet["job_number"]
    reading = new_id()
    desk.type(sheet, "1", "50 26", id=reading)
    sheets = [sheet["id"]]
    post, job = desk.client.post, f"/api/jobs/{number}"
    for kind in ("hold", "walk_round", "coil_resistance", "tip_leak", "supply_pressure"):
        made = post(f"{job}/sheets", json={"request_id": new_id(), "kind": kind})
        sheets.append(made.json()["id"])
    vehicle = desk.client.get(job).json()["vehicle"]["id"]
    post("/api/gauges", json={"name": "dial A", "unit": "psi", "step": "0.5"})
    post("/api/shelf", json={"what": "rule", "name": "8 %", "values": {"name": "flow_index"}})
    post("/api/layouts", json={"name": "four", "vehicle_id": vehicle})
    repair = new_id()
    body = {"injector": "1", "done": "replaced"}
    assert desk.client.put(f"{job}/repairs/{repair}", json=body).status_code == 200
    photo, picture = new_id(), io.BytesIO()
    Image.new("RGB", (40, 30)).save(picture, "PNG")
    taken = desk.client.put(
        f"{job}/photos/{photo}", content=picture.getvalue(),
        headers={"content-type": "application/octet-stream"},
    )  # fmt: skip
    assert taken.status_code == 200, taken.text
    trace = desk.send(f"/api/sheets/{sheet['id']}/trace", log_csv(), request_id=new_id())
    assert trace.status_code == 200, trace.text
    run = post("/api/rules/worth", json={"sets": 5}).json()["id"]
    practised = post("/api/practice/runs", json={"request_id": new_id(), "exercise": "01"}).json()
    person = post("/api/people", json={"name": "Wen L.", "role": "reader"}).json()["person"]["id"]
    with engine.begin() as connection:
        at = now()
        device = {
            "name": "bay 2",
            "token_hash": "a",
            "paired_at": at,
            "paired_by": "",
            "last_seen": at,
        }
        tablet = people.add_device(connection, device)
        seen = {"token_hash": "a", "person_id": person, "begun_at": at, "last_seen": at}
        people.add_sign_in(connection, seen)
    gauges, shelf = (desk.client.get(f"/api/{x}").json() for x in ("gauges", "shelf"))
    return {
        "number": [number, 0, 1],
        "sheet_id": sheets,
        "reading_id": [reading],
        "row": ["1", "key_on"],
        "label": ["1", "2"],
        "vehicle_id": [vehicle],
        "gauge_id": [g["id"] for g in gauges],
        "fuel_system": ["port", "common_rail"],
        "layout_id": [e["id"] for e in shelf if e["what"] == "layout"],
        "entry_id": [e["id"] for e in shelf],
        "trace_id": [trace.json()["id"]],
        "choice_id": [new_id()],
        "sighting_id": [new_id()],
        "kind": ["hold", "tea"],
        "photo_id": [photo, new_id()],
        "run_id": [run, "none"],
        "run_number": [practised["number"], "none"],
        "repair_id": [repair, new_id()],
        "word": ["rough_idle", "misfire"],
        "person_id": [person, 0],
        "device_id": [tablet, 0],
        "sign_in_id": [1, 0],
    }


def test_every_name_in_an_address_is_known(ids: Ids) -> None:
    """No operation is asked for what is not there only."""
    names = {
        p["name"]
        for methods in openapi()["paths"].values()
        for operation in methods.values()
        for p in operation.get("parameters", [])
        if p["in"] == "path"
    }
    assert names <= set(ids)
    assert all(ids.values())


OPERATIONS = {
    found.ok().label: found.ok()
    for found in schemathesis.openapi.from_dict(openapi()).get_all_operations()
}


@pytest.mark.parametrize("label", sorted(OPERATIONS))
@settings(
    max_examples=800 if LONG else 5,
    deadline=None,
    derandomize=not LONG,
    phases=[Phase.explicit, Phase.generate],
    suppress_health_check=list(HealthCheck),
)
@given(data=st.data())
def test_no_input_breaks_the_server(
    data: st.DataObject, client: TestClient, ids: Ids, label: str
) -> None:
    """What is there is asked for nine times in ten."""
    case = data.draw(OPERATIONS[label].as_strategy())
    luck = random.Random(repr(case.body))
    for name in case.path_parameters or {}:
        if luck.random() < 0.9:
            case.path_parameters[name] = luck.choice(ids[name])
    if isinstance(case.body, dict):
        for name in {"vehicle_id", "gauge_id", "layout_id"} & case.body.keys():
            case.body[name] = luck.choice(ids[name])
    response = case.call(app=client.app, base_url="http://127.0.0.1")
    assert response.status_code < 500, (case.path_parameters, case.query, case.body, response.text)
    assert response.headers["x-content-type-options"] == ["nosniff"]
    if response.status_code >= 400:
        assert response.json()["title"]
