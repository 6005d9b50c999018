"""How common a fault is: as the table says, and more and more as the shop's own closed jobs say.

The table counts as so many jobs that were never seen (a Dirichlet prior); each closed job whose repair
confirmed a cause counts as one.

>>> own = Counts(jobs=50, injectors=200, faults={"supply": 10})
>>> learnt = learnt_on("port", own)["supply"]
>>> round(learnt.chance, 3), learnt.own_share
(0.125, 0.5)
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

from plumb.core.causes.fault import ENGINE
from plumb.core.causes.table import faults_on

WORTH: Final = 50
"""The table counts as much as so many of the shop's own jobs; our own choice."""
_EACH: Final = 4
"""Injectors of an engine, for faults that are counted by the injector: what the table's jobs had."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Counts:
    """What a shop's closed jobs of one fuel system confirmed.

    ``jobs`` had a confirmed cause, with so many ``injectors`` in all; ``faults`` how often each was it.
    """

    jobs: int = 0
    injectors: int = 0
    faults: Mapping[str, int] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Learnt:
    """How common a fault is, the share of it that own jobs are, and how often it was confirmed here."""

    chance: float
    own_share: float
    own_cases: int


def learnt_on(fuel_system: str, counts: Counts) -> dict[str, Learnt]:
    """How common each fault of a fuel system is, by its code."""
    made = {}
    for fault in faults_on(fuel_system):
        before = float(WORTH if fault.of == ENGINE else WORTH * _EACH)
        own = counts.jobs if fault.of == ENGINE else counts.injectors
        cases = counts.faults.get(fault.code, 0)
        made[fault.code] = Learnt(
            chance=(before * fault.common[fuel_system] + cases) / (before + own),
            own_share=own / (before + own),
            own_cases=cases,
        )
    return made
