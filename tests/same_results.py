"""Keeps what Plumb makes of the demo jobs and of generated ones, and tells what has changed since.

    python -m tests.same_results keep DIR [COUNT]
    python -m tests.same_results compare DIR [COUNT]

Run ``keep`` before a change that must change nothing, and ``compare`` after it: the result of every
job file, and with a database of its own every screen that is made of one.
"""

import json
import re
import shutil
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from plumb.analyze import as_json
from plumb.api.app import make_app
from plumb.api.settings import Settings
from plumb.store.schema import upgrade
from plumb.store.server import Place, Server
from plumb.store.session import make_engine
from tests.drivers import DEMO, free_port
from tests.jobs_of_every_kind import job_file

_IDS = re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}")


def files(count: int) -> Iterator[tuple[str, bytes]]:
    """Every demo job, and so many generated ones, by name."""
    for path in sorted(DEMO.glob("*.json")):
        yield path.stem, path.read_bytes()
    for seed in range(count):
        yield f"made-{seed:04d}", json.dumps(job_file(seed)).encode()


def screens(client: TestClient, text: bytes) -> dict[str, Any]:
    """A job brought in, and everything that is shown of it."""
    number = client.post(
        "/api/job-files", content=text, headers={"content-type": "application/json"}
    ).json()["job_number"]
    job = client.get(f"/api/jobs/{number}").json()
    made: dict[str, Any] = {"job": job, "file": client.get(f"/api/jobs/{number}/file").text}
    for knot in job["route"]:
        if key := knot["sheet_id"]:
            unit = "?unit=bar" if key % 3 == 0 else ""
            made[knot["key"]] = client.get(f"/api/sheets/{key}{unit}").json()
            made[f"{knot['key']} csv"] = client.get(f"/api/sheets/{key}/csv").text
            made[f"{knot['key']} working"] = client.get(f"/api/sheets/{key}/working{unit}").json()
    return made


def everything(count: int) -> Iterator[tuple[str, str]]:
    """Name and text of each result, ids of readings left out."""
    home = Path(tempfile.mkdtemp(prefix="plumb-same-"))
    server = Server(Place(home=home, port=free_port(), in_memory=True))
    server.start()
    try:
        engine = make_engine(server.place.url())
        upgrade(engine)
        client = TestClient(make_app(engine, Settings(), pages=home), base_url="http://127.0.0.1")
        for name, text in files(count):
            yield f"{name}.result", as_json(text)
            shown = json.dumps(screens(client, text), indent=1, ensure_ascii=False)
            yield f"{name}.screens", _IDS.sub("id", shown)
        lines = client.get("/api/jobs").json()
        yield "today", json.dumps(lines, indent=1, ensure_ascii=False)
        engine.dispose()
    finally:
        server.stop()
        shutil.rmtree(home, ignore_errors=True)


def main(what: str, folder: Path, count: int) -> int:
    """Keep, or compare: 1 where something differs."""
    folder.mkdir(parents=True, exist_ok=True)
    other = []
    for name, text in everything(count):
        path = folder / name
        if what == "keep":
            path.write_text(text)
        elif path.read_text() != text:
            other.append(name)
            path.with_suffix(f"{path.suffix}.new").write_text(text)
    sys.stdout.write("".join(f"{name} differs\n" for name in other[:20]))
    sys.stdout.write(f"{len(other)} differ\n")
    return int(bool(other))


if __name__ == "__main__":
    given = sys.argv[1:]
    sys.exit(main(given[0], Path(given[1]), int(given[2]) if len(given) > 2 else 300))
