"""The record of a kind of sheet: everything that the rest of the house asks of a procedure.

Nobody outside a procedure's folder names its kind or its classes; who needs to know something of
it asks this record.

>>> petrol(30)["port"].order
30
"""

from collections.abc import Callable, Iterator, Mapping
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, field
from typing import Any, Final, Generic, Protocol, TypeVar

from plumb.core.causes.shows import Shows
from plumb.core.compare.alone import alone_without_reference
from plumb.core.compare.renewed import only_renewed
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.fact import Fact
from plumb.core.measure.finding import Finding
from plumb.core.measure.lines import Working
from plumb.core.measure.spoken import NO_START
from plumb.core.measure.step import NextStep
from plumb.core.measure.text import Span
from plumb.core.procedures.guide import Guide

PETROL: Final = ("port", "throttle_body", "direct")


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """The engine that a sheet is read on: its fuel system, whether it starts at all, and is boosted."""

    fuel_system: str = "port"
    starts: bool = True
    boosted: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What is told beside the work: how it is done, how to measure, the care it takes, its rows.

    Where something is empty, what holds for most engines stands.
    """

    how: str = ""
    measure: str = ""
    care: str = ""
    slots: tuple[str, ...] = ()


class Sheet(Protocol):
    """What any sheet puts in."""

    @property
    def kind(self) -> str:
        """Which procedure it is."""


class Result(Protocol):
    """What any sheet's analysis gives."""

    @property
    def kind(self) -> str:
        """Which procedure it is."""

    @property
    def findings(self) -> tuple[Finding, ...]:
        """One an injector in reach order, or one a state or limit of the engine; may be empty."""

    @property
    def begun(self) -> bool:
        """Whether anything was noted on the sheet."""

    @property
    def passed(self) -> bool:
        """Everything was looked at, and nothing is out."""


S = TypeVar("S", bound=Sheet)
R = TypeVar("R", bound=Result)


@dataclass(frozen=True, slots=True, kw_only=True)
class Effort:
    """Minutes of a procedure: once, and for each injector; ``cold`` is better on a cold engine.

    ``whole_set``: it is done on all injectors or not at all; ``spot``: unless one of them is in doubt, who is read
    beside a neighbour, or alone where it takes none (``beside``); ``later`` are the minutes of the steps that
    a begun one leads to.  Common practice, no source.
    """

    once: float
    each: float = 0.0
    cold: bool = False
    whole_set: bool = False
    spot: bool = False
    beside: bool = False
    later: float = 0.0

    def minutes(self, count: int) -> float:
        """How long it takes for so many injectors."""
        return self.once + self.each * count


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """Where a kind stands in the working order of a fuel system.

    ``first`` is the reason (a code of the next step's words) for which it is asked for before the
    set is measured at all, empty where it is not; ``when`` is the fact that this hangs on, or
    that the engine does not start (``NO_START``).
    """

    order: int
    first: str = ""
    when: str = ""


def petrol(order: int, **more: str) -> dict[str, Place]:
    """The same place on every petrol engine."""
    return dict.fromkeys(PETROL, Place(order=order, **more))


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """How readings are noted.

    ``shape`` is burst (two pressures, before and after), pair (two pressures, wanted and actual), value,
    stroke (a value with shims and what was seen), point (a moment and a value), words, or form (ticks,
    no readings).  ``figures``
    name the fields; ``marks`` are what may stand in place of a figure; ``words`` are (word, key);
    ``slots`` are the rows of a sheet whose rows are no injectors; ``once``: one reading a row;
    ``signed``: a figure may be below zero; ``like`` is the fuel system whose pressures are usual
    here, empty for the engine's own.
    """

    shape: str
    figures: tuple[str, ...] = ()
    marks: frozenset[str] = frozenset()
    words: tuple[tuple[str, str], ...] = ()
    sounds: tuple[str, ...] = ()
    seats: tuple[str, ...] = ()
    sprays: tuple[str, ...] = ()
    slots: tuple[str, ...] = ()
    signed: bool = False
    once: bool = False
    like: str = ""


def _nothing(_result: object, _unit: str) -> tuple[str, ...]:
    return ()


def _under(_finding: Finding, _result: object, _unit: str) -> str:
    return ""


def _asks_nothing(_kind: object, _result: object, _told: AbstractSet[str]) -> None:
    return None


def _itself(result: Result) -> str:
    return result.kind


@dataclass(frozen=True, slots=True, kw_only=True)
class Kind(Generic[S, R]):
    """One kind of sheet.

    What it is called: ``code`` in files, ``title``; ``straight`` where a job begins straight with
    it; ``head`` over its column in the verdict's matrix, ``how`` it is done in half a line, how to ``measure`` in a sentence, ``care``.

    Where it stands: ``places`` by fuel system, ``effort``, ``engine`` is off, idle, cranking or
    any; ``of_engine``: it says something of the engine as a whole, not of one injector;
    ``cranks``: what is done at idle can be done while cranking as well; ``on`` is what is told otherwise
    in a fuel system, on an engine that does not start (``NO_START``), or both ("direct no_start").
    ``optional``: not offered before it is asked for; ``together``: the figures of one time
    hang together, and after a repair all are read again; ``compares``: it measures what injectors did
    against each other, so that one of these must have been done; ``must``: where a route has it,
    no other will do; ``electrical``: it looks at coil and wiring, which cleaning leaves as they
    are; ``tracks`` is what is followed over the years: a share of the reference, or the value itself.  ``behind`` are (suspicion, reason): cleared before this is begun.

    ``says`` are all the words that a row of it can carry, ``unsaid`` those of them that it cannot in a
    fuel system, ``absent`` the facts that it cannot make in
    a fuel system.

    What it tells: ``guide`` is how it is done, for who does it for the first time; ``unit`` is the usual one, ``entry`` how readings are noted; ``makes`` its facts
    by code, each with when it is made; ``shows`` what it would show of each fault, and how often;
    ``clears`` the suspicions it is asked for to settle;
    ``asks_by`` those that its own ``asks`` looks at; ``spoilt_by`` those under which a sheet tells
    nothing that would hold once they are put right; ``looked_at`` is what is looked at, by fuel system.

    What it does: ``analyse``, ``facts``, and the words: ``headline``, ``notes``, ``state`` of a row,
    ``because``, ``under`` (the small line), ``working``; ``complains`` gives the words of the complaint,
    ``codes_read`` fault codes, ``later`` what the owner is told to watch, ``runs`` says that the engine ran while it was taken.  ``asks`` is what a begun sheet still asks
    for, given the facts of the whole job; ``speaks_as`` under which name its newest sheet speaks for
    the job.  Pressures in words are in the ``unit`` that is given.
    """

    code: str
    title: str
    head: str = ""
    straight: str = ""
    how: str
    measure: str = ""
    care: str
    places: Mapping[str, Place]
    effort: Effort
    engine: str = "off"
    cranks: bool = False
    on: Mapping[str, Told] = field(default_factory=dict)
    of_engine: bool = False
    optional: bool = False
    together: bool = False
    compares: bool = False
    must: bool = False
    electrical: bool = False
    tracks: str = ""
    behind: tuple[tuple[str, str], ...] = ()
    unit: str = ""
    entry: Entry
    makes: Mapping[str, str]
    guide: Guide
    looked_at: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    shows: tuple[Shows, ...] = ()
    clears: tuple[str, ...] = ()
    asks_by: frozenset[str] = frozenset()
    spoilt_by: frozenset[str] = frozenset()
    analyse: Callable[[S, Thresholds], R]
    facts: Callable[[str, R], Iterator[Fact]]
    headline: Callable[[R, str], tuple[Span, ...]]
    notes: Callable[[R, str], tuple[str, ...]] = _nothing
    state: Callable[[Finding, R], str]
    because: Callable[[Finding, R, str], str]
    under: Callable[[Finding, R, str], str] = _under
    working: Callable[[R, str], Working]
    says: tuple[str, ...] = ()
    unsaid: Mapping[str, frozenset[str]] = field(default_factory=dict)
    absent: Mapping[str, frozenset[str]] = field(default_factory=dict)
    complains: Callable[[R], tuple[str, ...]] = lambda _result: ()
    runs: Callable[[R], bool] = lambda _result: False
    codes_read: Callable[[R], tuple[str, ...]] = lambda _result: ()
    later: Callable[[R], tuple[str, ...]] = lambda _result: ()
    asks: Callable[["Kind[S, R]", R, AbstractSet[str]], NextStep | None] = _asks_nothing
    speaks_as: Callable[[R], str] = field(default=_itself)

    def told(self, setting: Setting) -> Told:
        """What is told beside the work on that engine; what is said most closely goes first."""
        stalled = () if setting.starts else (f"{setting.fuel_system} {NO_START}", NO_START)
        said = [self.on[name] for name in (*stalled, setting.fuel_system) if name in self.on]
        said.append(
            Told(how=self.how, measure=self.measure, care=self.care, slots=self.entry.slots)
        )
        return Told(
            how=next(s.how for s in said if s.how),
            measure=next((s.measure for s in said if s.measure), ""),
            care=next(s.care for s in said if s.care),
            slots=next((s.slots for s in said if s.slots), ()),
        )

    def makes_on(self, fuel_system: str) -> frozenset[str]:
        """The facts that it can make in a fuel system."""
        return frozenset(self.makes) - self.absent.get(fuel_system, frozenset())

    def says_on(self, fuel_system: str) -> tuple[str, ...]:
        """The words that a row of it can carry in a fuel system."""
        return tuple(w for w in self.says if w not in self.unsaid.get(fuel_system, frozenset()))

    def can_be_done(self, setting: Setting) -> bool:
        """Whether the engine's state allows it: one that does not start runs nothing at idle."""
        return setting.starts or self.cranks or self.engine != "idle"

    def step(
        self,
        injectors: tuple[str, ...],
        reason: str,
        *,
        passes: int = 1,
        doubt: str = "",
        moves: tuple[tuple[str, str, float], ...] = (),
    ) -> NextStep:
        """A next step on this kind of sheet, with the minutes it takes."""
        return NextStep(
            kind=self.code, injectors=injectors, passes=passes, reason=reason, doubt=doubt,
            minutes=self.effort.minutes(len(injectors)), moves=moves,
        )  # fmt: skip


AnyKind = Kind[Any, Any]


def unread(kind: AnyKind, result: Result, _told: AbstractSet[str]) -> NextStep | None:
    """The rows that were not read yet, asked for together; then what an only one is held against."""
    missing = tuple(f.injector for f in result.findings if not f.passes)
    if missing and only_renewed(result.findings):
        return kind.step(missing if kind.together else missing[:1], "beside_new")
    if missing:
        return kind.step(missing, "not_measured")
    alone = alone_without_reference(result.findings)
    return kind.step(alone, "alone") if alone else None
