"""The world of practice: its own database, its shelf, and the benches that stand set up.

Jobs of practice are jobs like any other, in a database in which there are no others: nothing of it can
come into the shop's lists, learnt windows, cures or nozzles.
"""

import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import replace
from typing import Final, TypeVar

from sqlalchemy import Connection, Engine

from plumb.core.measure.problems import Conflict, NotThere, PlumbError, Problem
from plumb.devices.address import command_of
from plumb.devices.scheduler import REAL_TIME, Scheduler
from plumb.practice.exercises import Exercise, exercise_of
from plumb.practice.virtual import RunBench
from plumb.practice.worked import Progress
from plumb.service.stored.gauges import Gauge
from plumb.service.uses.shelf import add_gauge, list_gauges
from plumb.store import jobs as job_store
from plumb.store import practice as store
from plumb.store.practice import RunRecord
from plumb.store.records import GaugeRecord, ShelfRecord, WholeSheet
from plumb.store.session import transaction

MOST_SET_UP: Final = 16
"""So many benches stand set up; the one longest untouched is put away, and set up again when it is needed."""
DIAL: Final = "bench gauge"
COARSE_DIAL: Final = "coarse bench dial"
HIGH_DIAL: Final = "bench rail gauge"
BOX: Final = "bench burst box"
GAUGES: Final = {
    DIAL: Gauge(name=DIAL, unit="psi", step="0.1"),
    COARSE_DIAL: Gauge(name=COARSE_DIAL, unit="psi", step="1"),
    HIGH_DIAL: Gauge(name=HIGH_DIAL, unit="bar", step="1"),
    "meter": Gauge(name="bench meter", unit="ohm", step="0.01", lead="0.2"),
    "clamp": Gauge(name="bench clamp", unit="A", step="0.1"),
    "scale": Gauge(name="bench scale", unit="ml", step="0.1"),
    "handpump": Gauge(name="bench hand pump", unit="bar", step="0.1"),
}
"""The shelf of practice, by the stand-in that each is; the rail's gauge has three faces."""

_Made = TypeVar("_Made")


class World:
    """Benches by the number of their job; one thing is done at a run at a time."""

    def __init__(self, engine: Engine, scheduler: Scheduler = REAL_TIME) -> None:
        self.engine, self._scheduler = engine, scheduler
        self._benches: OrderedDict[str, RunBench] = OrderedDict()
        self.alone = threading.RLock()
        self._open = False

    def open(self) -> None:
        """Make its tables and its shelf where they are not there; whoever comes meanwhile waits."""
        with self.alone:
            if self._open:
                return
            store.open_practice(self.engine)
            there = {g.name for g in list_gauges(self.engine)}
            for gauge in GAUGES.values():
                if gauge.name not in there:
                    add_gauge(self.engine, gauge)
            self._open = True

    def close(self) -> None:
        """Put all benches away; whoever comes afterwards looks at the tables anew."""
        with self.alone:
            self._open = False
            while self._benches:
                self._benches.popitem()[1].close()

    def bench(self, run: RunRecord, progress: Progress) -> RunBench:
        """The bench of a run, set up where it is not."""
        with self.alone:
            bench = self._benches.get(run.job_number)
            if bench is None:
                bench = RunBench(
                    known_exercise(run.exercise), repaired=progress.repaired,
                    lifted=progress.lifted, scheduler=self._scheduler,
                )  # fmt: skip
                self._benches[run.job_number] = bench
            self._benches.move_to_end(run.job_number)
            while len(self._benches) > MOST_SET_UP:
                self._benches.popitem(last=False)[1].close()
            return bench

    def put_away(self, number: str) -> None:
        """A run was handed in: its bench is free."""
        with self.alone:
            bench = self._benches.pop(number, None)
        if bench is not None:
            bench.close()

    def change(
        self, number: str, work: Callable[[Connection, RunRecord, Progress], _Made]
    ) -> _Made:
        """Do something to a run that goes on, alone, and keep what it has become.

        Raises :class:`NotThere`, and :class:`Conflict` for one that was handed in.
        """
        self.open()
        with self.alone, transaction(self.engine) as connection:
            run = known_run(connection, number, lock=True)
            if run.ended_at is not None:
                rule = "this one was handed in: begin another"
                raise Conflict(Problem(path="run", rule=rule, value=number, code="handed_in"))
            progress = progress_of(run)
            before = progress.model_dump(mode="json")
            made = work(connection, run, progress)
            after = progress.model_dump(mode="json")
            if after != before:
                store.change_run(connection, number, {"body": after})
            return made

    def told(self, number: str) -> bool:
        """Whether what a job of practice says may be told: not before its run, or all, are handed in."""
        with transaction(self.engine) as connection:
            run = store.run_of(connection, number)
            runs = store.runs(connection) if not number else [run] if run else []
        return all(r.ended_at is not None for r in runs)

    def at_hand(
        self, connection: Connection, whole: WholeSheet
    ) -> tuple[list[GaugeRecord], list[ShelfRecord]]:
        """The instruments for a sheet: those of its own run's bench; none where it was handed in."""
        run = store.run_of(connection, whole.job_number)
        if run is None or run.ended_at is not None:
            return [], []
        bench = self.bench(run, progress_of(run))
        addresses = bench.addresses
        high = bench.hidden.system == "common_rail"
        dial = HIGH_DIAL if high else COARSE_DIAL if bench.coarse else DIAL
        at = {GAUGES[dial].name: addresses["gauge"]} | {
            gauge.name: addresses[name] for name, gauge in GAUGES.items() if name in addresses
        }
        gauges = [
            replace(g, address=at[g.name], command=command_of("", g.unit))
            for g in job_store.gauges(connection)
            if g.name in at
        ]
        body = {"address": addresses["box"]}
        return gauges, [ShelfRecord(id=0, what="box", name=BOX, kind="", unit="", body=body)]


def known_run(connection: Connection, number: str, *, lock: bool = False) -> RunRecord:
    """A run; :class:`NotThere` where there is none on that job."""
    run = store.run_of(connection, number, lock=lock)
    if run is None:
        rule = "there is no practice job of this number"
        raise NotThere(Problem(path="run", rule=rule, value=number, code="no_such_run"))
    return run


def known_exercise(code: str) -> Exercise:
    """An exercise; :class:`PlumbError` for a code that is none."""
    exercise = exercise_of(code)
    if exercise is None:
        rule = "one of 01 to 30, or drawn- and digits"
        raise PlumbError(Problem(path="exercise", rule=rule, value=code, code="no_such_exercise"))
    return exercise


def progress_of(run: RunRecord) -> Progress:
    """What is kept of a run."""
    return Progress.model_validate(run.body)
