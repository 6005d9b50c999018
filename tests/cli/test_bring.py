"""A folder of jobs taken in: what was exported comes back, all of it or none."""

import json
import shutil
from pathlib import Path

import pytest
from sqlalchemy import Engine, text
from tests.conftest import emptied
from tests.drivers import Desk, load_demo, open_demo

from plumb.bringing import bring_all
from plumb.exporting import export
from plumb.jobfile.exact import loads
from plumb.keeping.trouble import KeepingTrouble
from plumb.store.session import transaction


def _bring(engine: Engine, folder: Path) -> list[tuple[int, int]]:
    told: list[tuple[int, int]] = []
    bring_all(engine, folder, lambda n, of: told.append((n, of)))
    return told


def test_what_was_exported_comes_back(engine: Engine, desk: Desk, tmp_path: Path) -> None:
    """Every job with its photos and traces, the same file again."""
    load_demo(engine)
    folder = tmp_path / "out"
    written = list(export(engine, folder))
    before = {n: desk.client.get(f"/api/jobs/{n}/file").content for n in ("311", "341")}
    with transaction(engine) as connection:
        traces = connection.scalar(text("SELECT COUNT(*) FROM trace"))
    emptied(engine)
    told = _bring(engine, folder)
    assert told[-1] == (len(written), len(written))
    for number, content in before.items():
        again = desk.client.get(f"/api/jobs/{number}/file").content
        assert loads(again)["sheets"] == loads(content)["sheets"]
    with transaction(engine) as connection:
        assert connection.scalar(text("SELECT COUNT(*) FROM trace")) == traces
    with pytest.raises(KeepingTrouble, match="here already"):
        _bring(engine, folder)


def test_broken_off_half_way_nothing_was_taken_in(
    engine: Engine, desk: Desk, tmp_path: Path
) -> None:
    """All are one transaction: whoever looks meanwhile sees none, and none is left."""
    folder = tmp_path / "in"
    folder.mkdir()
    for file in open_demo()[:3]:
        shutil.copy(file, folder / file.name)

    def told(n: int, _of: int) -> None:
        assert desk.client.get("/api/jobs", params={"closed": True}).json() == []
        if n == 2:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        bring_all(engine, folder, told)
    assert desk.client.get("/api/jobs", params={"closed": True}).json() == []
    assert _bring(engine, folder)[-1] == (3, 3)


@pytest.mark.parametrize("wrong", ["number", "shape", "zip", "none"])
def test_one_that_does_not_fit_keeps_all_out(
    engine: Engine, desk: Desk, tmp_path: Path, wrong: str
) -> None:
    """It is named, with what is wrong; a number that is taken, a file that is none, a zip that was cut off."""
    folder = tmp_path / "in"
    folder.mkdir()
    for file in open_demo()[:3]:
        shutil.copy(file, folder / file.name)
    first = json.loads((folder / open_demo()[0].name).read_text())
    bad = folder / ("z.plumb.zip" if wrong == "zip" else "z.json")
    bad.write_text({"number": json.dumps(first), "shape": '{"job": 1}', "zip": "PK"}.get(wrong, ""))
    if wrong == "none":
        shutil.rmtree(folder)
    with pytest.raises(KeepingTrouble) as told:
        _bring(engine, folder)
    assert ("no job file" if wrong == "none" else bad.name) in str(told.value)
    assert desk.client.get("/api/jobs", params={"closed": True}).json() == []
