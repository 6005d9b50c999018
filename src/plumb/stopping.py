"""Stop an application and a database that still run; apart, so that it need not load them."""

import signal
import time
from contextlib import suppress
from pathlib import Path

import psutil

from plumb.api.settings import Settings
from plumb.store.cluster import Cluster, cluster_of
from plumb.store.holder import holder_of
from plumb.store.server import Place, lives, pid_of


def place_of(settings: Settings) -> Place:
    """Where the shop's private database lives."""
    return Place(home=settings.data_dir, port=settings.db_port)


def where_of(settings: Settings) -> Place | Cluster:
    """Where the shop's database is: its private one, or servers that others keep."""
    servers = settings.db_url.get_secret_value()
    return cluster_of(servers, settings.data_dir) if servers else place_of(settings)


def lock_file(settings: Settings) -> Path:
    """Held by the application that runs on this place, and by no other."""
    return settings.data_dir / "plumb.lock"


def _end(pid: int | None, number: signal.Signals, seconds: float = 45.0) -> bool:
    """Ask a process to end and wait for it; one that only waits to be collected has ended."""
    if pid is None:
        return False
    deadline = time.monotonic() + seconds
    with suppress(psutil.NoSuchProcess):
        process = psutil.Process(pid)
        process.send_signal(number)
        while lives(process) and time.monotonic() < deadline:
            time.sleep(0.1)
    return True


def stop(settings: Settings) -> bool:
    """Stop an application and a database that still run; false when there was nothing to stop."""
    application = _end(holder_of(lock_file(settings)), signal.SIGINT)
    # One that was killed left its database running.
    database = _end(pid_of(place_of(settings)), signal.SIGTERM)
    return application or database
