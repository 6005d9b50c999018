"""Much at once: ten thousand jobs brought in and stopped half-way, fifty people for ten minutes."""

import getpass
import json
import os
import signal
import statistics
import subprocess
import time
from pathlib import Path
from typing import Any

import httpx2
import pytest

from tests.drivers import open_demo
from tests.faults.people import LONG, begin, ended, say, there
from tests.shops import PLUMB, Opens, serving

JOBS = 10_000
PEOPLE = 50
EVERY_S = 10.0
"""One reading of each of them."""
WORK_S = 600.0
MEDIAN_S = 0.2


def _many(folder: Path) -> None:
    """Job files like those of the demo, with numbers of their own."""
    folder.mkdir()
    texts = [json.loads(file.read_text()) for file in open_demo()]
    for n in range(JOBS):
        job = texts[n % len(texts)]
        job["job"]["number"] = f"old-{n:05}"
        (folder / f"{n:05}.json").write_text(json.dumps(job))


def _until_rows(env: dict[str, str], rows: int) -> None:
    """Wait until one transaction has changed so many rows."""
    socket = f"{env['PLUMB_DATA_DIR']}/db.sock"
    query = "SELECT COALESCE(MAX(trx_rows_modified), 0) FROM information_schema.innodb_trx"
    command = ["mariadb", "--no-defaults", "-S", socket, "-u", getpass.getuser(), "-BNe", query]
    deadline = time.monotonic() + 120
    while time.monotonic() < deadline:
        if int(subprocess.run(command, check=True, capture_output=True, text=True).stdout) > rows:
            return
        time.sleep(0.2)
    pytest.fail("nothing was taken in")


@pytest.mark.timeout(3600)
@pytest.mark.skipif(not LONG, reason="the long form; tests/cli/test_bring.py is the short one")
def test_many_jobs_are_taken_in_as_one(opens: Opens, tmp_path: Path) -> None:
    """Killed half-way none is there, while people go on; brought again all are; a bad one keeps all out."""
    env = opens("shop")
    address = f"http://127.0.0.1:{env['PLUMB_PORT']}"
    folder = tmp_path / "jobs"
    _many(folder)

    def found() -> tuple[str, int]:
        answer = httpx2.get(f"{address}/api/jobs", params={"find": "old"}, timeout=60)
        return answer.headers["x-total-count"], len(answer.json())

    with serving(env):
        begun = time.monotonic()
        bringing = subprocess.Popen([PLUMB, "bring", str(folder)], env=env)
        people = begin(2, [address], pause_s=0.2)
        _until_rows(env, 50_000)
        assert bringing.poll() is None, "it was through already"
        os.kill(bringing.pid, signal.SIGKILL)
        bringing.wait()
        assert found() == ("0", 0)
        assert max(w for t in people for w in t.waited) < 60
        acknowledged = ended(people)
        bad = folder / f"{JOBS}.json"
        bad.write_text('{"job": 1}')
        refused = subprocess.run(
            [PLUMB, "bring", str(folder)], env=env, capture_output=True, text=True, check=False
        )
        assert refused.returncode == 2
        assert bad.name in refused.stderr
        assert found() == ("0", 0)
        bad.unlink()
        subprocess.run([PLUMB, "bring", str(folder)], env=env, check=True, capture_output=True)
        assert found() == ("1000+", 60)
        last = httpx2.get(f"{address}/api/jobs/old-{JOBS - 1:05}", timeout=60)
        assert last.status_code == 200

        def ask(path: str) -> Any:
            return httpx2.get(address + path, timeout=60).raise_for_status().json()

        assert sorted(there(ask, people).elements()) == sorted(acknowledged)
    say(f"{JOBS} jobs in {time.monotonic() - begun:.0f} s, three times")


@pytest.mark.timeout(1800)
@pytest.mark.skipif(not LONG, reason="the long form; tests/api/test_crew.py is the short one")
@pytest.mark.parametrize("workers", [0, 2])
def test_fifty_people_at_once(opens: Opens, workers: int) -> None:
    """One reading every ten seconds each, for ten minutes: no error, and nobody waits."""
    env = {**opens("shop"), "PLUMB_WORKERS": str(workers)}
    address = f"http://127.0.0.1:{env['PLUMB_PORT']}"
    with serving(env):
        if workers:
            # What is begun with the application is there a little after it.
            time.sleep(15)
        people = begin(PEOPLE, [address], pause_s=EVERY_S)
        time.sleep(WORK_S)
        acknowledged = ended(people)

        def ask(path: str) -> Any:
            return httpx2.get(address + path, timeout=60).raise_for_status().json()

        found = there(ask, people)
    waited = [w for t in people for w in t.waited[1:]]
    median = statistics.median(waited)
    worst = statistics.quantiles(waited, n=100)[98]
    say(
        f"{len(acknowledged)} readings, {workers} workers: median {median:.3f} s, 99 % {worst:.3f} s"
    )
    assert sorted(found.elements()) == sorted(acknowledged)
    assert len(acknowledged) > PEOPLE * WORK_S / EVERY_S / 4
    assert median < MEDIAN_S
