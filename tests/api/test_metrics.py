"""What a program that watches Plumb is told, and that nobody else is."""

from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from prometheus_client.parser import text_string_to_metric_families
from sqlalchemy import Engine
from tests.drivers import Desk

from plumb.api.app import make_app
from plumb.api.settings import Settings
from plumb.keeping.safe import Safe

HERE = ("127.0.0.1", 40000)


class Clock:
    """Says that the last backup was made a day ago."""

    def safe(self) -> Safe:
        """How it stands."""
        return Safe(datetime.now(UTC) - timedelta(days=1), "")


@pytest.fixture
def watched(engine: Engine, tmp_path: Path) -> TestClient:
    """An application of its own, asked from this machine."""
    app = make_app(engine, Settings(data_dir=tmp_path))
    return TestClient(app, base_url="http://127.0.0.1", client=HERE)


def told(client: TestClient) -> dict[tuple[str, ...], float]:
    """Every sample by its name and labels, as Prometheus' own parser reads them."""
    text = client.get("/metrics").text
    return {
        (s.name, *(v for _k, v in sorted(s.labels.items()))): s.value
        for family in text_string_to_metric_families(text)
        for s in family.samples
    }


def test_requests_are_counted_by_route_and_answer(watched: TestClient) -> None:
    """By the template of the address, never by what stood in it; a page and a refusal have none."""
    sheet = Desk(watched).open_job(4)
    for n in "12":
        Desk(watched).type(sheet, n, "50 26")
    watched.get("/api/jobs/none")
    watched.get("/")
    watched.get("/api/jobs", headers={"host": "elsewhere.example"})
    watched.request("BREW", "/api/jobs")
    seen = told(watched)
    saved = ("POST", "/api/sheets/{sheet_id}/readings")
    assert seen["plumb_requests_total", *saved, "200"] == 2
    assert seen["plumb_request_seconds_count", *saved] == 2
    assert 0 < seen["plumb_request_seconds_sum", *saved] < 60
    assert seen["plumb_requests_total", "GET", "/api/jobs/{number}", "404"] == 1
    assert seen["plumb_requests_total", "GET", "other", "421"] == 1
    assert not any(word in label for word in ("none", "BREW") for key in seen for label in key)


def test_what_it_stands_on(watched: TestClient) -> None:
    """Database, disk, backup, screens; where no backup is made by the clock there is no age of one."""
    seen = told(watched)
    assert seen["plumb_database_up",] == 1
    assert seen["plumb_disk_free_bytes",] > 0
    assert seen["plumb_screens",] == 0
    assert ("plumb_backup_age_seconds",) not in seen
    watched.app.state.clock = Clock()  # type: ignore[attr-defined]
    assert told(watched)["plumb_backup_age_seconds",] == pytest.approx(86_400, abs=60)


def test_nobody_else_is_told(engine: Engine) -> None:
    """Another machine finds nothing there, signed in or not."""
    for settings in (Settings(), Settings(network=True, hosts="plumb.lan")):
        app = make_app(engine, settings)
        scheme, host = ("https", "plumb.lan") if settings.network else ("http", "127.0.0.1")
        other = TestClient(app, base_url=f"{scheme}://{host}", client=("192.168.4.9", 40000))
        assert other.get("/metrics").status_code == 404
