"""A hidden engine that lives in time: pump, rail, hoses, injectors, starter, returns, a nozzle on a pump.

Its state is integrated from moment to moment with scipy, with the equations of
:mod:`plumb.bench.physics`.  Whoever looks at it sees what a perfect gauge would show; the gauges of
:mod:`plumb.bench.standins` spoil that.  What left the rail through each injector, and by every other
way, is kept, so that nothing is lost on the way.

>>> import numpy as np
>>> from plumb.bench.engines.hidden import good
>>> at = [0.0]
>>> engine = VirtualEngine(good(np.random.default_rng(1), "port"), clock=lambda: at[0])
>>> engine.switch("pump", on=True)
>>> at[0] = 3.0
>>> 295 < engine.rail() < 310
True
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Final

import numpy as np
import scipy  # its parts load when first used: all at once cost every start a second

from plumb.bench import physics
from plumb.bench.bursts import Burst, Fired
from plumb.bench.engines.hidden import Hidden
from plumb.bench.hand_pump import HandPump
from plumb.bench.traces import Crank
from plumb.core.procedures.returns.analysis import LONGEST_SPELL_S

USUAL_KPA: Final = {
    "port": 300.0, "throttle_body": 100.0, "direct": 400.0, "common_rail": 400.0,
    "mechanical_diesel": 0.0,
}  # fmt: skip
"""What the supply of each fuel system is set to; invented, but of the usual order."""

RAIL_ML_PER_KPA: Final = 0.012
"""What a rail with its hoses takes in for each kPa, at once."""
HOSE_SHARE: Final = 0.025
"""So much of that again is taken in slowly, which is why a pressure creeps back after a burst."""
HOSE_S: Final = 2.5
PUMP_ML_S: Final = 25.0
PUMP_DEAD: Final = 2.2
"""The pump delivers nothing at so many times the usual pressure."""
REGULATOR_ML_S_KPA: Final = 8.0
VACUUM_KPA: Final = 45.0
"""What a manifold at idle pulls a regulator down by; about half an atmosphere."""
GOOD_INJECTOR: Final = 4.0 * physics.orifice_coefficient(diameter_mm=0.26, discharge=0.7)
"""Four holes of a quarter of a millimetre: about 250 ml a minute at 300 kPa."""
SOAK_C: Final = 18.0
SOAK_ML: Final = 28.0
SOAK_S: Final = 300.0

HIGH_ML_PER_KPA: Final = 25.0 / 1.5e6
"""25 ml of diesel with a bulk modulus of 1.5 GPa (handbook, from memory)."""
HIGH_IDLE_KPA: Final = 30_000.0
HIGH_CRANK_KPA: Final = 25_000.0
HIGH_S: Final = 0.3
RETURN_S: Final = 120.0
"""The returns of a hidden engine are ml in so long at idle."""

_CRANK: Final = Crank(heights=())
"""How an engine of the traces is cranked: this one is cranked like it."""
CATCHES_S: Final = 1.2
"""An engine that starts does so after so much cranking."""
CRANK_REST_S: Final = 60.0
"""A starter that was cranked for as long as a spell may be rests for so long; common practice, no source."""

LINES: Final = (
    "ignition", "pump", "starter", "clamp_supply", "clamp_return", "hose_off", "unplugged",
)  # fmt: skip
"""What a person switches; with its injectors ``unplugged`` an engine is cranked and does not start."""
PRIMES_S: Final = 2.0
"""With the ignition on the controller runs the pump for so long."""

_CLAMPED: Final = {"clamp_supply": "supply_check_valve", "clamp_return": "regulator"}


@dataclass(slots=True)
class _Lines:
    on: set[str] = field(default_factory=set)
    since: dict[str, float] = field(default_factory=dict)


class VirtualEngine:
    """A hidden engine on a clock (s): lines to switch, bursts to fire, and what is truly there.

    With ``scatter`` 0 every burst and stroke of an injector is like the one before.
    """

    def __init__(
        self, hidden: Hidden, *, clock: Callable[[], float], seed: int = 1, scatter: float = 1.0
    ) -> None:
        self.hidden, self._clock, self._scatter = hidden, clock, scatter
        self._rng = np.random.default_rng(seed)
        self._t = clock()
        self._lines = _Lines()
        self._burst: Burst | None = None
        self._hand_pump = HandPump()
        self.fired: list[Fired] = []
        self.raw = [0] * hidden.count
        self.runs = False
        self.shut_at = self._t
        self.running_s = 0.0
        self.cranked_s = 0.0
        self.strained: list[float] = []
        self._stretch_s, self._starter_off = 0.0, -math.inf
        self._high = hidden.system == "common_rail"
        self._compliance = HIGH_ML_PER_KPA if self._high else RAIL_ML_PER_KPA
        self._usual = USUAL_KPA[hidden.system]
        self._ahead: tuple[scipy.integrate.OdeSolution, float] | None = None
        # Rail, slow hose, what each injector passed, what came back of each, lost, pumped in.
        self._y = np.zeros(4 + 2 * hidden.count)

    # What a person does.

    def switch(self, line: str, *, on: bool) -> None:
        """Switch ignition, pump, starter, a clamp, or the hose off the regulator."""
        if line not in LINES:
            raise KeyError(line)
        self._changes()
        if (line in self._lines.on) == on:
            return
        pumped = self._pumping()
        if line == "starter":
            self._starter(on=on)
        if line == "unplugged":
            self.runs = self.runs and not on
            self._lines.since[line] = self._t
        if on:
            self._lines.on.add(line)
            self._lines.since[line] = self._t
        else:
            self._lines.on.discard(line)
            if line == "ignition":
                self.runs = False
        if pumped and not self._pumping():
            self.shut_at = self._t

    def _starter(self, *, on: bool) -> None:
        """A rest that was long enough lets a starter cool."""
        if not on:
            self._starter_off = self._t
        elif self._t - self._starter_off >= CRANK_REST_S:
            self._stretch_s = 0.0

    def is_on(self, line: str) -> bool:
        """Whether a line is switched on."""
        return line in self._lines.on

    def fire(self, injector: int, *, pulses: int, width_s: float, period_s: float) -> float:
        """Pulse an injector (by index); gives back when the burst will have ended."""
        self._changes()
        self._burst = Burst(
            injector=injector, begin=self._t, pulses=pulses, width=width_s, period=period_s,
            flow=self._answer(injector), first=float(self._y[0]), ml=float(self._y[4 + injector]),
        )  # fmt: skip
        return self._burst.end

    def _answer(self, k: int) -> float:
        """What an injector passes this time, as a share of a good one."""
        hidden = self.hidden
        state = hidden.state[k]
        asleep = state == "shut" or math.isinf(hidden.coil[k])
        asleep = asleep or (hidden.tester_v < 11.0 and self._rng.random() < 0.25)
        if asleep or (state == "weak" and self.raw[k] == 0 and self._rng.random() < 0.4):
            return 0.0
        share = {"weak": 0.7}.get(state, 1.0)
        if state == "now_and_then" and self._rng.random() < 0.5:
            share = 0.45
        return share * hidden.flow[k] * (1.0 + 0.01 * self._noise())

    def _noise(self) -> float:
        return self._scatter * float(self._rng.normal())

    def stroke(self, nozzle: int) -> float:
        """One slow stroke of the hand pump; gives back when it will have ended."""
        self._changes()
        opens = self.hidden.opens[nozzle] + 60.0 * self._noise()
        return self._hand_pump.stroke(self._t, opens, self.hidden.seat[nozzle])

    def relieve(self) -> None:
        """Let the rail's pressure off into a container."""
        self._changes()
        self._y[2] += self._compliance * (self._y[0] + HOSE_SHARE * self._y[1])
        self._y[:2] = 0.0

    def empty_tubes(self) -> None:
        """Empty the tubes of the returns."""
        self._changes()
        self._y[4 + self.hidden.count :] = 0.0

    # What is truly there.

    def rail(self) -> float:
        """Pressure in the rail now, kPa."""
        self.advance()
        return float(self._y[0])

    def passed(self, injector: int) -> float:
        """What has come out of an injector so far, ml."""
        self.advance()
        return float(self._y[4 + injector])

    def returned(self, injector: int) -> float:
        """What stands in the tube of an injector's return, ml."""
        self.advance()
        return float(self._y[4 + self.hidden.count + injector])

    def balance(self) -> float:
        """What was pumped in, less what is in the rail and hose and what has left: nought, ml."""
        self.advance()
        y = self._y
        inside = self._compliance * (y[0] + HOSE_SHARE * y[1])
        return float(y[3] - inside - y[2] - y[4 : 4 + self.hidden.count].sum())

    def coil(self, injector: int) -> float:
        """Resistance of a coil at the engine's temperature, ohm."""
        return physics.copper(self.hidden.coil[injector], 80.0 if self.hidden.hot else 20.0)

    def current(self) -> float:
        """Current of the starter now, A."""
        self.advance()
        if not self._cranking():
            return 0.0
        at = self._t - self._lines.since["starter"]
        count = self.hidden.count
        angle = at / _CRANK.cycle_s * count
        height = self.hidden.hump[math.floor(angle) % count] / 100.0
        hump = _CRANK.hump_a * height * physics.compression_hump(np.array(angle))
        return float(_CRANK.base_a + physics.inrush(np.array(at)) + hump)

    def hand_pump(self) -> float:
        """Pressure on the hand pump now, kPa."""
        self.advance()
        return self._hand_pump.pressure(self._t)

    # How it goes on.

    def _pumping(self) -> bool:
        if self.hidden.pump == "silent" or "clamp_supply" in self._lines.on:
            return False
        on = self._lines.on
        primes = "ignition" in on and self._t - self._lines.since["ignition"] < PRIMES_S
        return "pump" in on or primes or self.runs or self._cranking()

    def _cranking(self) -> bool:
        return "starter" in self._lines.on and "ignition" in self._lines.on and not self.runs

    def _catches(self) -> float:
        """When an engine that is cranked starts, if it does."""
        since = self._lines.since
        return CATCHES_S + max(
            since.get(x, -math.inf) for x in ("starter", "ignition", "unplugged")
        )

    def advance(self) -> None:
        """Bring everything to what the clock says."""
        until = self._clock()
        while self._t < until - 1e-9:
            if self._ahead is None:
                self._ahead = self._solved(self._next_edge())
            solution, edge = self._ahead
            self._step(solution, min(until, edge))
            if self._t >= edge - 1e-9:
                self._ahead = None
                self._turn_over()

    def changed(self) -> None:
        """The hidden engine is another one from now on: something was put right."""
        self._changes()

    def _changes(self) -> None:
        """Something is about to be done to it: what was foretold from here on no longer holds."""
        self.advance()
        self._ahead = None

    def _next_edge(self) -> float:
        """The next moment at which something changes by itself."""
        edges = [self._t + 5.0]
        if self._burst is not None:
            edges.append(self._burst.edge_after(self._t))
        since = self._lines.since
        if "ignition" in self._lines.on:
            edges.append(since["ignition"] + PRIMES_S)
        if self._cranking():
            edges.append(self._catches())
        return min(e for e in edges if e > self._t + 1e-9)

    def _turn_over(self) -> None:
        """What has happened by now: a burst has ended, the engine has caught, the pump has stopped."""
        burst = self._burst
        if burst is not None and self._t >= burst.end - 1e-9:
            self._burst = None
            ml = float(self._y[4 + burst.injector]) - burst.ml
            lay = self.raw[burst.injector] > 0
            self.raw[burst.injector] += ml > 0.0
            self.fired.append(
                Fired(injector=burst.injector, begin=burst.begin, end=burst.end,
                      first=burst.first, second=float(self._y[0]), ml=ml, raw=lay and ml > 0.0)
            )  # fmt: skip
        able = self.hidden.starts and "unplugged" not in self._lines.on
        fed = self._t >= self._catches() - 1e-9 and self._y[0] > 0.4 * self._usual
        if able and fed and self._cranking():
            self.runs = True
            self.raw = [0] * self.hidden.count
        ignition = self._lines.since.get("ignition", -math.inf)
        if abs(self._t - ignition - PRIMES_S) < 1e-6 and not self._pumping():
            self.shut_at = self._t

    def _solved(self, edge: float) -> "tuple[scipy.integrate.OdeSolution, float]":
        """How it goes on until the next edge, if nobody touches it."""
        rates = self._high_rates() if self._high else self._low_rates()
        solved = scipy.integrate.solve_ivp(
            rates, (self._t, edge), self._y, method="LSODA" if self._pumping() else "RK45",
            rtol=1e-8, atol=1e-8, dense_output=True,
        )  # fmt: skip
        if solved.sol is None:
            raise RuntimeError(solved.message)
        return solved.sol, edge

    def _step(self, solution: "scipy.integrate.OdeSolution", until: float) -> None:
        span = until - self._t
        self._y = np.array(solution(until))
        self._y[0] = max(0.0, self._y[0])
        if self.runs:
            self.running_s += span
        if self._cranking():
            self.cranked_s += span
            before, self._stretch_s = self._stretch_s, self._stretch_s + span
            if before <= LONGEST_SPELL_S < self._stretch_s:
                self.strained.append(until)
        self._t = until

    def _orifice(self, kpa_a_minute: float) -> float:
        """The coefficient of a leak that loses so much a minute at the usual pressure."""
        return kpa_a_minute / 60.0 * self._compliance / math.sqrt(self._usual or 1.0)

    def _low_rates(self) -> Callable[[float, np.ndarray], np.ndarray]:
        """dy/dt of a low-pressure rail with the lines as they are."""
        hidden, count = self.hidden, self.hidden.count
        closed = {way for line, way in _CLAMPED.items() if line in self._lines.on}
        leak = self._orifice(sum(r for way, r in hidden.leaks.items() if way not in closed))
        drips = np.array([self._orifice(r) for r in hidden.leak])
        burst = self._burst
        opened = GOOD_INJECTOR * burst.flow if burst and burst.is_open(self._t) else 0.0
        at = burst.injector if burst else 0
        pumping = self._pumping()
        set_to = self._usual * hidden.supply
        pulled = self.runs and "hose_off" not in self._lines.on and hidden.answers
        if pulled and hidden.system in {"port", "throttle_body"}:
            set_to -= VACUUM_KPA * self._usual / 300.0
        burns = np.array(hidden.flow) * 0.06 if self.runs else np.zeros(count)
        soaks = hidden.hot and not pumping
        swells = SOAK_ML * physics.PETROL_SWELLS_PER_K * SOAK_C / SOAK_S if soaks else 0.0
        shut_at, dead = self.shut_at, PUMP_DEAD * (self._usual or 1.0)

        def rates(t: float, y: np.ndarray) -> np.ndarray:
            p = max(0.0, y[0])
            root = math.sqrt(p)
            made = np.zeros_like(y)
            out = drips * root
            out[at] += opened * root
            if p > 1.0:
                out += burns
            lost = leak * root
            if pumping:
                lost += REGULATOR_ML_S_KPA * max(0.0, p - set_to)
            # What swells is counted as pumped in: it takes room as that does.
            came = swells * math.exp(-(t - shut_at) / SOAK_S)
            if pumping:
                came += PUMP_ML_S * max(0.0, 1.0 - p / dead)
            hose = RAIL_ML_PER_KPA * HOSE_SHARE * (y[0] - y[1]) / HOSE_S
            made[0] = (came - lost - out.sum() - hose) / RAIL_ML_PER_KPA
            made[1] = (y[0] - y[1]) / HOSE_S
            made[2], made[3] = lost, came
            made[4 : 4 + count] = out
            return made

        return rates

    def _high_rates(self) -> Callable[[float, np.ndarray], np.ndarray]:
        """dy/dt of a common rail: a controller that holds it, gaps that it seeps through, returns."""
        hidden, count = self.hidden, self.hidden.count
        pumping = self.runs or self._cranking()
        wanted = self.wanted()
        lost_a_minute = 4_000.0 + sum(hidden.leaks.values()) + sum(hidden.leak)
        lost_a_minute += 3_000.0 * sum(b > 30.0 for b in hidden.back)
        resistance = 60.0 * HIGH_CRANK_KPA / (lost_a_minute * HIGH_ML_PER_KPA)
        back = np.array(hidden.back) / RETURN_S
        reached = wanted * self._high_share()
        surges = hidden.rail == "surges"

        def rates(t: float, y: np.ndarray) -> np.ndarray:
            made = np.zeros_like(y)
            p = max(0.0, y[0])
            lost = p / resistance
            target = reached + (6_000.0 * math.sin(2.0 * math.pi * 1.3 * t) if surges else 0.0)
            came = lost + HIGH_ML_PER_KPA * (target - p) / HIGH_S if pumping else 0.0
            made[0] = (came - lost) / HIGH_ML_PER_KPA
            made[2], made[3] = lost, came
            if pumping:
                made[4 + count :] = back * p / HIGH_IDLE_KPA
            return made

        return rates

    def wanted(self) -> float:
        """What the controller wants in a common rail now, kPa."""
        return HIGH_IDLE_KPA if self.runs else HIGH_CRANK_KPA

    def _high_share(self) -> float:
        """What of the wanted pressure this engine reaches."""
        hidden = self.hidden
        leaky = sum(hidden.leaks.values()) > 8_000.0
        low = not self.runs and (hidden.rail == "low_cranking" or (leaky and not hidden.starts))
        share = {"high": 1.25}.get(hidden.rail, 1.0) * (0.8 if hidden.supply < 0.7 else 1.0)
        return share * (0.6 if low else 1.0)
