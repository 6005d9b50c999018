"""What tests share: a database in memory, an application on it, a browser."""

import os
import shutil
import tempfile
import threading
import time
from collections.abc import Iterator
from concurrent.futures import Future
from pathlib import Path
from typing import Any, cast

import pytest
from anyio.from_thread import BlockingPortal, start_blocking_portal
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, settings
from playwright.sync_api import Browser, Playwright, sync_playwright
from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher
from sqlalchemy import Engine, text

from plumb import tls
from plumb.api.app import make_app
from plumb.api.papers import Papers
from plumb.api.settings import Settings
from plumb.api.wire import PatientProtocol, PatientServer, config_of
from plumb.core.measure.decision import Thresholds
from plumb.devices import scpi
from plumb.service.people import words
from plumb.store.actor import WORKSHOP, acting
from plumb.store.journal import watch
from plumb.store.practice import open_practice
from plumb.store.schema import upgrade
from plumb.store.server import PRACTICE, Place, Server
from plumb.store.session import make_engine, quiet
from plumb.store.tables import Base
from tests.drivers import DEAD_S, Desk, eventually, free_port
from tests.shops import empty_shop, opens
from tests.virtual_time import VirtualTime

__all__ = ["empty_shop", "opens"]

# A machine that stands still for a moment is no fault of what is tested.
settings.register_profile(
    "plumb", deadline=None, suppress_health_check=[HealthCheck.too_slow], print_blob=True
)
settings.load_profile("plumb")

CHROMIUM = os.environ.get("PLUMB_CHROMIUM", "/usr/bin/chromium-headless-shell")
"""Debian's, without the window around the pages: there an address bar nobody sees costs more than they."""
CHROMIUM_ARGS = [
    "--no-sandbox", "--disable-dev-shm-usage", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip


def pytest_addoption(parser: pytest.Parser) -> None:
    """The long form of what goes wrong."""
    parser.addoption("--faults", action="store_true", help="kills, load and nonsense at length")


def pytest_configure(config: pytest.Config) -> None:
    """Modules ask the environment how long to go on, workers of this run too."""
    if config.getoption("--faults"):
        os.environ["PLUMB_LONG_TESTS"] = "1"


LONGEST_FIRST = ("web", "cli", "faults", "api", "practice", "keeping", "store")
"""At the end of a run shared by several, nobody is left alone with a long file."""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Folders whose files take long come first."""
    first = {name: n for n, name in enumerate(LONGEST_FIRST)}
    items.sort(key=lambda item: first.get(item.path.parent.name, len(first)))


@pytest.fixture(scope="session")
def database() -> Iterator[Server]:
    """A real MariaDB of the tests' own, in memory where the machine has that."""
    memory = Path("/dev/shm")  # noqa: S108  a folder in memory, not a name in a shared folder
    parent = memory if memory.is_dir() and os.access(memory, os.W_OK) else None
    home = Path(tempfile.mkdtemp(prefix="plumb-test-", dir=parent))
    server = Server(Place(home=home, port=free_port(), in_memory=True))
    server.start()
    yield server
    server.stop()
    shutil.rmtree(home, ignore_errors=True)


@pytest.fixture(scope="session", autouse=True)
def _cheap_hashes() -> Iterator[None]:
    """Passwords of tests are worth nothing: they are hashed at a hundredth of the cost."""
    cheap = PasswordHash((Argon2Hasher(time_cost=1, memory_cost=64, parallelism=1),))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(words, "hasher", lambda: cheap)
        yield


@pytest.fixture(scope="session")
def _engine(database: Server) -> Iterator[Engine]:
    engine = make_engine(database.place.url())
    upgrade(engine)
    watch(engine)
    yield engine
    engine.dispose()


def emptied(engine: Engine) -> Engine:
    """A store without anything in it."""
    with engine.begin() as connection, quiet(connection):
        connection.execute(text("SET FOREIGN_KEY_CHECKS=0"))
        for table in Base.metadata.tables.values():
            if table.name != "change_entry":
                connection.execute(table.delete())
        # Its rows cannot be taken away one by one.
        if connection.execute(text("SELECT 1 FROM change_entry LIMIT 1")).first():
            connection.execute(text("TRUNCATE change_entry"))
        connection.execute(text("SET FOREIGN_KEY_CHECKS=1"))
    return engine


@pytest.fixture
def engine(_engine: Engine) -> Engine:
    """The store, emptied before each test."""
    return emptied(_engine)


@pytest.fixture(scope="session")
def _practice(database: Server) -> Iterator[Engine]:
    """The store of practice, with its tables."""
    made = make_engine(database.place.url(PRACTICE))
    open_practice(made)
    yield made
    made.dispose()


@pytest.fixture(autouse=True)
def _nobody_acts() -> None:
    """Whoever a test before acted as is gone."""
    acting.set(WORKSHOP)


@pytest.fixture
def thresholds() -> Thresholds:
    """The default probabilities."""
    return Thresholds()


@pytest.fixture(scope="session")
def virtual_time() -> VirtualTime:
    """What captures, virtual engines and their instruments live by; while a test works, it stands still."""
    return VirtualTime()


@pytest.fixture(scope="session", autouse=True)
def _patient_lines() -> Iterator[None]:
    """An instrument that is a little late is a busy machine's, not a silent one."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(scpi, "PATIENCE_S", 60.0)
        yield


@pytest.fixture(scope="session")
def _app(
    _engine: Engine, _practice: Engine, tmp_path_factory: pytest.TempPathFactory,
    virtual_time: VirtualTime,
) -> FastAPI:  # fmt: skip
    """The application, built once: its routes and models take half a second."""
    pages = tmp_path_factory.mktemp("no-pages")
    return make_app(_engine, Settings(), pages=pages, practice=_practice, scheduler=virtual_time)


def _quieten(app: FastAPI, virtual_time: VirtualTime) -> None:
    """Nothing that a test began goes on."""
    with virtual_time.goes_on():
        app.state.captures.close()
    app.state.worths.close()


@pytest.fixture(scope="session")
def portal() -> Iterator[BlockingPortal]:
    """A loop in which applications without a network answer: one for each request would cost a tenth of its time."""
    with start_blocking_portal() as made:
        yield made


@pytest.fixture
def client(
    engine: Engine, _app: FastAPI, virtual_time: VirtualTime, portal: BlockingPortal
) -> Iterator[TestClient]:
    """The application without a network, on an empty store; nothing of it goes on after the test."""
    assert _app.state.engine is engine
    made = TestClient(_app, base_url="http://127.0.0.1", raise_server_exceptions=False)
    made.portal = portal
    yield made
    _quieten(_app, virtual_time)


@pytest.fixture
def practice(_practice: Engine, _app: FastAPI, virtual_time: VirtualTime) -> Iterator[Engine]:
    """The store of practice, emptied before the test; no bench is left standing after it."""
    _app.state.world.close()
    yield emptied(_practice)
    with virtual_time.goes_on():
        _app.state.world.close()


@pytest.fixture
def desk(client: TestClient) -> Desk:
    """A technician at the API."""
    return Desk(client)


class Live:
    """An application on a port, which can be stopped and started again."""

    def __init__(
        self, app: FastAPI, virtual_time: VirtualTime, papers: Papers | None = None
    ) -> None:
        self.app = app
        self.time = virtual_time
        self.papers = papers
        self.port = self.home = free_port()
        self.server: PatientServer | None = None
        self.thread: threading.Thread | None = None
        self.pages: Path | None = None

    @property
    def address(self) -> str:
        """Where it is."""
        return f"http{'s' if self.papers else ''}://127.0.0.1:{self.port}"

    def start(self) -> None:
        """Start and wait until it answers."""
        wire: dict[str, Any] = {"log_level": "critical", "timeout_graceful_shutdown": 1}
        if self.papers:
            wire |= {"ssl_certfile": self.papers.certificate, "ssl_keyfile": self.papers.key}
        config = config_of(self.app, self.port, **wire)
        self.server = PatientServer(config)
        self.thread = threading.Thread(target=self.server.run, daemon=True)
        self.thread.start()
        while not self.server.started:
            time.sleep(0.01)

    def start_away(self) -> None:
        """Start on a port of its own: whoever knows that one gets in, the browser does not yet."""
        self.home, self.port = self.port, free_port()
        self.start()

    def let_in(self) -> None:
        """Back where the browser looks for it."""
        self.stop()
        self.port = self.home
        self.start()

    def as_begun(self) -> None:
        """Up, at its own address, whatever the test before left."""
        if self.thread is None or not self.thread.is_alive():
            self.port = self.home
            self.start()
        elif self.port != self.home:
            self.let_in()

    def looks(self, came: int = 0) -> None:
        """It looks at its connections, as it does every few seconds, once each has brought so much since the last time."""
        assert self.server is not None
        connections = cast("set[PatientProtocol]", self.server.server_state.connections)
        eventually(lambda: connections and all(c._came >= came for c in connections))
        looked = Future[None]()

        def look() -> None:
            for one in list(connections):
                one._next_look.cancel()
                one._look()
            looked.set_result(None)

        next(iter(connections)).loop.call_soon_threadsafe(look)
        looked.result(DEAD_S)

    def quiet(self) -> None:
        """Nothing that a test began goes on."""
        _quieten(self.app, self.time)

    def lent(self, engine: Engine) -> Iterator["Live"]:
        """To one test, on its empty store."""
        assert self.app.state.engine is engine
        self.as_begun()
        yield self
        self.quiet()

    def stop(self) -> None:
        """Stop, as if the workshop's machine went off."""
        if self.server is not None and self.thread is not None:
            self.server.should_exit = True
            with self.time.goes_on():
                self.thread.join(timeout=60)


@pytest.fixture(scope="session")
def _app_with_pages(_engine: Engine, _practice: Engine, virtual_time: VirtualTime) -> FastAPI:
    """The application with the built pages, made once."""
    return make_app(_engine, Settings(), practice=_practice, scheduler=virtual_time)


@pytest.fixture(scope="session")
def _live(_app_with_pages: FastAPI, virtual_time: VirtualTime) -> Iterator[Live]:
    """It stays up from test to test."""
    made = Live(_app_with_pages, virtual_time)
    yield made
    made.stop()


@pytest.fixture
def live(engine: Engine, _live: Live) -> Iterator[Live]:
    """A running application with the built pages, on an empty store."""
    yield from _live.lent(engine)


@pytest.fixture(scope="session")
def papers(tmp_path_factory: pytest.TempPathFactory) -> Papers:
    """What a server of a workshop shows: made by its own authority."""
    return tls.papers(
        tmp_path_factory.mktemp("tls"), ["workshop.local"], ["127.0.0.1", "localhost"]
    )


@pytest.fixture(scope="session")
def _workshop_with_pages(_engine: Engine, _practice: Engine, papers: Papers) -> FastAPI:
    """The application on a network, with the built pages, made once."""
    return make_app(_engine, Settings(network=True), practice=_practice, papers=papers)


@pytest.fixture(scope="session")
def _workshop(
    _workshop_with_pages: FastAPI, virtual_time: VirtualTime, papers: Papers
) -> Iterator[Live]:
    """It stays up from test to test."""
    made = Live(_workshop_with_pages, virtual_time, papers)
    yield made
    made.stop()


@pytest.fixture
def workshop(engine: Engine, _workshop: Live) -> Iterator[Live]:
    """A running application on a workshop's network, on an empty store."""
    yield from _workshop.lent(engine)


@pytest.fixture(scope="session")
def playwright() -> Iterator[Playwright]:
    """Playwright, once."""
    with sync_playwright() as made:
        yield made


@pytest.fixture(scope="session")
def browser(playwright: Playwright) -> Iterator[Browser]:
    """Debian's Chromium."""
    made = playwright.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_ARGS)
    yield made
    made.close()
