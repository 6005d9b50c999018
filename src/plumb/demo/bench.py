"""The demo's bench: stand-ins as a program of their own, and what of them is on the shelf."""

import os
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Final

from sqlalchemy import Engine

from plumb.core.measure.problems import Conflict, PlumbError
from plumb.service.stored.gauges import Gauge
from plumb.service.uses.shelf import add_gauge, change_gauge, keep, list_gauges, list_shelf
from plumb.service.views.job import ShelfView
from plumb.store.session import StoreBusy, StoreDown

GAUGES: Final = {
    "gauge": Gauge(name="bench gauge", unit="psi", step="0.1"),
    "meter": Gauge(name="bench meter", unit="ohm", step="0.01", lead="0.2"),
    "clamp": Gauge(name="bench clamp", unit="A", step="0.1"),
    "scale": Gauge(name="bench scale", unit="ml", step="0.1"),
    "handpump": Gauge(name="bench hand pump", unit="bar", step="0.1"),
}
"""The gauges of the shelf by the name of the stand-in that each is."""
BOX: Final = "bench burst box"
_INSTRUMENTS: Final = 7


class Bench:
    """The stand-ins: begun when the shop is there, so that its own start is not slowed by theirs."""

    def __init__(self) -> None:
        self._program: subprocess.Popen[str] | None = None

    def _addresses(self) -> dict[str, str]:
        """Begin them; where each of them is, once they have said so."""
        self._program = subprocess.Popen(
            [sys.executable, "-m", "plumb.cli", "standins", "--port", "0", "--with-parent"],
            stdout=subprocess.PIPE, text=True, env=os.environ, start_new_session=True,
        )  # fmt: skip
        made: dict[str, str] = {}
        lines = self._program.stdout
        for _ in range(_INSTRUMENTS if lines else 0):
            name, _, address = lines.readline().strip().partition(" ") if lines else ("", "", "")
            if address:
                made[name] = address
        return made

    def end(self) -> None:
        """End them."""
        program = self._program
        if program is None:
            return
        program.terminate()
        try:
            program.wait(5.0)
        except subprocess.TimeoutExpired:
            program.kill()
        if program.stdout is not None:
            program.stdout.close()

    def put_on_the_shelf(self, engine: Engine) -> None:
        """Put them on the shelf, or tell the shelf where they are this time; a start does not wait."""
        threading.Thread(target=self._put, args=(engine,), name="bench", daemon=True).start()

    def _put(self, engine: Engine) -> None:
        addresses = self._addresses()
        there = {g.name: g.id for g in list_gauges(engine)}
        for name, gauge in GAUGES.items():
            if name not in addresses:
                continue
            found = Gauge(**{**_fields(gauge), "address": addresses[name]})
            try:
                if gauge.name in there:
                    change_gauge(engine, there[gauge.name], found)
                else:
                    add_gauge(engine, found)
            except Conflict:
                continue
            except (StoreDown, StoreBusy):
                # The application stopped meanwhile.
                return
        if "box" in addresses:
            _keep_box(engine, addresses["box"])


def _fields(gauge: Gauge) -> dict[str, str]:
    return {name: getattr(gauge, name) for name in Gauge.__slots__}


def _keep_box(engine: Engine, address: str) -> None:
    known = next((e.id for e in list_shelf(engine, "box") if e.name == BOX), 0)
    values = {"address": address, "pulses": "50", "on_ms": "10"}
    entry = ShelfView(id=known, what="box", name=BOX, kind="", unit="", values=values)
    try:
        keep(engine, entry)
    except (PlumbError, StoreDown, StoreBusy):
        return


@contextmanager
def bench() -> Iterator[Bench]:
    """The stand-ins on free ports, ended with the application."""
    made = Bench()
    try:
        yield made
    finally:
        made.end()
