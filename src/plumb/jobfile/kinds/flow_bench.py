"""The flow bench in the job file."""

from dataclasses import replace
from typing import Literal

from pydantic import Field

from plumb.core.compare.drops.sheet import DropSheet
from plumb.core.measure.readings import Noted
from plumb.core.procedures.flow_bench.analysis import KIND
from plumb.jobfile.kinds.compared import more
from plumb.jobfile.kinds.kind import (
    WORD,
    Engine,
    FileKind,
    expected_of,
    row_problems,
    rule_choice,
)
from plumb.jobfile.models import (
    ExpectedPart,
    GaugePart,
    Positive,
    RulePart,
    SheetPart,
    Spray,
    ValuePart,
    When,
)


class BenchReadingPart(ValuePart):
    """One volume on the flow bench, and how its spray looked."""

    spray: Spray | None = None


class FlowBenchPart(SheetPart):
    """Volumes on the flow bench."""

    kind: Literal["flow_bench"]
    unit: Literal["ml"]
    gauge: GaugePart
    mode: Literal["static", "pulsed"] = "pulsed"
    duration_s: Positive | None = None
    when: When = ""
    rule: RulePart = RulePart()
    expected: ExpectedPart | None = None
    readings: list[BenchReadingPart] = Field(max_length=2000)


def core(part: FlowBenchPart, rows: tuple[Noted, ...], engine: Engine) -> DropSheet:
    """Volumes, compared as they are, with their sprays."""
    return DropSheet(
        kind=KIND,
        linear=True,
        when=part.when,
        injectors=engine.labels,
        step=float(part.gauge.step),
        rule=rule_choice(part.rule, 1.0),
        expected=expected_of(part.expected, 1.0),
        readings=tuple(
            replace(r, first=r.value, second=None if r.value is None else 0.0) for r in rows
        ),
    )


FLOW_BENCH = FileKind(
    model=FlowBenchPart,
    entries={"readings": BenchReadingPart},
    core=core,
    problems=row_problems,
    beside={"spray": WORD},
    more=more,
    method=lambda part: (part.gauge.step, part.mode, part.duration_s),
    asked=lambda part: (part.mode, part.duration_s),
)
