"""A scan by the API: its rows, what it refuses; and what closed jobs teach."""

from typing import Any

from sqlalchemy import Engine
from tests.drivers import Desk, load_demo

from plumb.store import causes
from plumb.store.jobs import job_by_number
from plumb.store.session import transaction


def _scan_of(desk: Desk, number: str) -> dict[str, Any]:
    job = desk.client.get(f"/api/jobs/{number}").json()
    knot = next(k for k in job["route"] if k["kind"] == "scan")
    sheet: dict[str, Any] = desk.client.get(f"/api/sheets/{knot['sheet_id']}").json()
    return sheet


def _send(desk: Desk, sheet: int, row: str, value: str, n: int) -> Any:
    body = {"id": f"7f0c1c0e-52a0-4a53-9d7e-0000000000{n:02d}", "injector": row, "value": value}
    return desk.client.post(f"/api/sheets/{sheet}/readings", json=body)


def test_a_scan_has_a_row_a_trim_and_a_row_a_cylinder(desk: Desk, engine: Engine) -> None:
    """Two banks have their own; a count is a whole number, a trim lies within a hundred."""
    load_demo(engine)
    sheet = _scan_of(desk, "340")
    rows = [r["injector"] for r in sheet["rows"]]
    assert rows[:4] == ["A idle, long", "A idle, short", "A raised, long", "A raised, short"]
    assert rows[8:] == [f"misfires {n}" for n in range(1, 7)]
    assert [r["words"] for r in sheet["rows"]][4] == "lean"
    job = desk.open_job()["job_number"]
    begun = desk.client.post(
        f"/api/jobs/{job}/sheets",
        json={"request_id": "7f0c1c0e-52a0-4a53-9d7e-000000000099", "kind": "scan"},
    ).json()
    one = begun["id"]
    assert [r["injector"] for r in begun["rows"]][:2] == ["idle, long", "idle, short"]
    assert _send(desk, one, "idle, long", "-14.5", 1).status_code == 200
    assert _send(desk, one, "misfires 2", "41", 2).status_code == 200
    for n, (row, value) in enumerate(
        (
            ("misfires 2", "-1"),
            ("misfires 1", "2.5"),
            ("idle, short", "140"),
            ("C idle, long", "3"),
        ),
        3,
    ):
        refused = _send(desk, one, row, value, n)
        assert refused.status_code == 422, (row, value)
    file = desk.client.get(f"/api/jobs/{job}/file").json()
    scan = next(s for s in file["sheets"] if s["kind"] == "scan")
    assert scan["trims"][0]["long"] == -14.5
    assert (scan["misfires"][0]["cylinder"], scan["misfires"][0]["count"]) == (2, 41)


def test_what_a_job_waits_for_and_what_explains_it(desk: Desk, engine: Engine) -> None:
    """The diagnosis beside the verdict, what each sheet moved, and alternatives of the next step."""
    load_demo(engine)
    job = desk.client.get("/api/jobs/340").json()
    diagnosis = job["diagnosis"]
    assert diagnosis["complaint"] == "rough idle and surging"
    assert diagnosis["explained"] == "open"
    assert diagnosis["causes"][0]["code"] == "air"
    assert diagnosis["causes"][0]["outside"] is True
    assert diagnosis["causes"][0]["speaks_for"]
    moved = {m["words"]: m for m in diagnosis["moved"]["q"]}
    air = next(m for words, m in moved.items() if words.startswith("air"))
    assert air["before"] < 60 < air["after"]
    assert 0 < len(job["next"]["alternatives"]) <= 2
    stalled = desk.client.get("/api/jobs/319").json()
    assert stalled["next"]["repairs"] is True
    assert stalled["next"]["title"].startswith("Put right: pump")


def test_closed_jobs_teach_how_common_a_fault_is(desk: Desk, engine: Engine) -> None:
    """Only closed ones, only of the fuel system; and not once it is switched off."""
    load_demo(engine)
    with transaction(engine) as connection:
        for number in ("301", "302", "303"):
            job = job_by_number(connection, number)
            assert job is not None
            causes.confirm(connection, job[0].id, "regulator_diaphragm")
            causes.confirm(connection, job[0].id, "regulator_diaphragm")
    # The demo's one job that is told to its end has confirmed what it found.
    before = desk.client.get("/api/learning").json()
    assert (before["on"], before["jobs"]) == (True, 1)
    assert "regulator_diaphragm" not in {f["fault"] for f in before["faults"]}
    for number in ("301", "302", "303"):
        closed = desk.close(number)
        assert closed.status_code == 200
    learnt = desk.client.get("/api/learning").json()
    assert learnt["jobs"] == 4
    one = next(f for f in learnt["faults"] if f["fault"] == "regulator_diaphragm")
    # (50 * 1.5 % + 3) / (50 + 4), worked by hand.
    assert (one["cases"], one["per_hundred"]) == (3, 6.9)
    off = desk.client.put("/api/learning", json={"on": False}).json()
    assert (off["on"], off["faults"]) == (False, [])
    assert desk.client.put("/api/learning", json={"on": "perhaps"}).status_code == 422
    assert desk.client.put("/api/learning", json={"on": True}).json()["faults"]
