"""The rail pressure in the job file."""

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import Field

from plumb.core.measure.problems import Problem
from plumb.core.measure.quantities import kpa_per
from plumb.core.measure.readings import Noted
from plumb.core.procedures.rail.analysis import RailResult, RailSheet
from plumb.jobfile.kinds.kind import DECIMALS, Engine, FileKind, too_high
from plumb.jobfile.models import (
    EnginePart,
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


class RailPart(SheetPart):
    """Rail pressure wanted and actual, against time."""

    kind: Literal["rail_pressure"]
    unit: UnitName
    engine: EnginePart = EnginePart(state="idle")
    trace: TraceNotePart | None = None
    series: list[RailPointPart] = Field([], max_length=20_000)


def core(part: RailPart, _rows: tuple[Noted, ...], _engine: Engine) -> RailSheet:
    """The moments of the rail; they are one trace, and no readings."""
    factor = kpa_per(part.unit)
    return RailSheet(
        series=tuple(
            (float(p.t_s), float(p.wanted) * factor, float(p.actual) * factor) for p in part.series
        )
    )


def problems(part: RailPart, _engine: Engine, path: str) -> Iterator[Problem]:
    """Time that does not go on, pressures beyond any rail."""
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
