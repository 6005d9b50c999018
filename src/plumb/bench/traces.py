"""Simulated traces with known truth: starter current while cranking, and logs of a rail's pressure.

They stand in for a scope and a logger; every figure is invented, every run is seeded.
"""

from dataclasses import dataclass, field

import numpy as np

from plumb.bench.physics import compression_hump, inrush


@dataclass(frozen=True, slots=True, kw_only=True)
class Crank:
    """An engine that is cranked: what each cylinder's compression is worth, and how it is seen.

    ``heights`` in firing order, 1 the usual; ``slows`` is the share of speed and hump lost by the
    end; ``noisy`` are (cycle, place) whose hump one knock of the clamp spoils.
    """

    heights: tuple[float, ...]
    rate_hz: float = 2000.0
    seconds: float = 4.0
    cycle_s: float = 0.55
    base_a: float = 130.0
    hump_a: float = 34.0
    noise_a: float = 1.5
    slows: float = 0.0
    inrush: bool = True
    noisy: tuple[tuple[int, int], ...] = ()
    seed: int = 1


def crank_trace(crank: Crank) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Time (s), starter current (A), and a sync that marks the first cylinder of the order."""
    rng = np.random.default_rng(crank.seed)
    count = len(crank.heights)
    t = np.arange(int(crank.seconds * crank.rate_hz)) / crank.rate_hz
    share = t / crank.seconds
    # The angle in cycles: the speed falls in a straight line.
    angle = (t - crank.slows * t * share / 2.0) / crank.cycle_s
    place = np.floor(angle * count).astype(int) % count
    cycle = np.floor(angle).astype(int)
    heights = np.array(crank.heights)[place]
    for at_cycle, at_place in crank.noisy:
        heights = np.where((cycle == at_cycle) & (place == at_place), 0.5 * heights, heights)
    fall = 1.0 - crank.slows * share
    hump = crank.hump_a * fall * heights * compression_hump(angle * count)
    current = crank.base_a * fall + hump
    if crank.inrush:
        current += inrush(t)
    current += rng.normal(0.0, crank.noise_a, len(t))
    sync = (((angle * count) % count) > 0.42) & (((angle * count) % count) < 0.58)
    return t, current, np.where(sync, 5.0, 0.0) + rng.normal(0.0, 0.05, len(t))


@dataclass(frozen=True, slots=True, kw_only=True)
class Log:
    """A logger on a rail while one injector after the other is pulsed.

    Each burst is (p1, p2) in kPa; the pump lifts the rail again before each.  ``creep`` is what
    comes back after a burst (kPa, with time constant ``creep_s``), ``seep`` what the rail loses a
    second, ``pulses`` how often the injector is opened in ``burst_s``.
    """

    bursts: tuple[tuple[float, float], ...]
    rate_hz: float = 200.0
    noise: float = 0.7
    step: float = 0.0
    creep: float = 4.0
    creep_s: float = 2.5
    seep: float = 0.3
    rest_s: float = 4.0
    after_s: float = 5.0
    burst_s: float = 0.8
    pulses: int = 1
    pump_s: float = 1.5
    seed: int = 1
    ends: list[tuple[float, float]] = field(default_factory=list)


def pressure_log(log: Log) -> tuple[np.ndarray, np.ndarray, list[tuple[float, float]]]:
    """Time (s), pressure (kPa), and begin and end of each burst (s)."""
    rng = np.random.default_rng(log.seed)
    pieces: list[np.ndarray] = []
    marks: list[tuple[float, float]] = []
    at = 0.0
    last = 0.0
    for first, second in log.bursts:
        start = first + log.seep * log.rest_s
        lift = _times(log.pump_s, log)
        pieces.append(last + (start - last) * np.minimum(1.0, lift / (0.6 * log.pump_s)))
        rest = _times(log.rest_s, log)
        pieces.append(start - log.seep * rest)
        burst = _times(log.burst_s, log)
        pieces.append(first - (first - second) * _fallen(burst / log.burst_s, log.pulses))
        begin = at + (len(lift) + len(rest)) / log.rate_hz
        marks.append((begin, begin + len(burst) / log.rate_hz))
        after = _times(log.after_s, log)
        creep = log.creep * (1.0 - np.exp(-after / log.creep_s))
        pieces.append(second + creep - log.seep * after)
        at += (len(lift) + len(rest) + len(burst) + len(after)) / log.rate_hz
        last = float(pieces[-1][-1])
    pressure = np.concatenate(pieces)
    pressure = pressure + rng.normal(0.0, log.noise, len(pressure))
    if log.step:
        pressure = np.round(pressure / log.step) * log.step
    return np.arange(len(pressure)) / log.rate_hz, pressure, marks


def _times(seconds: float, log: Log) -> np.ndarray:
    return np.arange(round(seconds * log.rate_hz)) / log.rate_hz


def _fallen(share: np.ndarray, pulses: int) -> np.ndarray:
    """How much of the drop is done: straight, or in steps while the injector is open half the time."""
    if pulses <= 1:
        return share
    within = (share * pulses) % 1.0
    fallen: np.ndarray = (np.floor(share * pulses) + np.minimum(1.0, within * 2.0)) / pulses
    return fallen
