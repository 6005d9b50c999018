"""Three database servers on this machine that hold the same, to be killed and cut off."""

import getpass
import os
import shutil
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from plumb.store.cluster import Cluster
from plumb.store.server import PRACTICE, SHOP
from tests.drivers import free_port

PROVIDER = "/usr/lib/galera/libgalera_smm.so"
WORD = "a word of tests"
ACCOUNT = "mysql"


@dataclass
class Node:
    """One server."""

    home: Path
    port: int = field(default_factory=free_port)
    group: int = field(default_factory=free_port)
    transfer: int = field(default_factory=free_port)
    state: int = field(default_factory=free_port)
    process: "subprocess.Popen[bytes] | None" = None

    def options(self, others: list["Node"]) -> Path:
        """Its option file."""
        file = self.home / "my.cnf"
        user = f"user={ACCOUNT}\n" if os.geteuid() == 0 else ""
        address = ",".join(f"127.0.0.1:{n.group}" for n in others)
        ports = (
            f"gmcast.listen_addr=tcp://127.0.0.1:{self.group};ist.recv_addr=127.0.0.1:{self.transfer};"
            "pc.recovery=FALSE;gcache.size=16M;evs.suspect_timeout=PT3S;evs.inactive_timeout=PT6S"
        )
        file.write_text(
            f"[mysqld]\n{user}datadir={self.home}/data\nsocket={self.home}/db.sock\n"
            f"pid-file={self.home}/pid\nport={self.port}\nbind-address=127.0.0.1\nskip-name-resolve\n"
            f"log-error={self.home}/log.err\ncharacter-set-server=utf8mb4\n"
            "collation-server=utf8mb4_unicode_ci\nperformance_schema=0\ninnodb_buffer_pool_size=64M\n"
            "innodb_log_file_size=16M\ninnodb_flush_log_at_trx_commit=0\n"
            "binlog_format=ROW\ninnodb_autoinc_lock_mode=2\nlog_bin_trust_function_creators=1\n"
            f"wsrep_on=ON\nwsrep_provider={PROVIDER}\nwsrep_cluster_name=saltmere\n"
            f"wsrep_cluster_address=gcomm://{address}\nwsrep_node_address=127.0.0.1\n"
            f"wsrep_node_name={self.home.name}\nwsrep_sst_method=rsync\n"
            f"wsrep_sst_receive_address=127.0.0.1:{self.state}\nwsrep_provider_options={ports}\n"
        )
        return file

    def start(self, others: list["Node"], *, first: bool = False) -> None:
        """Start it, and wait until it takes part."""
        file = self.options(others)
        if not (self.home / "data").exists():
            subprocess.run(
                ["mariadb-install-db", f"--defaults-file={file}", "--wsrep-on=OFF",
                 "--auth-root-authentication-method=socket", "--skip-test-db"],
                check=True, capture_output=True,
            )  # fmt: skip
        # As root the transfer between servers would write as nobody: they run as Debian runs them.
        if os.geteuid() == 0:
            subprocess.run(["chown", "-R", ACCOUNT, self.home], check=True)
        begin = ["--wsrep-new-cluster"] if first else []
        self.process = subprocess.Popen(
            ["mariadbd", f"--defaults-file={file}", *begin],
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        deadline = time.monotonic() + 90
        while not self.ready():
            assert self.process.poll() is None, (self.home / "log.err").read_text()[-3000:]
            assert time.monotonic() < deadline, (self.home / "log.err").read_text()[-3000:]
            time.sleep(0.2)

    def ask(self, statements: str) -> str:
        """Run statements as its admin; what it answers, empty where it does not."""
        done = subprocess.run(
            ["mariadb", "--no-defaults", "-S", str(self.home / "db.sock"), "-u",
             getpass.getuser(), "-BN", "-e", statements],
            capture_output=True, text=True, check=False, timeout=30,
        )  # fmt: skip
        return done.stdout

    def ready(self) -> bool:
        """Whether it takes part."""
        return self.ask("SHOW STATUS LIKE 'wsrep_ready'").split()[-1:] == ["ON"]

    def kill(self) -> None:
        """End it as a power cut would."""
        assert self.process is not None
        self.process.kill()
        self.process.wait()

    def cut_off(self, *, off: bool) -> None:
        """Take its network to the others away, or give it back: the cluster's own switch for tests."""
        self.ask(f"SET GLOBAL wsrep_provider_options = 'gmcast.isolate={int(off)}'")


@contextmanager
def three(home: Path) -> Iterator[tuple[list[Node], Cluster]]:
    """Three servers that hold the same, empty databases."""
    home.chmod(0o755)
    nodes = [Node(home / f"node-{n}") for n in (1, 2, 3)]
    for node in nodes:
        node.home.mkdir()
    try:
        for n, node in enumerate(nodes):
            node.start(nodes, first=n == 0)
            if n == 0:
                account(node)
        where = Cluster(
            home=home, user="plumb", word=WORD, nodes=tuple(("127.0.0.1", n.port) for n in nodes)
        )
        yield nodes, where
    finally:
        for node in nodes:
            if node.process is not None:
                node.process.kill()
                node.process.wait()
        shutil.rmtree(home, ignore_errors=True)


def account(node: Node) -> None:
    """What docs/operations.md tells to do at the first server."""
    for name in (SHOP, PRACTICE):
        node.ask(f"CREATE DATABASE {name} CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci;")
    node.ask(f"CREATE USER plumb@'%' IDENTIFIED BY '{WORD}';")
    for name in (SHOP, PRACTICE):
        escaped = name.replace("_", "\\_")
        node.ask(f"GRANT ALL ON `{escaped}`.* TO plumb@'%';")
