"""The running balance in the job file."""

from dataclasses import replace
from typing import Literal

from pydantic import Field

from plumb.core.compare.drops.sheet import DropSheet
from plumb.core.measure.quantities import kpa_per
from plumb.core.measure.readings import Noted
from plumb.core.procedures.running.analysis import (
    KIND,
    SCATTER,
    USUAL_TOLERANCE,
    burst_of,
    outside_running,
)
from plumb.jobfile.kinds.compared import more
from plumb.jobfile.kinds.kind import (
    Engine,
    FileKind,
    expected_of,
    row_problems,
    rule_choice,
    scaled,
)
from plumb.jobfile.models import (
    EnginePart,
    ExpectedPart,
    GaugePart,
    NotNegative,
    Part,
    Positive,
    RulePart,
    SheetPart,
    UnitName,
    ValuePart,
    When,
)


class RunningConditionsPart(Part):
    """Entry conditions of the running balance, in the sheet's unit."""

    low_side: NotNegative | None = None
    lost_in_60_s: NotNegative | None = None
    rail: Positive | None = None


class RunningPart(SheetPart):
    """Rail drops that the tester reports for each injector, the engine idling."""

    kind: Literal["injector_balance_running"]
    unit: UnitName
    gauge: GaugePart
    conditions: RunningConditionsPart = RunningConditionsPart()
    engine: EnginePart = EnginePart(state="idle")
    rule: RulePart = RulePart()
    when: When = ""
    expected: ExpectedPart | None = None
    readings: list[ValuePart] = Field(max_length=2000)


def core(part: RunningPart, rows: tuple[Noted, ...], engine: Engine) -> DropSheet:
    """Rail drops as bursts from the rail's pressure, and what is outside its conditions."""
    factor = kpa_per(part.unit)
    rail = scaled(part.conditions.rail, factor)

    def reading(r: Noted) -> Noted:
        if r.value is None:
            return r
        burst = burst_of(r.value, rail)
        return replace(r, first=burst.first, second=burst.second)

    return DropSheet(
        kind=KIND,
        injectors=engine.labels,
        step=float(part.gauge.step) * factor,
        rule=rule_choice(part.rule, factor),
        expected=expected_of(part.expected, factor),
        readings=tuple(reading(r) for r in rows),
        when=part.when,
        prior=SCATTER,
        usual=USUAL_TOLERANCE,
        outside=outside_running(
            low_side=scaled(part.conditions.low_side, factor),
            lost=scaled(part.conditions.lost_in_60_s, factor),
            rail=rail,
            unit=part.unit,
        ),
    )


RUNNING = FileKind(
    model=RunningPart,
    entries={"readings": ValuePart},
    core=core,
    problems=row_problems,
    more=more,
    method=lambda part: (part.unit, part.gauge.step, part.conditions.rail),
    asked=lambda part: part.conditions.rail,
)
