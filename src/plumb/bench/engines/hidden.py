"""An engine whose faults are known to the bench alone: what it does, not what a sheet would say.

Faults change flows, leaks, coils, pressures; the gauges (:mod:`plumb.bench.engines.gauges`) read those.
Nothing here looks at the tables that are tested.  The figures are our own inventions.

>>> import numpy as np
>>> engine = draw(np.random.default_rng(1), "port", ("clogged",))
>>> min(engine.flow) < 0.88
True
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Final

import numpy as np

Rng = np.random.Generator
PETROL: Final = ("port", "throttle_body", "direct")
CR: Final = ("common_rail",)
MECH: Final = ("mechanical_diesel",)
ELECTRIC: Final = (*PETROL, *CR)
SYSTEMS: Final = (*ELECTRIC, *MECH)


@dataclass(slots=True)
class Hidden:
    """What the engine is: a list has one entry an injector.

    ``flow`` 1 is good; ``leak`` and the leaks of the rail are kPa a minute; ``truth`` are the conditions
    of the injectors by index, ``causes`` what is wrong with the engine, ``wrong`` the words that each
    (fault, index) brings about.
    """

    system: str
    count: int
    flow: list[float]
    leak: list[float]
    coil: list[float]
    state: list[str]
    lamp: list[str]
    hump: list[float]
    back: list[float]
    opens: list[float]
    seat: list[str]
    spray: list[str]
    feed: list[str]
    leaks: dict[str, float] = field(default_factory=dict)
    pump: str = "runs"
    supply: float = 1.0
    hose: str = "dry"
    answers: bool = True
    rail: str = "good"
    words: set[str] = field(default_factory=set)
    truth: dict[int, str] = field(default_factory=dict)
    causes: set[str] = field(default_factory=set)
    outside: set[str] = field(default_factory=set)
    tester_v: float = 12.6
    hot: bool = False
    step_psi: float = 0.5
    repaired: set[str] = field(default_factory=set)
    wrong: dict[tuple[str, int], set[str]] = field(default_factory=dict)
    doing: tuple[str, int] = ("", 0)

    def complains(self, words: set[str]) -> None:
        """What is being spoilt brings these about."""
        self.words |= words
        self.wrong.setdefault(self.doing, set()).update(words)

    @property
    def starts(self) -> bool:
        """Whether it runs."""
        return "no_start" not in self.words or "pump" in self.repaired

    @property
    def shares_feeds(self) -> bool:
        """Whether its injectors share feeds, some each."""
        return self.system in {"port", "direct"} and self.count > 2

    def works(self, k: int) -> float:
        """How well a cylinder works, 1 is well."""
        if self.state[k] == "shut" or self.lamp[k] != "blinks":
            return 0.0
        works = self.flow[k] * min(1.0, self.hump[k] / 95.0)
        if self.state[k] in {"weak", "now_and_then"}:
            works *= 0.6
        if "ignition" in self.outside and k == 0:
            works *= 0.2
        return float(works)


Spoil = Callable[[Rng, Hidden, int], None]


def _says(rng: Rng, engine: Hidden, **words: float) -> None:
    """Each word with its chance; at least the likeliest one."""
    said = {w for w, p in words.items() if rng.random() < p}
    engine.complains(said or {max(words, key=lambda w: words[w])})


def _clogged(rng: Rng, e: Hidden, k: int) -> None:
    e.flow[k] *= 1.0 - float(rng.uniform(0.15, 0.45))
    e.truth[k] = "gives_less"
    _says(rng, e, misfire=0.7, rough_idle=0.6, bogs=0.2)


def _rich(rng: Rng, e: Hidden, k: int) -> None:
    e.flow[k] *= 1.0 + float(rng.uniform(0.15, 0.35))
    e.truth[k] = "gives_more"
    _says(rng, e, smoke_black=0.6, rough_idle=0.5)


def _drips(rng: Rng, e: Hidden, k: int) -> None:
    e.leak[k] = float(rng.uniform(10.0, 40.0))
    e.truth[k] = "leaks_at_tip"
    _says(rng, e, long_crank=0.7, hard_start_hot=0.6, rough_idle=0.3, smoke_black=0.2)


def _weeps(rng: Rng, e: Hidden, k: int) -> None:
    """A slow leak, inside the limit of the hold."""
    e.leak[k] = float(rng.uniform(2.0, 4.0))
    e.truth[k] = "leaks_at_tip"
    _says(rng, e, long_crank=0.6, hard_start_hot=0.7)


def _pours(rng: Rng, e: Hidden, k: int) -> None:
    e.leak[k] = 4000.0
    e.flow[k] *= 1.6
    e.truth[k] = "stuck_open"
    _says(rng, e, misfire=0.7, smoke_black=0.7, fuel_smell=0.5, rough_idle=0.6)


def _shut(rng: Rng, e: Hidden, k: int) -> None:
    e.state[k] = "shut"
    e.truth[k] = "no_response"
    _says(rng, e, misfire=0.95, rough_idle=0.6)


def _weak(rng: Rng, e: Hidden, k: int) -> None:
    e.state[k] = "weak"
    e.truth[k] = "opens_weakly"
    _says(rng, e, misfire=0.6, hard_start_cold=0.3, rough_idle=0.5)


def _now_and_then(rng: Rng, e: Hidden, k: int) -> None:
    e.state[k] = "now_and_then"
    e.truth[k] = "intermittent"
    _says(rng, e, misfire=0.8, surges=0.2)


def _open_coil(rng: Rng, e: Hidden, k: int) -> None:
    e.coil[k] = float("inf")
    e.state[k] = "shut"
    e.truth[k] = "coil_open"
    _says(rng, e, misfire=0.95, rough_idle=0.5)


def _short_coil(rng: Rng, e: Hidden, k: int) -> None:
    e.coil[k] *= float(rng.uniform(0.25, 0.45))
    e.flow[k] *= float(rng.uniform(0.5, 0.8))
    e.truth[k] = "coil_shorted"
    _says(rng, e, misfire=0.7, rough_idle=0.5)


def _returns(rng: Rng, e: Hidden, k: int) -> None:
    e.back[k] *= float(rng.uniform(3.0, 6.0))
    e.truth[k] = "returns_too_much"
    if rng.random() < 0.5:
        e.rail = "low_cranking"
    _says(rng, e, long_crank=0.8, no_start=0.35, hard_start_hot=0.3)


def _early(rng: Rng, e: Hidden, k: int) -> None:
    e.opens[k] *= 1.0 - float(rng.uniform(0.10, 0.2))
    e.truth[k] = "opens_early"
    _says(rng, e, smoke_black=0.7, rough_idle=0.5)


def _late(rng: Rng, e: Hidden, k: int) -> None:
    e.opens[k] *= 1.0 + float(rng.uniform(0.10, 0.2))
    e.truth[k] = "opens_late"
    _says(rng, e, misfire=0.6, rough_idle=0.5, smoke_white=0.2)


def _wet_seat(rng: Rng, e: Hidden, k: int) -> None:
    e.seat[k] = "wet" if rng.random() < 0.7 else "damp"
    e.truth[k] = "seat_leaks"
    _says(rng, e, smoke_black=0.6, smoke_white=0.3, rough_idle=0.4)


def _bad_spray(rng: Rng, e: Hidden, k: int) -> None:
    e.spray[k] = str(rng.choice(("streaky", "stream")))
    e.truth[k] = "bad_spray"
    _says(rng, e, rough_idle=0.6, hard_start_cold=0.4, smoke_white=0.3)


def _dark(rng: Rng, e: Hidden, k: int) -> None:
    e.lamp[k] = str(rng.choice(("dark", "steady", "weak"), p=(0.7, 0.1, 0.2)))
    e.causes.add("command")
    _says(rng, e, misfire=0.9, rough_idle=0.6)


def _dead_feed(rng: Rng, e: Hidden, k: int) -> None:
    for n in range(e.count):
        if e.feed[n] == e.feed[k]:
            e.lamp[n] = "dark"
    e.causes.add("shared_feed")
    _says(rng, e, misfire=0.95, bogs=0.5, rough_idle=0.5)


def _compression(rng: Rng, e: Hidden, k: int) -> None:
    e.hump[k] *= float(rng.uniform(0.55, 0.75))
    e.causes.add("compression")
    _says(rng, e, misfire=0.6, rough_idle=0.6, smoke_white=0.2)


def _no_pump(_rng: Rng, e: Hidden, _k: int) -> None:
    e.pump = "silent"
    e.causes.add("pump")
    e.complains({"no_start"})


def _weak_supply(rng: Rng, e: Hidden, _k: int) -> None:
    e.supply = float(rng.uniform(0.55, 0.8))
    e.causes.add("supply")
    _says(rng, e, bogs=0.7, long_crank=0.5, surges=0.2)


def _regulator_high(rng: Rng, e: Hidden, _k: int) -> None:
    e.supply = float(rng.uniform(1.25, 1.5))
    e.causes.add("regulator")
    _says(rng, e, smoke_black=0.7, rough_idle=0.3)


def _leak(name: str, cause: str, slow: float, fast: float, **words: float) -> Spoil:
    def spoil(rng: Rng, e: Hidden, _k: int) -> None:
        e.leaks[name] = float(rng.uniform(slow, fast))
        e.causes.add(cause)
        _says(rng, e, **words)

    return spoil


def _torn(rng: Rng, e: Hidden, _k: int) -> None:
    e.hose = "wet"
    e.leaks["regulator_diaphragm"] = float(rng.uniform(5.0, 30.0))
    e.causes.add("regulator_diaphragm")
    _says(rng, e, smoke_black=0.6, rough_idle=0.5, fuel_smell=0.2)


def _rail_off(rng: Rng, e: Hidden, _k: int) -> None:
    e.rail = str(rng.choice(("surges", "high")))
    e.causes.add("rail_control")
    _says(rng, e, surges=0.8, rough_idle=0.4)


def _elsewhere(name: str, **words: float) -> Spoil:
    def spoil(rng: Rng, e: Hidden, _k: int) -> None:
        e.outside.add(name)
        _says(rng, e, **words)

    return spoil


def _all_clogged(rng: Rng, e: Hidden, _k: int) -> None:
    share = 1.0 - float(rng.uniform(0.15, 0.3))
    e.flow = [f * share for f in e.flow]
    e.causes.add("all_clogged")
    _says(rng, e, bogs=0.8)


def _weak_tester(_rng: Rng, e: Hidden, _k: int) -> None:
    e.tester_v = 10.2


def _coarse_gauge(_rng: Rng, e: Hidden, _k: int) -> None:
    e.step_psi = 1.0


def _heat_soak(_rng: Rng, e: Hidden, _k: int) -> None:
    e.hot = True


def _slow_rail(rng: Rng, e: Hidden, _k: int) -> None:
    """Every rail loses a little by seats and joints, inside its limit."""
    e.leaks["joints"] = float(rng.uniform(0.3, 1.0))


def _uneven_good(rng: Rng, e: Hidden, _k: int) -> None:
    """Good injectors at the ends of what is good."""
    e.flow = [float(np.clip(f + rng.normal(0.0, 0.02), 0.94, 1.06)) for f in e.flow]


def _compression_a_little(rng: Rng, e: Hidden, k: int) -> None:
    e.hump[k] *= float(rng.uniform(0.93, 0.97))


FAULTS: Final[dict[str, tuple[tuple[str, ...], Spoil]]] = {
    "clogged": (ELECTRIC, _clogged),
    "rich": (ELECTRIC, _rich),
    "drips": (PETROL, _drips),
    "weeps": (PETROL, _weeps),
    "pours": (PETROL, _pours),
    "stuck shut": (PETROL, _shut),
    "opens weakly": (PETROL, _weak),
    "now and then": (PETROL, _now_and_then),
    "coil open": (PETROL, _open_coil),
    "coil shorted": (PETROL, _short_coil),
    "returns": (CR, _returns),
    "opens early": (MECH, _early),
    "opens late": (MECH, _late),
    "seat leaks": (MECH, _wet_seat),
    "bad spray": (MECH, _bad_spray),
    "command": (PETROL, _dark),
    "feed": (("port", "direct"), _dead_feed),
    "compression": ((*CR, *MECH), _compression),
    "pump": (ELECTRIC, _no_pump),
    "supply": (ELECTRIC, _weak_supply),
    "regulator high": (("port", "throttle_body"), _regulator_high),
    "regulator leaks": (
        ("port", "throttle_body"),
        _leak("regulator", "regulator", 20.0, 90.0, long_crank=0.8, hard_start_hot=0.4),
    ),
    "diaphragm": (("port", "throttle_body"), _torn),
    "check valve": (
        PETROL,
        _leak("supply_check_valve", "supply_check_valve", 25.0, 150.0, long_crank=0.9, hard_start_hot=0.5),
    ),
    "cold-start injector": (
        ("port",),
        _leak("cold_start_injector", "cold_start_injector", 15.0, 40.0, hard_start_hot=0.7, smoke_black=0.5),
    ),
    "leak outside": (
        PETROL, _leak("outside_leak", "outside_leak", 20.0, 90.0, fuel_smell=0.9, long_crank=0.5)
    ),
    "pump outlet valve": (
        CR, _leak("pump_outlet_valve", "pump_outlet_valve", 25000.0, 60000.0, long_crank=0.9)
    ),
    "control valve": (
        CR, _leak("control_valve", "control_valve", 25000.0, 60000.0, long_crank=0.8, surges=0.2)
    ),
    "unions": (CR, _leak("unions", "unions", 25000.0, 60000.0, fuel_smell=0.7, long_crank=0.6)),
    "rail control": (CR, _rail_off),
    "all clogged": (PETROL, _all_clogged),
}  # fmt: skip
"""Every kind of fault, and the fuel systems that can have it."""

IMITATORS: Final[dict[str, tuple[tuple[str, ...], Spoil]]] = {
    "weak tester": (PETROL, _weak_tester),
    "coarse gauge": (PETROL, _coarse_gauge),
    "heat soak": (PETROL, _heat_soak),
    "slow rail": (PETROL, _slow_rail),
    "uneven but good": (ELECTRIC, _uneven_good),
    "compression a little uneven": ((*CR, *MECH), _compression_a_little),
    "ignition": (PETROL, _elsewhere("ignition", misfire=0.9, rough_idle=0.5)),
    "air": (ELECTRIC, _elsewhere("air", rough_idle=0.7, surges=0.3)),
    "too little air": (MECH, _elsewhere("air", smoke_black=0.8, bogs=0.6)),
    "timing": (SYSTEMS, _elsewhere("timing", bogs=0.7, smoke_white=0.3, hard_start_cold=0.3)),
    "lift pump": (MECH, _elsewhere("lift_pump", bogs=0.6, hard_start_cold=0.4)),
    "something else": (SYSTEMS, _elsewhere("other", bogs=0.5, rough_idle=0.5)),
}
"""What looks like a fault of an injector and is none; the last six bring the complaint themselves."""


def good(rng: Rng, system: str, *, count: int | None = None) -> Hidden:
    """A sound engine of that fuel system; how many injectors is drawn where nobody says."""
    if count is None:
        usual = (1, 2) if system == "throttle_body" else (4, 4, 4, 6, 8)
        count = int(rng.choice(usual))
    near = [float(np.clip(rng.normal(1.0, 0.02), 0.95, 1.05)) for _ in range(count)]
    return Hidden(
        system=system,
        count=count,
        flow=near,
        leak=[0.0] * count,
        coil=[float(rng.normal(12.4, 0.15)) for _ in range(count)],
        state=["opens"] * count,
        lamp=["blinks"] * count,
        hump=[float(rng.normal(100.0, 1.5)) for _ in range(count)],
        back=[float(rng.normal(12.0, 1.0)) for _ in range(count)],
        opens=[float(rng.normal(17_500.0, 120.0)) for _ in range(count)],
        seat=["dry"] * count,
        spray=["even"] * count,
        feed=[str(1 + n % max(1, count // 2)) for n in range(count)],
    )


def draw(rng: Rng, system: str, faults: tuple[str, ...], *, count: int | None = None) -> Hidden:
    """An engine with these faults and imitators, each at an injector of its own."""
    engine = good(rng, system, count=count)
    places = rng.permutation(engine.count)
    for n, name in enumerate(faults):
        _, spoil = (FAULTS | IMITATORS)[name]
        engine.doing = (name, int(places[n % engine.count]))
        spoil(rng, engine, engine.doing[1])
    return engine


def put_right(engine: Hidden, cause: str) -> None:
    """A repair: what was wrong with the engine is right again."""
    engine.repaired.add(cause)
    if cause == "pump":
        engine.pump = "runs"
    elif cause == "supply":
        engine.supply = 1.0
    elif cause == "rail_control":
        engine.rail = "good"
