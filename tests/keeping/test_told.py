"""What somebody should look after is said early, and nothing where all is well."""

from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text
from tests.drivers import Desk
from typer.testing import CliRunner

from plumb.cli import app
from plumb.keeping.safe import Safe
from plumb.service.uses.keeping import LOW_MB, safe_keeping, told
from plumb.store.server import Server

NOW = datetime(2026, 11, 26, 9, 0, tzinfo=UTC)
ROOM = 50_000


@pytest.mark.parametrize(
    ("hours", "trouble", "said"),
    [
        (5, "", []),
        (35, "", []),
        (37, "", ["The last backup is 2 days old."]),
        (100, "no room.", ["The last backup is 4 days old. No room."]),
        (5, "no room", ["The last try at a backup failed. No room."]),
        (None, "", []),
        (None, "no room", ["No backup was made yet. No room."]),
    ],
)
def test_an_old_backup_is_said(hours: int | None, trouble: str, said: list[str]) -> None:
    """A day and a half may pass; a first one may be waited for; what went wrong is said with it."""
    last = None if hours is None else NOW - timedelta(hours=hours)
    assert told(Safe(last, trouble), ROOM, NOW) == said


def test_a_disk_that_fills_is_said_before_it_is_full(tmp_path: Path) -> None:
    """Below a gigabyte, with the figure; above it nothing; a folder that is not there is no alarm."""
    assert told(None, LOW_MB, NOW) == []
    (said,) = told(None, LOW_MB - 1, NOW)
    assert said.startswith("Only 1023 MB are left")
    assert safe_keeping(None, tmp_path / "none", NOW).told == []
    assert safe_keeping(None, tmp_path, NOW).free_mb > 0


def test_it_is_asked_for(client: TestClient) -> None:
    """Without a clock: no backup is missed, and it says that none is made by itself."""
    seen = client.get("/api/keeping").json()
    assert (seen["last"], seen["by_clock"]) == ("", False)


def test_the_command_line(
    desk: Desk, engine: Engine, database: Server, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Kept, brought back into another place, refused there the second time without a yes, handed out."""
    number = desk.open_job(4)["job_number"]
    run = CliRunner().invoke

    def at(home: Path, port: int) -> None:
        monkeypatch.setenv("PLUMB_DATA_DIR", str(home))
        monkeypatch.setenv("PLUMB_DB_PORT", str(port))
        monkeypatch.setenv("PLUMB_BACKUP_DIR", str(tmp_path / "kept"))

    at(database.place.home, database.place.port)
    made = run(app, ["backup", "--no-check"])
    assert made.exit_code == 0, made.output
    (file,) = (tmp_path / "kept").iterdir()
    out = tmp_path / "out"
    assert run(app, ["export", str(out)]).exit_code == 0
    with engine.connect() as connection:
        jobs = connection.execute(text("SELECT COUNT(*) FROM job")).scalar_one()
    assert len(list(out.iterdir())) == jobs
    assert (out / f"{number}.plumb.zip").exists()
    at(tmp_path / "new", 1)
    assert run(app, ["restore", str(file)]).exit_code == 0
    assert (tmp_path / "new" / "data" / "plumb").is_dir()
    asked = run(app, ["restore", str(file)], input="n\n")
    assert asked.exit_code == 1
    assert "holds a shop already" in asked.output
    assert [p.name for p in (tmp_path / "new").glob("data*")] == ["data"]
    none = run(app, ["restore", str(tmp_path / "none.plumb-backup")])
    assert none.exit_code == 2
