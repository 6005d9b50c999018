"""It starts again after any end, and stops only what is its own."""

import os
import re
import signal
import subprocess
import time
from contextlib import suppress
from pathlib import Path
from typing import Any, cast

import httpx2
import psutil
from sqlalchemy import text
from tests.drivers import ASK, DEAD_S, eventually, free_port
from tests.faults.people import back_after, begin, ended, there
from tests.shops import PLUMB, Opens, database_of, serving

from plumb.store.server import Place, Server
from plumb.store.session import make_engine, transaction


def test_a_killed_application_starts_again_on_the_database_it_left(opens: Opens) -> None:
    """Whichever port it is given: another one once what was left is shut down cleanly, the same one as it is.

    People type all the while, and what was acknowledged to them is there, once. A database that is killed is
    started again by its application. A second start beside it is refused, a stop of another place is none of its
    business, a polite end ends both.
    """
    env = opens("shop")
    other = {**env, "PLUMB_DB_PORT": str(free_port())}
    address = f"http://127.0.0.1:{env['PLUMB_PORT']}"
    with serving(env) as process:
        left = database_of(env)
        assert left is not None
        people = begin(2, [address], pause_s=0.1)
        eventually(lambda: all(t.kept for t in people))
        _killed(process)
        assert database_of(env) == left
        with serving(other) as second:
            left = database_of(env)
            assert left not in {None, process.pid}
            assert _port_of(left) == other["PLUMB_DB_PORT"]
            _killed(second)
            assert database_of(env) == left
            with serving(other) as third:
                assert database_of(env) == left
                moment = time.monotonic()
                psutil.Process(left).kill()
                back_after(people, moment)
                assert third.poll() is None
                # What was sent just before it died may be acknowledged after the moment.
                eventually(lambda left=left: database_of(env) not in {None, left})
                acknowledged = ended(people)

                def ask(path: str) -> Any:
                    return ASK.get(address + path, timeout=60).raise_for_status().json()

                assert sorted(there(ask, people).elements()) == sorted(acknowledged)
                assert ask("/api/journal/check")["wrong"] == ""
                _is_alone(other, third, opens("theirs"))
                # A terminal that is closed is a polite stop.
                third.send_signal(signal.SIGHUP)
                assert third.wait(timeout=DEAD_S) == 0
                assert database_of(env) is None


def _killed(process: subprocess.Popen[str]) -> None:
    process.kill()
    process.wait()


def _port_of(database: int | None) -> str:
    """By its own option file."""
    assert database is not None
    (file,) = (
        a.partition("=")[2]
        for a in psutil.Process(database).cmdline()
        if a.startswith("--defaults-file=")
    )
    (port,) = re.findall(r"^port=(\d+)$", Path(file).read_text(), re.MULTILINE)
    return str(port)


def _is_alone(env: dict[str, str], process: subprocess.Popen[str], theirs: dict[str, str]) -> None:
    """Nothing starts beside it in its place; numbers in files of another place mean nothing, whoever has them now."""
    beside = {**env, "PLUMB_PORT": str(free_port())}
    second = subprocess.run(
        [PLUMB, "serve"], env=beside, capture_output=True, text=True, timeout=DEAD_S, check=False
    )
    assert second.returncode == 2
    assert "already runs" in second.stderr
    home, database = Path(theirs["PLUMB_DATA_DIR"]), database_of(env)
    (home / "mariadb.pid").write_text(str(database))
    for name in ("plumb.pid", "plumb.lock"):
        (home / name).write_text(str(process.pid))
    done = subprocess.run([PLUMB, "stop"], env=theirs, capture_output=True, text=True, check=True)
    assert "Nothing was running" in done.stdout
    assert process.poll() is None
    assert database_of(env) == database


def test_a_killed_application_leaves_its_database_and_nothing_else(opens: Opens) -> None:
    """Processes that worked beside it, on requests and on simulations, end by themselves."""
    env = {**opens("shop"), "PLUMB_WORKERS": "1"}
    address = f"http://127.0.0.1:{env['PLUMB_PORT']}"
    with serving(env) as process:
        begun = ASK.post(f"{address}/api/rules/worth", json={"sets": 2000}, timeout=60)
        assert begun.status_code == 200, begun.text

        def beside() -> list[psutil.Process]:
            return psutil.Process(process.pid).children(recursive=True)

        eventually(lambda: sum("spawn_main" in " ".join(p.cmdline()) for p in beside()) == 2)
        children = beside()
        process.kill()
        process.wait()
        gone, left = psutil.wait_procs([p for p in children if p.pid != database_of(env)], DEAD_S)
        assert left == []
        assert database_of(env) in {p.pid for p in children}
        assert len(gone) >= 2


def test_tables_of_a_newer_plumb_are_left_alone(opens: Opens) -> None:
    """One clear sentence, exit code 2, nothing running afterwards."""
    env = opens("shop")
    place = Place(home=Path(env["PLUMB_DATA_DIR"]), port=int(env["PLUMB_DB_PORT"]))
    database = Server(place)
    database.start()
    engine = make_engine(place.url())
    with transaction(engine) as connection:
        connection.execute(text("UPDATE alembic_version SET version_num = '9999'"))
    engine.dispose()
    database.stop()
    done = subprocess.run(
        [PLUMB, "serve"], env=env, capture_output=True, text=True, timeout=DEAD_S, check=False
    )
    assert done.returncode == 2
    assert "newer Plumb (step 9999" in done.stderr
    assert "Traceback" not in done.stderr
    assert database_of(env) is None


def test_a_table_that_cannot_be_read_is_named(opens: Opens) -> None:
    """One that is gone, one that is garbage: /health says which; the others go on."""
    env = opens("shop")
    address = f"http://127.0.0.1:{env['PLUMB_PORT']}"
    tables = Path(env["PLUMB_DATA_DIR"]) / "data" / "plumb"
    (tables / "gauge.ibd").unlink()
    garbage = tables / "shelf.ibd"
    garbage.write_bytes(os.urandom(garbage.stat().st_size))
    process = subprocess.Popen(
        [PLUMB, "serve"], env=env, text=True, stdout=subprocess.PIPE, stderr=subprocess.STDOUT
    )
    try:

        def asked() -> httpx2.Response | None:
            with suppress(httpx2.HTTPError):
                return ASK.get(f"{address}/api/health", timeout=60)
            return None

        health = cast("httpx2.Response", eventually(asked))
        assert health.status_code == 503
        assert health.json()["unreadable"] == ["gauge", "shelf"]
        assert ASK.get(f"{address}/api/jobs", timeout=60).status_code == 200
    finally:
        subprocess.run([PLUMB, "stop"], env=env, check=False, capture_output=True)
        process.kill()
        process.communicate()
