"""Three database servers, two applications: one server killed, one cut off, and nothing is lost."""

import os
import shutil
import tempfile
import time
from collections.abc import Iterator
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import httpx2
import pytest

from plumb.keeping.make import backup
from plumb.store.cluster import Cluster
from tests.faults.galera import PROVIDER, Node, three
from tests.faults.people import LONG, back_after, begin, ended, kept, say, there
from tests.shops import environment, serving

pytestmark = [
    pytest.mark.skipif(
        not Path(PROVIDER).exists(), reason="Debian's galera-4 comes with its mariadb-server"
    ),
    pytest.mark.skipif(
        not LONG,
        reason="the long form; tests/store/test_cluster.py goes round servers that are none",
    ),
]

LONGEST_PAUSE_S = 10.0 if LONG else 30.0
"""Nobody waits longer for an answer while a server is lost; the short form shares the machine with others."""
WORK_S = 20.0 if LONG else 2.0


@pytest.fixture
def cluster() -> Iterator[tuple[list[Node], Cluster]]:
    """Three servers, in memory where the machine has that."""
    memory = Path("/dev/shm")  # noqa: S108  a folder in memory, not a name in a shared folder
    parent = memory if memory.is_dir() and os.access(memory, os.W_OK) else None
    home = Path(tempfile.mkdtemp(prefix="plumb-cluster-", dir=parent))
    try:
        with three(home) as made:
            yield made
    finally:
        shutil.rmtree(home, ignore_errors=True)


def _url(where: Cluster, first: int) -> str:
    """The setting, with another server first."""
    nodes = [*where.nodes[first:], *where.nodes[:first]]
    listed = ",".join(f"{host}:{port}" for host, port in nodes)
    return f"mysql://{where.user}:{where.word.replace(' ', '%20')}@{listed}"


def test_a_server_is_killed_and_one_is_cut_off(
    cluster: tuple[list[Node], Cluster], tmp_path: Path
) -> None:
    """People type at two applications; each server that goes is one that is worked at."""
    nodes, where = cluster
    with ExitStack() as stack:
        addresses = []
        for n in (0, 1):
            env = environment(tmp_path / str(n), PLUMB_DB_URL=_url(where, n), PLUMB_BACKUP_AT="")
            stack.enter_context(serving(env))
            addresses.append(f"http://127.0.0.1:{env['PLUMB_PORT']}")
        people = begin(8, addresses)
        pauses = []
        time.sleep(WORK_S)
        before = kept(people)
        nodes[0].kill()
        pauses.append(back_after(people, time.monotonic()))
        time.sleep(WORK_S)
        nodes[0].start(nodes)
        time.sleep(WORK_S)
        nodes[1].cut_off(off=True)
        pauses.append(back_after(people, time.monotonic()))
        time.sleep(WORK_S)
        nodes[1].cut_off(off=False)
        time.sleep(WORK_S)
        acknowledged = ended(people)
        assert before < len(acknowledged)
        assert max(w for t in people for w in t.waited) <= LONGEST_PAUSE_S
        assert max(pauses) <= LONGEST_PAUSE_S

        def ask(path: str) -> Any:
            return httpx2.get(addresses[1] + path).raise_for_status().json()

        found = there(ask, people)
    assert sorted(found.elements()) == sorted(acknowledged)
    say(f"{len(acknowledged)} readings; back after {pauses} s")
    # Every server has each of them once; a backup over the network holds what they hold.
    for node in nodes:
        count = "SELECT COUNT(*) FROM plumb.reading WHERE live = 1"
        for _ in range(100):
            if node.ask(count).split() == [str(len(acknowledged))]:
                break
            time.sleep(0.3)
        assert node.ask(count).split() == [str(len(acknowledged))]
    file = backup(where, tmp_path / "backups", check=True)
    assert file.stat().st_size > 0
