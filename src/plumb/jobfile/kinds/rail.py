"""The rail pressure in the job file."""

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import Field

from plumb.core.measure.problems import Problem
from plumb.core.measure.quantities import kpa_per
from plumb.core.measure.readings import Noted
from plumb.core.procedures.rail.analysis import STATES, RailResult, RailSheet
from plumb.core.procedures.rail.together import Together
from plumb.jobfile.kinds.kind import DECIMALS, Engine, FileKind, too_high
from plumb.jobfile.models import (
    EnginePart,
    Instant,
    Label,
    NotNegative,
    Part,
    SheetPart,
    TraceNotePart,
    UnitName,
)
from plumb.jobfile.numbers import Number
from plumb.jobfile.tracecolumns import TIME, Role


class RailPointPart(Part):
    """One moment of the rail: pressure wanted and actual."""

    t_s: Annotated[Number, Field(ge=0)]
    wanted: NotNegative
    actual: NotNegative


class RailReadingPart(Part):
    """What the controller shows in one state of the engine: pressure wanted and actual."""

    state: Literal["cranking", "idle", "raised"]
    wanted: NotNegative
    actual: NotNegative
    note: str = Field("", max_length=500)
    taken: Instant | None = None


class SwingPart(Part):
    """What somebody saw the rail go to and fro between while it idled, in the sheet's unit."""

    low: NotNegative
    high: NotNegative


class TogetherPart(Part):
    """A correction that the same trace holds: how far it swings, and how far it goes with the rail (0 to 1)."""

    injector: Label
    swing: NotNegative
    with_rail: Annotated[Number, Field(ge=0, le=1)]


class RailPart(SheetPart):
    """Rail pressure wanted and actual: against time, or read in some states of the engine."""

    kind: Literal["rail_pressure"]
    unit: UnitName
    engine: EnginePart = EnginePart()
    trace: TraceNotePart | None = None
    swing: SwingPart | None = None
    together: list[TogetherPart] = Field([], max_length=32)
    readings: list[RailReadingPart] = Field([], max_length=30)
    series: list[RailPointPart] = Field([], max_length=20_000)


def core(part: RailPart, rows: tuple[Noted, ...], engine: Engine) -> RailSheet:
    """The moments of the rail, which are one trace, and the figures that were read."""
    factor = kpa_per(part.unit)
    usual = "idle" if engine.starts else "cranking"
    return RailSheet(
        seen=(float(part.swing.low) * factor, float(part.swing.high) * factor)
        if part.swing
        else None,
        together=tuple(
            Together(injector=x.injector, swing=float(x.swing), with_rail=float(x.with_rail))
            for x in part.together
        ),
        engine=part.engine.state if part.engine.state in STATES else usual,
        read=tuple(
            (r.slot, r.first, r.second)
            for r in rows
            if r.first is not None and r.second is not None
        ),
        series=tuple(
            (float(p.t_s), float(p.wanted) * factor, float(p.actual) * factor) for p in part.series
        ),
    )


def problems(part: RailPart, _engine: Engine, path: str) -> Iterator[Problem]:
    """Time that does not go on, a state that was read twice, pressures beyond any rail."""
    states = [r.state for r in part.readings]
    for m, reading in enumerate(part.readings):
        here = f"{path}.readings[{m}]"
        if reading.state in states[:m]:
            yield Problem(
                path=f"{here}.state", rule="one reading for each state", value=reading.state,
                code="double",
            )  # fmt: skip
        yield from too_high(reading.wanted, part.unit, f"{here}.wanted")
        yield from too_high(reading.actual, part.unit, f"{here}.actual")
    if part.swing is not None:
        yield from too_high(part.swing.high, part.unit, f"{path}.swing.high")
        if part.swing.low > part.swing.high:
            yield Problem(
                path=f"{path}.swing.low", rule="the lowest is not above the highest",
                value=str(part.swing.low), code="crossed",
            )  # fmt: skip
    for m, point in enumerate(part.series):
        if m and point.t_s <= part.series[m - 1].t_s:
            yield Problem(
                path=f"{path}.series[{m}].t_s", rule="time goes on from moment to moment",
                value=str(point.t_s), code="not_rising",
            )  # fmt: skip
        yield from too_high(point.wanted, part.unit, f"{path}.series[{m}].wanted")
        yield from too_high(point.actual, part.unit, f"{path}.series[{m}].actual")


def more(result: RailResult, unit: str) -> dict[str, Any]:
    """How the rail follows what is wanted."""
    factor = kpa_per(unit)
    return {
        "rail": {
            "state": result.state,
            "bias": round(result.bias / factor, DECIMALS),
            "swing": round(result.swing / factor, DECIMALS),
            "frequency_hz": None
            if result.frequency_hz is None
            else round(result.frequency_hz, DECIMALS),
            "beyond_percent": round(100.0 * result.beyond, 2),
            "unit": unit,
        }
    }


RAIL = FileKind(
    model=RailPart,
    entries={"readings": RailReadingPart},
    quantities=("wanted", "actual"),
    core=core,
    problems=problems,
    more=more,
    roles=(
        TIME,
        Role(
            "wanted",
            "pressure wanted",
            names=r"want|set|target|desir|demand|spec|nominal|soll",
            pressure=True,
        ),
        Role("actual", "actual pressure", names=r"act|meas|real|^is\b|^ist\b", pressure=True),
    ),
)
