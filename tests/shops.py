"""Shops of a test's own, served by the command of the README as a person would have it."""

import fcntl
import os
import shutil
import subprocess
import tempfile
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import cast

import psutil
import pytest

from plumb.api.settings import ROOT
from plumb.store.holder import holder_of
from tests.drivers import eventually, free_port

PLUMB = str(ROOT / "plumb")

Opens = Callable[[str], dict[str, str]]


def environment(tmp_path: Path, **more: str) -> dict[str, str]:
    """Ports and data of the test's own."""
    return {
        **os.environ,
        "PLUMB_PORT": str(free_port()),
        "PLUMB_DB_PORT": str(free_port()),
        "PLUMB_DATA_DIR": str(tmp_path / "db"),
        **more,
    }


def wait_for(address: str, process: subprocess.Popen[str]) -> str:
    """The answer of an address, once there is one."""

    def answer() -> str | None:
        assert process.poll() is None, process.communicate()
        with suppress(OSError), urllib.request.urlopen(address, timeout=60) as given:  # noqa: S310
            return str(given.read().decode())
        return None

    return cast("str", eventually(answer))


def database_of(env: dict[str, str]) -> int | None:
    """The process that has this place's data in its hands."""
    return holder_of(Path(env["PLUMB_DATA_DIR"]) / "data" / "ibdata1")


@contextmanager
def serving(env: dict[str, str]) -> Iterator[subprocess.Popen[str]]:
    """A running application; afterwards nothing of it is left."""
    # Into a file: nobody reads a pipe meanwhile, and one is open as long as anything lives that was begun.
    with tempfile.TemporaryFile("w") as told:
        process = subprocess.Popen(
            [PLUMB, "serve"], env=env, text=True, stdout=told, stderr=subprocess.STDOUT
        )
    try:
        wait_for(f"http://127.0.0.1:{env['PLUMB_PORT']}/api/jobs", process)
        yield process
    finally:
        process.kill()
        process.wait()
        with suppress(psutil.NoSuchProcess):
            if (left := database_of(env)) is not None:
                psutil.Process(left).kill()
                psutil.Process(left).wait(20)


@pytest.fixture(scope="session")
def empty_shop(tmp_path_factory: pytest.TempPathFactory, worker_id: str) -> Path:
    """A place that was started and stopped once: to make one takes longer than to copy it."""
    base = tmp_path_factory.getbasetemp()
    # All workers share one: whoever comes first makes it.
    home = (base if worker_id == "master" else base.parent) / "empty-shop"
    made = home / "made"
    with home.with_suffix(".lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not made.exists():
            home.mkdir()
            env = environment(home)
            with serving(env):
                subprocess.run([PLUMB, "stop"], env=env, check=True, capture_output=True)
            made.touch()
    return home / "db"


@pytest.fixture
def opens(empty_shop: Path, tmp_path: Path) -> Opens:
    """A shop of one's own, by name: ports, and a copy of the empty place."""

    def make(name: str) -> dict[str, str]:
        shutil.copytree(empty_shop, tmp_path / name / "db")
        return environment(tmp_path / name)

    return make
