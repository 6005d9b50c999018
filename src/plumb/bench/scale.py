"""What a look, a search and a save cost in a shop of a hundred times as many jobs: both side by side."""

import json
import random
import statistics
import tempfile
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from functools import partial
from http.client import HTTPConnection
from pathlib import Path
from typing import Any, Final
from urllib.parse import quote

from rich.console import Console
from sqlalchemy import Engine, select

from plumb.api.app import make_app
from plumb.api.settings import ROOT, Settings
from plumb.bench.growth import grow
from plumb.bench.shop import ask, ms_of, served
from plumb.store.journal import watch
from plumb.store.schema import upgrade
from plumb.store.server import PRACTICE, SHOP, Place, Server
from plumb.store.session import make_engine, transaction
from plumb.store.sheets import JOB, VEHICLE

FEW: Final = 1000
AT_MOST: Final = 1.3
ROUNDS: Final = 60
_DB_PORT: Final = 8656
_PORTS: Final = (8657, 8658)


@dataclass(frozen=True, slots=True)
class _Shop:
    """A shop that is served, with jobs and plates of its own to ask for."""

    link: HTTPConnection
    numbers: list[str]
    plates: list[str]
    dice: random.Random

    def get(self, path: str, **asked: str) -> bytes:
        """Ask for something."""
        return ask(self.link, path + "?" + "&".join(f"{k}={quote(v)}" for k, v in asked.items()))

    def new_job(self) -> dict[str, Any]:
        """Open a job on a new vehicle; its first sheet."""
        wanted = {
            "request_id": str(uuid.uuid4()), "vehicle_name": "Torvik Fastnet", "cylinders": 6,
            "registration": f"SM {self.dice.randrange(10_000)} Q", "complaint": "misfires when warm",
        }  # fmt: skip
        made: dict[str, Any] = json.loads(ask(self.link, "/api/jobs", wanted))
        return made

    def save(self, sheet: int, injector: int) -> None:
        """Save a reading."""
        reading = {
            "id": str(uuid.uuid4()),
            "injector": str(injector),
            "first": "50",
            "second": "26",
        }
        ask(self.link, f"/api/sheets/{sheet}/readings", reading)


_LOOKS: Final[dict[str, Callable[[_Shop], object]]] = {
    "Today, open jobs": lambda s: s.get("/api/jobs"),
    "Today, closed ones too": lambda s: s.get("/api/jobs", closed="true"),
    "search, open: a common word": lambda s: s.get("/api/jobs", find="torvik"),
    "search, open: a plate": lambda s: s.get("/api/jobs", find=s.dice.choice(s.plates)),
    "search, closed too: a common word": lambda s: s.get("/api/jobs", find="torvik", closed="true"),
    "search, closed too: a plate": lambda s: s.get(
        "/api/jobs", find=s.dice.choice(s.plates), closed="true"
    ),
    "search, closed too: a plate, closed up": lambda s: s.get(
        "/api/jobs", find=s.dice.choice(s.plates).replace(" ", "").lower(), closed="true"
    ),
    "search, closed too: two words": lambda s: s.get("/api/jobs", find="torvik mis", closed="true"),
    "search, closed too: nothing fits": lambda s: s.get(
        "/api/jobs", find="zebra torvik", closed="true"
    ),
    "vehicles by name": lambda s: s.get("/api/vehicles", find="torvik"),
    "open a job": lambda s: s.get(f"/api/jobs/{s.dice.choice(s.numbers)}"),
}


def scale(console: Console, jobs: int) -> None:
    """Print medians at a thousand jobs and at ``jobs``, and what one is to the other."""
    with _shops(console, (FEW, jobs)) as shops:
        rounds = [[_round(shop) for shop in shops] for _ in range(ROUNDS)]
    console.print(f"{'':48} {FEW:>10} {jobs:>10}   ratio")
    for what in rounds[0][0]:
        few, many = ([ms for both in rounds for ms in both[which][what]] for which in (0, 1))
        a, b = statistics.median(few), statistics.median(many)
        console.print(f"{what:48} {a:7.1f} ms {b:7.1f} ms   [bold]{b / a:.2f}[/]")
    console.print(f"(asked: at most {AT_MOST})")


def _round(shop: _Shop) -> dict[str, list[float]]:
    """Everything once in a shop, in milliseconds."""
    # A line that rested while the other shop was asked may have been closed.
    shop.link.close()
    shop.get("/api/health")
    times = {what: [ms_of(partial(look, shop))] for what, look in _LOOKS.items()}
    begin = time.perf_counter()
    sheet = shop.new_job()["id"]
    times["new job"] = [(time.perf_counter() - begin) * 1000.0]
    times["save a reading"] = [ms_of(partial(shop.save, sheet, n)) for n in range(1, 7)]
    return times


@contextmanager
def _shops(console: Console, sizes: tuple[int, int]) -> Iterator[list[_Shop]]:
    with tempfile.TemporaryDirectory(dir=ROOT / "var") as folder, ExitStack() as stack:
        home = Path(folder)
        database = Server(Place(home=home, port=_DB_PORT))
        database.start()
        stack.callback(database.stop)
        engines = []
        for name, port, size in zip((SHOP, PRACTICE), _PORTS, sizes, strict=True):
            engine = make_engine(database.place.url(name))
            stack.callback(engine.dispose)
            upgrade(engine)
            watch(engine)
            made, readings = grow(engine, size)
            console.print(f"a shop of {made} jobs and {readings} readings")
            settings = Settings(port=port, db_port=_DB_PORT, data_dir=home)
            stack.enter_context(served(make_app(engine, settings, pages=home / "none"), port))
            engines.append(engine)
        # Connections are made when both are grown: one that rests for minutes is closed.
        yield [_shop(engine, port) for engine, port in zip(engines, _PORTS, strict=True)]


def _shop(engine: Engine, port: int) -> _Shop:
    with transaction(engine) as connection:
        numbers = list(connection.scalars(select(JOB.c.number)))
        plates = list(connection.scalars(select(VEHICLE.c.registration)))
    dice = random.Random(11)  # noqa: S311  which jobs are looked at
    return _Shop(
        HTTPConnection("127.0.0.1", port), numbers, [p for p in plates if p.startswith("SM")], dice
    )
