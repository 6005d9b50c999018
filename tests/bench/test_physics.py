"""The virtual engine against closed forms, and against what cannot get lost."""

import math

import numpy as np
import pytest

from plumb.bench import hand_pump, physics, virtual
from plumb.bench.bursts import NEEDLE_S
from plumb.bench.engines.hidden import Hidden, good
from plumb.bench.rail import Rail
from plumb.bench.virtual import GOOD_INJECTOR, RAIL_ML_PER_KPA, VirtualEngine
from plumb.practice.virtual import maker_drop


class Clock:
    def __init__(self) -> None:
        self.at = 0.0

    def __call__(self) -> float:
        return self.at


@pytest.fixture
def clock() -> Clock:
    """Clock."""
    return Clock()


def sound(system: str = "port", count: int = 4) -> Hidden:
    """An engine without scatter: every injector is exactly good."""
    engine = good(np.random.default_rng(1), system, count=count)
    engine.flow = [1.0] * count
    engine.hump = [100.0] * count
    engine.back = [12.0] * count
    return engine


def filled(engine: VirtualEngine, clock: Clock) -> float:
    """Pump on and off again; the rail at rest."""
    engine.switch("pump", on=True)
    clock.at += 3.0
    engine.switch("pump", on=False)
    clock.at += 20.0
    return engine.rail()


def test_an_orifice_passes_what_torricelli_says() -> None:
    """An orifice passes what torricelli says."""
    # v = √(2 Δp / ρ) = √(2 · 10⁵ Pa / 1000 kg/m³) = 14.14 m/s of water through 1 mm² · 0.6, in SI units.
    diameter = math.sqrt(4.0 / math.pi)
    k = physics.orifice_coefficient(diameter_mm=diameter, discharge=0.6, density=1000.0)
    assert physics.through(k, 100.0) == pytest.approx(14.142 * 0.6, rel=1e-3)
    assert physics.through(k, 400.0) == pytest.approx(2.0 * physics.through(k, 100.0))
    assert physics.through(k, -5.0) == 0.0


def test_a_coil_of_copper_at_ninety_degrees() -> None:
    """A coil of copper at ninety degrees."""
    # The handbook's 0.393 % a kelvin (IEC 60028): 12.0 ohm at 20 °C read 15.3 at 90 °C.
    assert physics.copper(12.0, 90.0) == pytest.approx(15.30, abs=0.005)


def test_a_rail_that_bends_is_the_integral_of_its_compliance() -> None:
    """A rail that bends is the integral of its compliance."""
    # C(p) dp/dt = −k √p with C = c (p / p₀)^a, in small steps of another kind (midpoint).
    p, c, k, a = 345.0, 0.012, 0.242, 0.3
    for _ in range(20_000):
        half = p - 0.5 * 2e-5 * k * math.sqrt(p) / (c * (p / 345.0) ** a)
        p -= 2e-5 * k * math.sqrt(half) / (c * (half / 345.0) ** a)
    assert physics.bled(345.0, seconds=0.4, k=k, compliance=c, bend=a) == pytest.approx(p, rel=1e-4)


def test_the_detection_bench_and_the_virtual_rail_obey_the_same_law(clock: Clock) -> None:
    """The detection bench and the virtual rail obey the same law."""
    hidden = sound()
    hidden.flow[2] = 0.8
    engine = VirtualEngine(hidden, clock=clock, scatter=0.0)
    ends = []
    for k in (0, 2):
        first = filled(engine, clock)
        clock.at = engine.fire(k, pulses=1, width_s=0.5, period_s=1.0)
        ends.append((first, engine.rail()))
    rail = Rail(start=ends[0][0], end=ends[0][1])
    # The hose gives back a little meanwhile, which no orifice law knows of.
    assert rail.second(ends[1][0], 0.8) == pytest.approx(ends[1][1], rel=0.003)


def test_a_burst_follows_the_orifice_law(clock: Clock, monkeypatch: pytest.MonkeyPatch) -> None:
    """A burst follows the orifice law."""
    monkeypatch.setattr(virtual, "HOSE_SHARE", 0.0)
    engine = VirtualEngine(sound(), clock=clock, scatter=0.0)
    first = filled(engine, clock)
    clock.at = engine.fire(1, pulses=50, width_s=0.01, period_s=0.02)
    left = engine.rail()
    open_s = physics.opened_for(50, 0.01, NEEDLE_S)
    assert open_s == pytest.approx(0.45)
    assert left == pytest.approx(
        physics.bled(first, seconds=open_s, k=GOOD_INJECTOR, compliance=RAIL_ML_PER_KPA), rel=1e-6
    )
    (fired,) = engine.fired
    assert fired.ml == pytest.approx(RAIL_ML_PER_KPA * (first - left), rel=1e-6)


def test_what_leaves_the_rail_is_what_the_tubes_get(clock: Clock) -> None:
    """What leaves the rail is what the tubes get."""
    hidden = sound()
    hidden.leak[2] = 20.0
    hidden.leaks["outside_leak"] = 30.0
    engine = VirtualEngine(hidden, clock=clock)
    before = filled(engine, clock)
    tubes = [engine.passed(k) for k in range(4)]
    lost = float(engine._y[2])
    hose = engine._y[1]
    clock.at = engine.fire(0, pulses=50, width_s=0.01, period_s=0.02)
    clock.at += 120.0
    out = sum(engine.passed(k) - tubes[k] for k in range(4)) + float(engine._y[2]) - lost
    shrunk = before - engine.rail() + virtual.HOSE_SHARE * (hose - engine._y[1])
    assert out == pytest.approx(RAIL_ML_PER_KPA * shrunk, rel=1e-9)
    assert engine.passed(2) > tubes[2]
    assert engine.balance() == pytest.approx(0.0, abs=1e-9)


def test_a_common_rail_bleeds_like_a_capacitor(clock: Clock) -> None:
    """A common rail bleeds like a capacitor."""
    engine = VirtualEngine(sound("common_rail"), clock=clock)
    engine.switch("ignition", on=True)
    engine.switch("starter", on=True)
    clock.at = 1.0
    at_shut = engine.rail()
    engine.switch("starter", on=False)
    engine.switch("ignition", on=False)
    clock.at = 61.0
    # 4,000 kPa a minute at 25,000: RC = 60 · 25,000 / 4,000 = 375 s.
    assert engine.rail() == pytest.approx(at_shut * math.exp(-60.0 / 375.0), rel=1e-6)
    closed = physics.seeped(at_shut, seconds=60.0, resistance=375.0, compliance=1.0)
    assert engine.rail() == pytest.approx(closed, rel=1e-6)


def test_heat_lifts_a_shut_rail_as_the_fuel_swells(clock: Clock) -> None:
    """Heat lifts a shut rail as the fuel swells."""
    hidden = sound()
    hidden.hot = True
    engine = VirtualEngine(hidden, clock=clock)
    engine.switch("pump", on=True)
    clock.at = 20.0
    cold = engine.rail()
    engine.switch("pump", on=False)
    clock.at += 1200.0
    compliance = RAIL_ML_PER_KPA * (1.0 + virtual.HOSE_SHARE)
    # 28 ml · 0.00095 · 18 K = 0.479 ml into 0.0123 ml/kPa, all but e⁻⁴ of it.
    assert engine.rail() - cold == pytest.approx(
        0.4788 / compliance * (1 - math.exp(-4.0)), rel=0.01
    )


def test_clamps_close_their_ways(clock: Clock) -> None:
    """Clamps close their ways."""
    hidden = sound()
    hidden.leaks["supply_check_valve"] = 60.0
    engine = VirtualEngine(hidden, clock=clock)
    open_rail = filled(engine, clock)
    clock.at += 60.0
    assert engine.rail() < open_rail - 30.0
    held = filled(engine, clock)
    engine.switch("clamp_supply", on=True)
    clock.at += 60.0
    assert engine.rail() == pytest.approx(held, abs=1.0)


def test_returns_fill_with_the_pressure_and_empty(clock: Clock) -> None:
    """Returns fill with the pressure and empty."""
    hidden = sound("common_rail")
    hidden.back[1] = 48.0
    engine = VirtualEngine(hidden, clock=clock)
    engine.switch("ignition", on=True)
    engine.switch("starter", on=True)
    clock.at = 3.0
    engine.advance()
    assert engine.runs
    engine.empty_tubes()
    clock.at += 120.0
    assert engine.returned(0) == pytest.approx(12.0, rel=0.01)
    assert engine.returned(1) == pytest.approx(48.0, rel=0.01)


def test_an_engine_that_ran_has_burnt_its_raw_fuel(clock: Clock) -> None:
    """An engine that ran has burnt its raw fuel."""
    engine = VirtualEngine(sound(), clock=clock)
    filled(engine, clock)
    clock.at = engine.fire(0, pulses=50, width_s=0.01, period_s=0.02)
    engine.advance()
    assert engine.raw == [1, 0, 0, 0]
    engine.switch("ignition", on=True)
    engine.switch("starter", on=True)
    clock.at += 2.0
    engine.advance()
    assert engine.runs
    assert engine.raw == [0, 0, 0, 0]


def test_a_stroke_peaks_where_the_nozzle_opens(clock: Clock) -> None:
    """A stroke peaks where the nozzle opens."""
    hidden = sound("mechanical_diesel")
    hidden.opens[1] = 15_000.0
    engine = VirtualEngine(hidden, clock=clock, scatter=0.0)
    end = engine.stroke(1)
    seen = []
    while clock.at < end:
        clock.at += 0.02
        seen.append(engine.hand_pump())
    assert max(seen) == pytest.approx(15_000.0, abs=hand_pump.SLOW_KPA_S * 0.02)


def test_a_relieved_rail_is_empty_and_nothing_is_lost(clock: Clock) -> None:
    """What was in rail and hose has left, and is counted as that."""
    engine = VirtualEngine(sound(), clock=clock)
    held = filled(engine, clock)
    assert held > 250.0
    engine.relieve()
    assert engine.rail() == 0.0
    assert engine.balance() == pytest.approx(0.0, abs=1e-6)
    clock.at += 60.0
    assert engine.rail() == pytest.approx(0.0, abs=0.5)
    assert engine.balance() == pytest.approx(0.0, abs=1e-6)


@pytest.mark.parametrize(
    ("spells", "rest", "strains"),
    [((29.0,), 0.0, 0), ((31.0,), 0.0, 1), ((16.0, 16.0), 59.0, 1), ((16.0, 16.0), 60.0, 0),
     ((31.0, 31.0), 61.0, 2), ((31.0, 31.0), 5.0, 1)],
)  # fmt: skip
def test_a_starter_is_strained_beyond_a_spell(
    clock: Clock, spells: tuple[float, ...], rest: float, strains: int
) -> None:
    """30 s in all without a minute's rest, once a stretch; an engine that does not start."""
    hidden = sound()
    hidden.pump = "silent"
    engine = VirtualEngine(hidden, clock=clock)
    engine.switch("ignition", on=True)
    for spell in spells:
        engine.switch("starter", on=True)
        clock.at += spell
        engine.switch("starter", on=False)
        clock.at += rest
    engine.advance()
    assert len(engine.strained) == strains


@pytest.mark.parametrize(
    ("system", "usual"), [("port", 300.0), ("throttle_body", 100.0), ("direct", 400.0)]
)
def test_what_the_maker_says_of_a_burst_is_the_orifice_law(system: str, usual: float) -> None:
    """√p = √p₀ − k t / 2C for 50 pulses less the needle's lift; the hose takes a little of it back."""
    t = 50 * (0.01 - NEEDLE_S)
    root = math.sqrt(usual) - GOOD_INJECTOR * t / (2.0 * RAIL_ML_PER_KPA)
    assert maker_drop(system) == pytest.approx(usual - root**2, rel=0.05)
    assert maker_drop("common_rail") == 0.0


def test_unplugged_injectors_keep_an_engine_from_starting(clock: Clock) -> None:
    """It is cranked for as long as one likes; plugged in again it starts, unplugged while it runs it stops."""
    engine = VirtualEngine(sound(), clock=clock)
    for line in ("ignition", "unplugged", "starter"):
        engine.switch(line, on=True)
    clock.at += 6.0
    assert engine.current() > 0.0
    assert not engine.runs
    engine.switch("unplugged", on=False)
    clock.at += 2.0
    assert engine.current() == 0.0
    assert engine.runs
    engine.switch("unplugged", on=True)
    clock.at += 1.0
    engine.advance()
    assert not engine.runs
