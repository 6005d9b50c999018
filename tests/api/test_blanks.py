"""What a browser reads ahead of jobs that are not there yet: as they will begin, and nothing is kept of it."""

from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, func, select
from tests.drivers import Desk, new_id

from plumb.core.procedures import FUEL_SYSTEMS, route
from plumb.store.tables import Base

OWN = {"id", "job_number", "key", "taken", "saved_at"}
"""What only a sheet that is there has for itself."""


def shown(sheet: dict[str, Any]) -> dict[str, Any]:
    """A sheet without what is its own alone."""
    return {k: v for k, v in sheet.items() if k not in OWN}


@pytest.mark.parametrize("system", FUEL_SYSTEMS)
def test_a_blank_is_the_sheet_that_will_begin(client: TestClient, system: str) -> None:
    """Each sheet of the route stands there as a job on the largest engine shows it when begun."""
    kinds = [k.code for k in route(system)]
    answer = client.get(f"/api/blanks/{system}", params={"banks": 2})
    assert answer.status_code == 200, answer.text
    blanks = answer.json()
    assert [s["kind"] for s in blanks["sheets"]] == kinds
    wanted = {"request_id": new_id(), "vehicle_name": "Torvik Lundy", "fuel_system": system}
    first = client.post(
        "/api/jobs", json=wanted | {"cylinders": 16, "banks": 2, "begin_with": kinds[0]}
    ).json()
    job = f"/api/jobs/{first['job_number']}"
    there = client.get(job).json()
    begun = [
        client.post(f"{job}/sheets", json={"request_id": new_id(), "kind": kind}).json()
        for kind in kinds[1:]
    ]
    assert [shown(s) for s in blanks["sheets"]] == [shown(s) for s in (first, *begun)]
    assert [k["kind"] for k in blanks["job"]["route"]] == [k["kind"] for k in there["route"]]
    assert {k["sheet_id"] for k in blanks["job"]["route"]} == {0}


@pytest.mark.parametrize(
    ("each", "labels"),
    [
        ("two_each", ["1a", "1b", "2a"]),
        ("port_and_direct", ["1P", "2P", "3P"]),
        ("one_for_all", ["1"]),
    ],
)
def test_injectors_as_a_new_job_has_them(client: TestClient, each: str, labels: list[str]) -> None:
    """The rows are those of an engine with so many injectors a cylinder, on both banks."""
    system = "throttle_body" if each == "one_for_all" else "port"
    blanks = client.get(f"/api/blanks/{system}", params={"injectors": each, "banks": 2}).json()
    seats = blanks["job"]["vehicle"]["injectors"]
    assert [i["label"] for i in seats][:3] == labels
    if each != "one_for_all":
        assert {i["bank"] for i in seats} == {"A", "B"}
        assert max(i["cylinder"] for i in seats) == 16


def test_nothing_is_kept_of_it(client: TestClient, engine: Engine, desk: Desk) -> None:
    """No table has a row more, the journal neither, and the next job has the next number."""
    first = int(desk.open_job(1)["job_number"])
    tables = Base.metadata.sorted_tables

    def rows() -> dict[str, int]:
        with engine.connect() as connection:
            count = {t.name: select(func.count()).select_from(t) for t in tables}
            return {name: connection.scalar(query) or 0 for name, query in count.items()}

    before = rows()
    assert client.get("/api/blanks/port").status_code == 200
    assert client.get("/api/blanks/tea").status_code == 422
    assert rows() == before
    assert int(desk.open_job(1)["job_number"]) == first + 1
