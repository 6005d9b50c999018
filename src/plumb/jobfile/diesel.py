"""The diesel sheets of the job file: corrections, cranking, rail, return volumes, nozzles."""

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
    UnitName,
    When,
)
from plumb.jobfile.numbers import Number
from plumb.jobfile.sheets import SetLimitsPart, ValuePart


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


class TraceNotePart(Part):
    """Where a sheet's figures were taken from: the file's name, and how many samples it had."""

    name: str = Field("", max_length=120)
    samples: int | None = Field(None, ge=0)


class CrankTracePart(TraceNotePart):
    """What was found in a trace of starter current: the humps' heights in per cent, by cycle.

    Each cycle holds one hump a cylinder in firing order.  ``synced`` says that the first is the
    first of ``firing_order``; without it nobody knows which hump is whose.
    """

    synced: bool = False
    cycles: list[
        Annotated[list[Annotated[Number, Field(ge=-1000, le=1000)]], Field(max_length=16)]
    ] = Field(max_length=2000)


class CrankingPart(SheetHead):
    """Cranking balance, a hump a cylinder: typed, or found in a trace; what is typed comes first."""

    kind: Literal["cranking_balance"]
    unit: Literal["percent"]
    gauge: GaugePart
    firing_order: list[Annotated[int, Field(ge=1, le=16)]] | None = Field(None, max_length=16)
    trace: CrankTracePart | None = None
    readings: list[HumpPart] = Field([], max_length=200)


class RailPointPart(Part):
    """One moment of the rail: pressure wanted and actual."""

    t_s: Annotated[Number, Field(ge=0)]
    wanted: NotNegative
    actual: NotNegative


class RailPart(SheetHead):
    """Rail pressure wanted and actual, against time."""

    kind: Literal["rail_pressure"]
    unit: UnitName
    engine: EnginePart = EnginePart(state="idle")
    trace: TraceNotePart | None = None
    series: list[RailPointPart] = Field([], max_length=20_000)


class NozzlePart(Part):
    """The nozzles: the name of their type, pintle or hole, and the torque of the body."""

    name: str = Field("", max_length=60)
    form: Literal["", "pintle", "hole"] = ""
    torque_nm: Positive | None = None


class LearntPart(Part):
    """A change of shims on this nozzle type elsewhere: mm more, pressure before and after."""

    shim_mm: Annotated[Number, Field(ge=-5, le=5)]
    before: Positive
    after: Positive


class StrokePart(Part):
    """One stroke of the hand pump; null needs the note none or not_read."""

    injector: Label
    pass_: int = Field(1, alias="pass", ge=1, le=99)
    value: NotNegative | None = None
    seat: Literal["dry", "damp", "wet"] | None = None
    sound: Literal["chatters", "weak", "silent"] | None = None
    spray: Literal["even", "streaky", "stream", "none"] | None = None
    shim_mm: Annotated[Number, Field(ge=0, le=20)] | None = None
    note: str = Field("", max_length=500)
    taken: Instant | None = None

    @property
    def mark(self) -> str | None:
        """The note, where it stands for a missing figure."""
        return self.note if self.note in {"none", "not_read"} else None

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if (self.value is None) != (self.mark is not None):
            message = "a value is needed, or the note none or not_read"
            raise ValueError(message)
        return self


class OpeningPart(SheetHead):
    """Opening pressure of mechanical nozzles, and the shims at hand.

    ``shim_unit`` is the one shims are typed and shown in; in the file they are mm.
    """

    kind: Literal["opening_pressure"]
    unit: UnitName
    gauge: GaugePart
    window: SetLimitsPart = SetLimitsPart()
    nozzle: NozzlePart = NozzlePart()
    strokes: int = Field(3, ge=1, le=9)
    shims_mm: list[Annotated[Number, Field(gt=0, le=20)]] = Field([], max_length=40)
    shim_unit: Literal["mm", "thou"] = "mm"
    when: When = ""
    learnt: list[LearntPart] = Field([], max_length=200)
    readings: list[StrokePart] = Field(max_length=2000)


class ReturnPart(SheetHead):
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
