"""The corrections in the job file."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from plumb.core.measure.readings import Noted, values_of
from plumb.core.procedures.correction.analysis import CorrectionSheet
from plumb.jobfile.kinds.kind import Engine, FileKind, row_problems, scaled
from plumb.jobfile.models import EnginePart, GaugePart, Instant, Label, Part, Positive, SheetPart
from plumb.jobfile.numbers import Number


class SignedPart(Part):
    """A correction, which may be below zero; null needs the note not_read."""

    injector: Label
    pass_: int = Field(1, alias="pass", ge=1, le=99)
    value: Annotated[Number, Field(ge=-1000, le=1000)] | None = None
    note: str = Field("", max_length=500)
    taken: Instant | None = None

    @property
    def mark(self) -> str | None:
        """The note, where it stands for a missing figure."""
        return self.note if self.note == "not_read" else None

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if (self.value is None) != (self.note == "not_read"):
            message = "a value is needed, or the note not_read"
            raise ValueError(message)
        return self


class ApartPart(Part):
    """How far corrections may lie from those that agree, in the sheet's unit."""

    apart: Positive | None = None
    source: str = Field("", max_length=200)


class CorrectionPart(SheetPart):
    """The controller's fuel corrections at idle."""

    kind: Literal["correction"]
    unit: Literal["mm3", "percent", "ms"]
    gauge: GaugePart
    window: ApartPart = ApartPart()
    engine: EnginePart = EnginePart(state="idle")
    readings: list[SignedPart] = Field(max_length=2000)


def core(part: CorrectionPart, rows: tuple[Noted, ...], engine: Engine) -> CorrectionSheet:
    """Corrections as the controller shows them."""
    return CorrectionSheet(
        injectors=engine.labels,
        readings=values_of(rows),
        step=float(part.gauge.step),
        unit=part.unit,
        apart=scaled(part.window.apart),
        source=part.window.source,
    )


CORRECTION = FileKind(
    model=CorrectionPart, entries={"readings": SignedPart}, core=core, problems=row_problems
)
