"""The pressure drop sheet in the job file."""

from collections.abc import Iterator
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from plumb.core.compare.drops.sheet import DropSheet
from plumb.core.measure.problems import Problem
from plumb.core.measure.quantities import kpa_per
from plumb.core.measure.readings import Noted
from plumb.core.procedures.drop.analysis import KIND
from plumb.jobfile.kinds.compared import more
from plumb.jobfile.kinds.kind import (
    AS_THE_SHEET,
    WORD,
    Engine,
    FileKind,
    expected_of,
    row_problems,
    rule_choice,
    scaled,
    too_high,
)
from plumb.jobfile.models import (
    BurstPart,
    EnginePart,
    ExpectedPart,
    GaugePart,
    Instant,
    Label,
    NotNegative,
    Part,
    RulePart,
    SheetPart,
    UnitName,
    When,
)
from plumb.jobfile.numbers import Number
from plumb.jobfile.tracecolumns import TIME, Role

Volts = Annotated[Number, Field(gt=0, le=60)]


class DropReadingPart(Part):
    """One burst.  A figure left out needs the note ``none`` or ``not_read``.

    ``supply_v`` is what the tester had when it was taken; without one the sheet's holds.
    """

    injector: Label
    pass_: int = Field(1, alias="pass", ge=1, le=99)
    first: NotNegative | None = None
    second: NotNegative | None = None
    sound: Literal["clicks", "buzzes", "none"] | None = None
    fires_at: NotNegative | None = None
    supply_v: Volts | None = None
    note: str = Field("", max_length=500)
    taken: Instant | None = None

    @property
    def mark(self) -> str | None:
        """The note, where it is one of the three words that mean something."""
        return self.note if self.note in {"none", "not_read", "read_late"} else None

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if self.second is None and self.mark not in {"none", "not_read"}:
            message = "a second reading is needed, or the note none or not_read"
            raise ValueError(message)
        if self.second is not None and self.first is None:
            message = "a second reading needs its first"
            raise ValueError(message)
        if self.second is not None and self.mark in {"none", "not_read"}:
            message = f"the note {self.mark} stands for a missing figure, but there is one"
            raise ValueError(message)
        return self


class DropSheetPart(SheetPart):
    """A pressure drop sheet."""

    kind: Literal["pressure_drop"]
    unit: UnitName
    gauge: GaugePart
    burst: BurstPart = BurstPart()
    engine: EnginePart = EnginePart()
    rule: RulePart = RulePart()
    expected: ExpectedPart | None = None
    supply_v: Volts | None = None
    neighbour_proven: bool | None = None
    when: When = ""
    readings: list[DropReadingPart] = Field(max_length=2000)


def core(part: DropSheetPart, rows: tuple[Noted, ...], engine: Engine) -> DropSheet:
    """Bursts with what was noted beside them."""
    factor = kpa_per(part.unit)
    return DropSheet(
        kind=KIND,
        injectors=engine.labels,
        step=float(part.gauge.step) * factor,
        rule=rule_choice(part.rule, factor),
        expected=expected_of(part.expected, factor),
        neighbour_proven=bool(part.neighbour_proven),
        supply_v=scaled(part.supply_v),
        driven_by=part.burst.driven_by,
        when=part.when,
        readings=rows,
    )


def problems(part: DropSheetPart, engine: Engine, path: str) -> Iterator[Problem]:
    """Rows that do not fit, pressures beyond any rail, a second reading above the first."""
    yield from row_problems(part, engine, path)
    for m, reading in enumerate(part.readings):
        here = f"{path}.readings[{m}]"
        yield from too_high(reading.first, part.unit, f"{here}.first")
        yield from too_high(reading.second, part.unit, f"{here}.second")
        if (
            reading.first is not None
            and reading.second is not None
            and reading.second - reading.first > 2 * part.gauge.step
        ):
            yield Problem(
                path=f"{here}.second",
                value=f"{reading.first} to {reading.second}",
                rule="the pressure cannot rise in a burst: second is at most first",
                code="swapped",
            )


DROP = FileKind(
    model=DropSheetPart,
    entries={"readings": DropReadingPart},
    core=core,
    problems=problems,
    quantities=("first", "second"),
    beside={"sound": WORD, "fires_at": AS_THE_SHEET, "supply_v": "V"},
    more=more,
    method=lambda part: (part.unit, part.gauge.step, part.burst),
    asked=lambda part: part.burst,
    roles=(
        TIME,
        Role("pressure", "pressure", names=r"press|^p\b|druck|rail", pressure=True),
    ),
)
