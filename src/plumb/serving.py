"""Start the database and the application, keep both up, stop both cleanly."""

import gc
import signal
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from datetime import datetime
from types import FrameType
from typing import TYPE_CHECKING

import structlog
import uvicorn
from rich.console import Console
from rich.markup import escape
from sqlalchemy import Engine

from plumb.api.app import make_app
from plumb.api.log import log
from plumb.api.names import own_names
from plumb.api.papers import Papers
from plumb.api.settings import Settings
from plumb.api.wire import PatientServer, config_of
from plumb.keeping.swap import settle
from plumb.report.paper import warm_up
from plumb.service.people.coming_in import owner_code
from plumb.service.practice.world import World
from plumb.service.uses.today import say_ahead
from plumb.stopping import lock_file, where_of
from plumb.store.elsewhere import Elsewhere, database_at, engine_of
from plumb.store.holder import Claim
from plumb.store.journal import seal, watch
from plumb.store.schema import NewerTables, unreadable, upgrade
from plumb.store.server import PRACTICE, Place, Server, ServerTrouble, port_in_use
from plumb.store.session import StoreBusy, StoreDown, StoreFull

if TYPE_CHECKING:
    from plumb.keeping.clock import Clock

console = Console(highlight=False)
Database = Server | Elsewhere
SEAL_S = 2.0
"""So often what was changed is sealed."""
PAPERS_S = 6 * 3600.0
"""So often certificates are looked at."""
BACKUP_S = 60.0
"""So often it is looked whether a backup is due."""
PRACTICE_S = 4.0
"""After so long the tables of practice are looked at: a start is not slowed by it."""


def serve(
    settings: Settings,
    prepare: Callable[[Engine], None] = lambda _engine: None,
    *,
    keeps: bool = False,
) -> None:
    """Serve until Ctrl-C, a polite kill or a closed terminal; ``prepare`` runs on the ready store.

    ``keeps``: backups are made by the clock.

    Raises :class:`ServerTrouble` with what to do when a port is taken, when Plumb runs here already,
    when the database cannot run, and when its tables are of a newer Plumb.
    """
    claim = _alone(settings)
    for number in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _interrupt)
    database = database_at(where_of(settings))
    done = threading.Event()
    try:
        engine = _store(database, prepare)
        threading.Thread(target=_keep_up, args=(database, done), daemon=True).start()
        threading.Thread(target=_say_ahead, args=(engine, settings), daemon=True).start()
        practice = engine_of(database.place, PRACTICE)
        clock = _clock(settings) if keeps else None
        server = _server(engine, practice, settings, clock, done)
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


def _store(database: Database, prepare: Callable[[Engine], None]) -> Engine:
    """The database started, its tables brought to this program, and what it begins with put there."""
    if isinstance(database.place, Place):
        settle(database.place)
    database.start()
    engine = engine_of(database.place)
    upgrade(engine)
    watch(engine)
    if not _damaged(engine):
        prepare(engine)
    return engine


def _server(
    engine: Engine, practice: Engine, settings: Settings, clock: "Clock | None",
    done: threading.Event,
) -> PatientServer:  # fmt: skip
    """The application, ready to be put on the wire, and told where it is; what goes on by itself is begun."""
    papers = _papers(settings)
    app = make_app(engine, settings, practice=practice, papers=papers)
    app.state.clock = clock
    if clock is not None:
        threading.Thread(target=_keep_safe, args=(clock, done), daemon=True).start()
    if settings.workers:
        app.state.crew.open(settings.workers, where_of(settings))
    later = threading.Timer(PRACTICE_S, _open_practice, args=(app.state.world,))
    later.daemon = True
    later.start()
    config = config_of(app, settings.port, **_on_the_wire(settings, papers))
    config.load()
    threading.Thread(target=_go_on, args=(engine, settings, config, done), daemon=True).start()
    _say_where(engine, settings, papers)
    return PatientServer(config)


def _papers(settings: Settings) -> Papers | None:
    """Certificate and key on the network, None where Plumb stays on its own machine."""
    if not settings.network:
        return None
    from plumb import tls  # noqa: PLC0415  who works alone needs none of it

    if settings.tls_cert is not None and settings.tls_key is not None:
        return tls.given(settings.tls_cert, settings.tls_key)
    return tls.papers(settings.tls_dir, own_names(), settings.asked_hosts())


def _on_the_wire(settings: Settings, papers: Papers | None) -> dict[str, str]:
    """Where it listens, and with which certificate."""
    if papers is None:
        return {}
    return {
        "host": settings.bind, "ssl_certfile": str(papers.certificate),
        "ssl_keyfile": str(papers.key),
    }  # fmt: skip


def _say_where(engine: Engine, settings: Settings, papers: Papers | None) -> None:
    """Tell the address; on the network what it takes to trust it, and the first owner's code."""
    if papers is None:
        console.print(f"Plumb is at [bold]http://127.0.0.1:{settings.port}[/]  (Ctrl-C stops it)")
        return
    import segno  # noqa: PLC0415

    at = {name: f"https://{name}:{settings.port}" for name in papers.names}
    first = at.pop(papers.reach(), f"https://{settings.bind}:{settings.port}")
    console.print(f"Plumb is at [bold]{first}[/]  (Ctrl-C stops it)")
    if at:
        console.print("also at " + ", ".join(at.values()))
    if papers.authority is not None:
        console.print(f"How a tablet is told to trust it: {first}/trust")
    console.print(f"fingerprint (SHA-256): {papers.fingerprint}", soft_wrap=True)
    segno.make(f"{first}/trust" if papers.authority else first, micro=False).terminal(compact=True)
    code = owner_code(engine)
    if code is not None:
        console.print(
            f"Nobody owns this shop yet. Open the address and use this code: [bold]{code}[/]"
        )


def _go_on(
    engine: Engine, settings: Settings, config: uvicorn.Config, done: threading.Event
) -> None:
    """What goes on by itself: changes are sealed, a certificate that grows old is made anew."""
    looked = time.monotonic()
    while not done.wait(SEAL_S):
        with suppress(StoreBusy, StoreDown, StoreFull):
            seal(engine)
        if config.ssl is not None and time.monotonic() - looked > PAPERS_S:
            looked = time.monotonic()
            try:
                papers = _papers(settings)
            except ServerTrouble as error:
                _warn(str(error))
            else:
                if papers is not None:
                    # Who comes from now on is shown the new one.
                    config.ssl.load_cert_chain(papers.certificate, papers.key)


def _clock(settings: Settings) -> "Clock | None":
    """What makes backups, None where none are wanted."""
    from plumb.keeping.clock import Clock  # noqa: PLC0415  who makes none need not load it

    if settings.backup_at is None:
        return None
    passphrase = settings.backup_passphrase.get_secret_value()
    return Clock(where_of(settings), settings.backup_dir, settings.backup_at, passphrase)


def _keep_safe(clock: "Clock", done: threading.Event) -> None:
    """Make backups by the clock; what goes wrong is told once, and tried again."""
    told = ""
    while not done.wait(BACKUP_S):
        clock.look(datetime.now().astimezone())
        trouble = clock.safe().trouble
        if trouble and trouble != told:
            _warn(f"No backup was made: {trouble}")
        told = trouble


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
        _warn(
            f"The database cannot read {', '.join(broken)}: what is in there is damaged. "
            "The rest is served; stop, keep a copy of the data directory, restore a backup."
        )
    return bool(broken)


def _warn(words: str) -> None:
    """Tell at the console, or where lines are collected."""
    if structlog.is_configured():
        log.warning(words)
    else:
        console.print(f"[red]{escape(words)}[/]")


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


def _keep_up(database: Database, done: threading.Event) -> None:
    """Start the database again when it dies; what browsers hold meanwhile is sent again."""
    while not done.wait(1.0):
        if database.alive():
            continue
        _warn("The database ended unexpectedly; starting it again.")
        try:
            database.launch()
        except ServerTrouble as error:
            _warn(str(error))
            done.wait(10.0)
