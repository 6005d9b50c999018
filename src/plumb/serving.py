"""Start the database and the application, keep both up, stop both cleanly."""

import gc
import signal
import threading
from collections.abc import Callable
from contextlib import suppress
from types import FrameType

import uvicorn
from rich.console import Console
from sqlalchemy import Engine

from plumb.api.app import make_app
from plumb.api.settings import Settings
from plumb.api.wire import config_of
from plumb.report.paper import warm_up
from plumb.service.practice.world import World
from plumb.service.uses.today import say_ahead
from plumb.stopping import lock_file, place_of
from plumb.store.holder import Claim
from plumb.store.schema import NewerTables, unreadable, upgrade
from plumb.store.server import PRACTICE, Server, ServerTrouble, port_in_use
from plumb.store.session import StoreBusy, StoreDown, make_engine

console = Console(highlight=False)
PRACTICE_S = 4.0
"""After so long the tables of practice are looked at: a start is not slowed by it."""


def serve(settings: Settings, prepare: Callable[[Engine], None] = lambda _engine: None) -> None:
    """Serve until Ctrl-C, a polite kill or a closed terminal; ``prepare`` runs on the ready store.

    Raises :class:`ServerTrouble` with what to do when a port is taken, when Plumb runs here already,
    when the database cannot run, and when its tables are of a newer Plumb.
    """
    claim = _alone(settings)
    for number in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _interrupt)
    database = Server(place_of(settings))
    done = threading.Event()
    try:
        database.start()
        engine = make_engine(database.place.url())
        upgrade(engine)
        if not _damaged(engine):
            prepare(engine)
        threading.Thread(target=_keep_up, args=(database, done), daemon=True).start()
        threading.Thread(target=_say_ahead, args=(engine, settings), daemon=True).start()
        console.print(f"Plumb is at [bold]http://127.0.0.1:{settings.port}[/]  (Ctrl-C stops it)")
        practice = make_engine(database.place.url(PRACTICE))
        app = make_app(engine, settings, practice=practice)
        later = threading.Timer(PRACTICE_S, _open_practice, args=(app.state.world,))
        later.daemon = True
        later.start()
        server = uvicorn.Server(config_of(app, settings.port))
        # What is loaded now stays; the collector need not walk it again and again while people wait.
        gc.collect()
        gc.freeze()
        # uvicorn ends on a signal and raises it once more: here it only means "stop now".
        signal.signal(signal.SIGHUP, server.handle_exit)
        with suppress(KeyboardInterrupt):
            server.run()
    except NewerTables as error:
        raise ServerTrouble(str(error)) from error
    except KeyboardInterrupt:
        pass
    finally:
        done.set()
        database.stop()
        claim.let_go()
        # A terminal that was closed takes no more words.
        with suppress(OSError):
            console.print("Stopped; everything is kept.")


def _alone(settings: Settings) -> Claim:
    """The claim to this place; :class:`ServerTrouble` where another Plumb has it, or its port."""
    if port_in_use(settings.port):
        message = (
            f"port {settings.port} is in use by another program; set PLUMB_PORT to a free "
            "one, or stop a Plumb that still runs with ./plumb stop."
        )
        raise ServerTrouble(message)
    claim = Claim(lock_file(settings))
    if not claim.take():
        message = f"Plumb already runs on {settings.data_dir}; ./plumb stop ends it."
        raise ServerTrouble(message)
    return claim


def _damaged(engine: Engine) -> bool:
    """Whether a table cannot be read; then it is said, and the rest is served."""
    broken = unreadable(engine)
    if broken:
        console.print(
            f"[red]The database cannot read {', '.join(broken)}: what is in there is damaged. "
            "The rest is served; stop, keep a copy of the data directory, restore a backup.[/]"
        )
    return bool(broken)


def _interrupt(_number: int, _frame: FrameType | None) -> None:
    """A polite kill or a closed terminal ends Plumb like Ctrl-C does: database and all."""
    raise KeyboardInterrupt


def _say_ahead(engine: Engine, settings: Settings) -> None:
    """After a start with a newer program every line of Today is new: work them out meanwhile."""
    # Whoever looks gets the same lines worked out for them, and what is broken is told them there.
    with suppress(StoreBusy, StoreDown):
        say_ahead(engine, settings.thresholds())
        warm_up()


def _open_practice(world: World) -> None:
    """Make the tables of practice, while the shop is served already; who wants to practise now waits."""
    # Whoever goes there meets the same trouble, and is told.
    with suppress(StoreBusy, StoreDown, NewerTables):
        world.open()


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
