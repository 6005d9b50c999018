"""The bootstrap script and the serving process, run as a person would run them."""

import signal
import socket
import subprocess
from pathlib import Path

import pytest
from tests.drivers import open_demo
from tests.shops import PLUMB, Opens, environment, wait_for


def test_demo_starts_answers_and_stops_cleanly(opens: Opens) -> None:
    """Ctrl-C ends application and database; a second start has the same jobs."""
    env = opens("shop")
    address = f"http://127.0.0.1:{env['PLUMB_PORT']}"
    for _ in range(2):
        process = subprocess.Popen(
            [PLUMB, "demo"], env=env, text=True, stdout=subprocess.PIPE, stderr=subprocess.STDOUT
        )
        jobs = wait_for(f"{address}/api/jobs", process)
        assert jobs.count('"number"') == len(open_demo())
        assert "<title>Plumb</title>" in wait_for(address + "/", process)
        process.send_signal(signal.SIGINT)
        out, _ = process.communicate(timeout=120)
        assert process.returncode == 0, out
        assert address in out
        assert "everything is kept" in out
        with pytest.raises(ConnectionRefusedError):
            socket.create_connection(("127.0.0.1", int(env["PLUMB_DB_PORT"])), timeout=1)


def test_a_port_in_use_is_said(tmp_path: Path) -> None:
    """Exit code 2, the setting named, no data made."""
    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        env = environment(tmp_path, PLUMB_PORT=str(other.getsockname()[1]))
        done = subprocess.run(
            [PLUMB, "serve"], env=env, capture_output=True, text=True, timeout=180, check=False
        )
    assert done.returncode == 2
    assert "PLUMB_PORT" in done.stderr
    assert not (tmp_path / "db" / "data").exists()


def test_without_packages_and_root_they_are_named(tmp_path: Path) -> None:
    """Exit code 2, nothing tried: seen with an empty path and another user's number."""
    tools = tmp_path / "bin"
    tools.mkdir()
    for name in ("bash", "readlink", "dirname", "mkdir", "sort", "tr", "cat", "flock", "env"):
        found = subprocess.run(["which", name], capture_output=True, text=True, check=True)
        (tools / name).symlink_to(found.stdout.strip())
    (tools / "id").write_text("#!/bin/sh\necho 1000\n")
    (tools / "id").chmod(0o755)
    done = subprocess.run(
        ["bash", PLUMB, "demo"],
        env={"PATH": str(tools), "HOME": str(tmp_path)}, capture_output=True, text=True,
        timeout=180, check=False,
    )  # fmt: skip
    assert done.returncode == 2
    assert "mariadb-server" in done.stderr


def test_help_names_every_command() -> None:
    """demo, serve, stop, analyze, bench, settings."""
    done = subprocess.run([PLUMB, "help"], capture_output=True, text=True, check=True)
    for command in ("demo", "serve", "stop", "analyze", "bench", "settings"):
        assert command in done.stdout
