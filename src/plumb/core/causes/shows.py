"""What one procedure shows of each fault, and how often: one small table, used in both directions.

Columns go from what a good engine shows to the worst that can be seen.  Where several faults are
there at once the worst of what each brings about is seen (noisy-MAX: F. J. Díez, 1993), so that the
chance of seeing column c or better is the product of each fault's own.

>>> table = Shows(
...     name="drop", columns=("in plumb", "low"), sound=(0.98, 0.02), rows={"clogged": (0.1, 0.9)}
... )
>>> table.at_most("clogged")
(0.1, 1.0)
>>> round(table.chance(("clogged",), 1), 3)
0.902
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from itertools import accumulate

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, kw_only=True)
class Shows:
    """One table: what can be seen (columns), on a sound engine, and with each fault (rows).

    A column is a text of facts, any of which says so.  Every row sums to one, and nought stands only
    where it is impossible.  A fault without a row changes nothing that is seen here.
    ``measures`` names what is measured: two tables of one name see the same thing, and the second
    of them tells less.  ``at_places``: it is seen of each injector, also on a sheet of the engine (False:
    of the engine, also on a sheet of injectors; None: as its sheet).  ``later``: it is seen only when the
    sheet goes on, by a step of its own.
    """

    name: str
    columns: tuple[str, ...]
    sound: tuple[float, ...]
    rows: Mapping[str, tuple[float, ...]]
    measures: str = ""
    at_places: bool | None = None
    later: bool = False
    facts: tuple[frozenset[str], ...] = field(init=False)
    _chances: dict[tuple[str, ...], NDArray[np.float64]] = field(
        init=False, repr=False, compare=False, default_factory=dict
    )

    def __post_init__(self) -> None:
        """Take the columns apart into their facts."""
        object.__setattr__(self, "facts", tuple(frozenset(c.split()) for c in self.columns))

    @cached_property
    def _at_most(self) -> dict[str, tuple[float, ...]]:
        made = {code: _summed(row) for code, row in self.rows.items()}
        made[""] = _summed(self.sound)
        return made

    def at_most(self, fault: str) -> tuple[float, ...]:
        """The chance that this fault alone shows so much or less, column by column; ``""``: none."""
        return self._at_most.get(fault, (1.0,) * len(self.columns))

    def chance(self, faults: Iterable[str], column: int) -> float:
        """The chance of seeing exactly that column with these faults on the engine."""
        below, upto = 1.0, 1.0
        for code in ("", *faults):
            row = self.at_most(code)
            upto *= row[column]
            below *= row[column - 1] if column else 0.0
        return upto - below

    def chances(self, codes: tuple[str, ...]) -> NDArray[np.float64]:
        """[fault, column]: the chance of each column with each of these faults alone."""
        if codes not in self._chances:
            upto = np.array([self.at_most(code) for code in codes]) * self.at_most("")
            self._chances[codes] = np.diff(upto, prepend=0.0, axis=1)
        return self._chances[codes]


def _summed(row: tuple[float, ...]) -> tuple[float, ...]:
    """The row summed from the left, its end exactly one."""
    sums = tuple(accumulate(row))
    return (*(round(s, 12) for s in sums[:-1]), 1.0)
