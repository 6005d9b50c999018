"""What a procedure would tell before it is done: how many actions it can be expected to change.

An action is what is done with one injector, and whether one thing of the engine is put right.  Chosen
now, each is wrong as often as its shares say; after a procedure, as often as they say then.  The
difference, over all that it could show, is what it is worth (expected value of information with the
quadratic score; Raiffa and Schlaifer, 1961, chapter 4; Brier, 1950), an action counting by what it costs where it
is the wrong one.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final

import numpy as np
from numpy.typing import NDArray

from plumb.core.causes.shows import Shows
from plumb.core.diagnose.case import Evidence
from plumb.core.diagnose.sets import Weighed, of_evidence
from plumb.core.procedures import AnyKind

Array = NDArray[np.float64]

_HEAVIEST: Final = 80
"""So many of the heaviest sets of the engine's faults are foretold from; the rest weighs next to nothing."""
_ACTS_ALIKE: Final = {
    "gives_less": "clean", "no_response": "clean", "opens_weakly": "clean", "intermittent": "clean",
    "bad_spray": "clean", "seat_leaks": "clean",
    "leaks_at_tip": "replace", "stuck_open": "replace", "coil_open": "replace",
    "coil_shorted": "replace", "coil_out_of_window": "replace",
    "gives_more": "bench", "returns_too_much": "bench",
    "opens_early": "reshim", "opens_late": "reshim",
}  # fmt: skip
"""What is done with an injector that has it, so far as the next step is concerned."""
_COSTS: Final = {"replace": 1.25, "bench": 1.1, "clean": 0.9, "reshim": 0.9}
"""What a wrong one of them costs beside keeping a bad injector: a part, a bench and its way, a bottle of cleaner;
common practice, no source."""
_WORTH_A_LOOK: Final = 0.01
"""Of an injector that hardly has any such fault, nothing of the engine would tell."""
_POINTS: Final = 0.3
_NOTHING: Final = 1e-300
_NOBODY_MOVES: Final = 1e-4
"""An injector of which a procedure changes less is not worth the time it takes there."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Worth:
    """What a procedure is worth: expected changes of actions, on whom, in how many minutes.

    ``moves`` are the faults whose share it moves most, the likeliest first, as (code, place).
    """

    kind: AnyKind
    injectors: tuple[str, ...]
    gain: float
    minutes: float
    moves: tuple[tuple[str, str], ...]

    @property
    def per_minute(self) -> float:
        """Expected changes of actions for each minute."""
        return self.gain / self.minutes


class Foretold:
    """What the procedures would tell of one engine; shares what is common to all of them.

    What is done with an injector that was ``judged`` changes no more.
    """

    def __init__(self, weighed: Weighed, judged: frozenset[str] = frozenset()) -> None:
        self._weighed = weighed
        self._kept: dict[tuple[str, tuple[str, ...]], Worth] = {}
        states, system = weighed.states, weighed.case.fuel_system
        self._codes = ("-", *(f.code for f in states))
        acts = ["keep", *(_ACTS_ALIKE.get(f.code, f.code) for f in states)]
        kinds = tuple(dict.fromkeys(acts))
        # A fault that lies outside asks for no action of Plumb's: nothing is decided about it.
        decided = [1.0, *(0.0 if system in f.outside else 1.0 for f in states)]
        self._actions = np.array(
            [[d * (act == kind) for act, d in zip(acts, decided, strict=True)] for kind in kinds]
        )
        self._costs = np.array([_COSTS.get(kind, 1.0) for kind in kinds])
        self._open = np.array([float(x not in judged) for x in weighed.case.injectors])
        self._index = {x: k for k, x in enumerate(weighed.case.injectors)}
        self._sets = weighed.sets[:_HEAVIEST]
        self._weights = weighed.weights[:_HEAVIEST]
        count = len(weighed.shared)
        in_set = [(self._sets == i).any(axis=1) for i in range(count)]
        self._members = np.array(in_set, dtype=float).reshape(count, len(self._sets))

    def worth(self, kind: AnyKind, missing: Sequence[str]) -> Worth:
        """What a kind of sheet is worth; its injectors are those on whom it pays."""
        key = (kind.code, tuple(missing))
        if key not in self._kept:
            self._kept[key] = self._worked_out(kind, missing)
        return self._kept[key]

    def _worked_out(self, kind: AnyKind, missing: Sequence[str]) -> Worth:
        at_once = self.worth_of([t for t in kind.shows if not t.later], kind, missing)
        if not kind.effort.later:
            return at_once
        to_the_end = self.worth_of(kind.shows, kind, missing)
        longer = replace(to_the_end, minutes=to_the_end.minutes + kind.effort.later)
        if longer.per_minute <= at_once.per_minute:
            return at_once
        # It is begun for what it leads to, and told with the minutes of its beginning.
        return replace(longer, gain=longer.per_minute * at_once.minutes, minutes=at_once.minutes)

    def worth_of(self, tables: Sequence[Shows], kind: AnyKind, missing: Sequence[str]) -> Worth:
        """What some of its tables are worth."""
        moves: dict[tuple[str, str], float] = {}
        per_place = dict.fromkeys(missing, 0.0)
        of_engine = 0.0
        for table in tables:
            at_places = not kind.of_engine if table.at_places is None else table.at_places
            if not at_places:
                of_engine += self._of_engine(table, moves)
                continue
            # What the engine tells of a cylinder points at it, and decides nothing there.
            share = _POINTS if kind.of_engine else 1.0
            for label, gain in zip(missing, self._at(table, missing, moves), strict=True):
                per_place[label] = max(per_place[label], share * float(gain))
            of_engine += self._reached(table, missing, moves)
        labels = self._chosen(kind, per_place)
        return Worth(
            kind=kind,
            injectors=() if kind.of_engine else labels,
            gain=of_engine + sum(per_place[label] for label in labels),
            minutes=kind.effort.minutes(0 if kind.of_engine else max(1, len(labels))),
            moves=tuple(sorted((m for m in moves if moves[m] > 0.0), key=lambda m: -moves[m])),
        )

    def gains_at(self, tables: Sequence[Shows], labels: Sequence[str]) -> dict[str, float]:
        """What some tables of injectors are worth at each of them."""
        gains = [self._at(table, labels, {}) for table in tables if labels]
        return {x: max(float(g[n]) for g in gains) for n, x in enumerate(labels)}

    def _chosen(self, kind: AnyKind, per_place: dict[str, float]) -> tuple[str, ...]:
        """Everybody, or those on whom it pays: the best share of gain for the minutes."""
        if kind.of_engine or kind.effort.whole_set:
            return tuple(per_place)
        best: tuple[float, int] = (0.0, 0)
        order = sorted(per_place, key=lambda x: -per_place[x])
        gain = 0.0
        for count, label in enumerate(order, 1):
            gain += per_place[label]
            score = gain / kind.effort.minutes(count)
            if score > best[0] + 1e-12:
                best = (score, count)
        taken = {x for x in order[: best[1]] if per_place[x] > _NOBODY_MOVES}
        return tuple(label for label in per_place if label in taken)

    def _at(
        self, table: Shows, labels: Sequence[str], moves: dict[tuple[str, str], float]
    ) -> Array:
        """The gain at each of these injectors, by what a table would show there."""
        at = [self._index[x] for x in labels]
        joint = self._weighed.places[at][:, :, None] * table.chances(self._codes)
        return self._gains(joint, at, moves)

    def _gains(self, joint: Array, at: Sequence[int], moves: dict[tuple[str, str], float]) -> Array:
        """The gain at each place, from the chance of each of its states with each column."""
        total = joint.sum(axis=1, keepdims=True)
        each = _surer(joint, total - joint)
        for n, state in np.argwhere(each[:, 1:] > _NOBODY_MOVES):
            key = (self._codes[state + 1], self._weighed.case.injectors[at[n]])
            moves[key] = max(moves.get(key, 0.0), float(each[n, state + 1]))
        acts = np.einsum("as,ksc->kac", self._actions, joint)
        safe = np.maximum(total, _NOTHING)
        surer = (acts**2 / safe).sum(axis=2) - acts.sum(axis=2) ** 2
        gains: Array = surer @ self._costs
        decided: Array = np.maximum(gains, 0.0) * self._open[list(at)]
        return decided

    def _reached(
        self, table: Shows, missing: Sequence[str], moves: dict[tuple[str, str], float]
    ) -> float:
        """The gain about what some injectors share, by what a table would show at them."""
        gain = 0.0
        for mine, shared in zip(self._members, self._weighed.shared, strict=True):
            if shared.fault.code not in table.rows or shared.fault.outside:
                continue
            if shared.places is not None and not shared.places & set(missing):
                continue
            p = float(mine @ self._weights)
            with_it = p * table.chances((shared.fault.code,))[0]
            moved = float(_surer(with_it, (1.0 - p) * np.array(table.sound)))
            key = (shared.fault.code, shared.name)
            moves[key] = max(moves.get(key, 0.0), moved)
            gain += moved
        return gain

    def _of_engine(self, table: Shows, moves: dict[tuple[str, str], float]) -> float:
        """The gain about the engine and about each injector, by what a table of the engine would show."""
        weighed = self._weighed
        of_shared, of_states = _upto(table, weighed)
        by_place = weighed.places @ of_states
        upto = of_shared[self._sets].prod(axis=1) * table.at_most("")
        together = by_place.prod(axis=0)
        seen = np.diff(upto * together, prepend=0.0, axis=1) * self._weights[:, None]
        joint = self._members @ seen
        each = _surer(joint, seen.sum(axis=0) - joint)
        gain = 0.0
        for moved, shared in zip(each, weighed.shared, strict=True):
            if shared.fault.code in table.rows and not shared.fault.outside:
                key = (shared.fault.code, shared.name)
                moves[key] = moves.get(key, 0.0) + float(moved)
                gain += float(moved)
        mine = [n for n, f in enumerate(weighed.states, 1) if f.code in table.rows]
        if mine and float(weighed.places[:, mine].max(initial=0.0)) >= _WORTH_A_LOOK:
            of_engine = (self._weights[:, None] * upto).sum(axis=0)
            others = of_engine * together / np.maximum(by_place, 1e-12)
            upto_place = weighed.places[:, :, None] * of_states * others[:, None, :]
            at = np.clip(np.diff(upto_place, prepend=0.0, axis=2), 0.0, None)
            gain += float(self._gains(at, range(len(by_place)), moves).sum())
        return gain


def foretold(weighed: Weighed, judged: frozenset[str]) -> Foretold:
    """What the procedures would tell of an engine, of engines alike worked out once."""
    return _foretold(weighed.evidence, judged)


@lru_cache(maxsize=256)
def _foretold(evidence: Evidence, judged: frozenset[str]) -> Foretold:
    return Foretold(of_evidence(evidence), judged)


def _upto(table: Shows, weighed: Weighed) -> tuple[Array, Array]:
    """How likely so much or less is with each fault of the engine, and with each state of a place."""
    nothing = (1.0,) * len(table.columns)
    of_shared = np.array([*(table.at_most(s.fault.code) for s in weighed.shared), nothing])
    return of_shared, np.array([nothing, *(table.at_most(f.code) for f in weighed.states)])


def _surer(joint: Array, rest: Array) -> Array:
    """How much surer it is whether something is there, once the columns (last axis) are seen.

    ``joint`` is the chance of it with each column, ``rest`` that of its absence.  Acting on each as
    often as it is right, one is wrong in 1 - sum of squares (Brier, 1950).
    """
    after = ((joint**2 + rest**2) / np.maximum(joint + rest, _NOTHING)).sum(axis=-1)
    gained: Array = after - joint.sum(axis=-1) ** 2 - rest.sum(axis=-1) ** 2
    return np.maximum(gained, 0.0)
