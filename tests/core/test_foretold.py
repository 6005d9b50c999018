"""What a procedure is expected to change, worked out beside the core by loops over everything that can be.

Expected value of information with the quadratic score: Raiffa and Schlaifer (1961), chapter 4; Brier (1950).
"""

import math
from collections import defaultdict
from collections.abc import Sequence
from itertools import product

import numpy as np
import pytest

from plumb.core.causes.shows import Shows
from plumb.core.diagnose.case import Case, Shared
from plumb.core.diagnose.foretell import _ACTS_ALIKE, Foretold
from plumb.core.diagnose.sets import Weighed, weigh_faults
from plumb.core.procedures import BY_CODE, AnyKind

Array = np.ndarray
SYSTEMS = ("port", "common_rail")
# What a wrong one costs beside a bad injector that is kept; common practice, no source.
COSTS = {"replace": 1.25, "bench": 1.1, "clean": 0.9, "reshim": 0.9}


def weighed(system: str, count: int = 2) -> Weighed:
    """An engine that misfires at its first cylinder, whose first two injectors share a feed."""
    labels = tuple(str(n + 1) for n in range(count))
    return weigh_faults(
        Case(
            fuel_system=system, injectors=labels, words=("misfire",), codes=("P0301",),
            cylinders={x: int(x) for x in labels}, feeds=dict.fromkeys(labels[:2], "A"),
        )
    )  # fmt: skip


def surer(with_it: Sequence[float], without: Sequence[float]) -> float:
    """By how much less often one is wrong about a thing, once a column is seen."""
    before = sum(with_it) ** 2 + sum(without) ** 2
    return sum((a * a + b * b) / (a + b) for a, b in zip(with_it, without, strict=True) if a + b) - before  # fmt: skip


def of_acts(joint: dict[str, list[float]], system: str, faults: Weighed) -> float:
    """By how much more often an injector's action is right, from the chance of each state with each column."""
    outside = {f.code for f in faults.states if system in f.outside}
    columns = range(len(joint["-"]))
    acts: dict[str, list[float]] = defaultdict(lambda: [0.0 for _ in columns])
    for code, chances in joint.items():
        if code not in outside:
            name = "keep" if code == "-" else _ACTS_ALIKE.get(code, code)
            acts[name] = [a + b for a, b in zip(acts[name], chances, strict=True)]
    total = [sum(chances[c] for chances in joint.values()) for c in columns]
    return sum(
        COSTS.get(name, 1.0) * (sum(act[c] ** 2 / total[c] for c in columns if total[c]) - sum(act) ** 2)
        for name, act in acts.items()
    )  # fmt: skip


def states_at(found: Weighed, label: str) -> dict[str, float]:
    """The share of nothing (``-``) and of each fault at an injector."""
    row = found.places[found.case.injectors.index(label)]
    return dict(zip(("-", *(f.code for f in found.states)), (float(x) for x in row), strict=True))


def at_one(found: Weighed, table: Shows, label: str) -> float:
    """What a table of one injector is worth there."""
    joint = {
        code: [share * table.chance((code,), c) for c in range(len(table.columns))]
        for code, share in states_at(found, label).items()
    }
    return of_acts(joint, found.case.fuel_system, found)


def shared_in(found: Weighed) -> list[tuple[frozenset[int], float]]:
    """The eighty likeliest sets of the engine's faults, by their places in ``shared``: the core looks no further."""
    count = len(found.shared)
    return [
        (frozenset(int(i) for i in row if i < count), float(weight))
        for row, weight in zip(found.sets[:80], found.weights[:80], strict=True)
    ]


def counts(table: Shows, shared: Shared) -> bool:
    """Whether a table says something of a fault that something is done about."""
    return shared.fault.code in table.rows and not shared.fault.outside


def _says_nothing(place: dict[str, float], table: Shows) -> list[str]:
    return [code for code in place if code not in table.rows]


def _alike(place: dict[str, float], table: Shows) -> dict[str, float]:
    """The shares of what a table tells apart, and of all the rest together."""
    told = {code: share for code, share in place.items() if code in table.rows}
    return {"rest": sum(place[code] for code in _says_nothing(place, table)), **told}


def of_engine(found: Weighed, table: Shows) -> float:
    """What a table of the engine is worth: about the engine, and about each of its injectors."""
    nothing = np.zeros(len(table.columns))
    upto = {code: np.array(table.at_most(code)) for code in ("", *table.rows)}
    each = {i: [nothing, nothing] for i in range(len(found.shared))}
    at: dict[str, dict[str, Array]] = {x: {} for x in found.case.injectors}
    whole = [states_at(found, x) for x in found.case.injectors]
    # States of which the table says nothing look alike in it.
    places = [_alike(place, table) for place in whole]
    for there, weight in shared_in(found):
        of_set = upto[""]
        for i in there:
            of_set = of_set * upto.get(found.shared[i].fault.code, 1.0)
        together = nothing
        for chosen in product(*places):
            seen = of_set
            for code in chosen:
                seen = seen * upto.get(code, 1.0)
            p = weight * math.prod(place[code] for place, code in zip(places, chosen, strict=True))
            chance = p * np.diff(seen, prepend=0.0)
            together = together + chance
            for label, code in zip(found.case.injectors, chosen, strict=True):
                at[label][code] = at[label].get(code, nothing) + chance
        for i, parts in each.items():
            parts[i not in there] = parts[i not in there] + together
    gain = sum(
        surer(each[i][0].tolist(), each[i][1].tolist())
        for i, s in enumerate(found.shared)
        if counts(table, s)
    )
    reached = [f.code for f in found.states if f.code in table.rows]
    if any(place[code] >= 0.01 for place in whole for code in reached):
        for place, joint in zip(whole, at.values(), strict=True):
            rest = joint.pop("rest") / sum(place[code] for code in _says_nothing(place, table))
            joint |= {code: place[code] * rest for code in _says_nothing(place, table)}
            listed = {code: chances.tolist() for code, chances in joint.items()}
            gain += of_acts(listed, found.case.fuel_system, found)
    return gain


def tables(system: str, *, of_one: bool) -> list[tuple[AnyKind, Shows]]:
    """Every table of one injector, or of the engine, of the kinds of a fuel system."""
    return [
        (kind, table)
        for kind in BY_CODE.values()
        if system in kind.places
        for table in kind.shows
        if (not kind.of_engine if table.at_places is None else table.at_places) == of_one
    ]


@pytest.mark.parametrize("system", SYSTEMS)
def test_what_a_look_at_one_injector_is_worth(system: str) -> None:
    """Of each table, at the cylinder that misfires and at the other one."""
    found = weighed(system)
    foretold = Foretold(found)
    seen = tables(system, of_one=True)
    assert len(seen) > 3
    for kind, table in seen:
        gains = foretold.gains_at([table], ("1", "2"))
        for label in "12":
            assert gains[label] == pytest.approx(max(at_one(found, table, label), 0.0), abs=1e-9), (kind.code, table.name)  # fmt: skip
    both = foretold.gains_at([t for _, t in seen], ("1", "2"))
    assert both["1"] == pytest.approx(max(at_one(found, t, "1") for _, t in seen))
    judged = Foretold(found, frozenset({"1"}))
    assert judged.gains_at([t for _, t in seen], ("1", "2"))["1"] == 0.0


@pytest.mark.parametrize("system", SYSTEMS)
def test_what_a_look_at_the_engine_is_worth(system: str) -> None:
    """Of each table of the engine: about what it has itself, and about both injectors."""
    found = weighed(system)
    foretold = Foretold(found)
    seen = [(kind, table) for kind, table in tables(system, of_one=False) if kind.of_engine]
    assert len(seen) > 1
    for kind, table in seen:
        worth = foretold.worth_of([table], kind, ())
        assert worth.gain == pytest.approx(of_engine(found, table), abs=1e-6), table.name
        assert worth.minutes == kind.effort.minutes(0)
        assert worth.injectors == ()


@pytest.mark.parametrize("system", SYSTEMS)
def test_what_injectors_tell_of_what_they_share(system: str) -> None:
    """A feed that none of those who are missing hangs on gains nothing; what reaches all always does."""
    found = weighed(system, 4)
    foretold = Foretold(found)
    for kind, table in tables(system, of_one=True):
        if kind.of_engine or kind.effort.whole_set:
            continue
        for missing in (("1",), ("3",)):
            about = 0.0
            for i, shared in enumerate(found.shared):
                if counts(table, shared) and (
                    shared.places is None or shared.places & set(missing)
                ):
                    p = sum(weight for there, weight in shared_in(found) if i in there)
                    columns = range(len(table.columns))
                    with_it = [p * table.chance((shared.fault.code,), c) for c in columns]
                    about += max(0.0, surer(with_it, [(1.0 - p) * x for x in table.sound]))
            own = max(0.0, at_one(found, table, missing[0]))
            worth = foretold.worth_of([table], kind, missing)
            taken = own if worth.injectors else 0.0
            assert worth.gain == pytest.approx(about + taken, abs=2e-6), (kind.code, table.name)
            assert (own > 1e-4) == bool(worth.injectors) or own == pytest.approx(1e-4, abs=1e-6)


@pytest.mark.parametrize("system", SYSTEMS)
def test_a_sheet_that_leads_on_is_worth_what_pays_better(system: str) -> None:
    """At once, or to its end with the minutes that the end takes; told in the minutes of its beginning."""
    found = weighed(system)
    foretold = Foretold(found)
    leads_on = [k for k in BY_CODE.values() if system in k.places and k.effort.later]
    assert leads_on
    for kind in leads_on:
        begun = foretold.worth_of([t for t in kind.shows if not t.later], kind, ("1", "2"))
        whole = foretold.worth_of(kind.shows, kind, ("1", "2"))
        to_the_end = whole.gain / (whole.minutes + kind.effort.later)
        worth = foretold.worth(kind, ("1", "2"))
        assert worth.per_minute == pytest.approx(max(begun.per_minute, to_the_end))
        assert worth.minutes == begun.minutes


def test_on_whom_it_pays() -> None:
    """Of those whose gain for the minutes is best together: one more is taken while that rises."""
    kind = next(k for k in BY_CODE.values() if not k.of_engine and not k.effort.whole_set and k.effort.each)  # fmt: skip
    found = weighed("port", 4)
    foretold = Foretold(found)
    for gains in (
        (0.4, 0.3, 0.2, 0.1),
        (0.5, 0.0, 0.0, 0.0),
        (0.1, 0.1, 0.1, 0.1),
        (0.9, 0.01, 0.8, 0.005),
    ):
        per_place = dict(zip("1234", gains, strict=True))
        order = sorted(per_place, key=lambda x: -per_place[x])
        sums = np.cumsum([per_place[x] for x in order])
        best = int(np.argmax([s / kind.effort.minutes(n) for n, s in enumerate(sums, 1)]))
        wanted = {x for x in order[: best + 1] if per_place[x] > 1e-4}
        assert set(foretold._chosen(kind, per_place)) == wanted
