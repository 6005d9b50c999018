"""Today in pages, and what a job says kept as long as nothing it rests on has changed."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import pytest
from sqlalchemy import Engine, text
from tests.drivers import DEMO, Desk, load_demo, new_id, open_demo

from plumb.core.measure.decision import Thresholds
from plumb.service.uses import today
from plumb.store.session import transaction


def _lines(desk: Desk, **params: Any) -> dict[str, dict[str, Any]]:
    return {j["number"]: j for j in desk.client.get("/api/jobs", params=params).json()}


@contextmanager
def _worked_out(monkeypatch: pytest.MonkeyPatch) -> Iterator[list[str]]:
    """The numbers of the jobs whose lines are worked out anew."""
    seen: list[str] = []
    made = today._lines

    def watched(connection: Any, found: Any, thresholds: Any) -> Any:
        seen.extend(job.number for job, _ in found)
        return made(connection, found, thresholds)

    with monkeypatch.context() as patch:
        patch.setattr(today, "_lines", watched)
        yield seen


def test_all_jobs_can_be_reached_page_by_page(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    """Newest first, none twice, and the whole number is told with every page."""
    monkeypatch.setattr(today, "ON_A_PAGE", 6)
    numbers = [desk.open_job(vehicle_name=f"Torvik x{n}")["job_number"] for n in range(13)]
    pages = [desk.client.get("/api/jobs", params={"skip": s}) for s in (0, 6, 12, 18)]
    assert [len(p.json()) for p in pages] == [6, 6, 1, 0]
    assert {p.headers["x-total-count"] for p in pages} == {"13"}
    assert [j["number"] for p in pages for j in p.json()] == numbers[::-1]
    found = desk.client.get("/api/jobs", params={"find": "Torvik x1"})
    assert found.headers["x-total-count"] == "4"


def test_what_is_kept_is_what_would_be_worked_out(
    desk: Desk, engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Every demo job says the same from the store as when it is weighed anew."""
    load_demo(engine)
    first = _lines(desk, closed=True)
    assert len(first) == len(list(DEMO.glob("*.json")))
    with _worked_out(monkeypatch) as anew:
        assert _lines(desk, closed=True) == first
    assert anew == []
    with transaction(engine) as connection:
        connection.execute(text("DELETE FROM said"))
    with _worked_out(monkeypatch) as anew:
        assert _lines(desk, closed=True) == first
    assert set(anew) == set(first)


def test_nobody_waits_for_what_was_brought_in_or_for_a_newer_program(
    desk: Desk, engine: Engine, thresholds: Thresholds, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A look works out no line of jobs that came from files, nor of those gone through at a start."""
    for file in open_demo()[:3]:
        desk.bring_in(file.read_text())
    with _worked_out(monkeypatch) as anew:
        assert len(_lines(desk)) == 3
    assert anew == []
    for n in range(today.ON_A_PAGE):
        desk.open_job(4, vehicle_name=f"Torvik x{n}")
    with transaction(engine) as connection:
        connection.execute(text("UPDATE said SET stamp = ''"))
    today.say_ahead(engine, thresholds)
    with _worked_out(monkeypatch) as anew:
        assert len(_lines(desk) | _lines(desk, skip=today.ON_A_PAGE)) == today.ON_A_PAGE + 3
    assert anew == []


def test_whatever_changes_a_job_changes_its_line_and_no_other(
    desk: Desk, engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A reading, one taken back, a condition, codes, a procedure set aside, banks, closing."""
    load_demo(engine)
    sheet = desk.open_job(4)
    number = sheet["job_number"]
    job = f"/api/jobs/{number}"
    vehicle = desk.client.get(job).json()["vehicle"]["id"]
    path = f"/api/sheets/{sheet['id']}"
    reading = {"id": new_id(), "injector": "1", "first": "50", "second": "26"}

    def version() -> int:
        return int(desk.client.get(path).json()["version"])

    changes = [
        ("post", f"{path}/readings", lambda: reading),
        ("delete", f"{path}/readings/{reading['id']}", lambda: None),
        ("patch", path, lambda: {"version": version(), "put": {"burst.pulses": "60"}}),
        ("patch", job, lambda: {"version": 1, "codes": ["P0300"]}),
        ("patch", job, lambda: {"aside": {"kind": "walk_round", "reason": "seen"}}),
        ("patch", f"/api/vehicles/{vehicle}/injectors/1", lambda: {"bank": "A"}),
        ("put", f"/api/vehicles/{vehicle}/reach-order", lambda: {"order": list("4321")}),
        ("post", f"{job}/closing", lambda: {"by": "Ines K.", "reason": "enough"}),
    ]
    _lines(desk, closed=True)
    for method, where, body in changes:
        sent = body()
        more = {} if sent is None else {"json": sent}
        answer = desk.client.request(method, where, **more)
        assert answer.status_code == 200, (where, answer.text)
        with _worked_out(monkeypatch) as anew:
            _lines(desk, closed=True)
        assert anew == [number], where


def test_nozzles_of_one_type_learn_from_each_other_on_today_too(
    desk: Desk, engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A sheet of opening pressures changes what others of its type may say."""
    load_demo(engine)
    lines = _lines(desk, closed=True)
    file = next(p for p in sorted(DEMO.glob("*.json")) if '"opening_pressure"' in p.read_text())
    text_ = file.read_text().replace(f'"number": "{file.stem}"', '"number": "again"')
    assert desk.bring_in(text_).status_code == 200
    with _worked_out(monkeypatch) as anew:
        now = _lines(desk, closed=True)
    assert set(now) - set(lines) == {"again"}
    assert file.stem in anew
    assert len(anew) < len(lines)
