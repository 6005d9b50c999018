"""The private server: half-made directories, taken ports, no room, a crash."""

import shutil
import socket
from pathlib import Path
from types import SimpleNamespace

import pytest
from sqlalchemy import text
from tests.drivers import free_port

from plumb.store import server as module
from plumb.store.schema import upgrade
from plumb.store.server import Place, Server, ServerTrouble
from plumb.store.session import StoreDown, make_engine, transaction


@pytest.fixture
def place(tmp_path: Path) -> Place:
    """A place of its own."""
    return Place(home=tmp_path / "db", port=free_port())


def test_a_directory_that_is_no_database_is_left_alone(place: Place) -> None:
    """Said clearly, nothing destroyed."""
    place.data.mkdir(parents=True)
    (place.data / "precious").write_text("mine")
    with pytest.raises(ServerTrouble, match="not a whole database"):
        Server(place).start()
    assert (place.data / "precious").read_text() == "mine"


def test_a_port_in_use_is_said(place: Place) -> None:
    """With the setting that changes it."""
    with socket.socket() as other:
        other.bind(("127.0.0.1", place.port))
        other.listen()
        with pytest.raises(ServerTrouble, match="PLUMB_DB_PORT"):
            Server(place).start()
    assert not place.data.exists()


def test_no_room_is_said_before_anything_is_made(
    place: Place, monkeypatch: pytest.MonkeyPatch
) -> None:
    """300 MB are needed."""
    monkeypatch.setattr(module.shutil, "disk_usage", lambda _p: SimpleNamespace(free=10 * 2**20))
    with pytest.raises(ServerTrouble, match="10 MB free"):
        Server(place).start()
    assert not place.data.exists()


def test_a_half_made_start_is_set_aside_and_a_crash_loses_nothing(place: Place) -> None:
    """The leftover stays under another name; what was committed survives a kill."""
    half = place.home / "data.making"
    half.mkdir(parents=True)
    (half / "leftover").write_text("x")
    server = Server(place)
    server.start()
    try:
        assert list(place.home.glob("data.half-made-*/leftover"))
        engine = make_engine(place.url())
        assert upgrade(engine)
        assert not upgrade(engine)
        with transaction(engine) as connection:
            connection.execute(
                text("INSERT INTO gauge (name, unit, step_typed, step) VALUES ('a','psi','1',1)")
            )
        server.kill()
        with pytest.raises(StoreDown), transaction(engine) as connection:
            connection.execute(text("SELECT 1"))
        server.launch()
        with transaction(engine) as connection:
            assert connection.scalar(text("SELECT count(*) FROM gauge")) == 1
        engine.dispose()
    finally:
        server.stop()
    shutil.rmtree(place.home)
