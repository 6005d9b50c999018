"""A whole job on a hidden engine: found, repaired, measured again, the complaint asked for again, and on.

A repair does what such a repair does: a new part is good, cleaning frees some and leaves others, what was put
right on the engine is right.  The complaint that is left is that of the faults that are left.  Whoever follows
every step ends with a complaint that is gone, or that comes from where Plumb measures nothing.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Any, Final, cast

import numpy as np

from plumb.bench.engines.follow import full_route, job_of
from plumb.bench.engines.gauges import Bench
from plumb.bench.engines.hidden import IMITATORS, Hidden, good, put_right
from plumb.core.compare.drops.sheet import DropSheet
from plumb.core.measure.step import AFTER_FIX, ASK_AFTER, REPAIR, NextStep
from plumb.core.mend.finish import Finished, finish
from plumb.core.mend.repairs import ENGINE_ONLY, Repair, Repaired, outdated_for, renewed_for
from plumb.core.procedures import Sheet
from plumb.core.weigh.job import JobResult, analyse_sheet
from plumb.jobfile.carried import Earlier, carried_over

_MOST_STEPS: Final = 80
_MOST_REPAIRS: Final = 5
_DOES: Final = {
    "replace": "replaced", "bench_test": "replaced", "clean_and_repeat": "cleaned", "reshim": "reshimmed",
}  # fmt: skip
"""What is done about each action of a verdict; a bench test of a bad one ends in another part."""
_BATTERY_V: Final = 12.6
"""What is asked for where a weak supply may have made a good one look stuck."""
_CLEANS: Final = 0.75
"""So many of the clogged and sticking come free by cleaning; our own invention."""
_FREED: Final = frozenset({"clogged", "opens weakly", "now and then", "all clogged", "stuck shut"})
_OF_ENGINE: Final = {
    "feed": "shared_feed", "compression": "compression", "pump": "pump", "supply": "supply",
    "regulator high": "regulator", "regulator leaks": "regulator", "diaphragm": "regulator_diaphragm",
    "check valve": "supply_check_valve", "cold-start injector": "cold_start_injector",
    "leak outside": "outside_leak", "pump outlet valve": "pump_outlet_valve",
    "control valve": "control_valve", "unions": "unions", "rail control": "rail_control",
    "all clogged": "all_clogged",
}  # fmt: skip
"""The cause behind each fault of the engine."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Ended:
    """What a whole job came to.

    ``left`` are faults that are still there though their words are still complained of, or though the
    job calls itself over; ``needless`` good injectors that were cleaned or replaced.
    """

    left: tuple[str, ...]
    needless: tuple[str, ...]
    over: bool
    ended: bool
    repairs: tuple[str, ...]
    steps: tuple[str, ...]
    minutes: float
    full_minutes: float
    done: Finished

    @property
    def right(self) -> bool:
        """Whether nothing is left that this engine was brought for, and nothing good was touched."""
        return not self.left and not self.needless


class Visit:
    """One engine with its bench and everything that was done."""

    def __init__(self, engine: Hidden, seed: int) -> None:
        self.engine = engine
        self.rng = np.random.default_rng(seed)
        self.bench = Bench(engine, np.random.default_rng(seed))
        self.there = {name for name, _ in engine.wrong}
        self.at = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)
        self.done = Repaired()
        self.taken: dict[str, datetime] = {}
        self.needless: list[str] = []
        self.minutes = 0.0

    def told(self) -> Finished:
        """How the job stands."""
        job = job_of(self.bench)
        for key, _ in job.sheets:
            self.taken.setdefault(key, self.at)
        self.done = replace(self.done, taken=self.taken)
        results = tuple((key, analyse_sheet(sheet)) for key, sheet in self.known(job.sheets))
        return finish(job, results, self.done)

    def known(self, sheets: tuple[tuple[str, Sheet], ...]) -> Iterator[tuple[str, Sheet]]:
        """The sheets, each with what it takes over from those before it and who was worked on."""
        kinds = {key: sheet.kind for key, sheet in sheets}
        before: dict[str, list[Earlier]] = {}
        for key, sheet in sheets:
            told: dict[str, Any] = {"renewed": renewed_for(key, sheet.kind, self.done)}
            if isinstance(sheet, DropSheet):
                mine = Earlier(key=key, taken=self.taken[key], method=None, rows=sheet.readings)
                outdated = outdated_for(key, kinds, self.done)
                earlier = before.setdefault(sheet.kind, [])
                carried = carried_over(mine, earlier, outdated)
                earlier.append(mine)
                told |= {
                    "carried": carried.labels, "readings": (*sheet.readings, *carried.rows),
                    "read_before": carried.read_before,
                }  # fmt: skip
            told = {name: value for name, value in told.items() if hasattr(sheet, name)}
            yield key, cast("Sheet", replace(cast("Any", sheet), **told))

    def does(self, step: NextStep) -> None:
        """What a step asks for."""
        if step.reason == "silent_once":
            self.engine.tester_v = _BATTERY_V
        self.at += timedelta(minutes=max(1.0, step.minutes))
        self.minutes += step.minutes
        if step.kind == ASK_AFTER:
            self.asked()
        elif step.kind == REPAIR:
            self.mends(step.cause)
            if step.doubt:
                self.bench.take(step.doubt, ())
        else:
            after = step.reason == AFTER_FIX
            again = step.reason == "contradiction" or after
            count = len(self.bench.sheets)
            self.bench.take(step.kind, step.injectors, step.passes, step.isolation, again=again)
            if after and len(self.bench.sheets) > count:
                self.done = replace(self.done, after={**self.done.after, f"s{count}": step.doubt})

    def asked(self) -> None:
        """The complaint is asked for, word by word."""
        left = {w for (name, _), words in self.engine.wrong.items() for w in words
                if name in self.there}  # fmt: skip
        answers = {w: "still_there" if w in left else "gone" for w in self.engine.words}
        self.done = replace(self.done, asked_after=answers)

    def noted(self, repair: Repair) -> None:
        """A repair, a minute after what was measured before."""
        self.at += timedelta(minutes=1)
        self.done = replace(
            self.done, repairs=(*self.done.repairs, replace(repair, at=self.at)), asked_after={}
        )
        self.at += timedelta(minutes=1)
        self.bench.closes()

    def mends(self, cause: str) -> None:
        """Something on the engine is put right."""
        engine = self.engine
        self.there -= {f for f in self.there if _OF_ENGINE.get(f) == cause}
        put_right(engine, cause)
        engine.leaks.pop(cause, None)
        sound = good(self.rng, engine.system, count=engine.count)
        match cause:
            case "regulator":
                engine.supply = 1.0
            case "regulator_diaphragm":
                engine.hose = "dry"
            case "compression":
                engine.hump = sound.hump
            case "shared_feed":
                engine.lamp = sound.lamp
            case "all_clogged":
                engine.flow = [max(f, s) for f, s in zip(engine.flow, sound.flow, strict=True)]
        self.noted(Repair(injector="", done=ENGINE_ONLY, cause=cause))

    def works_on(self, label: str, action: str) -> None:
        """An injector is cleaned, set, or another is put in."""
        engine, k = self.engine, int(label) - 1
        done = _DOES[action]
        mine = {name for name, at in engine.wrong if at == k and name in self.there} - {*_OF_ENGINE}
        mine -= {"command", *IMITATORS}
        if not mine and "all clogged" not in self.there:
            self.needless.append(f"{label} {done}")
        cured = set(mine)
        if done == "cleaned":
            cured = mine & _FREED if self.rng.random() < _CLEANS else set()
        sound = good(self.rng, engine.system, count=engine.count)
        if not mine - cured:
            engine.leak[k], engine.back[k] = 0.0, sound.back[k]
            engine.coil[k], engine.state[k] = sound.coil[k], "opens"
            engine.opens[k], engine.seat[k], engine.spray[k] = sound.opens[k], "dry", "even"
        if not mine - cured or "clogged" in cured or "all clogged" in self.there:
            engine.flow[k] = sound.flow[k]
        if "returns" in cured:
            engine.rail = "good"
        self.there -= cured
        engine.truth = {i: t for i, t in engine.truth.items() if i != k or mine - cured}
        self.noted(Repair(injector=label, done=done))

    def wires(self, label: str) -> None:
        """The wiring of one injector is put right."""
        if self.engine.lamp[int(label) - 1] == "blinks":
            self.needless.append(f"{label} wired")
        self.engine.lamp[int(label) - 1] = "blinks"
        self.there.discard("command")
        self.noted(Repair(injector=label, done="wired"))

    def repairs(self, result: JobResult) -> bool:
        """Everything that was found is put right; whether there was anything."""
        before = len(self.done.repairs)
        put_right = {r.cause for r in self.done.repairs}
        acted = [(x, v.action) for x, v in result.verdicts if v.action in _DOES]
        all_of_them = "all clogged" in self.there and 2 * len(acted) > self.engine.count
        for cause in result.diagnosis.found:
            if cause.fault.code == "command" and cause.place:
                self.wires(cause.place)
            elif cause.fault.code == "all_clogged" and all_of_them:
                continue
            elif cause.fault.code in {*_OF_ENGINE.values()} - put_right and not cause.outside:
                self.mends(cause.fault.code)
                put_right.add(cause.fault.code)
        for label, action in acted:
            self.works_on(label, action)
        if all_of_them:
            self.there.discard("all clogged")
        return len(self.done.repairs) > before


def whole_job(
    engine: Hidden, seed: int, watch: Callable[[Visit, Finished], None] = lambda _v, _f: None
) -> Ended:
    """Follow every step, put right what is found, and go on until nothing is asked for any more."""
    visit = Visit(engine, seed)
    full = full_route(engine.system, engine.count, starts=engine.starts)
    steps: list[str] = []
    told = visit.told()
    rounds = 0
    while len(steps) < _MOST_STEPS:
        watch(visit, told)
        step = told.next_step
        if step is not None:
            steps.append(step.isolation or f"{step.kind}:{step.reason}")
            visit.does(step)
        elif told.over or rounds == _MOST_REPAIRS or not visit.repairs(told.now):
            break
        else:
            steps.append("REPAIRED " + ", ".join(
                f"{r.injector or r.cause} {r.done}" for r in visit.done.repairs))  # fmt: skip
            rounds += 1
        told = visit.told()
    # An imitator that is complained of comes from where Plumb measures nothing.
    inside = visit.there - IMITATORS.keys()
    return Ended(
        left=tuple(sorted(inside)), needless=tuple(visit.needless), over=told.over,
        ended=told.next_step is None, steps=tuple(steps), minutes=visit.minutes, full_minutes=full,
        repairs=tuple(f"{r.injector or r.cause} {r.done}" for r in visit.done.repairs), done=told,
    )  # fmt: skip
