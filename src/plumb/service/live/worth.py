"""What rules are worth: simulated sets in a process of their own, with what they say so far.

The first few sets are simulated at once, so that there is a picture within a second; the rest beside the
server, so that nobody who measures waits for them.
"""

import itertools
import multiprocessing
import os
import threading
import time
from collections import OrderedDict
from collections.abc import Mapping
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass, field
from typing import Final, cast

from sqlalchemy import Engine

from plumb.bench.power import EVERY_RULE, Cell, detect
from plumb.bench.rail import Setup
from plumb.core.compare.bursts import Limits
from plumb.core.compare.drops.sheet import DropResult
from plumb.core.compare.planning import Aim, RailPlan, certainty_of, deviation_u, plans
from plumb.core.compare.rules import RULES, RuleChoice
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import NotThere, PlumbError, Problem
from plumb.core.measure.quantities import KPA_PER, MOST_KPA, decimals_for, rounded
from plumb.core.measure.uncertainty import wilson
from plumb.core.procedures import BY_CODE, DROP
from plumb.jobfile.kinds.kind import rule_choice
from plumb.service.live.beside import end_with
from plumb.service.stored.analysis import analysed
from plumb.service.stored.known import known_sheet
from plumb.service.uses.shelf import rule_part
from plumb.service.views.worth import (
    PlannerView,
    PlanView,
    RuleWorthView,
    SetupView,
    ShareView,
    WorthView,
)
from plumb.store import jobs as job_store
from plumb.store.session import transaction

FIRST: Final = 6
BATCH: Final = 20
MOST_SETS: Final = 2000
SEED: Final = 7
LEFT_ALONE_S: Final = 20.0
"""A simulation that nobody has asked about for so long is stopped."""
_MOST_KEPT: Final = 8
_PSI: Final = KPA_PER["psi"]
_LOW_PSI, _HIGH_PSI = 0.1, MOST_KPA / KPA_PER["psi"]
_GAUGES: Final = (0.1, 0.2, 0.5, 1.0, 2.0)
"""Steps (psi) of gauges that are to be had; common practice, no source."""

USUAL: Final = SetupView(
    unit="psi", step=0.5, first=50.0, second=26.0, scatter=0.7, size=6, tolerance_percent=10.0,
    passes=1, ideal=True, rule="flow_index", told="a rail of 50 psi, a burst that takes half of it",
)  # fmt: skip
"""What the page begins with where nobody comes from a sheet."""


@dataclass(slots=True, kw_only=True)
class _Run:
    id: str
    view: SetupView
    setup: Setup
    rules: Mapping[str, RuleChoice]
    of: int
    cells: dict[str, Cell]
    sets: int = 0
    stop: threading.Event = field(default_factory=threading.Event)
    asked: float = field(default_factory=time.monotonic)


class Worths:
    """Simulations: one at a time is worked at, the last few can be looked at."""

    def __init__(self, engine: Engine, thresholds: Thresholds) -> None:
        self._engine, self._thresholds = engine, thresholds
        self._runs: OrderedDict[str, _Run] = OrderedDict()
        self._ids = itertools.count(1)
        self._lock = threading.Lock()
        self._pool: ProcessPoolExecutor | None = None

    def usual(self, sheet_id: int = 0) -> SetupView:
        """What to simulate: the gauge, rail, rule and set of a sheet, or what is usual."""
        if not sheet_id:
            return USUAL
        with transaction(self._engine) as connection:
            whole = known_sheet(connection, sheet_id)
        if not BY_CODE[whole.sheet.kind].compares or whole.sheet.unit not in KPA_PER:
            rule = "a sheet that compares pressures"
            raise PlumbError(
                Problem(path="sheet", rule=rule, value=whole.sheet.kind, code="no_comparison")
            )
        unit, factor = whole.sheet.unit, KPA_PER[whole.sheet.unit]
        # What compares pressures is a drop sheet of some sort: it has bursts, and a rule.
        result = cast("DropResult", analysed(whole, self._thresholds))
        pressures = result.bursts.median_pressures() if result.bursts.injected else None
        first, second = pressures or (USUAL.first * _PSI, USUAL.second * _PSI)
        starts = [r.first_kpa for r in whole.readings if r.first_kpa is not None]
        wander = (
            (max(starts) - min(starts)) / 3.0 / factor if len(starts) > 2 else 0.7 * _PSI / factor
        )
        return SetupView(
            unit=unit, step=whole.sheet.gauge_step / factor, first=round(first / factor, 3),
            second=round(second / factor, 3), scatter=round(max(wander, 0.05), 2),
            size=max(3, len([i for i in whole.injectors if not i.retired])),
            tolerance_percent=100.0 * result.tolerance,
            passes=max(1, round(len(whole.readings) / max(1, len(whole.injectors)))),
            ideal=True, rule=result.sheet.rule.name,
            told=f"the gauge and rail of job {whole.job_number}",
        )  # fmt: skip

    def start(self, view: SetupView, sets: int) -> WorthView:
        """Begin, in place of whatever is worked at; the first few sets are there already.

        Raises :class:`PlumbError` for what cannot be simulated.
        """
        setup = _setup_of(view)
        rules = self._rules(view)
        run = _Run(
            id=str(next(self._ids)), view=view, setup=setup, rules=rules,
            of=min(sets, MOST_SETS), cells={code: Cell() for code in rules},
        )  # fmt: skip
        with self._lock:
            for other in self._runs.values():
                other.stop.set()
            self._runs[run.id] = run
            while len(self._runs) > _MOST_KEPT:
                self._runs.popitem(last=False)
        _count(run, detect(setup, sets=min(FIRST, run.of), seed=SEED, rules=rules), FIRST)
        threading.Thread(target=self._work, args=(run,), name="worth", daemon=True).start()
        return _shown(run)

    def view(self, run_id: str) -> WorthView:
        """How a simulation stands; :class:`NotThere` for one that is not kept."""
        run = self._known(run_id)
        run.asked = time.monotonic()
        return _shown(run)

    def stop(self, run_id: str) -> WorthView:
        """End it; what it says so far stays."""
        run = self._known(run_id)
        run.stop.set()
        return _shown(run)

    def close(self) -> None:
        """End them all, and the process that they are worked at in."""
        with self._lock:
            for run in self._runs.values():
                run.stop.set()
            pool, self._pool = self._pool, None
        if pool is not None:
            pool.shutdown(wait=False, cancel_futures=True)
            for process in list((getattr(pool, "_processes", None) or {}).values()):
                process.terminate()

    def plan(self, view: SetupView, off_percent: float, certainty_percent: float) -> PlannerView:
        """What would call out an injector that is off by so much, with that certainty."""
        factor, setup = KPA_PER[view.unit], _setup_of(view)
        rail = RailPlan(
            first=view.first * factor, second=view.second * factor, step=view.step * factor,
            size=view.size, steps=tuple(s * _PSI for s in _GAUGES if s * _PSI < view.step * factor),
        )  # fmt: skip
        aim = Aim(
            off=off_percent / 100.0, certainty=certainty_percent / 100.0,
            tolerance=setup.tolerance, thresholds=self._thresholds,
        )  # fmt: skip
        if aim.off <= aim.tolerance:
            rule = f"more than the tolerance of {view.tolerance_percent:g} %"
            raise PlumbError(
                Problem(path="off_percent", rule=rule, value=f"{off_percent:g}", code="within")
            )
        now = deviation_u(rail.first, rail.second, rail.step, passes=1, size=rail.size)
        found = plans(rail, aim)
        effort = DROP.effort
        made = [
            PlanView(
                step=rounded(p.step / factor, decimals_for(round(p.step / factor, 4))),
                second=rounded(p.second / factor, 1), longer=p.longer, passes=p.passes,
                bursts=p.bursts, minutes=round(effort.once + effort.each * p.bursts, 1),
                certainty_percent=round(100.0 * p.certainty, 1), words=_plan_words(p.longer, p.passes),
            )
            for p in found
        ]  # fmt: skip
        told = (
            ""
            if made
            else "nothing within five passes and twice the burst does: a finer gauge than these"
        )
        return PlannerView(
            unit=view.unit, off_percent=off_percent, certainty_percent=certainty_percent,
            now_percent=round(100.0 * certainty_of(now, aim), 1), plans=made, told=told,
        )  # fmt: skip

    def _known(self, run_id: str) -> _Run:
        with self._lock:
            run = self._runs.get(run_id)
        if run is None:
            rule = "there is no such simulation any more"
            raise NotThere(Problem(path="id", rule=rule, value=run_id, code="no_such_run"))
        return run

    def _rules(self, view: SetupView) -> dict[str, RuleChoice]:
        """Every rule, and the shop's own; what the page allows is the flow index's tolerance."""
        rules = dict(EVERY_RULE)
        allowed = Limits(tolerance=view.tolerance_percent / 100.0)
        rules["flow_index"] = RuleChoice(name="flow_index", limits=allowed)
        with transaction(self._engine) as connection:
            shelf = job_store.shelf(connection, "rule")
        for entry in shelf:
            part = rule_part({k: str(v) for k, v in entry.body.items() if str(v)})
            factor = KPA_PER.get(entry.unit, KPA_PER[view.unit])
            rules[f"shop:{entry.name}"] = rule_choice(part, factor)
        return rules

    def _work(self, run: _Run) -> None:
        while run.sets < run.of and not run.stop.is_set():
            if time.monotonic() - run.asked > LEFT_ALONE_S:
                run.stop.set()
                return
            size = min(BATCH, run.of - run.sets)
            try:
                future = self._submit(run, size)
                while not future.done() and not run.stop.wait(0.1):
                    continue
                if run.stop.is_set():
                    future.cancel()
                    return
                _count(run, future.result(), size)
            except (BrokenProcessPool, RuntimeError):
                # The process was ended under it: the application stops, or the machine ran out of room.
                run.stop.set()

    def _submit(self, run: _Run, size: int) -> "Future[dict[str, Cell]]":
        with self._lock:
            if self._pool is None:
                context = multiprocessing.get_context("spawn")
                self._pool = ProcessPoolExecutor(
                    1, context, initializer=end_with, initargs=(os.getpid(),)
                )
            pool = self._pool
        return pool.submit(detect, run.setup, sets=size, seed=SEED, rules=run.rules, begin=run.sets)


def _setup_of(view: SetupView) -> Setup:
    factor = KPA_PER[view.unit] / _PSI
    first, second, step = (x * factor for x in (view.first, view.second, view.step))
    if not 0.0 < second < first:
        rule = "a burst ends below where it began, and above nothing"
        raise PlumbError(
            Problem(path="second", rule=rule, value=f"{view.second:g}", code="no_burst")
        )
    if not (_LOW_PSI <= first <= _HIGH_PSI and step >= first / 1e6):
        rule = "a rail between 0.1 psi and 4000 bar, and a step that some gauge has"
        raise PlumbError(Problem(path="first", rule=rule, value=f"{view.first:g}", code="no_rail"))
    if view.scatter * factor > first / 4.0:
        rule = "starts wander by a quarter of the pressure at most"
        raise PlumbError(
            Problem(path="scatter", rule=rule, value=f"{view.scatter:g}", code="too_wide")
        )
    if step > (first - second) / 2.0:
        rule = "two steps of the gauge within the burst at least"
        raise PlumbError(Problem(path="step", rule=rule, value=f"{view.step:g}", code="too_coarse"))
    return Setup(
        step=step, rails=((first, second),), sizes=(view.size,), scatter=view.scatter * factor,
        tolerance=view.tolerance_percent / 100.0, passes=view.passes, ideal=view.ideal,
    )  # fmt: skip


def _count(run: _Run, cells: Mapping[str, Cell], sets: int) -> None:
    for name, cell in cells.items():
        run.cells[name].add(cell)
    run.sets += min(sets, run.of - run.sets)


def _share(hits: int, of: int) -> ShareView:
    low, high = wilson(hits, of)
    percent = 100.0 * hits / of if of else None
    return ShareView(percent=percent, low=100.0 * low, high=100.0 * high, of=of)


def _shown(run: _Run) -> WorthView:
    rules = []
    for code, choice in run.rules.items():
        cell, shop = run.cells[code], code.startswith("shop:")
        total = max(1, cell.bad + cell.good)
        rules.append(
            RuleWorthView(
                code=code, title=code.removeprefix("shop:") if shop else RULES[choice.name].title,
                shop=shop, chosen=code == run.view.rule,
                caught=_share(cell.caught, cell.bad),
                condemned=_share(cell.false_alarms, cell.good),
                accused=_share(cell.healthy_sets_accused, cell.healthy_sets),
                repeats=round(cell.repeats / total, 3), undecided=round(cell.undecided / total, 3),
            )
        )  # fmt: skip
    return WorthView(
        id=run.id, setup=run.view, sets=run.sets, of=run.of,
        running=run.sets < run.of and not run.stop.is_set(), rules=rules,
    )  # fmt: skip


def _plan_words(longer: float, passes: int) -> str:
    burst = "the burst as it is" if longer == 1.0 else f"a burst {longer:g} times as long"
    each = "one pass" if passes == 1 else f"{passes} passes"
    return f"{burst}, {each} of everyone"
