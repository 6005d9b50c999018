"""It starts again after any end, and stops only what is its own."""

import os
import random
import shutil
import signal
import subprocess
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import httpx2
import psutil
import pytest
from sqlalchemy import text
from tests.cli.test_script import PLUMB, environment, wait_for
from tests.drivers import free_port, new_id

from plumb.store.holder import holder_of
from plumb.store.server import Place
from plumb.store.session import make_engine, transaction

KILLS = 20 if os.environ.get("PLUMB_LONG_TESTS") else 2
"""How often everything is killed; all twenty take ten minutes."""


@pytest.fixture(scope="module")
def empty_shop(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A place that was started and stopped once: to make one takes longer than to copy it."""
    home = tmp_path_factory.mktemp("shop")
    env = environment(home)
    with serving(env):
        subprocess.run([PLUMB, "stop"], env=env, check=True, capture_output=True)
    return home / "db"


Opens = Callable[[str], dict[str, str]]


@pytest.fixture
def opens(empty_shop: Path, tmp_path: Path) -> Opens:
    """A shop of one's own, by name: ports, and a copy of the empty place."""

    def make(name: str) -> dict[str, str]:
        shutil.copytree(empty_shop, tmp_path / name / "db")
        return environment(tmp_path / name)

    return make


def database_of(env: dict[str, str]) -> int | None:
    """The process that has this place's data in its hands."""
    return holder_of(Path(env["PLUMB_DATA_DIR"]) / "data" / "ibdata1")


@contextmanager
def serving(env: dict[str, str]) -> Iterator[subprocess.Popen[str]]:
    """A running application; afterwards nothing of it is left."""
    process = subprocess.Popen(
        [PLUMB, "serve"], env=env, text=True, stdout=subprocess.PIPE, stderr=subprocess.STDOUT
    )
    try:
        wait_for(f"http://127.0.0.1:{env['PLUMB_PORT']}/api/jobs", process)
        yield process
    finally:
        process.kill()
        process.communicate()
        with suppress(psutil.NoSuchProcess):
            if (left := database_of(env)) is not None:
                psutil.Process(left).kill()
                psutil.Process(left).wait(20)


def test_a_killed_application_starts_again_on_the_database_it_left(opens: Opens) -> None:
    """The database goes on, the next start takes it over, and a polite stop ends both."""
    env = opens("shop")
    address = f"http://127.0.0.1:{env['PLUMB_PORT']}"
    with serving(env) as process:
        left = database_of(env)
        assert left is not None
        made = {"request_id": new_id(), "vehicle_name": "Torvik Lundy 1.8"}
        assert httpx2.post(f"{address}/api/jobs", json=made).status_code == 201
        process.kill()
        process.wait()
        assert database_of(env) == left
        with serving(env) as second:
            assert database_of(env) == left
            assert len(httpx2.get(f"{address}/api/jobs").json()) == 1
            # A terminal that is closed is a polite stop.
            second.send_signal(signal.SIGHUP)
            assert second.wait(timeout=60) == 0
            assert database_of(env) is None


def test_another_port_is_taken_up_by_the_database_that_was_left(opens: Opens) -> None:
    """Started with other settings, the one that was left is shut down cleanly first."""
    env = opens("shop")
    with serving(env) as process:
        left = database_of(env)
        process.kill()
        process.wait()
        other = {**env, "PLUMB_DB_PORT": str(free_port())}
        with serving(other):
            assert database_of(env) not in {None, left}


def test_a_second_start_in_the_same_place_is_refused(opens: Opens) -> None:
    """Said with what to do; the first goes on."""
    env = opens("shop")
    with serving(env) as process:
        other = {**env, "PLUMB_PORT": str(free_port())}
        second = subprocess.run(
            [PLUMB, "serve"], env=other, capture_output=True, text=True, timeout=120, check=False
        )
        assert second.returncode == 2
        assert "already runs" in second.stderr
        assert process.poll() is None


def test_stop_ends_only_its_own(opens: Opens) -> None:
    """Numbers in files of another place mean nothing, whoever has them now."""
    mine, theirs = opens("mine"), opens("theirs")
    with serving(theirs) as process:
        database = database_of(theirs)
        home = Path(mine["PLUMB_DATA_DIR"])
        (home / "mariadb.pid").write_text(str(database))
        (home / "plumb.pid").write_text(str(process.pid))
        (home / "plumb.lock").write_text(str(process.pid))
        done = subprocess.run([PLUMB, "stop"], env=mine, capture_output=True, text=True, check=True)
        assert "Nothing was running" in done.stdout
        assert process.poll() is None
        assert database_of(theirs) == database


def test_tables_of_a_newer_plumb_are_left_alone(opens: Opens) -> None:
    """One clear sentence, exit code 2, nothing running afterwards."""
    env = opens("shop")
    with serving(env):
        place = Place(home=Path(env["PLUMB_DATA_DIR"]), port=int(env["PLUMB_DB_PORT"]))
        engine = make_engine(place.url())
        with transaction(engine) as connection:
            connection.execute(text("UPDATE alembic_version SET version_num = '9999'"))
        engine.dispose()
        subprocess.run([PLUMB, "stop"], env=env, check=True, capture_output=True)
        done = subprocess.run(
            [PLUMB, "serve"], env=env, capture_output=True, text=True, timeout=120, check=False
        )
        assert done.returncode == 2
        assert "newer Plumb (step 9999" in done.stderr
        assert "Traceback" not in done.stderr
        assert database_of(env) is None


class Typist(threading.Thread):
    """Someone who types without looking, and sends each figure again until it is kept."""

    def __init__(self, address: str, sheet_id: int, injector: str) -> None:
        super().__init__(daemon=True)
        self.path = f"{address}/api/sheets/{sheet_id}/readings"
        self.injector = injector
        self.kept: list[str] = []
        self.stop = threading.Event()

    def run(self) -> None:
        """Type until told to stop; the last one is still sent until it is kept."""
        with httpx2.Client(timeout=20) as client:
            while not self.stop.is_set() and len(self.kept) < 99:
                body = {"id": new_id(), "injector": self.injector, "first": "50", "second": "26"}
                while not self._sent(client, body):
                    time.sleep(0.1)
                self.kept.append(body["id"])

    def _sent(self, client: httpx2.Client, body: dict[str, str]) -> bool:
        try:
            answer = client.post(self.path, json=body)
        except httpx2.HTTPError:
            return False
        assert answer.status_code in {200, 503, 500}, answer.text
        return answer.status_code == 200


def test_killed_again_and_again_nothing_is_lost_or_doubled(opens: Opens) -> None:
    """Application and database are killed while six people type; each start is a plain one."""
    env = opens("shop")
    address = f"http://127.0.0.1:{env['PLUMB_PORT']}"
    luck = random.Random(20)
    typists: list[Typist] = []
    made: list[dict[str, Any]] = []
    for kill in range(KILLS):
        # The kernel ends processes in either order, and at any moment of a save.
        with serving(env) as process:
            if kill % 10 == 0:
                typists = _new_typists(address, made, typists)
            time.sleep(luck.uniform(0.2, 2.0))
            database = database_of(env)
            assert database is not None
            first, second = luck.sample([process.pid, database], 2)
            os.kill(first, signal.SIGKILL)
            time.sleep(luck.choice([0, 0.05]))
            with suppress(ProcessLookupError):
                os.kill(second, signal.SIGKILL)
    with serving(env):
        for typist in typists:
            typist.stop.set()
        for typist in typists:
            typist.join(timeout=60)
            assert not typist.is_alive()
        kept = [r for t in typists for r in t.kept]
        there = [
            reading["id"]
            for sheet in made
            for n in range(1, 7)
            for reading in httpx2.get(
                f"{address}/api/sheets/{sheet['id']}/rows/{n}/readings"
            ).json()
        ]
    assert len(kept) > 6 * KILLS / 2
    assert sorted(there) == sorted(kept)


def _new_typists(address: str, made: list[dict[str, Any]], before: list[Typist]) -> list[Typist]:
    """Six people on a job of their own; earlier ones end, and stay on the list."""
    for typist in before:
        typist.stop.set()
    body = {"request_id": new_id(), "vehicle_name": "Torvik Lundy 1.8", "cylinders": 6}
    sheet = httpx2.post(f"{address}/api/jobs", json=body).json()
    made.append(sheet)
    typists = [Typist(address, sheet["id"], str(n)) for n in range(1, 7)]
    for typist in typists:
        typist.start()
    return [*before, *typists]


@pytest.mark.parametrize("damage", ["gone", "garbage"])
def test_a_table_that_cannot_be_read_is_named(opens: Opens, damage: str) -> None:
    """/health says which one; the others go on."""
    env = opens("shop")
    address = f"http://127.0.0.1:{env['PLUMB_PORT']}"
    file = Path(env["PLUMB_DATA_DIR"]) / "data" / "plumb" / "gauge.ibd"
    if damage == "gone":
        file.unlink()
    else:
        file.write_bytes(os.urandom(file.stat().st_size))
    process = subprocess.Popen(
        [PLUMB, "serve"], env=env, text=True, stdout=subprocess.PIPE, stderr=subprocess.STDOUT
    )
    try:
        for _ in range(300):
            with suppress(httpx2.HTTPError):
                health = httpx2.get(f"{address}/api/health")
                break
            time.sleep(0.1)
        assert health.status_code == 503
        assert health.json()["unreadable"] == ["gauge"]
        assert httpx2.get(f"{address}/api/jobs").status_code == 200
    finally:
        subprocess.run([PLUMB, "stop"], env=env, check=False, capture_output=True)
        process.kill()
        process.communicate()
