"""Ways to put it right, with what each can be expected to cost.

Reaching the injectors costs its minutes once a visit, each injector its own.  Who cleans first makes
a second visit when not every one is cured: with the chance 1 - E[p^k], to replace k(1 - E[p]) of
them on average.  Where a price is missing, hours are compared.

>>> prices = Prices(currency="EUR", labour_per_hour=90, reach_minutes=60, each_minutes=10, part=120,
...                 cleaning=25)
>>> way = clean_then_replace(("4",), (), prices, USUAL)
>>> round(way.cost.expected, 2), way.cost.low, way.cost.high
(220.0, 130.0, 355.0)
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

from plumb.core.mend.cured import USUAL, Cured
from plumb.core.procedures import route
from plumb.core.weigh.job import JobResult
from plumb.core.weigh.verdict import Verdict

REACH_MINUTES: Final = 60.0
EACH_MINUTES: Final = 15.0
SHIM_MINUTES: Final = 20.0
"""Where the shop has said nothing: to reach a set of injectors, for each one, to re-shim a nozzle.
Common practice, no source."""

FLAGGED: Final = frozenset({"clean_and_repeat", "replace", "bench_test", "reshim"})
"""What a verdict says is to be done to an injector itself."""
NO_WAITING: Final = frozenset(
    {"leaks_at_tip", "stuck_open", "seat_leaks", "bad_spray", "no_response"}
)
"""What must not be left: fuel that thins the oil, holes a piston, or burns in the exhaust."""
OPTIONS: Final = {
    "replace_flagged": "Replace",
    "clean_then_replace": "Clean, then replace what stays",
    "whole_set": "Replace the whole set",
    "clean_all": "Clean the whole set",
    "reshim": "Re-shim",
    "rebuild": "Bench test and rebuild",
    "engine_first": "Put the engine right first, then measure again",
    "wait": "Wait, and look again",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Prices:
    """What the shop charges: money for an hour, a part, a cleaning, a rebuild; minutes of the work.

    None where nobody has said.  ``currency`` is a code of three letters (ISO 4217).
    """

    currency: str = ""
    labour_per_hour: float | None = None
    reach_minutes: float | None = None
    each_minutes: float | None = None
    part: float | None = None
    cleaning: float | None = None
    rebuild: float | None = None

    def hours(self, count: float, *, visits: float = 1.0, extra_minutes: float = 0.0) -> float:
        """Hours to reach them so many times and to work on so many injectors."""
        reach = REACH_MINUTES if self.reach_minutes is None else self.reach_minutes
        each = EACH_MINUTES if self.each_minutes is None else self.each_minutes
        return (visits * reach + count * (each + extra_minutes)) / 60.0

    def money(self, hours: float, *things: tuple[float, float | None]) -> float | None:
        """What hours and (count, price) come to; None where a price that is needed is missing."""
        needed = [(hours, self.labour_per_hour), *things]
        if any(count and price is None for count, price in needed):
            return None
        return sum(count * (price or 0.0) for count, price in needed)

    def missing(self) -> tuple[str, ...]:
        """The names of what nobody has said, in the order in which it is asked for."""
        asked = ("labour_per_hour", "reach_minutes", "each_minutes", "part", "cleaning")
        return tuple(name for name in asked if getattr(self, name) is None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Cost:
    """What is expected, and the cheapest and dearest way it can go; all in the shop's currency."""

    expected: float
    low: float
    high: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """One way to put it right.

    ``cost`` is None where a price is missing.  ``hours`` are expected ones with their range;
    ``second_visit`` is the chance of one; ``chance`` that of cleaning, where it cleans; ``because`` says what speaks for it, ``risk``
    what could go wrong.  ``cleaned`` are those that it cleans, where it cleans; the others are replaced at once.
    """

    option: str
    injectors: tuple[str, ...]
    cost: Cost | None
    hours: float
    hours_low: float
    hours_high: float
    because: str
    risk: str = ""
    second_visit: float = 0.0
    chance: Cured | None = None
    cleaned: tuple[str, ...] = ()


def _certain(
    option: str,
    labels: Sequence[str],
    hours: float,
    money: float | None,
    because: str,
    risk: str = "",
) -> Option:
    """A way that costs the same however it goes."""
    return Option(
        option=option, injectors=tuple(labels), hours=hours, hours_low=hours, hours_high=hours,
        cost=None if money is None else Cost(expected=money, low=money, high=money),
        because=because, risk=risk,
    )  # fmt: skip


def clean_then_replace(
    dirty: Sequence[str],
    others: Sequence[str],
    prices: Prices,
    chance: Cured,
    also: Sequence[str] = (),
) -> Option:
    """Clean the dirty ones, replace ``others`` at once, then on a second visit what was not cured.

    ``also`` are cleaned with them though nothing is wrong with them: they come to no second visit.
    """
    k, at_once = len(dirty), len(others)
    cleaned = k + len(also)
    first = prices.hours(cleaned + at_once)
    stay = k * (1.0 - chance.mean)
    again = 1.0 - chance.all_of(k)
    ways = [(again, stay), (0.0, 0.0), (1.0, float(k))]
    hours = [first + prices.hours(count, visits=visits) for visits, count in ways]
    money = [
        prices.money(h, (at_once + count, prices.part), (cleaned, prices.cleaning))
        for h, (_, count) in zip(hours, ways, strict=True)
    ]
    expected, low, high = money
    known = expected is not None and low is not None and high is not None
    return Option(
        option="clean_all" if also else "clean_then_replace",
        injectors=(*dirty, *others, *also),
        cost=Cost(expected=expected, low=low, high=high) if known else None,  # type: ignore[arg-type]
        hours=hours[0], hours_low=hours[1], hours_high=hours[2],
        second_visit=again, chance=chance, cleaned=(*dirty, *also),
        because=_CLEAN_ALL if also else _CLEAN,
        risk="what is worn stays worn, and the second visit opens everything again",
    )  # fmt: skip


_CLEAN: Final = "deposits go with cleaning more often than not, and it is cheaper than a part"
_CLEAN_ALL: Final = "one that is clogged is seldom alone: the others had the same fuel"


def options_for(
    result: JobResult, prices: Prices, chances: Mapping[str, Cured]
) -> tuple[Option, ...]:
    """The ways that fit the verdict, the cheapest expectation first; empty when nothing is flagged.

    ``chances`` are those of cleaning by condition; where one is missing the usual one stands.
    """
    flagged = [label for label, v in result.verdicts if v.action in FLAGGED]
    verdicts = dict(result.verdicts)
    ways = [*_on_injectors(flagged, verdicts, prices, chances), *_engine_first(result)]
    if ways and not any(verdicts[x].condition in NO_WAITING for x in flagged):
        ways.append(_wait(flagged, ways))
    money = all(w.cost is not None for w in ways if w.option not in _NO_PRICE)
    in_reach = [replace(w, injectors=tuple(x for x in verdicts if x in w.injectors)) for w in ways]
    return tuple(sorted(in_reach, key=lambda w: _rank(w, money=money)))


_NO_PRICE: Final = frozenset({"engine_first", "wait"})


def _rank(way: Option, *, money: bool) -> tuple[int, float]:
    """What comes first on the engine, then by money or by hours; waiting last."""
    first = {"engine_first": 0, "wait": 2}.get(way.option, 1)
    return first, way.cost.expected if money and way.cost is not None else way.hours


def _on_injectors(
    flagged: list[str],
    verdicts: Mapping[str, Verdict],
    prices: Prices,
    chances: Mapping[str, Cured],
) -> Iterator[Option]:
    if not flagged:
        return
    dirty = [x for x in flagged if verdicts[x].action == "clean_and_repeat"]
    others = [x for x in flagged if x not in dirty]
    sound = [x for x in verdicts if x not in flagged]
    k, n = len(flagged), len(verdicts)
    hours = prices.hours(k)
    yield _certain(
        "replace_flagged", flagged, hours, prices.money(hours, (k, prices.part)),
        "settles it in one visit", "a new one beside worn ones: compare it with its neighbours" if sound else "",
    )  # fmt: skip
    if dirty:
        chance = chances.get(verdicts[dirty[0]].condition, USUAL)
        yield clean_then_replace(dirty, others, prices, chance)
        if sound:
            yield clean_then_replace(dirty, others, prices, chance, also=sound)
    if sound:
        hours = prices.hours(n)
        yield _certain(
            "whole_set", tuple(verdicts), hours, prices.money(hours, (n, prices.part)),
            "even flow, and the work of opening it is shared", "sound parts are thrown away",
        )  # fmt: skip
    yield from _on_the_bench(flagged, verdicts, prices)


def _on_the_bench(
    flagged: list[str], verdicts: Mapping[str, Verdict], prices: Prices
) -> Iterator[Option]:
    """Nozzles that can be set, and those that go to a bench; offered where each flagged one can."""
    wanted = {verdicts[x].action for x in flagged}
    k = len(flagged)
    if wanted == {"reshim"}:
        hours = prices.hours(k, extra_minutes=SHIM_MINUTES)
        yield _certain(
            "reshim", flagged, hours, prices.money(hours),
            "spray and seat are good, only the spring is not",
            "a tired spring settles again: stroke it once more after some hours",
        )  # fmt: skip
    if wanted <= {"bench_test", "reshim"} and "bench_test" in wanted:
        hours = prices.hours(k)
        yield _certain(
            "rebuild", flagged, hours, prices.money(hours, (k, prices.rebuild)),
            "the bench shows what this engine cannot, before a part is bought",
            "it may come back as not worth rebuilding, and is then replaced",
        )  # fmt: skip


def _engine_first(result: JobResult) -> Iterator[Option]:
    """What is on the engine before any injector; what it costs itself is not known here."""
    waits = tuple(label for label, v in result.verdicts if v.action == "check_first")
    first = [words.partition(":")[0] for _, words in result.causes]
    found = [c for c in result.diagnosis.found if not c.place and c.fault.put_right]
    if not waits and not first and not found:
        return
    names = first or [c.fault.words for c in found] or ["what is still open"]
    again = next(k for k in route(result.setting.fuel_system) if k.compares)
    hours = again.effort.minutes(len(result.verdicts)) / 60.0
    yield Option(
        option="engine_first", injectors=waits, cost=None, hours=hours, hours_low=hours,
        hours_high=hours,
        because=f"an injector is not judged before this: {', '.join(names)}",
        risk="what that repair costs is not known here: these are the hours of measuring again",
    )  # fmt: skip


def _wait(flagged: Sequence[str], ways: Sequence[Option]) -> Option:
    opened = "nothing is opened now" if flagged else "nothing is done now"
    named = any(w.option == "replace_flagged" for w in ways)
    return Option(
        option="wait", injectors=tuple(flagged), cost=Cost(expected=0.0, low=0.0, high=0.0), hours=0.0,
        hours_low=0.0, hours_high=0.0,
        because=f"{opened}, and the next look shows which way it goes",
        risk="what is wrong stays wrong: not for a lean cylinder on a boosted or hard-worked engine"
        if named
        else "",
    )  # fmt: skip
