"""The return volumes in the job file."""

from typing import Literal, Self

from pydantic import Field, model_validator

from plumb.core.measure.quantities import kpa_per
from plumb.core.measure.readings import Noted, values_of
from plumb.core.procedures.returns.analysis import ReturnSheet
from plumb.jobfile.kinds.kind import Engine, FileKind, row_problems, scaled
from plumb.jobfile.models import GaugePart, Part, Positive, SheetPart, UnitName, ValuePart


class ReturnLimitsPart(Part):
    """A maker's limit for the time and state of the sheet."""

    high: Positive | None = None
    source: str = Field("", max_length=200)


class ReturnPart(SheetPart):
    """Return volumes."""

    kind: Literal["return_volume"]
    unit: Literal["ml"]
    gauge: GaugePart
    state: Literal["idle", "cranking"] = "idle"
    duration_s: Positive | None = None
    spells_s: list[Positive] = Field([], max_length=40)
    rail: Positive | None = None
    rail_unit: UnitName = "bar"
    clamped: bool | None = None
    window: ReturnLimitsPart = ReturnLimitsPart()
    readings: list[ValuePart] = Field(max_length=2000)

    @model_validator(mode="after")
    def _adds_up(self) -> Self:
        total = sum(self.spells_s)
        if self.spells_s and self.duration_s is not None and self.duration_s != total:
            message = (
                f"duration_s {self.duration_s} is not what spells_s add up to ({total}); "
                "leave one of them out"
            )
            raise ValueError(message)
        return self


def core(part: ReturnPart, rows: tuple[Noted, ...], engine: Engine) -> ReturnSheet:
    """Volumes with the time they were taken in."""
    return ReturnSheet(
        injectors=engine.labels,
        readings=values_of(rows),
        step=float(part.gauge.step),
        duration_s=scaled(part.duration_s) or scaled(sum(part.spells_s) or None),
        spells_s=tuple(float(s) for s in part.spells_s),
        rail_kpa=scaled(part.rail, kpa_per(part.rail_unit)),
        state=part.state,
        high=scaled(part.window.high),
        source=part.window.source,
        clamped=part.clamped,
    )


RETURNS = FileKind(
    model=ReturnPart, entries={"readings": ValuePart}, core=core, problems=row_problems
)
