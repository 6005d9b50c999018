"""The detection bench: every rule on the same seeded sets, with the truth known.

Each rule gets the first pass of the same sets.  Where it asks for repeats, they are measured and
it judges again: the rules up to five times, the flow index by its own plan until it asks for nothing
more.  An injector still undecided then counts as not caught.

>>> cell = detect(Setup(step=0.5), sets=20, seed=1)["flow_index"]
>>> cell.bad > 0 and cell.caught <= cell.bad
True
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, fields
from typing import Final

import numpy as np

from plumb.bench.rail import Setup, Truth, burst, draw_truth
from plumb.core.compare.bursts import BurstSet, Injected, Outcome
from plumb.core.compare.drops.asks import next_step
from plumb.core.compare.drops.sheet import DropSheet, analyse_drop
from plumb.core.compare.flow import Flow, flow_of
from plumb.core.compare.rules import RULES, RuleChoice, rule
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

    def add(self, other: "Cell") -> None:
        """What was counted elsewhere, over other sets."""
        for one in fields(Cell):
            setattr(self, one.name, getattr(self, one.name) + getattr(other, one.name))

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
    setup: Setup
    seed: int
    choice: RuleChoice = field(default_factory=RuleChoice)
    flows: list[list[Flow]] = field(default_factory=list)
    noted: list[Noted] = field(default_factory=list)
    streams: list[np.random.Generator] = field(default_factory=list)

    def __post_init__(self) -> None:
        """Take the first passes of every injector."""
        for k in range(len(self.truth.flows)):
            self.streams.append(np.random.default_rng((self.seed, k)))
            self.flows.append([])
            for _ in range(self.setup.passes):
                self.more(k)

    def more(self, injector: int, higher: float = 0.0) -> None:
        """One more burst of one injector, begun so much ``higher`` (psi) than usual."""
        first, second = burst(self.streams[injector], self.truth, injector, self.setup, higher)
        self.flows[injector].append(flow_of(first * PSI, second * PSI, self.setup.step * PSI))
        number = len(self.flows[injector])
        self.noted.append(
            Noted(injector=str(injector), number=number, first=first * PSI, second=second * PSI)
        )

    def sheet(self) -> DropSheet:
        """What Plumb is given."""
        labels = tuple(str(k) for k in range(len(self.flows)))
        return DropSheet(
            kind="any", injectors=labels, readings=tuple(self.noted), step=self.setup.step * PSI,
            rule=self.choice,
        )  # fmt: skip

    def burst_set(self) -> BurstSet:
        """What the rules are given."""
        rows = tuple(Injected(str(k), tuple(f)) for k, f in enumerate(self.flows))
        return BurstSet(injected=rows, step=self.setup.step * PSI)


PLANNED: Final = "flow_index"
"""The rule whose passes are planned over the set; the others only say whom they would repeat."""
_TWICE: Final = "analysis_of_means"
"""It needs two passes of everyone before it says anything at all."""


def _asked(measured: Measured, outcome: Outcome) -> tuple[dict[int, int], bool]:
    """Who is to be repeated how often, and whether from another start: the flow index plans it, the others say once."""
    if measured.choice.name != PLANNED:
        return {int(label): 1 for label in outcome.repeat}, False
    step = next_step(analyse_drop(measured.sheet()), minutes=1.0)
    if step is None:
        return {}, False
    return dict.fromkeys(map(int, step.injectors), step.passes), step.reason == "another_start"


def run_rule(measured: Measured, cell: Cell) -> None:
    """One rule on one set: judge, repeat what it asks for, judge again, count."""
    spec, limits = rule(measured.choice.name), measured.choice.effective()
    if spec.code == _TWICE and measured.setup.passes < 2:
        for k in range(len(measured.truth.flows)):
            measured.more(k)
        cell.repeats += len(measured.truth.flows)
    outcome = spec.judge(measured.burst_set(), limits)
    planned = spec.code == PLANNED
    for _ in range(_MOST_ROUNDS if planned else MOST_PASSES):
        asked, elsewhere = _asked(measured, outcome)
        most = MOST_PASSES + measured.setup.passes
        asked = {k: n for k, n in asked.items() if planned or len(measured.flows[k]) + n <= most}
        if not asked:
            break
        for k, n in asked.items():
            for _ in range(n):
                measured.more(k, len(measured.flows[k]) * measured.setup.step * elsewhere)
            cell.repeats += n
        outcome = spec.judge(measured.burst_set(), limits)
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


EVERY_RULE: Final[Mapping[str, RuleChoice]] = {code: RuleChoice(name=code) for code in RULES}


def detect(
    setup: Setup,
    *,
    sets: int,
    seed: int,
    rules: Mapping[str, RuleChoice] = EVERY_RULE,
    begin: int = 0,
    progress: Callable[[], None] = lambda: None,
) -> dict[str, Cell]:
    """Run every rule on ``sets`` seeded sets, from the ``begin``-th on; the n-th set is always the same."""
    cells = {name: Cell() for name in rules}
    for n in range(begin, begin + sets):
        truth = draw_truth(np.random.default_rng((seed, n, 0)), setup)
        for name, choice in rules.items():
            measured = Measured(truth=truth, setup=setup, seed=seed * 1_000_003 + n, choice=choice)
            run_rule(measured, cells[name])
        progress()
    return cells
