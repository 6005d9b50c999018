"""Every request has a number; lines as JSON bear it, and nothing that people typed."""

import json
import logging
from collections.abc import Iterator
from io import StringIO

import pytest
import structlog
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from tests.drivers import new_id

from plumb.api import routes_jobs
from plumb.api.app import make_app
from plumb.api.log import as_json
from plumb.api.settings import Settings


@pytest.fixture
def lines() -> Iterator[StringIO]:
    """Lines as JSON for the time of a test, and where they are written."""
    root = logging.getLogger()
    handlers, level = root.handlers, root.level
    into = StringIO()
    as_json(into)
    yield into
    structlog.reset_defaults()
    root.handlers = handlers
    root.setLevel(level)


def test_every_request_is_a_line_with_its_number(engine: Engine, lines: StringIO) -> None:
    """A proxy's own number is taken; one that is none gets a new one."""
    client = TestClient(make_app(engine, Settings(log="json")), base_url="http://127.0.0.1")
    given = client.get("/api/jobs/nobody-knows", headers={"X-Request-Id": "proxy-0000001"})
    assert given.headers["X-Request-Id"] == "proxy-0000001"
    wanted = {"request_id": new_id(), "vehicle_name": "Torvik secret", "complaint": "hesitates"}
    made = client.post("/api/jobs", json=wanted, headers={"X-Request-Id": "a\x7fb"})
    assert len(made.headers["X-Request-Id"]) == 16
    told = [json.loads(line) for line in lines.getvalue().splitlines()]
    requests = [line for line in told if line["event"] == "request"]
    assert [r["request"] for r in requests] == ["proxy-0000001", made.headers["X-Request-Id"]]
    assert [(r["method"], r["route"], r["status"]) for r in requests] == [
        ("GET", "/api/jobs/{number}", 404), ("POST", "/api/jobs", made.status_code),
    ]  # fmt: skip
    assert all(r["ms"] > 0 and r["at"].endswith("Z") and r["level"] == "info" for r in requests)
    assert "secret" not in json.dumps(told)
    assert "hesitates" not in json.dumps(told)


def test_what_broke_is_found_by_the_number_that_was_told(
    engine: Engine, lines: StringIO, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The answer names the line of the log, and the line names the error."""

    def breaks(*_given: object, **_named: object) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr(routes_jobs.service, "show_job", breaks)
    app = make_app(engine, Settings(log="json"))
    client = TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False)
    answer = client.get("/api/jobs/1")
    assert answer.status_code == 500
    number = answer.headers["X-Request-Id"]
    assert number in answer.json()["detail"]
    told = [json.loads(line) for line in lines.getvalue().splitlines()]
    (broken,) = [line for line in told if line["event"] == "unexpected"]
    assert (broken["request"], broken["error"]) == (number, "ZeroDivisionError()")
