"""The diesel sheets of the job file: corrections, cranking balance, return volumes."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from plumb.jobfile.models import (
    EnginePart,
    GaugePart,
    Instant,
    Label,
    NotNegative,
    Part,
    Positive,
    SheetHead,
)
from plumb.jobfile.numbers import Number
from plumb.jobfile.sheets import ValuePart


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


class HumpPart(Part):
    """The hump of starter current of one cylinder."""

    cylinder: int = Field(ge=1, le=16)
    value: NotNegative
    note: str = Field("", max_length=500)
    taken: Instant | None = None


class ApartPart(Part):
    """How far corrections may lie from those that agree, in the sheet's unit."""

    apart: Positive | None = None
    source: str = Field("", max_length=200)


class ReturnLimitsPart(Part):
    """A maker's limit for the time and state of the sheet."""

    high: Positive | None = None
    source: str = Field("", max_length=200)


class CorrectionPart(SheetHead):
    """The controller's fuel corrections at idle."""

    kind: Literal["correction"]
    unit: Literal["mm3", "percent", "ms"]
    gauge: GaugePart
    window: ApartPart = ApartPart()
    engine: EnginePart = EnginePart(state="idle")
    readings: list[SignedPart] = Field(max_length=2000)


class CrankingPart(SheetHead):
    """Cranking balance, a hump a cylinder."""

    kind: Literal["cranking_balance"]
    unit: Literal["percent"]
    gauge: GaugePart
    readings: list[HumpPart] = Field(max_length=200)


class ReturnPart(SheetHead):
    """Return volumes."""

    kind: Literal["return_volume"]
    unit: Literal["ml"]
    gauge: GaugePart
    state: Literal["idle", "cranking"] = "idle"
    duration_s: Positive | None = None
    rail: Positive | None = None
    clamped: bool | None = None
    window: ReturnLimitsPart = ReturnLimitsPart()
    readings: list[ValuePart] = Field(max_length=2000)
