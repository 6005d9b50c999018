"""The instruments of a virtual engine: what each measures or switches, and what is wrong with it.

A gauge spoils what is there as real ones do: noise, a step, a lag, another unit than is thought.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Final

import numpy as np

from plumb.bench.standins.files import FaultsFile, InstrumentFaults
from plumb.bench.standins.scpi import Words, Wrong, channel_of, number_of, switch_of
from plumb.bench.virtual import LINES, VirtualEngine
from plumb.core.measure.quantities import KPA_PER, decimals_for

OVERLOAD: Final = "9.9E+37"
"""What SCPI answers where there is no end to it: an open coil."""
LEADS_OHM: Final = 0.2
_LINE_WORDS: Final = {
    "ignition": "IGNition", "pump": "PUMP", "starter": "STARter", "clamp_supply": "CLAMp:SUPPly",
    "clamp_return": "CLAMp:RETurn", "hose_off": "HOSE",
    "unplugged": "UNPLugged",
}  # fmt: skip


@dataclass(slots=True, kw_only=True)
class Gauge:
    """A figure as an instrument shows it: unit, smallest step, noise (in its unit), lag (s)."""

    there: Callable[[], float]
    clock: Callable[[], float]
    rng: np.random.Generator
    step: float
    noise: float
    factor: float = 1.0
    lag_s: float = 0.0
    _shown: float | None = None
    _at: float = 0.0

    def read(self) -> str:
        """What it shows now."""
        true = self.there()
        if math.isinf(true):
            return OVERLOAD
        true /= self.factor
        now = self.clock()
        if self.lag_s and self._shown is not None:
            true = self._shown + (true - self._shown) * -math.expm1((self._at - now) / self.lag_s)
        self._shown, self._at = true, now
        noisy = true + float(self.rng.normal(0.0, self.noise))
        return f"{round(noisy / self.step) * self.step:.{decimals_for(self.step)}f}"


@dataclass(slots=True, kw_only=True)
class StandIn:
    """One instrument on the wire: its name, its words, what is wrong, and when it will have done."""

    name: str
    words: Words
    faults: InstrumentFaults
    clock: Callable[[], float]
    busy_until: float = 0.0
    asked: int = 0
    connected: int = 0
    channel: int | None = field(default=None)

    def pending_s(self) -> float:
        """How long what was begun still takes."""
        return max(0.0, self.busy_until - self.clock())

    def late_s(self) -> float:
        """How late the next answer comes."""
        self.asked += 1
        late = self.faults.late_s and self.asked % self.faults.late_every == 0
        return self.faults.late_s if late else 0.0

    def unplugged(self) -> bool:
        """Whether its cable is out just now."""
        at = self.faults.unplug_at_s
        return at is not None and at <= self.clock() < at + self.faults.unplug_s


class Set:
    """Every instrument of one virtual engine."""

    def __init__(
        self, engine: VirtualEngine, faults: FaultsFile, *, clock: Callable[[], float], seed: int
    ) -> None:
        self.engine, self.faults, self._clock = engine, faults, clock
        self._rng = np.random.default_rng((seed, 1))
        self.all = [
            self._gauge(), self._box(), self._lines(), self._meter(), self._clamp(), self._scale(),
            self._hand_pump(),
        ]  # fmt: skip

    def named(self, name: str) -> StandIn:
        """One of them."""
        return next(one for one in self.all if one.name == name)

    def _new(self, name: str, what: str) -> StandIn:
        words = Words(identity=f"Plumb stand-ins,{what},0,1")
        return StandIn(name=name, words=words, faults=getattr(self.faults, name), clock=self._clock)

    def _measures(
        self, one: StandIn, header: str, there: Callable[[], float], usual: tuple[str, float, float]
    ) -> None:
        """A header that answers a figure; ``usual`` are unit, step and noise of a sound instrument."""
        unit, step, noise = usual
        wrong = one.faults
        real = wrong.unit or unit
        gauge = Gauge(
            there=there, clock=self._clock, rng=self._rng, step=wrong.step or step,
            noise=noise if wrong.noise is None else wrong.noise, lag_s=wrong.creep_s,
            factor=KPA_PER.get(real, 1.0),
        )  # fmt: skip
        if wrong.unit and wrong.step is None:
            gauge.step = step * KPA_PER[unit] / KPA_PER[real]
            gauge.noise *= KPA_PER[unit] / KPA_PER[real]
        one.words.knows(f"MEASure[:SCALar]:{header}?", lambda _: gauge.read())
        if real in KPA_PER:
            one.words.knows(f"UNIT:{header}?", lambda _: real.upper())

    def _chooses(self, one: StandIn) -> None:
        """Which injector it is on: ``ROUT:CLOS (@3)``."""
        count = self.engine.hidden.count

        def close(text: str) -> None:
            one.channel = channel_of(text, count)

        def away(_text: str) -> None:
            one.channel = None

        one.words.knows("ROUTe:CLOSe", close)
        one.words.knows("ROUTe:CLOSe?", lambda _: _listed(one.channel))
        one.words.knows("ROUTe:OPEN:ALL", away)
        one.words.knows("ROUTe:OPEN", away)
        one.words.knows("*RST", away)

    def _gauge(self) -> StandIn:
        high = self.engine.hidden.system == "common_rail"
        one = self._new("gauge", "rail gauge")
        usual = ("bar", 1.0, 0.3) if high else ("psi", 0.1, 0.04)
        self._measures(one, "PRESsure", self.engine.rail, usual)
        return one

    def _box(self) -> StandIn:
        one = self._new("box", "burst box")
        self._chooses(one)
        self._switches(one)
        burst = {"pulses": 50.0, "width": 0.01}

        def limit(name: str, low: float, high: float, *, time: bool) -> Callable[[str], None]:
            def obey(text: str) -> None:
                burst[name] = number_of(text, low, high, time=time)

            return obey

        def fire(_text: str) -> None:
            if one.channel is None:
                raise Wrong(-221, "no channel is closed")
            if one.pending_s() > 0.0:
                raise Wrong(-213)
            one.busy_until = self.engine.fire(
                one.channel, pulses=round(burst["pulses"]), width_s=burst["width"],
                period_s=2.0 * burst["width"],
            )  # fmt: skip

        one.words.knows("BURSt:NCYCles", limit("pulses", 1, 1000, time=False))
        one.words.knows("BURSt:NCYCles?", lambda _: f"{round(burst['pulses'])}")
        one.words.knows("BURSt:WIDTh", limit("width", 0.001, 2.0, time=True))
        one.words.knows("BURSt:WIDTh?", lambda _: f"{burst['width']:g}")
        one.words.knows("INITiate[:IMMediate]", fire)
        return one

    def _switches(self, one: StandIn) -> None:
        """Ignition, pump, starter, clamps and hose as lines: ``OUTP:PUMP ON``, ``OUTP:PUMP?``."""

        def obey(line: str) -> Callable[[str], None]:
            return lambda text: self.engine.switch(line, on=switch_of(text))

        def tell(line: str) -> Callable[[str], str]:
            return lambda _: str(int(self.engine.is_on(line)))

        for line in LINES:
            one.words.knows(f"OUTPut:{_LINE_WORDS[line]}", obey(line))
            one.words.knows(f"OUTPut:{_LINE_WORDS[line]}?", tell(line))

    def _lines(self) -> StandIn:
        one = self._new("engine", "engine lines")
        self._switches(one)
        one.words.knows("OUTPut:RUNS?", lambda _: str(int(self._runs())))
        return one

    def _runs(self) -> bool:
        self.engine.advance()
        return self.engine.runs

    def _meter(self) -> StandIn:
        one = self._new("meter", "coil meter")
        self._chooses(one)

        def ohm() -> float:
            return math.inf if one.channel is None else self.engine.coil(one.channel) + LEADS_OHM

        def volts() -> float:
            if one.channel is None:
                return self.engine.hidden.tester_v
            coil = self.engine.coil(one.channel)
            return 0.0 if math.isinf(coil) else 0.5 * coil

        self._measures(one, "RESistance", ohm, ("ohm", 0.01, 0.005))
        self._measures(one, "VOLTage", volts, ("V", 0.01, 0.005))
        return one

    def _clamp(self) -> StandIn:
        one = self._new("clamp", "starter clamp")
        self._measures(one, "CURRent", self.engine.current, ("A", 0.1, 1.0))
        return one

    def _scale(self) -> StandIn:
        one = self._new("scale", "scale under a return tube")
        self._chooses(one)

        def stands() -> float:
            return 0.0 if one.channel is None else self.engine.returned(one.channel)

        self._measures(one, "VOLume", stands, ("ml", 0.1, 0.03))
        one.words.knows("TUBE:EMPTy", lambda _: self.engine.empty_tubes())
        return one

    def _hand_pump(self) -> StandIn:
        one = self._new("handpump", "hand pump")
        self._chooses(one)
        self._measures(one, "PRESsure", self.engine.hand_pump, ("bar", 0.1, 0.05))

        def press(_text: str) -> None:
            if one.channel is None:
                raise Wrong(-221, "no nozzle is on it")
            if one.pending_s() > 0.0:
                raise Wrong(-213)
            one.busy_until = self.engine.stroke(one.channel)

        one.words.knows("INITiate[:IMMediate]", press)
        return one


def _listed(channel: int | None) -> str:
    return "(@)" if channel is None else f"(@{channel + 1})"
