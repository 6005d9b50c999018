"""Several processes beside the application: the same answers, whoever is at it, whatever ends under it."""

import asyncio
import os
import signal
import threading
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import httpx2
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Receive, Scope, Send
from tests.drivers import DEAD_S, Desk, eventually, load_demo, new_id

from plumb.api.app import make_app
from plumb.api.crew import Crew, Handed, _which
from plumb.api.hand import Asked, _ask, _Hand
from plumb.api.settings import Settings
from plumb.store.actor import Actor, acting
from plumb.store.changes import Changed
from plumb.store.server import Server
from plumb.store.session import transaction

HERE = 599
"""What the application itself answers in these tests: whatever else comes is of the crew."""


@pytest.fixture(scope="module")
def told() -> list[Changed]:
    """What screens would be told."""
    return []


@pytest.fixture(scope="module")
def crew(database: Server, told: list[Changed]) -> Iterator[Crew]:
    """Two processes that work."""
    made = Crew(Settings(), told.append)
    made.open(2, database.place)
    _until(made, 2)
    yield made
    made.close()


def _until(crew: Crew, processes: int) -> None:
    eventually(lambda: len(crew.pids()) >= processes)


@pytest.fixture
def handed(crew: Crew) -> httpx2.Client:
    """A client whose requests are answered by the crew, or by :data:`HERE`."""
    app = Handed(JSONResponse({}, HERE), crew)
    return TestClient(app, base_url="http://127.0.0.1")


def test_a_job_from_beginning_to_end_by_other_processes(
    handed: httpx2.Client, client: TestClient, engine: Engine, told: list[Changed]
) -> None:
    """Every look is the application's own to the letter; what is noted is there, and screens are told."""
    load_demo(engine)
    knots = client.get("/api/jobs/311").json()["route"]
    sheets = [f"/api/sheets/{knot['sheet_id']}" for knot in knots if knot["sheet_id"]]
    assert sheets
    for path in ("/api/jobs?closed=true", "/api/jobs/311", "/api/vehicles?find=sm", *sheets):
        answer = handed.get(path)
        assert answer.status_code == 200, path
        assert answer.content == client.get(path).content
    missing = handed.get("/api/jobs/none")
    assert (missing.status_code, missing.json()["title"]) == (404, "Not there")
    desk = Desk(handed)  # type: ignore[arg-type]
    sheet = desk.open_job(4)
    number, path = sheet["job_number"], f"/api/sheets/{sheet['id']}"
    told.clear()
    was = acting.set(Actor(None, "Ines K.", "bay 2", "technician"))
    try:
        reading = {"id": new_id(), "injector": "1", "first": "50", "second": "26"}
        for _ in range(2):
            handed.post(f"{path}/readings", json=reading).raise_for_status()
    finally:
        acting.reset(was)
    assert {n for changed in told for n in changed.sheets} == {sheet["id"]}
    with transaction(engine) as connection:
        by = f"SELECT by_name, device FROM change_entry WHERE row_key = '{reading['id']}'"
        assert connection.execute(text(by)).all() == [("Ines K.", "bay 2")]
    assert (
        client.get(path).json()["rows"][0]["cells"] == handed.get(path).json()["rows"][0]["cells"]
    )
    assert handed.get(f"/api/jobs/{number}").json()["number"] == number


@pytest.mark.parametrize(
    ("method", "path", "length", "about"),
    [
        ("GET", "/api/jobs", None, ""),
        ("GET", "/api/jobs/17/report.pdf", None, "17"),
        ("POST", "/api/sheets/3/readings", "200", "3"),
        ("POST", "/api/sheets/3/readings", "900000", None),
        ("POST", "/api/sheets/3/readings", "many", None),
        ("POST", "/api/sheets/3/capture", "2", None),
        ("GET", "/api/sheets/3/capture/offer", None, None),
        ("POST", "/api/sheets/3/trace", "2", None),
        ("GET", "/api/jobs/17/archive", None, None),
        ("PUT", "/api/jobs/17/photos/x", "20", None),
        ("GET", "/api/health", None, None),
        ("GET", "/practice/api/jobs", None, None),
        ("GET", "/", None, None),
    ],
)
def test_what_stands_in_memory_stays_here(
    method: str, path: str, length: str | None, about: str | None
) -> None:
    """Captures, practice, and whatever comes in pieces are not handed on."""
    headers = [] if length is None else [(b"content-length", length.encode())]
    scope = {"type": "http", "method": method, "path": path, "headers": headers}
    assert _which(scope) == about
    pieces = {**scope, "headers": [(b"transfer-encoding", b"chunked")]}
    assert _which(pieces) is None


def test_a_process_that_ends_takes_nothing_with_it(
    crew: Crew, engine: Engine, client: TestClient
) -> None:
    """Killed while people save: each save is answered, kept once, and the crew is whole again."""
    sheets = [Desk(client).open_job(8) for _ in range(4)]
    app = Handed(client.app, crew)
    answers: list[int] = []

    def type_on(sheet: dict[str, Any]) -> None:
        with TestClient(app, base_url="http://127.0.0.1") as mine:
            for n in range(24):
                body = {"id": new_id(), "injector": str(1 + n % 8), "first": "50", "second": "26"}
                answers.append(
                    mine.post(f"/api/sheets/{sheet['id']}/readings", json=body).status_code
                )

    people = [threading.Thread(target=type_on, args=(sheet,)) for sheet in sheets]
    before = crew.pids()
    for one in people:
        one.start()
    for done, pid in zip((12, 36), before, strict=True):
        eventually(lambda done=done: len(answers) >= done)  # type: ignore[misc]
        os.kill(pid, signal.SIGKILL)
    for one in people:
        one.join(DEAD_S)
    assert answers == [200] * (4 * 24)
    with transaction(engine) as connection:
        count = "SELECT COUNT(*), COUNT(DISTINCT id) FROM reading WHERE live = 1"
        assert connection.execute(text(count)).one() == (96, 96)
    _until(crew, 2)
    assert not set(before) & set(crew.pids())


async def _breaks(_scope: Scope, _receive: Receive, send: Send) -> None:
    await send({"type": "http.response.start", "status": 500, "headers": [(b"a", b"b")]})
    await send({"type": "http.response.body", "body": b"told"})
    raise ZeroDivisionError


def test_a_fault_in_another_process_is_answered_as_here() -> None:
    """What the routes told of it goes back; a fault that nobody answered stays one."""
    asked = Asked(scope={"type": "http"}, body=b"", known=None, actor=acting.get(), request="")

    def ask(app: ASGIApp) -> Any:
        loop = asyncio.new_event_loop()
        try:
            return loop.run_until_complete(_ask(_Hand(app, loop, []), asked))
        finally:
            loop.close()

    # In a thread, as a hand has it: the browser of other tests has a loop that runs in this one.
    with ThreadPoolExecutor(1) as hand:
        answered = hand.submit(ask, _breaks).result(DEAD_S)
        assert (answered.status, answered.headers, answered.body) == (500, [(b"a", b"b")], b"told")
        with pytest.raises(ZeroDivisionError):
            hand.submit(ask, lambda *_: _fails()).result(DEAD_S)


async def _fails() -> None:
    raise ZeroDivisionError


def test_metrics_name_the_route_though_another_process_answered(
    engine: Engine, database: Server
) -> None:
    """The application counts what its crew answers, by its template."""
    app: FastAPI = make_app(engine, Settings())
    app.state.crew.open(1, database.place)
    try:
        _until(app.state.crew, 1)
        with TestClient(app, base_url="http://127.0.0.1", client=("127.0.0.1", 1)) as client:
            assert client.get("/api/jobs/none").status_code == 404
            counted = client.get("/metrics").text
        assert (
            'plumb_requests_total{method="GET",route="/api/jobs/{number}",status="404"} 1.0'
            in counted
        )
    finally:
        app.state.crew.close()
