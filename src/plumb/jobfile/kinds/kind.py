"""What the open formats ask of a kind of sheet: its model, how it becomes a sheet of the core."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, field, replace
from datetime import date
from decimal import Decimal
from functools import cache
from typing import Any, Final, Generic, Protocol, TypeVar, get_args

from pydantic import BaseModel

from plumb.core.compare.bursts import Limits
from plumb.core.compare.drops.expected import Expected
from plumb.core.compare.rules import RuleChoice
from plumb.core.measure.problems import Problem
from plumb.core.measure.quantities import KPA_PER, MOST_KPA, kpa_per, plain
from plumb.core.measure.readings import Mark, Noted, Window
from plumb.core.procedures import Sheet
from plumb.jobfile.models import ExpectedPart, LimitsPart, RulePart, SetLimitsPart, SheetPart
from plumb.jobfile.tracecolumns import Role


@dataclass(frozen=True, slots=True, kw_only=True)
class Engine:
    """The engine a sheet is for: injectors in reach order, the cylinder of each, its state.

    A cylinder of nought feeds all of them.  ``count`` is how many cylinders there are (none: one an
    injector), ``sets`` name the rail of each injector where there are several, ``banks`` its
    bank; ``retired`` ones are gone.
    """

    labels: tuple[str, ...]
    cylinders: Mapping[str, int]
    starts: bool = True
    fuel_system: str = "port"
    count: int = 0
    firing_order: tuple[int, ...] = ()
    sets: Mapping[str, str] = field(default_factory=dict)
    retired: frozenset[str] = frozenset()
    banks: Mapping[str, str] = field(default_factory=dict)

    def without(self, gone: AbstractSet[str]) -> "Engine":
        """The engine without some of its injectors."""
        if not gone:
            return self
        return replace(self, labels=tuple(x for x in self.labels if x not in gone))

    def numbers(self) -> tuple[int, ...]:
        """The cylinders: those with an injector of their own in reach order, then the others."""
        own = tuple(dict.fromkeys(c for x in self.labels if (c := self.cylinders.get(x, 0))))
        rest = (n for n in range(1, self.count + 1) if n not in own)
        return (*own, *rest) if len(own) < self.count else own

    def at(self, cylinder: int) -> str:
        """The first injector of a cylinder, empty where it has none of its own."""
        return next((x for x in self.labels if self.cylinders.get(x) == cylinder), "")

    def beside(self, cylinder: int) -> tuple[str, ...]:
        """The other injectors of that cylinder."""
        mine = [x for x in self.labels if self.cylinders.get(x) == cylinder]
        return tuple(mine[1:])

    def shared(self) -> tuple[str, ...]:
        """The injectors that feed all cylinders."""
        return tuple(x for x in self.labels if not self.cylinders.get(x))

    def of_set(self, name: str) -> "Engine":
        """The engine with the injectors of one set only; all of them where none is named."""
        if not name:
            return self
        return replace(self, labels=tuple(x for x in self.labels if self.sets.get(x, "") == name))


P = TypeVar("P", bound=SheetPart)


class _More(Protocol):
    def __call__(self, result: Any, unit: str) -> dict[str, Any]:  # noqa: ANN401  its own result
        """What a kind adds to its sheet's result."""


def _no_problems(_part: SheetPart, _engine: Engine, _path: str) -> Iterator[Problem]:
    yield from ()


def _nothing_more(result: Any, unit: str) -> dict[str, Any]:  # noqa: ANN401, ARG001
    return {}


@dataclass(frozen=True, slots=True, kw_only=True)
class Lessons:
    """How sheets of a kind learn from each other.

    ``name_of`` is the type of part a sheet is about, from its conditions; ``taught_by`` what its
    result teaches the others of that type, which their core sheet takes as ``learnt``.
    """

    name_of: Callable[[Mapping[str, Any]], str]
    taught_by: Callable[[Any], tuple[Any, ...]]


@dataclass(frozen=True, slots=True, kw_only=True)
class FileKind(Generic[P]):
    """One kind of sheet in the open formats.

    ``entries`` are the models of its readings by the list they stand in; ``core`` makes the core's
    sheet of the part and of the rows that were noted; ``problems`` are those that no model alone can
    know (the sheet's path goes before theirs).  In CSV its figures are ``quantities``, and
    ``beside`` them stand others: each with its unit, or that it is a word.  ``more`` is what its
    result tells beyond what every sheet's does.  ``roles`` are the columns of a trace that it can
    be taken from, ``lessons`` what it learns from other sheets.
    ``method`` is the way it was taken: of sheets taken in one way a repeat carries over whom it did not
    read; None where every sheet stands for itself.  ``asked`` is what was asked of each injector, by
    whatever gauge: sheets that asked the same can be held against each other over the years.  ``slots`` are rows that are no injectors and hang
    on the engine.  Where the file tells its readings in another form than one a row, ``folded`` are its
    fields that do, and ``fold`` makes them of the rows.
    """

    model: type[P]
    entries: Mapping[str, type[BaseModel]] = field(default_factory=dict)
    core: Callable[[P, tuple[Noted, ...], Engine], Sheet]
    problems: Callable[[P, Engine, str], Iterator[Problem]] = _no_problems
    quantities: tuple[str, ...] = ("value",)
    beside: Mapping[str, str] = field(default_factory=dict)
    more: _More = _nothing_more
    roles: tuple[Role, ...] = ()
    lessons: Lessons | None = None
    method: Callable[[P], Any] | None = None
    asked: Callable[[P], Any] | None = None
    slots: Callable[[Engine], tuple[str, ...]] = lambda _engine: ()
    folded: tuple[str, ...] = ()
    fold: Callable[[Sequence[Mapping[str, Any]]], dict[str, Any]] | None = None

    @property
    def code(self) -> str:
        """The kind's code."""
        return str(get_args(self.model.model_fields["kind"].annotation)[0])


AnyFileKind = FileKind[Any]
WORD: Final = "word"
AS_THE_SHEET: Final = "as the sheet"
DECIMALS: Final = 4
"""So many a result's figures are rounded to."""


def scaled(value: Decimal | None, factor: float = 1.0) -> float | None:
    """A figure of the file in the core's unit."""
    return None if value is None else float(value) * factor


def factor_of(unit: str) -> float:
    """How many of the core's unit one of a sheet's unit is: kPa for pressures, else one."""
    return KPA_PER.get(unit, 1.0)


def slot_of(entry: BaseModel) -> str:
    """The place on the sheet of a reading that belongs to no injector."""
    moment = getattr(entry, "t_s", None)
    if moment is not None:
        return moment_slot(plain(moment))
    cylinder = getattr(entry, "cylinder", None)
    if cylinder is not None:
        return cylinder_slot(cylinder)
    return str(getattr(entry, "state", None) or getattr(entry, "step", ""))


def cylinder_slot(cylinder: int) -> str:
    """The row of a cylinder that has no injector of its own."""
    return f"cylinder {cylinder}"


def moment_slot(typed: str) -> str:
    """The slot of a moment of a hold."""
    return f"at {Decimal(typed).normalize():f}"


@cache
def _may_be_marked(model: type[BaseModel]) -> bool:
    return hasattr(model, "mark")


def noted(entry: BaseModel, unit: str, engine: Engine) -> Noted:
    """A reading of the file as the core takes it."""
    factor = factor_of(unit)
    # The fields that this kind of reading has: asking the model for others is slow.
    has = entry.__dict__

    def get(name: str, scale: float = 1.0) -> float | None:
        value = has.get(name)
        return None if value is None else float(value) * scale

    injector = has.get("injector")
    slot = ""
    if injector is None and (cylinder := has.get("cylinder")) is not None:
        injector = engine.at(cylinder)
        slot = "" if injector else cylinder_slot(cylinder)
    mark = getattr(entry, "mark") if _may_be_marked(type(entry)) else None  # noqa: B009
    return Noted(
        injector=injector or "",
        slot=slot if injector is not None else slot_of(entry),
        number=has.get("pass_", 1),
        at_s=get("t_s"),
        first=get("first", factor) if "first" in has else get("wanted", factor),
        second=get("second", factor) if "second" in has else get("actual", factor),
        value=get("value", factor),
        word=has.get("seen") or has.get("outcome"),
        mark=Mark(mark) if mark else None,
        sound=has.get("sound"),
        fires_at=get("fires_at", factor),
        spray=has.get("spray"),
        seat=has.get("seat"),
        shim_mm=get("shim_mm"),
        supply_v=get("supply_v"),
    )


def rule_choice(rule: RulePart, factor: float) -> RuleChoice:
    """The rule of a sheet for the core: fractions, and limits times ``factor``."""
    return RuleChoice(
        name=rule.name,
        label=rule.label,
        source=rule.source,
        limits=Limits(
            tolerance=scaled(rule.tolerance_percent, 0.01),
            limit=scaled(rule.limit, factor),
            reject=scaled(rule.reject, factor),
            score=scaled(rule.score),
            alpha=scaled(rule.alpha),
            suspect=rule.suspect,
        ),
    )


def expected_of(part: ExpectedPart | None, factor: float) -> Expected | None:
    """The drop that was foretold, and by whom."""
    if part is None:
        return None
    return Expected(
        drop=float(part.drop) * factor,
        source=part.source or "this sheet",
        since=date.fromisoformat(part.since) if part.since else None,
    )


def window_of(part: LimitsPart, factor: float = 1.0) -> Window:
    """A window of the file for the core."""
    return Window(
        low=scaled(part.low, factor),
        high=scaled(part.high, factor),
        spread=scaled(part.spread, factor) if isinstance(part, SetLimitsPart) else None,
        source=part.source,
    )


def row_problems(part: SheetPart, engine: Engine, path: str) -> Iterator[Problem]:
    """Rows of injectors that the engine does not have, two readings in one place, a wrong suspect."""
    rule = getattr(part, "rule", None)
    suspect = None if rule is None else rule.suspect
    if suspect is not None and suspect not in engine.labels:
        yield Problem(
            path=f"{path}.rule.suspect",
            rule="the suspect is one of the injectors",
            value=suspect,
            code="unknown_injector",
        )
    seen: set[tuple[str, int]] = set()
    readings: Iterable[Any] = getattr(part, "readings", ())
    for m, reading in enumerate(readings):
        here = f"{path}.readings[{m}]"
        if reading.injector not in engine.labels:
            yield Problem(
                path=f"{here}.injector",
                value=reading.injector,
                code="unknown_injector",
                rule="an injector of the vehicle: " + ", ".join(sorted(engine.labels)),
            )
        slot = (reading.injector, getattr(reading, "pass_", 1))
        if slot in seen:
            yield Problem(
                path=f"{here}.pass",
                rule="one reading for each injector and pass",
                value=f"injector {slot[0]} pass {slot[1]}",
                code="double",
            )
        seen.add(slot)


class OfCylinder(Protocol):
    """A reading that is told by cylinder."""

    @property
    def cylinder(self) -> int:
        """Its cylinder."""


def cylinders_once(
    readings: Sequence[OfCylinder], engine: Engine, path: str, what: str
) -> Iterator[Problem]:
    """Readings of cylinders that the engine does not have, and two of one cylinder."""
    cylinders, seen = engine.numbers(), set[int]()
    for m, reading in enumerate(readings):
        known = reading.cylinder in cylinders
        if not known or reading.cylinder in seen:
            yield Problem(
                path=f"{path}[{m}].cylinder",
                rule=f"one {what} for each cylinder"
                if known
                else "a cylinder of the vehicle: " + ", ".join(map(str, sorted(cylinders))),
                value=str(reading.cylinder),
                code="double" if known else "unknown_cylinder",
            )
        seen.add(reading.cylinder)


def too_high(value: Decimal | None, unit: str, path: str) -> Iterator[Problem]:
    """A pressure that no rail holds."""
    if value is not None and float(value) * kpa_per(unit) > MOST_KPA:
        yield Problem(
            path=path, rule="no fuel rail holds that much", value=f"{value} {unit}",
            code="beyond_any_rail",
        )  # fmt: skip
