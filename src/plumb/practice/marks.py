"""How an exercise is marked: a hundred points, each lost one with its reason and the moment it was lost.

| points | for |
|---|---|
| 40 | every bad injector called what it is (half of it) and sent to the right work (the other half) |
| 25 | no good one condemned: 12.5 off for each |
| 15 | what is wrong with the engine, or that the complaint comes from elsewhere |
| 5 | minutes: all of them up to a tenth above Plumb's own path, none from the whole route on |
| 5 | money, in the same way: what the minutes and the repairs cost |
| 10 | safety: 5 off for each time |
| −4 | for each hint |

The scheme is our own.

>>> from plumb.practice.exercises import EXERCISES, engine_of
>>> engine = engine_of(EXERCISES["03"])
>>> said = Said(injectors={1 + k: Judged("coil_open", "replace") for k in engine.truth})
>>> marked = mark(engine, said, Worked(minutes=20.0, own_minutes=20.0, full_minutes=55.0))
>>> marked.points, [line.why for line in marked.lines if line.lost]
(100.0, [])
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Final, NamedTuple

from plumb.bench.engines.follow import AS_GOOD_AS, SAME_REPAIR
from plumb.bench.engines.hidden import Hidden

INJECTORS: Final = 40.0
GOOD_ONES: Final = 25.0
CAUSE: Final = 15.0
MINUTES: Final = 5.0
MONEY: Final = 5.0
SAFETY: Final = 10.0
A_GOOD_ONE: Final = 12.5
AN_INCIDENT: Final = 5.0
A_HINT: Final = 4.0
CLOSE: Final = 1.1
"""So many times Plumb's own minutes still count as its path."""

REPAIRS: Final[Mapping[str, frozenset[str]]] = {
    "gives_less": frozenset({"clean", "replace", "rebuild"}),
    "opens_weakly": frozenset({"clean", "replace", "rebuild"}),
    "intermittent": frozenset({"clean", "replace", "rebuild"}),
    "no_response": frozenset({"clean", "replace", "rebuild"}),
    "gives_more": frozenset({"replace", "rebuild"}),
    "leaks_at_tip": frozenset({"clean", "replace", "rebuild"}),
    "stuck_open": frozenset({"replace", "rebuild"}),
    "coil_open": frozenset({"replace"}),
    "coil_shorted": frozenset({"replace"}),
    "returns_too_much": frozenset({"replace", "rebuild"}),
    "opens_early": frozenset({"reshim", "replace", "rebuild"}),
    "opens_late": frozenset({"reshim", "replace", "rebuild"}),
    "seat_leaks": frozenset({"clean", "replace", "rebuild"}),
    "bad_spray": frozenset({"clean", "replace", "rebuild"}),
}
"""What helps an injector that is so; common practice, no source."""
NOTHING_NOTED: Final = "nothing was noted on any sheet: a guess earns nothing"
KEEPS: Final = frozenset({"", "keep"})
AN_HOUR: Final = 72.0
PRICES: Final[Mapping[str, float]] = {
    "keep": 0.0, "clean": 24.0, "replace": 118.0, "rebuild": 76.0, "reshim": 15.0,
}  # fmt: skip
A_CAUSE: Final = 90.0
"""What an hour, the work on an injector and a repair of the engine cost here; invented."""


class Judged(NamedTuple):
    """What is said of an injector: its condition and the work that it is sent to."""

    condition: str
    repair: str


class Incident(NamedTuple):
    """Something that could have hurt someone: what, and at which minute of the job."""

    what: str
    minute: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """The answer: injectors by number (those left out are good), causes on the engine, or elsewhere."""

    injectors: Mapping[int, Judged] = field(default_factory=dict)
    causes: frozenset[str] = frozenset()
    elsewhere: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Worked:
    """How it was worked: minutes against Plumb's own path and the whole route, hints, incidents.

    ``repaired`` are the causes that were put right on the way, ``seen`` the injectors that a sheet has something
    noted of (None: all of them), ``measured`` whether any sheet has anything: a guess earns nothing.
    """

    minutes: float
    own_minutes: float
    full_minutes: float
    repaired: tuple[str, ...] = ()
    seen: frozenset[int] | None = None
    measured: bool = True
    hints: int = 0
    incidents: tuple[Incident, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """One line of the marks: points got of points to be had, why, and the minute where it has one."""

    what: str
    got: float
    of: float
    why: str
    minute: float | None = None

    @property
    def lost(self) -> bool:
        """Whether something was lost here."""
        return self.got < self.of


@dataclass(frozen=True, slots=True, kw_only=True)
class Marks:
    """All lines, and what they come to, nought at least."""

    lines: tuple[Line, ...]

    @property
    def points(self) -> float:
        """Of a hundred."""
        return round(max(0.0, sum(line.got for line in self.lines)), 1)


def mark(engine: Hidden, said: Said, worked: Worked) -> Marks:
    """Hold an answer against what is true."""
    found = list(_bad_ones(engine, said, worked))
    rest = [
        *_good_ones(engine, said), _cause(engine, said), _minutes(worked),
        _money(engine, said, worked),
    ]  # fmt: skip
    if not worked.measured:
        # Each bad one says by itself that it was guessed.
        found = found if engine.truth else [_for_nothing(line) for line in found]
        rest = [_for_nothing(line) for line in rest]
    return Marks(lines=(*found, *rest, *_safety(engine, said, worked), *_hints(worked)))


def _for_nothing(line: Line) -> Line:
    return replace(line, got=0.0, why=NOTHING_NOTED)


def _bad_ones(engine: Hidden, said: Said, worked: Worked) -> Iterator[Line]:
    if not engine.truth:
        yield Line(
            what="injectors", got=INJECTORS, of=INJECTORS, why="there was no bad one to find"
        )
        return
    each = INJECTORS / len(engine.truth)
    for k, truth in sorted(engine.truth.items()):
        judged = said.injectors.get(k + 1, Judged("", ""))
        named = judged.condition in AS_GOOD_AS[truth]
        helped = judged.repair in REPAIRS[truth]
        got = each / 2.0 * (named + helped)
        told = truth.replace("_", " ")
        if (named or helped) and worked.seen is not None and k + 1 not in worked.seen:
            yield Line(
                what=f"injector {k + 1}", got=0.0, of=each,
                why=f"{k + 1} {told}: guessed, no sheet has anything noted of it",
            )  # fmt: skip
            continue
        if named and helped:
            why = f"{k + 1} {told}: found, and sent to the right work"
        elif named:
            why = f"{k + 1} {told}: found, but {judged.repair or 'nothing'} does not help it"
        elif helped:
            why = f"{k + 1} {told}: called {judged.condition.replace('_', ' ') or 'nothing'}"
        else:
            why = f"{k + 1} {told}: not found"
        yield Line(what=f"injector {k + 1}", got=got, of=each, why=why)


def _good_ones(engine: Hidden, said: Said) -> Iterator[Line]:
    """Those that were condemned though nothing is wrong with them; all alike tired is no fault of one."""
    tired = "all_clogged" in engine.causes
    wrong = [
        n
        for n, judged in sorted(said.injectors.items())
        if n - 1 not in engine.truth
        and judged.repair not in KEEPS
        and not (tired and judged.condition == "gives_less")
    ]
    lost = min(GOOD_ONES, A_GOOD_ONE * len(wrong))
    why = f"{', '.join(map(str, wrong))} condemned, and good" if wrong else "no good one condemned"
    yield Line(what="good ones", got=GOOD_ONES - lost, of=GOOD_ONES, why=why)


def _cause(engine: Hidden, said: Said) -> Line:
    missed = [c for c in sorted(engine.causes) if not SAME_REPAIR.get(c, {c}) & said.causes]
    allowed = {c for cause in engine.causes for c in SAME_REPAIR.get(cause, {cause})}
    wrong = sorted(said.causes - allowed)
    elsewhere = bool(engine.outside) == said.elsewhere
    got = CAUSE if not missed and not wrong and elsewhere else 0.0
    told = [f"{c.replace('_', ' ')} was not found" for c in missed]
    told += [f"{c.replace('_', ' ')} is sound" for c in wrong]
    if not elsewhere:
        outside = ", ".join(sorted(engine.outside))
        told.append(
            f"the complaint comes from {outside} too" if outside else "nothing else is wrong"
        )
    return Line(what="the engine", got=got, of=CAUSE, why="; ".join(told) or "rightly told")


def _minutes(worked: Worked) -> Line:
    got = MINUTES * _share(worked.minutes, worked.own_minutes, worked.full_minutes)
    why = (
        f"{worked.minutes:.0f} min; Plumb's own path takes {worked.own_minutes:.0f}, "
        f"the whole route {worked.full_minutes:.0f}"
    )
    return Line(what="minutes", got=round(got, 1), of=MINUTES, why=why)


def _share(spent: float, own: float, full: float) -> float:
    """1 up to a tenth above the own path, 0 from the whole route on, straight between."""
    own, full = CLOSE * own, max(full, 1.5 * own)
    return 1.0 if spent <= own else max(0.0, (full - spent) / (full - own))


def cost(minutes: float, repairs: Iterable[str], causes: int) -> float:
    """What minutes, work on injectors and repairs of the engine cost."""
    work = sum(PRICES.get(r, 0.0) for r in repairs)
    return minutes / 60.0 * AN_HOUR + work + causes * A_CAUSE


def spent(said: Said, worked: Worked) -> float:
    """What an answer costs with the way to it."""
    repairs = [j.repair for j in said.injectors.values()]
    return cost(worked.minutes, repairs, len(said.causes | set(worked.repaired)))


def _money(engine: Hidden, said: Said, worked: Worked) -> Line:
    """Against the same work on the bad ones, or the cheapest that helps where another was chosen."""
    needed = [
        chosen
        if (chosen := said.injectors.get(k + 1, Judged("", "")).repair) in REPAIRS[truth]
        else min(REPAIRS[truth], key=lambda r: PRICES[r])
        for k, truth in engine.truth.items()
    ]
    own, full = (
        cost(minutes, needed, len(engine.causes))
        for minutes in (worked.own_minutes, worked.full_minutes)
    )
    paid = spent(said, worked)
    why = f"{paid:.0f}; Plumb's own path costs {own:.0f}, the whole route {full:.0f}"
    return Line(what="money", got=round(MONEY * _share(paid, own, full), 1), of=MONEY, why=why)


_DANGERS: Final = {
    "outside_leak": "a leak to the outside was left: fuel where a spark can reach it",
    "unions": "a union of the high side was left leaking: such a jet goes through skin",
    "leaks_at_tip": "{} was left dripping: fuel in its cylinder and in the oil",
    "stuck_open": "{} was left open: it floods its cylinder, which can lock",
}
"""What is dangerous while it is not found; common practice, no source."""


def _left_behind(engine: Hidden, said: Said) -> Iterator[str]:
    """The dangers that the answer leaves on the engine."""
    for cause in sorted(engine.causes & _DANGERS.keys()):
        if not SAME_REPAIR.get(cause, {cause}) & said.causes:
            yield _DANGERS[cause]
    for k, truth in sorted(engine.truth.items()):
        judged = said.injectors.get(k + 1, Judged("", ""))
        if truth in _DANGERS and judged.repair not in REPAIRS[truth]:
            yield _DANGERS[truth].format(k + 1)


def _safety(engine: Hidden, said: Said, worked: Worked) -> Iterator[Line]:
    left, missed = SAFETY, tuple(_left_behind(engine, said))
    for why in missed:
        lost = min(left, AN_INCIDENT)
        left -= lost
        yield Line(what="safety", got=-lost, of=0.0, why=why)
    for incident in worked.incidents:
        lost = min(left, AN_INCIDENT)
        left -= lost
        yield Line(what="safety", got=-lost, of=0.0, why=incident.what, minute=incident.minute)
    happened = bool(worked.incidents or missed)
    why = "what is left of it stands above" if happened else "nobody was in danger"
    yield Line(what="safety", got=SAFETY, of=SAFETY, why=why)


def _hints(worked: Worked) -> Iterator[Line]:
    if worked.hints:
        yield Line(
            what="hints", got=-A_HINT * worked.hints, of=0.0, why=f"{worked.hints} asked for"
        )
