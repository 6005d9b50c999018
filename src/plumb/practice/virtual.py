"""The bench of one exercise: its engine in time, the instruments on it, and whoever works it by hand.

What it takes in real time (a rest, a hold of twenty minutes) passes at once, on a clock that can skip.

>>> from plumb.practice.exercises import EXERCISES
>>> bench = RunBench(EXERCISES["01"])
>>> [first, _, _, second, _] = bench.do(lambda: bench.burst("2")).text.split()
>>> float(first) > float(second) > 0
True
>>> bench.close()
"""

from collections.abc import Callable, Sequence
from functools import cache
from typing import Final, TypeVar

import numpy as np

from plumb.bench.engines.gauges import Bench
from plumb.bench.engines.hidden import PETROL, good, put_right
from plumb.bench.engines.looked import BAR, MAKER, Look, looked, pressure, tried, unit_on
from plumb.bench.standins.beside import Beside
from plumb.bench.standins.files import FaultsFile, InstrumentFaults
from plumb.bench.standins.instruments import Set
from plumb.bench.virtual import CRANK_REST_S, VirtualEngine
from plumb.core.measure.problems import Conflict, Problem
from plumb.core.procedures import (
    COIL_RESISTANCE,
    COIL_VOLTAGE,
    DROP,
    FLOW_BENCH,
    OPENING,
    RETURNS,
    TIPS,
    WALK,
)
from plumb.devices.scheduler import REAL_TIME, Scheduler
from plumb.practice.exercises import Exercise, engine_of

PULSES: Final = 50
ON_S: Final = 0.01
"""The burst by hand; common practice, no source."""
_PUMPS_S: Final = 3.0
_RESTS_S: Final = 3.0
_CRANKS_S: Final = 8.0
_STEADY_S: Final = 20.0
UNDER_PRESSURE_KPA: Final = 20.0
"""A rail with more than that in it is not opened; our own choice, a fifteenth of a usual one."""
LIFTED: Final = frozenset({TIPS.code, FLOW_BENCH.code})
"""Sheets for which the injectors come out with their rail."""
ALSO_LIFTED: Final = LIFTED | {WALK.code, COIL_RESISTANCE.code, OPENING.code}
"""What can be done while they are out."""
_BY_INSTRUMENT: Final = {
    DROP.code: ("box", "fired"),
    OPENING.code: ("handpump", "one slow stroke"),
    COIL_RESISTANCE.code: ("meter", "the meter is on it"),
    COIL_VOLTAGE.code: ("meter", "the meter is on it"),
    RETURNS.code: ("scale", "its tube is on the scale"),
}
"""What is left to a person while an instrument reads: which stand-in it is about, and what it is called."""
COARSE_PSI: Final = 1.0
_Made = TypeVar("_Made")


class Clock:
    """Seconds since the bench was set up; they pass by themselves, and can be skipped."""

    def __init__(self, scheduler: Scheduler = REAL_TIME) -> None:
        self._now = scheduler.now
        self._begun = self._now()

    def __call__(self) -> float:
        """Now."""
        return self._now() - self._begun

    def skip(self, seconds: float) -> None:
        """So much passes at once."""
        self._begun -= seconds


class RunBench:
    """A hidden engine that is worked; everything is done through ``do``, one thing at a time.

    ``repaired`` are causes that were put right before, ``lifted`` says that the rail is out.
    """

    def __init__(
        self, exercise: Exercise, *, repaired: Sequence[str] = (), lifted: bool = False,
        scheduler: Scheduler = REAL_TIME,
    ) -> None:  # fmt: skip
        self.hidden = engine_of(exercise)
        for cause in repaired:
            put_right(self.hidden, cause)
        self.clock, self.lifted = Clock(scheduler), lifted
        self.coarse = self.hidden.step_psi >= COARSE_PSI
        self.unit = unit_on(self.hidden.system)
        self.engine = VirtualEngine(self.hidden, clock=self.clock, seed=exercise.seed)
        dial = InstrumentFaults(step=self.hidden.step_psi if self.coarse else None)
        self.instruments = Set(
            self.engine, FaultsFile(gauge=dial), clock=self.clock, seed=exercise.seed
        )
        self._eyes = Bench(self.hidden, np.random.default_rng((exercise.seed, 2)))
        self._beside = Beside(self.instruments)
        self._fired = self._strained = 0

    @property
    def addresses(self) -> dict[str, str]:
        """Where the instruments are, by name."""
        return self._beside.addresses

    @property
    def count(self) -> int:
        """How many injectors it has."""
        return self.hidden.count

    def do(self, work: Callable[[], _Made]) -> _Made:
        """Do something at it, alone."""
        return self._beside.call(work)

    def close(self) -> None:
        """Put it away."""
        self._beside.close()

    # What a person does; through ``do``.

    def switch(self, line: str, *, on: bool) -> None:
        """Ignition, pump, starter, clamps, hose.  Raises :class:`Conflict` with the rail out."""
        if on and line in {"ignition", "pump", "starter"}:
            self._closed("Fuel would come out of it")
        self.engine.switch(line, on=on)

    def wait(self, seconds: float) -> None:
        """Let time pass.  Raises :class:`Conflict` while an instrument is read: it lives in real time."""
        if self.captured:
            rule = "an instrument is being read, and time cannot be skipped: stop the capture first"
            raise Conflict(Problem(path="bench", rule=rule, code="captured"))
        self._pass(seconds)

    @property
    def captured(self) -> bool:
        """Whether somebody reads an instrument just now."""
        return any(one.connected for one in self.instruments.all)

    def _pass(self, seconds: float) -> None:
        self.clock.skip(seconds)
        self.engine.advance()

    def start(self) -> Look:
        """Turn the key until it runs, or for eight seconds."""
        self._closed("It cannot run like that")
        self.engine.switch("ignition", on=True)
        self.engine.switch("starter", on=True)
        cranked = 0.0
        while cranked < _CRANKS_S and not self.engine.runs:
            self._pass(0.5)
            cranked += 0.5
        self.engine.switch("starter", on=False)
        if self.engine.runs:
            self._pass(_STEADY_S)
        return Look(
            "engine", "runs" if self.engine.runs else f"cranked {cranked:g} s, does not start"
        )

    def stop(self) -> Look:
        """Turn the key back."""
        self.engine.switch("ignition", on=False)
        return Look("engine", "is off")

    def burst(self, row: str) -> Look:
        """One burst of an injector by hand: pump, rest, the gauge, the burst, the gauge again."""
        k = self._of(row)
        self._closed("There is no rail to read")
        self._off()
        self.engine.switch("pump", on=True)
        self.wait(_PUMPS_S)
        self.engine.switch("pump", on=False)
        self.wait(_RESTS_S)
        first = self.gauge()
        until = self.engine.fire(k, pulses=PULSES, width_s=ON_S, period_s=2.0 * ON_S)
        self.wait(until - self.clock() + _RESTS_S)
        second = self.gauge()
        return Look(row, f"{first} {self.unit}, then {second} {self.unit}")

    def relieve(self) -> Look:
        """Let the pressure off."""
        self.engine.switch("ignition", on=False)
        self.engine.switch("pump", on=False)
        self.engine.relieve()
        return Look("rail", "relieved, what came was caught")

    def lift(self) -> str:
        """Take the rail out; gives back what was wrong about it, empty where nothing was."""
        left = self.engine.rail()
        self.lifted = True
        if self.engine.runs or left > UNDER_PRESSURE_KPA:
            step = 1.0 if self.unit == BAR else 0.5
            self.relieve()
            return f"the rail was opened with {pressure(left, self.unit, step)} in it"
        return ""

    def put_back(self) -> None:
        """Fit the rail again."""
        self.lifted = False

    def look(self, kind: str, rows: Sequence[str] = ()) -> list[Look]:
        """What is seen or read for a sheet of that kind, at these rows or at all.

        Raises :class:`Conflict` where the rail has to be out first.
        """
        for row in rows:
            self._of(row)
        if kind not in ALSO_LIFTED:
            self._closed("This is done with the rail in its place")
        if kind in LIFTED and not self.lifted:
            raise Conflict(
                Problem(path="rail", code="rail_fitted",
                        rule="the injectors are in the engine: relieve the rail, then take it out")
            )  # fmt: skip
        if self.captured and rows and kind in _BY_INSTRUMENT:
            return [self._for_instrument(kind, rows[0])]
        if kind == DROP.code:
            return [*(self.burst(row) for row in rows), *self.for_bursts()]
        return looked(self._eyes, kind, rows)

    def _for_instrument(self, kind: str, row: str) -> Look:
        """The part of a person while an instrument reads: the burst, the stroke, the clip put on."""
        k = self._of(row)
        name, told = _BY_INSTRUMENT[kind]
        if name != "box":
            self.instruments.named(name).channel = k
        if name == "box":
            self._off()
            self.engine.fire(k, pulses=PULSES, width_s=ON_S, period_s=2.0 * ON_S)
        elif name == "handpump":
            self.engine.stroke(k)
            sound = "chatters" if self.hidden.spray[k] == "even" else "weak"
            told += f"; seat {self.hidden.seat[k]}; {sound}; spray {self.hidden.spray[k]}"
        return Look(row, told)

    def try_step(self, step: str) -> Look:
        """One step of the board, to find where a hold goes."""
        return tried(self._eyes, step)

    def put_right(self, cause: str) -> Look:
        """Put something right on the engine; whether it was wrong shows afterwards."""
        self.engine.advance()
        put_right(self.hidden, cause)
        self.engine.changed()
        return Look("repair", f"{cause.replace('_', ' ')}: put right")

    # What it shows.

    def gauge(self) -> str:
        """What the gauge on the rail shows now."""
        return self.instruments.named("gauge").words.obeys("MEAS:PRES?")[0]

    def for_bursts(self) -> list[Look]:
        """What is to be known before a drop is judged: the tester's supply, what the maker says."""
        told = [Look("tester's supply", f"{self.hidden.tester_v:.1f} V")]
        drop = maker_drop(self.hidden.system)
        if drop:
            said = f"{PULSES} pulses of {1000 * ON_S:g} ms: {pressure(drop, self.unit, 0.1)} lost"
            told.append(Look(MAKER, said))
        return told

    def news(self) -> tuple[list[str], list[str]]:
        """Since the last time: the rows that bursts were fired at, and what could have hurt someone."""
        self.engine.advance()
        fired = self.engine.fired[self._fired :]
        strained = self.engine.strained[self._strained :]
        self._fired += len(fired)
        self._strained += len(strained)
        told = [
            f"a second burst at {f.injector + 1}, with the fuel of the one before still in its cylinder"
            for f in fired
            if f.raw
        ]
        long = (
            "the starter was cranked for longer than a spell may last, "
            f"without a rest of {CRANK_REST_S:g} s"
        )
        told += [long] * len(strained)
        return [str(f.injector + 1) for f in fired], told

    def _of(self, row: str) -> int:
        if not row.isdecimal() or not 1 <= int(row) <= self.count:
            rule = f"the injectors of this engine are called 1 to {self.count}"
            raise Conflict(Problem(path="row", rule=rule, value=row, code="unknown_injector"))
        return int(row) - 1

    def _off(self) -> None:
        if self.engine.runs:
            rule = "the engine is off for a burst: stop it first"
            raise Conflict(Problem(path="engine", rule=rule, code="engine_runs"))

    def _closed(self, why: str) -> None:
        if self.lifted:
            rule = f"the rail is out. {why}: put it back first"
            raise Conflict(Problem(path="rail", rule=rule, code="rail_out"))


@cache
def maker_drop(system: str) -> float:
    """What a good injector takes from the rail in a burst by hand, kPa; 0 where there are no bursts."""
    if system not in PETROL:
        return 0.0
    at = [0.0]
    sound = good(np.random.default_rng(0), system, count=1)
    sound.flow = [1.0]
    engine = VirtualEngine(sound, clock=lambda: at[0], scatter=0.0)
    engine.switch("pump", on=True)
    at[0] += _PUMPS_S
    engine.switch("pump", on=False)
    at[0] += _RESTS_S
    first = engine.rail()
    at[0] = engine.fire(0, pulses=PULSES, width_s=ON_S, period_s=2.0 * ON_S) + _RESTS_S
    return first - engine.rail()
