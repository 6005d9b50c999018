"""Shares that mean what they say: of everything said at so much, how much was so.

Hidden engines, drawn by other odds than those of the table (every fault as often as any other), are
followed step by step; at each step what is said of every cause of the engine, and of every injector, is
held against what is true then.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Final

import numpy as np
from rich.console import Console
from rich.progress import Progress
from rich.table import Table

from plumb.bench.diagnosis import drawn as engines_of
from plumb.bench.engines.follow import follow
from plumb.bench.engines.hidden import Hidden
from plumb.core.causes.fault import INJECTOR
from plumb.core.diagnose.sets import as_told
from plumb.core.measure.uncertainty import wilson
from plumb.core.weigh.job import JobResult

ENOUGH: Final = 25
"""A tenth with fewer cases says nothing."""
FAR: Final = 0.15
"""So far apart said and was may lie in a tenth that says something."""
_LEAST: Final = 0.02
_WIDE: Final = 40


@dataclass(slots=True)
class Tenths:
    """What was said and what was, by tenths of what was said."""

    said: list[list[float]] = field(default_factory=lambda: [[] for _ in range(10)])
    was: list[int] = field(default_factory=lambda: [0] * 10)

    def add(self, said: float, *, was: bool) -> None:
        """One more thing that was said, and whether it was so."""
        n = min(9, int(10.0 * said))
        self.said[n].append(said)
        self.was[n] += was

    def rows(self) -> Iterator[tuple[int, int, float, float]]:
        """(tenth, cases, mean of what was said, share of what was so), of tenths with any."""
        for n, said in enumerate(self.said):
            if said:
                yield n, len(said), float(np.mean(said)), self.was[n] / len(said)

    @property
    def worst(self) -> float:
        """How far said and was lie apart at most, in tenths with enough cases."""
        told = [abs(said - was) for _, count, said, was in self.rows() if count >= ENOUGH]
        return max(told, default=0.0)


def hold(engine: Hidden, result: JobResult, causes: Tenths, injectors: Tenths) -> None:
    """What is said at one step against what is true of the engine then."""
    weighed = as_told(result.weighed)
    for shared in weighed.shared:
        share = weighed.share_of(shared)
        if shared.places is None and share >= _LEAST:
            true = engine.causes | engine.outside
            causes.add(share, was=shared.fault.code in true - engine.repaired)
    for n, fault in enumerate(weighed.states, 1):
        if fault.of != INJECTOR:
            continue
        for k in range(engine.count):
            share = float(weighed.places[k, n])
            if share >= _LEAST:
                truth = engine.truth.get(k, "")
                injectors.add(share, was=fault.code == truth)


def calibrated(
    count: int, seed: int, progress: Callable[[], None] = lambda: None
) -> tuple[Tenths, Tenths]:
    """What was said of causes and of injectors on so many engines, at every step."""
    causes, injectors = Tenths(), Tenths()
    for _, _, engine, scatter in engines_of(count, seed):

        def watch(result: JobResult, engine: Hidden = engine) -> None:
            hold(engine, result, causes, injectors)

        follow(engine, scatter, watch=watch)
        progress()
    return causes, injectors


def calibration(console: Console, *, engines: int, seed: int) -> None:
    """Run it, and draw both diagrams."""
    with Progress(console=console, transient=True) as progress:
        task = progress.add_task("engines", total=engines)
        causes, injectors = calibrated(engines, seed, lambda: progress.advance(task))
    console.print(
        f"{engines} hidden engines (seed {seed}), every fault as often as any other, at every step."
    )
    for title, tenths in (("Causes of the engine", causes), ("Injectors", injectors)):
        console.print(drawn(title, tenths), width=max(console.width, 100))
        console.print(
            f"Furthest apart in a tenth with {ENOUGH} cases or more: {100 * tenths.worst:.0f} points "
            f"(asked for: {100 * FAR:.0f})."
        )


def drawn(title: str, tenths: Tenths) -> Table:
    """The diagram: said (o) and was (x) on one scale from nothing to certain."""
    table = Table(title=title)
    for head in ("said", "cases", "mean said", "was", "95 %", "0 % to 100 %: o said, x was"):
        table.add_column(head, justify="left" if head.startswith("0") else "right")
    for n, count, said, was in tenths.rows():
        low, high = wilson(round(was * count), count)
        line = ["\u00b7"] * (_WIDE + 1)
        line[round(said * _WIDE)] = "o"
        line[round(was * _WIDE)] = "x" if round(was * _WIDE) != round(said * _WIDE) else "\u2297"
        table.add_row(
            f"{10 * n} to {10 * n + 10} %", str(count), f"{100 * said:.0f} %", f"{100 * was:.0f} %",
            f"{100 * low:.0f} to {100 * high:.0f}", "".join(line),
        )  # fmt: skip
    return table
