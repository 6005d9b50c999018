"""The detection bench: every rule on the same seeded sets, with the truth known.

Each rule gets the first pass of the same sets.  Where it asks for repeats, they are measured and
it judges again: the rules up to five times, the flow index by its own plan until it asks for nothing
more.  An injector still undecided then counts as not caught.

>>> cell = detect(sets=20, step=0.5, ideal=True, seed=1)["flow_index"]
>>> cell.bad > 0 and cell.caught <= cell.bad
True
"""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from plumb.bench.rail import Truth, burst, draw_truth
from plumb.core.compare.bursts import BurstSet, Injected, Outcome
from plumb.core.compare.drops.asks import next_step
from plumb.core.compare.drops.sheet import DropSheet, analyse_drop
from plumb.core.compare.flow import Flow, flow_of
from plumb.core.compare.rules import RULES, RuleSpec
from plumb.core.measure.decision import MOST_PASSES
from plumb.core.measure.quantities import KPA_PER
from plumb.core.measure.readings import Noted

PSI = KPA_PER["psi"]
_MOST_ROUNDS = 40
"""A plan that had not ended by then would never end."""


@dataclass(slots=True, kw_only=True)
class Cell:
    """Counts of one rule under one condition, over all sets."""

    bad: int = 0
    good: int = 0
    caught: int = 0
    false_alarms: int = 0
    healthy_sets: int = 0
    healthy_sets_accused: int = 0
    repeats: int = 0
    undecided: int = 0

    def row(self) -> dict[str, float]:
        """Shares: caught of the bad, alarms of the good, sets accused, repeats an injector."""
        total = max(1, self.bad + self.good)
        return {
            "caught": self.caught / max(1, self.bad),
            "false_alarms": self.false_alarms / max(1, self.good),
            "healthy_sets_accused": self.healthy_sets_accused / max(1, self.healthy_sets),
            "repeats": self.repeats / total,
            "undecided": self.undecided / total,
        }


@dataclass(slots=True)
class Measured:
    """The bursts taken so far of one set, one list an injector; more are drawn when asked for.

    Every injector has a random stream of its own, so that all rules see the same n-th burst.
    """

    truth: Truth
    step: float
    seed: int
    flows: list[list[Flow]] = field(default_factory=list)
    noted: list[Noted] = field(default_factory=list)
    streams: list[np.random.Generator] = field(default_factory=list)

    def __post_init__(self) -> None:
        """Take the first pass of every injector."""
        for k in range(len(self.truth.flows)):
            self.streams.append(np.random.default_rng((self.seed, k)))
            self.flows.append([])
            self.more(k)

    def more(self, injector: int) -> None:
        """One more burst of one injector."""
        first, second = burst(self.streams[injector], self.truth, injector, self.step)
        self.flows[injector].append(flow_of(first * PSI, second * PSI, self.step * PSI))
        number = len(self.flows[injector])
        self.noted.append(
            Noted(injector=str(injector), number=number, first=first * PSI, second=second * PSI)
        )

    def sheet(self) -> DropSheet:
        """What Plumb is given."""
        labels = tuple(str(k) for k in range(len(self.flows)))
        return DropSheet(
            kind="any", injectors=labels, readings=tuple(self.noted), step=self.step * PSI
        )

    def burst_set(self) -> BurstSet:
        """What the rules are given."""
        rows = tuple(Injected(str(k), tuple(f)) for k, f in enumerate(self.flows))
        return BurstSet(injected=rows, step=self.step * PSI)


def _asked(spec: RuleSpec, measured: Measured, outcome: Outcome) -> dict[int, int]:
    """Who is to be repeated how often: the flow index plans it, the others say once."""
    if spec.code != "flow_index":
        return {int(label): 1 for label in outcome.repeat}
    step = next_step(analyse_drop(measured.sheet()), minutes=1.0)
    return {int(label): step.passes for label in step.injectors} if step else {}


def run_rule(spec: RuleSpec, measured: Measured, cell: Cell) -> None:
    """One rule on one set: judge, repeat what it asks for, judge again, count."""
    outcome = spec.judge(measured.burst_set(), spec.defaults)
    planned = spec.code == "flow_index"
    for _ in range(_MOST_ROUNDS if planned else MOST_PASSES):
        asked = _asked(spec, measured, outcome)
        most = MOST_PASSES + 1
        asked = {k: n for k, n in asked.items() if planned or len(measured.flows[k]) + n <= most}
        if not asked:
            break
        for k, n in asked.items():
            for _ in range(n):
                measured.more(k)
            cell.repeats += n
        outcome = spec.judge(measured.burst_set(), spec.defaults)
    _count(measured.truth, outcome, cell)


def _count(truth: Truth, outcome: Outcome, cell: Cell) -> None:
    rejected = {int(label) for label in outcome.reject} if outcome.applies else set()
    cell.bad += len(truth.bad)
    cell.good += len(truth.flows) - len(truth.bad)
    cell.caught += len(rejected & truth.bad)
    cell.false_alarms += len(rejected - truth.bad)
    cell.undecided += len(outcome.repeat)
    if not truth.bad:
        cell.healthy_sets += 1
        cell.healthy_sets_accused += bool(rejected)


def detect(
    *,
    sets: int,
    step: float,
    ideal: bool,
    seed: int,
    short: bool = False,
    progress: Callable[[], None] = lambda: None,
) -> dict[str, Cell]:
    """Run every rule on ``sets`` seeded sets read with a gauge of ``step`` psi."""
    cells = {code: Cell() for code in RULES}
    for n in range(sets):
        truth = draw_truth(np.random.default_rng((seed, n, 0)), ideal=ideal, short=short)
        for code, spec in RULES.items():
            measured = Measured(truth=truth, step=step, seed=seed * 1_000_003 + n)
            if code == "analysis_of_means":
                # It needs two passes of everyone before it says anything at all.
                for k in range(len(truth.flows)):
                    measured.more(k)
                cells[code].repeats += len(truth.flows)
            run_rule(spec, measured, cells[code])
        progress()
    return cells
