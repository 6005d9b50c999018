"""Weighing: how likely each fault is, given everything that was seen, all of it together.

Every set of up to three faults of the engine is weighed with every state of every place.  What is
seen at a place depends on that place and the engine alone; what is seen of the engine (a word of the
complaint, a hold) can come from any of them.  Such a thing is a sum of products over the places
(noisy-MAX: seen column c = product up to c less product up to c-1), so that all sets of places are
summed exactly, without writing one of them down.  It agrees with the exact inference of a general
library (the tests hold it against pyAgrum).

>>> from plumb.core.diagnose.case import Case
>>> found = weigh_faults(Case(fuel_system="port", injectors=("1", "2"), words=("fuel_smell",)))
>>> max(found.shared, key=found.share_of).fault.code
'outside_leak'
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import combinations
from typing import Final

import numpy as np
from numpy.typing import NDArray

from plumb.core.causes.fault import Fault
from plumb.core.diagnose.case import Case, Evidence, Seen, Shared

Array = NDArray[np.float64]

_MOST_FAULTS: Final = 3
_EVEN: Final = 0.02
_DRAWN: Final = 0.5
"""For what is told every fault's odds are drawn towards one even share, to this power of how far they lie from it.
Chosen on the bench of shares against truth (docs/methods.md)."""
_ANEW: Final = 0.25
"""What a second sheet about one thing adds to the first: its own errors are new, what they see is not; common
practice, no source."""
_MOST_TERMS: Final = 128
"""So many products are summed; what is seen beyond is weighed with the engine's own faults alone."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Weighed:
    """How likely what is.

    ``places[k, s]`` is the share of state s (0: nothing) at injector k, ``of_engine`` that of each of
    ``shared``; ``sets`` are the engine's sets
    of faults (indices into ``shared``, padded with its length) with their ``weights``, which sum to one.
    ``evidence`` is what all of this hangs on.
    """

    case: Case
    states: tuple[Fault, ...]
    shared: tuple[Shared, ...]
    places: Array
    of_engine: Array
    sets: NDArray[np.intp]
    weights: Array
    evidence: Evidence

    def share_of(self, shared: Shared) -> float:
        """The share of a fault of the engine, or of one feed."""
        return float(self.of_engine[self.shared.index(shared)])

    def share_at(self, label: str, code: str) -> float:
        """The share of a fault at an injector."""
        state = next(n for n, f in enumerate(self.states, 1) if f.code == code)
        return float(self.places[self.case.injectors.index(label), state])


@lru_cache(maxsize=64)
def _sets(count: int) -> NDArray[np.intp]:
    """Every set of up to three of so many, padded with ``count``."""
    rows = [
        (*s, *([count] * (_MOST_FAULTS - n)))
        for n in range(_MOST_FAULTS + 1)
        for s in combinations(range(count), n)
    ]
    return np.array(rows, dtype=np.intp)


def weigh_faults(case: Case) -> Weighed:
    """The share of every fault, of engines alike worked out once."""
    return replace(of_evidence(case.evidence()), case=case)


@lru_cache(maxsize=256)
def of_evidence(evidence: Evidence) -> Weighed:
    """The shares that hang on this; kept, because while somebody types little of it changes."""
    return weigh_exactly(evidence.case())


def as_told(weighed: Weighed) -> Weighed:
    """The same with odds that lie closer together: for what is said of how sure it is.

    What to do next goes by the best odds there are; but how common a fault is where this engine comes from nobody
    knows to a factor, and a share that is told must not claim it.
    """
    case = weighed.case
    faults = (*weighed.states, *(s.fault for s in weighed.shared))
    common = {f.code: _EVEN * (case.chance(f) / _EVEN) ** _DRAWN for f in faults}
    return weigh_faults(replace(case, common=common))


def weigh_exactly(case: Case) -> Weighed:
    """The share of every fault.  Places and the engine's sets are summed over exactly."""
    states, shared = case.states(), case.shared()
    sets = _sets(len(shared))
    seen = case.seen()
    prior = np.array([case.chance(f) for f in states])
    start = np.concatenate(([max(1e-3, 1.0 - prior.sum())], prior))
    chances = np.array([case.chance(s.fault) for s in shared])
    odds = np.append(chances / (1.0 - chances), 1.0)
    weights = odds[sets].prod(axis=1)
    at_places = _Places(case, states, shared, seen)
    keys, key_of = at_places.keys(sets)
    likely = at_places.likely(keys)
    terms = _Terms(case, states, shared, sets)
    for item in sorted((s for s in seen if not s.place), key=lambda s: s.table.name):
        terms.add(item)
    # parts[key, term, place]: the sum over the states of a place, of which a product is taken.
    weighed = likely * start
    parts = np.einsum("gks,ts->gtk", weighed, terms.of_states)
    together = parts.prod(axis=2)
    by_set = np.clip((terms.of_sets * together[key_of]).sum(axis=1), 0.0, None) * weights
    total = by_set.sum()
    if not total > 0.0:
        # What was seen fits nothing of the table: all that is left is how common things are.
        places = np.tile(start / start.sum(), (len(case.injectors), 1))
        return _made(case, states, shared, places, sets, weights / weights.sum())
    by_key = np.zeros((len(keys), terms.of_sets.shape[1]))
    np.add.at(by_key, key_of, terms.of_sets * weights[:, None])
    others = np.divide(
        (by_key * together)[:, :, None], parts, out=np.zeros_like(parts), where=parts > 0.0
    )
    places = np.einsum("gtk,gks,ts->ks", others, weighed, terms.of_states) / total
    return _made(case, states, shared, np.clip(places, 0.0, 1.0), sets, by_set / total)


def _made(
    case: Case,
    states: tuple[Fault, ...],
    shared: tuple[Shared, ...],
    places: Array,
    sets: NDArray[np.intp],
    weights: Array,
) -> Weighed:
    """The result, its sets heaviest first."""
    order = np.argsort(-weights, kind="stable")
    sets, weights = sets[order], weights[order]
    of_engine = np.array([weights[(sets == i).any(axis=1)].sum() for i in range(len(shared))])
    return Weighed(
        case=case, states=states, shared=shared, places=places, of_engine=of_engine,
        sets=sets, weights=weights, evidence=case.evidence(),
    )  # fmt: skip


def counted(told: Mapping[str, float]) -> dict[str, float]:
    """How much each of several sheets that measure the same thing counts, by how much each has told (0 to 1).

    They see one true state: together they tell it once, and a little more for each that tells it anew.  One that
    settled nothing takes nothing away from one that did.

    >>> counted({"drop": 1.0, "bench": 0.0}), counted({"drop": 1.0, "bench": 1.0})
    ({'drop': 1.0, 'bench': 0.0}, {'drop': 0.625, 'bench': 0.625})
    """
    total = sum(told.values())
    if total <= 0.0:
        return dict.fromkeys(told, 1.0 / len(told))
    alike = total**2 / sum(x * x for x in told.values())
    return {name: x / total * (1.0 + _ANEW * (alike - 1.0)) for name, x in told.items()}


class _Places:
    """What was seen at the places: it hangs on their state, and on what reaches them from the engine."""

    def __init__(
        self,
        case: Case,
        states: Sequence[Fault],
        shared: Sequence[Shared],
        seen: Sequence[Seen],
    ) -> None:
        self._case, self._states, self._shared = case, states, shared
        self._tables = {s.table.name: s.table for s in seen if s.place}
        self._steps: dict[str, dict[int, tuple[float, ...]]] = {}
        told: dict[tuple[str, int], dict[str, float]] = {}
        index = {label: k for k, label in enumerate(case.injectors)}
        for item in seen:
            if item.place:
                at = index[item.place]
                self._steps.setdefault(item.table.name, {})[at] = item.steps
                measures = item.table.measures or item.table.name
                told.setdefault((measures, at), {})[item.table.name] = item.told
        self._counts = {
            (name, at): power
            for (_, at), by_name in told.items()
            for name, power in counted(by_name).items()
        }
        self._reach = [
            i
            for i, s in enumerate(shared)
            if any(s.fault.code in t.rows for t in self._tables.values())
        ]

    def keys(self, sets: NDArray[np.intp]) -> tuple[list[frozenset[int]], NDArray[np.intp]]:
        """What of each set reaches a place: the different ones, and which is whose."""
        bits = np.zeros(len(sets), dtype=np.int64)
        for n, i in enumerate(self._reach):
            bits |= (sets == i).any(axis=1).astype(np.int64) << n
        found, key_of = np.unique(bits, return_inverse=True)
        keys = [frozenset(i for n, i in enumerate(self._reach) if b >> n & 1) for b in found]
        return keys, key_of.reshape(-1).astype(np.intp)

    def likely(self, keys: list[frozenset[int]]) -> Array:
        """[key, place, state]: how likely what was seen there is."""
        case = self._case
        made = np.ones((len(keys), len(case.injectors), len(self._states) + 1))
        for name, by_place in self._steps.items():
            table = self._tables[name]
            rows = sorted(by_place)
            gains = np.array([by_place[k] for k in rows]) * table.at_most("")
            of_state = np.array([table.at_most(f) for f in ("-", *(s.code for s in self._states))])
            reach = np.ones((len(keys), len(rows), len(table.columns)))
            for i in self._reach:
                shared = self._shared[i]
                if shared.fault.code in table.rows:
                    mine = [n for n, key in enumerate(keys) if i in key]
                    at = [n for n, k in enumerate(rows) if _reaches(shared, case.injectors[k])]
                    reach[np.ix_(mine, at)] *= table.at_most(shared.fault.code)
            shown = np.clip((reach * gains) @ of_state.T, 1e-12, None)
            counts = np.array([self._counts[name, k] for k in rows])
            made[:, rows] *= shown ** counts[None, :, None]
        return made


def _reaches(shared: Shared, label: str) -> bool:
    return shared.places is None or label in shared.places


class _Terms:
    """What was seen of the engine, as a sum of products over the places and over the engine's set."""

    def __init__(
        self,
        case: Case,
        states: Sequence[Fault],
        shared: Sequence[Shared],
        sets: NDArray[np.intp],
    ) -> None:
        self._codes = ["", *(f.code for f in states)]
        self._shared, self._sets = shared, sets
        self.of_states: Array = np.ones((1, len(self._codes)))
        self.of_sets: Array = np.ones((len(sets), 1))
        self._groups = case.groups()

    def add(self, seen: Seen) -> None:
        """One more thing that was seen."""
        table = seen.table
        rows = [table.at_most(s.fault.code) for s in self._shared]
        of_shared = np.array([*rows, (1.0,) * len(table.columns)])
        steps = seen.steps
        used = [c for c, step in enumerate(steps) if step]
        leak = table.at_most("")
        by_set = np.stack(
            [steps[c] * leak[c] * of_shared[:, c][self._sets].prod(axis=1) for c in used], axis=1
        )
        by_state = np.array(
            [[1.0 if not code else table.at_most(code)[c] for code in self._codes] for c in used]
        )
        coupled = any(code in table.rows for code in self._codes)
        if not coupled or self.of_states.shape[0] * len(used) > _MOST_TERMS:
            self.of_sets = self.of_sets * by_set.sum(axis=1, keepdims=True)
            return
        count = len(self.of_states)
        self.of_states = (self.of_states[:, None] * by_state[None]).reshape(
            count * len(used), len(self._codes)
        )
        self.of_sets = (self.of_sets[:, :, None] * by_set[:, None, :]).reshape(
            len(self._sets), count * len(used)
        )
