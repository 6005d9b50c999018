"""Hidden engines, and who finds what is wrong: the next step followed, the route by hand, the trade's rules.

Half of the engines have one fault, one in seven two, the rest an imitator, a fault beside an imitator, or
nothing.  What is "right" says :mod:`plumb.bench.engines.follow`.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Final

import numpy as np
from rich.console import Console
from rich.progress import Progress
from rich.table import Table

from plumb.bench.engines.follow import Outcome, by_hand, follow
from plumb.bench.engines.hidden import FAULTS, IMITATORS, SYSTEMS, Hidden, draw
from plumb.core.compare.rules import RULES
from plumb.core.measure.uncertainty import wilson

_CHOOSING: Final = 30
"""So many engines choose the trade's rule that does best; it is then held against all."""
Way = Callable[[Hidden, int], Outcome]


def cases(count: int, seed: int) -> Iterator[tuple[str, tuple[str, ...]]]:
    """Fuel systems and what is wrong, seeded; each fuel system as often as the others."""
    rng = np.random.default_rng(seed)
    for n in range(count):
        system = SYSTEMS[n % len(SYSTEMS)]
        faults = [f for f, (on, _) in FAULTS.items() if system in on]
        imitators = [f for f, (on, _) in IMITATORS.items() if system in on]
        kind = rng.random()
        names: list[str] = []
        if kind < 0.5 or 0.85 <= kind < 0.95:
            names.append(str(rng.choice(faults)))
        if 0.5 <= kind < 0.65:
            names += map(str, rng.choice(faults, 2, replace=False))
        if 0.65 <= kind < 0.95:
            names.append(str(rng.choice(imitators)))
        yield system, tuple(names)


def drawn(count: int, seed: int) -> Iterator[tuple[str, tuple[str, ...], Hidden, int]]:
    """Each case with its engine, and the seed of what its gauges scatter."""
    for n, (system, names) in enumerate(cases(count, seed)):
        yield (
            system,
            names,
            draw(np.random.default_rng((seed, n)), system, names),
            seed * 1_000_003 + n,
        )


@dataclass(slots=True, kw_only=True)
class Tally:
    """What came of all engines in one way."""

    engines: int = 0
    right: int = 0
    injectors: int = 0
    injectors_right: int = 0
    good: int = 0
    condemned: int = 0
    causes_right: int = 0
    explained_right: int = 0
    minutes: float = 0.0
    full: float = 0.0
    not_ended: int = 0

    def add(self, one: Outcome) -> None:
        """One more engine."""
        self.engines += 1
        self.right += one.right
        self.injectors += one.injectors
        self.injectors_right += one.injectors_right
        self.good += one.good
        self.condemned += one.condemned
        self.causes_right += one.cause_right
        self.explained_right += one.explained_right
        self.minutes += one.minutes
        self.full += one.full_minutes
        self.not_ended += not one.ended


def run(
    way: Way, count: int, seed: int, progress: Callable[[], None] = lambda: None
) -> tuple[Tally, dict[str, Tally]]:
    """Every engine in one way: all together, and by what is wrong with it."""
    total, by_fault = Tally(), dict[str, Tally]()
    for _, names, engine, scatter in drawn(count, seed):
        one = way(engine, scatter)
        total.add(one)
        name = names[0] if len(names) == 1 else "several" if names else "nothing"
        by_fault.setdefault(name, Tally()).add(one)
        progress()
    return total, by_fault


def best_rule(seed: int) -> str:
    """The rule of the trade that finds most; another seed than that of the engines it is held against."""
    rules = [code for code in RULES if code != "flow_index"]

    def right(code: str) -> int:
        return run(lambda e, s: by_hand(e, s, code), _CHOOSING, seed + 1)[0].right

    return max(rules, key=right)


def diagnosis(console: Console, *, engines: int, seed: int) -> None:
    """Run all three ways on the same engines, and print what each finds in how many minutes."""
    rule = best_rule(seed)
    ways: dict[str, Way] = {
        "next step followed": follow,
        "the whole route by hand": by_hand,
        f"the trade: {RULES[rule].title.lower()}": lambda e, s: by_hand(e, s, rule),
    }
    found: dict[str, tuple[Tally, dict[str, Tally]]] = {}
    with Progress(console=console, transient=True) as progress:
        task = progress.add_task("engines", total=engines * len(ways))
        for name, way in ways.items():
            found[name] = run(way, engines, seed, lambda: progress.advance(task))
    kinds = f"{len(FAULTS)} kinds of faults and {len(IMITATORS)} imitators"
    console.print(f"{engines} hidden engines (seed {seed}) over five fuel systems, {kinds}.")
    console.print(_table({n: t for n, (t, _) in found.items()}), width=max(console.width, 132))
    console.print(_by_fault(found["next step followed"][1]), width=max(console.width, 100))
    console.print(
        "Asked for: whole diagnosis right in 97 %, injectors 98 %, good ones condemned at most 0.3 %, "
        "at most 0.7 of the minutes of the whole route."
    )


def _share(hits: int, of: int) -> str:
    low, high = wilson(hits, of)
    return f"{100 * hits / max(1, of):.1f} % ({100 * low:.1f} to {100 * high:.1f})"


def _table(found: dict[str, Tally]) -> Table:
    table = Table(title="Who finds what, with 95 % intervals")
    for head in (
        "",
        "whole diagnosis",
        "injectors",
        "good condemned",
        "causes",
        "explained",
        "minutes",
    ):
        table.add_column(head, justify="right" if head else "left")
    for name, t in found.items():
        table.add_row(
            name, _share(t.right, t.engines), _share(t.injectors_right, t.injectors),
            f"{100 * t.condemned / max(1, t.good):.2f} %", _share(t.causes_right, t.engines),
            _share(t.explained_right, t.engines), f"{t.minutes / t.full:.2f} of the route",
        )  # fmt: skip
    return table


def _by_fault(found: dict[str, Tally]) -> Table:
    table = Table(title="Next step followed, by what is wrong")
    for head in ("", "engines", "right", "minutes of the route"):
        table.add_column(head, justify="right" if head else "left")
    for name in sorted(found):
        t = found[name]
        table.add_row(name, str(t.engines), f"{t.right}", f"{t.minutes / t.full:.2f}")
    return table
