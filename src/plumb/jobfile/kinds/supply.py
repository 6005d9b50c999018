"""The supply pressure in the job file."""

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from plumb.core.measure.problems import Problem
from plumb.core.measure.quantities import kpa_per
from plumb.core.measure.readings import Noted
from plumb.core.procedures.supply.analysis import SupplySheet
from plumb.jobfile.kinds.kind import Engine, FileKind, scaled, too_high, window_of
from plumb.jobfile.models import (
    EnginePart,
    GaugePart,
    Instant,
    LimitsPart,
    NotNegative,
    Part,
    SheetPart,
    UnitName,
)
from plumb.jobfile.numbers import Number

SupplyState = Literal["key_on", "cranking", "running", "hose_off"]


class SupplyReadingPart(Part):
    """The supply pressure in one state of the engine."""

    state: SupplyState
    value: NotNegative
    note: str = Field("", max_length=500)
    taken: Instant | None = None


class SupplyPart(SheetPart):
    """Supply pressure."""

    kind: Literal["supply_pressure"]
    unit: UnitName
    gauge: GaugePart
    pump: Literal["", "runs", "clicks_only", "silent"] = ""
    pump_v: Annotated[Number, Field(ge=0, le=60)] | None = None
    windows: dict[SupplyState, LimitsPart] = Field({})
    engine: EnginePart = EnginePart()
    readings: list[SupplyReadingPart] = Field(max_length=30)


def core(part: SupplyPart, rows: tuple[Noted, ...], _engine: Engine) -> SupplySheet:
    """Pressures and windows by the state of the engine."""
    factor = kpa_per(part.unit)
    return SupplySheet(
        readings=tuple((r.slot, r.value) for r in rows if r.value is not None),
        step=float(part.gauge.step) * factor,
        u_class=part.gauge.u_class(factor),
        windows=tuple((name, window_of(w, factor)) for name, w in part.windows.items()),
        pump=part.pump,
        pump_v=scaled(part.pump_v),
    )


def problems(part: SupplyPart, _engine: Engine, path: str) -> Iterator[Problem]:
    """Two readings of one state, pressures beyond any rail."""
    states = [r.state for r in part.readings]
    for m, reading in enumerate(part.readings):
        if reading.state in states[:m]:
            yield Problem(
                path=f"{path}.readings[{m}].state", rule="one reading for each state",
                value=reading.state, code="double",
            )  # fmt: skip
        yield from too_high(reading.value, part.unit, f"{path}.readings[{m}].value")


SUPPLY = FileKind(
    model=SupplyPart, entries={"readings": SupplyReadingPart}, core=core, problems=problems
)
