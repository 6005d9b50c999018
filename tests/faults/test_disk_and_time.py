"""The disk under the database is full; the clock is set back by an hour."""

import os
import shutil
import subprocess
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import httpx2
import pytest

from tests.drivers import eventually, new_id
from tests.faults.people import LONG, back_after, begin, ended, kept, there
from tests.shops import environment, serving

ROOM_MB = 640
FAKE_CLOCK = next(Path("/usr/lib").glob("*/faketime/libfaketimeMT.so.1"), None)


@pytest.fixture
def small_disk(tmp_path: Path) -> Iterator[Path]:
    """A disk of its own, which is soon full."""
    place = tmp_path / "disk"
    place.mkdir()
    made = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", f"size={ROOM_MB}m", "tmpfs", place], check=False, capture_output=True
    )  # fmt: skip
    if made.returncode:
        pytest.skip("only root may make a disk")
    yield place
    subprocess.run(["umount", "-l", place], check=True)


def _fill(disk: Path) -> Path:
    """Take up the whole of it."""
    file = disk / "filler"
    with file.open("wb", buffering=0) as filler, suppress(OSError):
        while True:
            filler.write(b"\0" * 65536)
    return file


@pytest.mark.skipif(not LONG, reason="the long form; tests/store/test_busy.py is the short one")
def test_on_a_full_disk_nothing_is_lost(small_disk: Path, tmp_path: Path) -> None:
    """What does not fit is said in words and kept by whoever typed it; with room again all goes on by itself."""
    env = environment(tmp_path, PLUMB_DATA_DIR=str(small_disk / "db"), PLUMB_BACKUP_AT="")
    address = f"http://127.0.0.1:{env['PLUMB_PORT']}"

    def ask(path: str) -> Any:
        # A store that is busy says so, and is asked again, as a browser does.
        return eventually(lambda: _asked(address + path)).json()

    with serving(env):
        people = begin(4, [address], pause_s=0.02)
        time.sleep(2)
        filler = _fill(small_disk)
        assert "MB are left" in " ".join(ask("/api/keeping")["told"])
        refused, taken = _refused(address)
        assert refused.status_code in {503, 507}, refused.text
        assert refused.json()["title"] in {"The disk is full", "Not just now"}
        # Looking goes on: the list, found ones, and the jobs that people work at.
        assert ask("/api/jobs?find=torvik")
        sheets = [f"/api/sheets/{one.sheets[0]}" for one in people]
        for sheet in sheets:
            knots = ask(f"/api/jobs/{ask(sheet)['job_number']}")["route"]
            assert any(knot["sheet_id"] for knot in knots)
        # Of those that were taken until then the first page shows sixty.
        assert len(ask("/api/jobs")) >= min(60, len(sheets) + taken)
        filler.unlink()
        moment = time.monotonic()
        back_after(people, moment)
        before = kept(people)
        time.sleep(10)
        assert kept(people) > before
        acknowledged = ended(people)
        assert sorted(there(ask, people).elements()) == sorted(acknowledged)


def _asked(address: str) -> httpx2.Response | None:
    answer = httpx2.get(address, timeout=60)
    return None if answer.status_code == 503 else answer.raise_for_status()


def _refused(address: str) -> tuple[httpx2.Response, int]:
    """What is answered once nothing fits any more, and how many jobs were taken until then."""
    taken = 0
    deadline = time.monotonic() + 120
    while time.monotonic() < deadline:
        wanted = {"request_id": new_id(), "vehicle_name": "Torvik", "complaint": "x" * 400}
        try:
            answer = httpx2.post(f"{address}/api/jobs", json=wanted, timeout=30)
        except httpx2.HTTPError:
            continue
        if answer.status_code >= 300:
            return answer, taken
        taken += 1
    pytest.fail("the disk never was full")


@pytest.mark.skipif(
    not LONG, reason="the long form; pauses, certificates and backups have tests of their own"
)
@pytest.mark.skipif(FAKE_CLOCK is None, reason="Debian's faketime is not there")
def test_the_clock_is_set_back_by_an_hour(tmp_path: Path) -> None:
    """Figures stay in the order in which they were taken, jobs go on, nothing is lost, and a start later is a plain one.

    It is the application's clock: the database's waits do not go with one that is set by a library.
    """
    clock = tmp_path / "clock"
    clock.write_text("+0")
    # Its own sleep of Python does not go with a clock that is set.
    sleeps = "import threading, time\ntime.sleep = lambda s: threading.Event().wait(s)\n"
    (tmp_path / "sitecustomize.py").write_text(sleeps)
    _without_it(tmp_path / "bin", "mariadbd")
    env = environment(
        tmp_path, PYTHONPATH=str(tmp_path), LD_PRELOAD=str(FAKE_CLOCK), FAKETIME_TIMESTAMP_FILE=str(clock),
        FAKETIME_CACHE_DURATION="1", FAKETIME_DONT_FAKE_MONOTONIC="1", DONT_FAKE_MONOTONIC="1",
        PATH=f"{tmp_path / 'bin'}:{os.environ['PATH']}",
    )  # fmt: skip
    address = f"http://127.0.0.1:{env['PLUMB_PORT']}"

    def ask(path: str) -> Any:
        return httpx2.get(address + path, timeout=60).raise_for_status().json()

    with serving(env):
        first = httpx2.post(
            f"{address}/api/jobs",
            json={"request_id": new_id(), "vehicle_name": "Torvik"},
            timeout=60,
        ).json()
        path = f"/api/sheets/{first['id']}"
        _burst(address + path, "26")
        people = begin(3, [address], pause_s=0.05)
        time.sleep(1)
        clock.write_text("-1h")
        time.sleep(2)
        moment = time.monotonic()
        _burst(address + path, "27")
        back_after(people, moment)
        time.sleep(10)
        second = httpx2.post(
            f"{address}/api/jobs",
            json={"request_id": new_id(), "vehicle_name": "Torvik"},
            timeout=60,
        ).json()
        acknowledged = ended(people)
        noted = ask(f"{path}/rows/1/readings")
        assert [r["second_typed"] for r in noted] == ["26", "27"]
        # The clock went back indeed: the second was taken before the first, by the clock.
        assert noted[0]["taken"] > noted[1]["taken"]
        numbers = {job["number"] for job in ask("/api/jobs")}
        assert {first["job_number"], second["job_number"]} <= numbers
        assert sorted(there(ask, people).elements()) == sorted(acknowledged)
        closed = {"by": "Ines K.", "reason": "enough"}
        answer = httpx2.post(f"{address}/api/jobs/{first['job_number']}/closing", json=closed)
        assert answer.status_code == 200, answer.text
        assert ask("/api/journal/check")["wrong"] == ""
    clock.write_text("-2h")
    with serving(env):
        assert ask(f"/api/jobs/{first['job_number']}")["closed"]
        _burst(f"{address}/api/sheets/{second['id']}", "26")


def _without_it(folder: Path, program: str) -> None:
    """A program by that name on the path, which runs the real one with the machine's own clock."""
    folder.mkdir()
    real = shutil.which(program, path=f"{os.environ['PATH']}:/usr/sbin")
    file = folder / program
    file.write_text(f'#!/bin/sh\nunset LD_PRELOAD\nexec {real} "$@"\n')
    file.chmod(0o755)


def _burst(sheet: str, second: str) -> None:
    body = {"id": new_id(), "injector": "1", "first": "50", "second": second}
    httpx2.post(f"{sheet}/readings", json=body).raise_for_status()
