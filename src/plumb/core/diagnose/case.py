"""What is weighed: the engine's places and faults, and everything that was seen of it, as tables.

A *place* is an injector with its cylinder: it has nothing, or one fault of an injector or a cylinder.
The engine has up to three faults of its own, what some injectors share counted among them.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Final, NamedTuple

from plumb.core.causes.codes import CLASSES, LEAK, of_cylinders, read_code
from plumb.core.causes.fault import CYLINDER, ENGINE, FEED, INJECTOR, Fault
from plumb.core.causes.shows import Shows
from plumb.core.causes.sighting import Sighting
from plumb.core.causes.table import faults_on
from plumb.core.measure.fact import Fact
from plumb.core.measure.spoken import COMPLAINTS, UNASKED
from plumb.core.procedures import route

_MENTIONED: Final = 0.7
"""How often somebody mentions what the engine does; common practice, no source."""
_WORD_LEAK: Final = 0.01
"""How often somebody complains of what no fault of the table brings about."""
_NO_WORD: Final = "none"


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """What one table showed at a place (``""``: of the engine): how likely each column is.

    ``facts`` are the codes that it rests on; of the complaint and of codes, their own texts.
    """

    table: Shows
    place: str
    weights: tuple[float, ...]
    facts: tuple[str, ...] = ()

    @property
    def steps(self) -> tuple[float, ...]:
        """The factors of "so much or less" that make up what was seen."""
        return tuple(a - b for a, b in zip(self.weights, (*self.weights[1:], 0.0), strict=True))

    @property
    def told(self) -> float:
        """How much it settled: 1 where one column was seen for certain, 0 where all are as likely (Shannon 1948)."""
        total = sum(self.weights)
        shares = [w / total for w in self.weights if w > 0.0] if total > 0.0 else []
        if not shares or len(self.weights) < 2:
            return 0.0
        return 1.0 + sum(p * math.log(p) for p in shares) / math.log(len(self.weights))

    def speaks_for(self, fault: str) -> float:
        """How many times likelier it is with this fault than without any."""
        without = [a * b for a, b in zip(self.steps, self.table.at_most(""), strict=True)]
        alone = sum(without)
        both = sum(a * b for a, b in zip(without, self.table.at_most(fault), strict=True))
        return max(both, 1e-9) / max(alone, 1e-9)


@dataclass(frozen=True, slots=True, kw_only=True)
class Shared:
    """A fault of the engine, or of what these places share (None: of all)."""

    fault: Fault
    places: frozenset[str] | None = None
    name: str = ""


class Evidence(NamedTuple):
    """All that shares hang on, without the words it is told in: two engines alike have the same."""

    fuel_system: str
    injectors: tuple[str, ...]
    facts: frozenset[tuple[str, str, tuple[tuple[str, float], ...]]]
    words: tuple[str, ...] | None
    codes: tuple[str, ...]
    feeds: tuple[tuple[str, str], ...]
    cylinders: tuple[tuple[str, int], ...]
    common: tuple[tuple[str, float], ...]
    sightings: tuple[tuple[str, str], ...] = ()

    def case(self) -> "Case":
        """An engine of which just that was seen."""
        facts = sorted(self.facts)
        return Case(
            fuel_system=self.fuel_system, injectors=self.injectors, words=self.words,
            facts=tuple(Fact(code=c, injector=i, sheet="", leans=leans) for c, i, leans in facts),
            codes=self.codes, feeds=dict(self.feeds), cylinders=dict(self.cylinders),
            common=dict(self.common),
            sightings=tuple(Sighting(fault=f, place=at) for f, at in self.sightings),
        )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Case:
    """An engine as it stands before the one who looks for its fault.

    ``cylinders`` are their numbers by injector, ``feeds`` who shares what; ``words`` is the complaint
    (None: nobody was asked), ``codes`` the fault codes; ``common`` says how common each fault is;
    ``sightings`` are causes that a person found.
    """

    fuel_system: str
    injectors: tuple[str, ...]
    facts: tuple[Fact, ...] = ()
    words: tuple[str, ...] | None = None
    codes: tuple[str, ...] = ()
    feeds: Mapping[str, str] = field(default_factory=dict)
    cylinders: Mapping[str, int] = field(default_factory=dict)
    common: Mapping[str, float] = field(default_factory=dict)
    sightings: tuple[Sighting, ...] = ()

    def evidence(self) -> Evidence:
        """What its shares hang on."""
        return Evidence(
            fuel_system=self.fuel_system, injectors=self.injectors, words=self.words,
            facts=frozenset((f.code, f.injector, f.leans) for f in self.facts), codes=self.codes,
            feeds=tuple(sorted(self.feeds.items())), cylinders=tuple(self.cylinders.items()),
            common=tuple(sorted(self.common.items())),
            sightings=self.evidence_of_persons(),
        )  # fmt: skip

    def chance(self, fault: Fault) -> float:
        """How common a fault is: as the shop has learnt it, else as the table says."""
        return self.common.get(fault.code, fault.common[self.fuel_system])

    def states(self) -> tuple[Fault, ...]:
        """What can be wrong at a place."""
        return tuple(f for f in faults_on(self.fuel_system) if f.of in {INJECTOR, CYLINDER})

    def shared(self) -> tuple[Shared, ...]:
        """What can be wrong with the engine, each feed by itself."""
        made: list[Shared] = []
        for fault in faults_on(self.fuel_system):
            if fault.of == ENGINE:
                made.append(Shared(fault=fault))
            elif fault.of == FEED:
                made += (
                    Shared(fault=fault, places=places, name=name)
                    for name, places in self.groups().items()
                )
        return tuple(made)

    def groups(self) -> dict[str, frozenset[str]]:
        """Injectors that share a feed with another one, by its name."""
        made: dict[str, set[str]] = {}
        for label in self.injectors:
            if self.feeds.get(label):
                made.setdefault(self.feeds[label], set()).add(label)
        return {name: frozenset(places) for name, places in made.items() if len(places) > 1}

    def seen(self) -> tuple[Seen, ...]:
        """Everything that was seen: words of the complaint, codes, what sheets and persons showed."""
        return (*self._spoken(), *self._coded(), *self._shown(), *self._found())

    def _found(self) -> Iterator[Seen]:
        for fault, place in self.evidence_of_persons():
            table = Sighting(fault=fault, place=place).shows()
            yield Seen(table=table, place=place, weights=(0.0, 1.0))

    def evidence_of_persons(self) -> tuple[tuple[str, str], ...]:
        """What persons found, as (fault, place): said twice it is no surer."""
        return tuple(sorted({(s.fault, s.place) for s in self.sightings}))

    def _spoken(self) -> Iterator[Seen]:
        if self.words is None:
            return
        for word, table in _word_tables(self.fuel_system).items():
            there = word in self.words
            if not there and word in UNASKED:
                continue
            weights = (0.0, 1.0) if there else (1.0, 0.0)
            yield Seen(table=table, place="", weights=weights, facts=(word,) if there else ())

    def _coded(self) -> Iterator[Seen]:
        tables = _code_tables()
        at = of_cylinders(self.cylinders)
        told = {read: code for code in reversed(self.codes) if (read := read_code(code))}
        for read, code in reversed(told.items()):
            place = at.get(read.cylinder, "") if read.cylinder else ""
            if bool(read.cylinder) == bool(place):
                yield Seen(table=tables[read.name], place=place, weights=(0.0, 1.0), facts=(code,))

    def _shown(self) -> Iterator[Seen]:
        of_code = tables_of(self.fuel_system)
        by_place: dict[tuple[str, str], list[float]] = {}
        tables: dict[str, Shows] = {}
        rests_on: dict[tuple[str, str], dict[str, None]] = {}
        for fact in self.facts:
            for code, weight in fact.leans or ((fact.code, 1.0),):
                for table, column in of_code.get(code, ()):
                    tables[table.name] = table
                    row = by_place.setdefault(
                        (table.name, fact.injector), [0.0] * len(table.columns)
                    )
                    row[column] = max(row[column], weight)
                    rests_on.setdefault((table.name, fact.injector), {})[fact.code] = None
        for (name, place), row in by_place.items():
            if not place or place in self.injectors:
                yield Seen(
                    table=tables[name], place=place, weights=_worst(row),
                    facts=tuple(rests_on[name, place]),
                )  # fmt: skip


def _worst(row: Sequence[float]) -> tuple[float, ...]:
    """Of two columns that were seen for certain the worse one counts."""
    certain = [n for n, w in enumerate(row) if w >= 1.0]
    if not certain:
        return tuple(row)
    return tuple(float(n == certain[-1]) for n in range(len(row)))


@lru_cache(maxsize=16)
def tables_of(fuel_system: str) -> dict[str, tuple[tuple[Shows, int], ...]]:
    """For each fact the tables that it speaks in, and the column."""
    made: dict[str, dict[str, tuple[Shows, int]]] = {}
    for kind in route(fuel_system):
        for table in kind.shows:
            for column, facts in enumerate(table.facts):
                for code in facts:
                    made.setdefault(code, {})[table.name] = (table, column)
    return {code: tuple(found.values()) for code, found in made.items()}


def _chances(name: str, rows: Mapping[str, float], leak: float, mentioned: float = 1.0) -> Shows:
    return Shows(
        name=name,
        columns=("", name),
        sound=(1.0 - leak, leak),
        rows={c: (1.0 - mentioned * p, mentioned * p) for c, p in rows.items()},
    )


@lru_cache(maxsize=16)
def _word_tables(fuel_system: str) -> dict[str, Shows]:
    """For each word of a complaint how often each fault of a fuel system brings it about."""
    return {
        word: _chances(
            word,
            {f.code: f.brings[word] for f in faults_on(fuel_system) if word in f.brings},
            _WORD_LEAK,
            _MENTIONED,
        )
        for word in COMPLAINTS
        if word != _NO_WORD
    }


@lru_cache(maxsize=1)
def _code_tables() -> dict[str, Shows]:
    return {name: _chances(name, rows, LEAK) for name, (_, rows) in CLASSES.items()}
