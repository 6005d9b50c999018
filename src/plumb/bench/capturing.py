"""Bursts captured on the fly from a virtual engine, held against what truly happened.

The engine is worked as by hand: pump on, off, a rest of no fixed length, a burst, and what follows.
The watch sees what a gauge shows, some 25 times a second, never evenly.

>>> tally = capture(4, step_psi=0.1, seed=1)
>>> tally.bursts, tally.missed, tally.doubled
(4, 0, 0)
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Final

import numpy as np
from rich.console import Console
from rich.progress import Progress
from rich.table import Table

from plumb.bench.engines.hidden import draw
from plumb.bench.standins.instruments import Gauge
from plumb.bench.virtual import VirtualEngine
from plumb.core.capture.bursts import BurstWatch
from plumb.core.capture.watch import BurstSeen
from plumb.core.measure.quantities import KPA_PER
from plumb.core.measure.uncertainty import wilson

PSI: Final = KPA_PER["psi"]
RATE_HZ: Final = 25.0
STEPS_PSI: Final = (0.1, 0.5, 1.0)
_ENGINE_EVERY: Final = 24
"""So many bursts on an engine, then another one with other faults."""
_FAULTS: Final = ((), ("clogged",), ("rich",), ("slow rail",), ("clogged", "drips"))


@dataclass(slots=True)
class Tally:
    """What came of so many bursts; ``off`` are the steps that each reading taken was off."""

    bursts: int = 0
    taken: int = 0
    doubted: int = 0
    missed: int = 0
    doubled: int = 0
    off: list[float] = field(default_factory=list)

    def within(self) -> int:
        """How many of the bursts that were taken have both readings within a step of the truth."""
        return sum(off <= 1.0 for off in self.off)


def capture(
    bursts: int, *, step_psi: float, seed: int, progress: Callable[[], None] = lambda: None
) -> Tally:
    """So many bursts with a gauge of that step."""
    tally, rng = Tally(), np.random.default_rng((seed, round(100 * step_psi)))
    for n in range(0, bursts, _ENGINE_EVERY):
        faults = _FAULTS[n // _ENGINE_EVERY % len(_FAULTS)]
        hidden = draw(np.random.default_rng((seed, n)), "port", faults, count=8)
        _one_engine(hidden, min(_ENGINE_EVERY, bursts - n), step_psi, rng, tally, progress)
    return tally


def _one_engine(hidden, bursts, step_psi, rng, tally, progress) -> None:  # type: ignore[no-untyped-def]  # noqa: ANN001
    at = [0.0]
    engine = VirtualEngine(hidden, clock=lambda: at[0], seed=int(rng.integers(1 << 30)))
    gauge = Gauge(
        there=engine.rail, clock=lambda: at[0], rng=rng, step=step_psi, noise=0.04, factor=PSI
    )
    watch = BurstWatch(step_psi * PSI)
    seen: list[BurstSeen] = []

    def on(seconds: float) -> None:
        until = at[0] + seconds
        while at[0] < until:
            at[0] += float(rng.uniform(0.6, 1.4)) / RATE_HZ
            got = watch.feed(at[0], float(gauge.read()) * PSI)
            seen.extend(e for e in got if isinstance(e, BurstSeen))

    for n in range(bursts):
        before = len(seen)
        engine.switch("pump", on=True)
        on(float(rng.uniform(1.2, 2.5)))
        engine.switch("pump", on=False)
        on(float(rng.uniform(1.8, 5.0)))
        on(engine.fire(n % hidden.count, pulses=50, width_s=0.01, period_s=0.02) - at[0])
        on(float(rng.uniform(2.9, 5.0)))
        _count(tally, seen[before:], engine, step_psi)
        progress()


def _count(tally: Tally, seen: list[BurstSeen], engine: VirtualEngine, step_psi: float) -> None:
    tally.bursts += 1
    tally.missed += not seen
    tally.doubled += max(0, len(seen) - 1)
    if not seen:
        return
    burst, truth = seen[-1].burst, engine.fired[-1]
    if burst.doubtful:
        tally.doubted += 1
        return
    tally.taken += 1
    off = max(abs(burst.first - truth.first), abs(burst.second - truth.second))
    tally.off.append(off / (step_psi * PSI))


def capturing(console: Console, *, bursts: int, seed: int) -> None:
    """Print what is captured of so many bursts with each gauge."""
    table = Table(title=f"{bursts} bursts a gauge, 25 figures a second (seed {seed})")
    for head in ("gauge", "taken", "asked again", "missed", "doubled", "within a step", "worst"):
        table.add_column(head, justify="right")
    with Progress(console=console, transient=True) as progress:
        task = progress.add_task("bursts", total=bursts * len(STEPS_PSI))
        for step in STEPS_PSI:
            t = capture(bursts, step_psi=step, seed=seed, progress=lambda: progress.advance(task))
            low, high = wilson(t.within(), t.taken)
            share = 100.0 * t.within() / max(1, t.taken)
            table.add_row(
                f"{step:g} psi", str(t.taken), str(t.doubted), str(t.missed), str(t.doubled),
                f"{share:.1f} % ({100 * low:.1f} to {100 * high:.1f})",
                f"{max(t.off, default=0.0):.2f} steps",
            )  # fmt: skip
    console.print(table)
    console.print("Asked for: within a step in 99 % of 500 bursts, none missed, none doubled.")
