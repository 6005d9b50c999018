"""Start the database and the application, keep both up, stop both cleanly."""

import os
import signal
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from types import FrameType

import psutil
import uvicorn
from rich.console import Console
from sqlalchemy import Engine

from plumb.api.app import make_app
from plumb.api.settings import Settings
from plumb.store.schema import upgrade
from plumb.store.server import Place, Server, ServerTrouble, pid_of, port_in_use
from plumb.store.session import make_engine

console = Console(highlight=False)


def place_of(settings: Settings) -> Place:
    """Where the shop's database lives."""
    return Place(home=settings.data_dir, port=settings.db_port)


def _pid_file(settings: Settings) -> Path:
    return settings.data_dir / "plumb.pid"


def serve(settings: Settings, prepare: Callable[[Engine], None] = lambda _engine: None) -> None:
    """Serve until Ctrl-C; ``prepare`` runs on the ready store, for demo data.

    Raises :class:`ServerTrouble` with what to do when a port is taken or the database cannot run.
    """
    if port_in_use(settings.port):
        message = (
            f"port {settings.port} is in use by another program; set PLUMB_PORT to a free "
            "one, or stop a Plumb that still runs with ./plumb stop."
        )
        raise ServerTrouble(message)
    database = Server(place_of(settings))
    database.start()
    done = threading.Event()
    try:
        engine = make_engine(database.place.url())
        upgrade(engine)
        prepare(engine)
        _pid_file(settings).write_text(str(os.getpid()))
        threading.Thread(target=_keep_up, args=(database, done), daemon=True).start()
        console.print(f"Plumb is at [bold]http://127.0.0.1:{settings.port}[/]  (Ctrl-C stops it)")
        server = uvicorn.Server(
            uvicorn.Config(
                make_app(engine, settings),
                host="127.0.0.1",
                port=settings.port,
                log_level="warning",
                access_log=False,
                timeout_graceful_shutdown=5,
            )
        )
        # uvicorn ends on a signal and raises it once more: here it only means "stop now".
        signal.signal(signal.SIGTERM, _interrupt)
        with suppress(KeyboardInterrupt):
            server.run()
    finally:
        done.set()
        database.stop()
        _pid_file(settings).unlink(missing_ok=True)
        console.print("Stopped; everything is kept.")


def _interrupt(_number: int, _frame: FrameType | None) -> None:
    """A polite kill ends Plumb like Ctrl-C does: database and all."""
    raise KeyboardInterrupt


def _keep_up(database: Server, done: threading.Event) -> None:
    """Start the database again when it dies; what browsers hold meanwhile is sent again."""
    while not done.wait(1.0):
        if database.alive():
            continue
        console.print("[yellow]The database ended unexpectedly; starting it again.[/]")
        try:
            database.launch()
        except ServerTrouble as error:
            console.print(f"[red]{error}[/]")
            done.wait(10.0)


def _gone(process: psutil.Process, seconds: float = 45.0) -> bool:
    """Wait until a process has ended; one that only waits to be collected has."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        if not process.is_running() or process.status() == psutil.STATUS_ZOMBIE:
            return True
        time.sleep(0.1)
    return False


def stop(settings: Settings) -> bool:
    """Stop an application and a database that still run; false when there was nothing to stop."""
    found = False
    try:
        process = psutil.Process(int(_pid_file(settings).read_text()))
        if any("plumb" in part for part in process.cmdline()):
            process.send_signal(signal.SIGINT)
            found = _gone(process)
    except (OSError, ValueError, psutil.Error):
        pass
    pid = pid_of(place_of(settings))
    if pid is not None:
        found = True
        database = psutil.Process(pid)
        database.terminate()
        _gone(database)
    _pid_file(settings).unlink(missing_ok=True)
    return found
