"""The parts that every sheet of the job file is made of, and the drop sheet.

Unknown keys are refused with their path, ``x-...`` keys are kept.
"""

from datetime import datetime
from typing import Annotated, Any, Literal, LiteralString, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator
from pydantic_core import PydanticCustomError

from plumb.jobfile.numbers import Number

UnitName = Literal["psi", "kPa", "bar", "MPa", "kgf/cm2"]
FuelSystem = Literal["port", "throttle_body", "direct", "common_rail", "mechanical_diesel"]
RuleName = Literal[
    "flow_index",
    "plain_mean",
    "ends_left_out",
    "suspect_left_out",
    "commonest_drop",
    "end_pressure",
    "within_each_other",
    "modified_z",
    "extreme_studentized",
    "analysis_of_means",
]
When = Literal["", "before_cleaning", "after_cleaning"]
EngineState = Literal["key_on_engine_off", "off", "idle", "cranking"]


def _instant(text: str) -> str:
    """ISO 8601 with an offset; kept as it was written."""
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        message = "a time like 2026-05-12T09:10:00+02:00 is needed"
        raise ValueError(message) from None
    if moment.tzinfo is None:
        message = "the time needs its offset, for example +02:00"
        raise ValueError(message)
    return text


Instant = Annotated[
    str, Field(max_length=40, json_schema_extra={"format": "date-time"}), AfterValidator(_instant)
]
Label = Annotated[str, Field(min_length=1, max_length=12)]
Positive = Annotated[Number, Field(gt=0)]
NotNegative = Annotated[Number, Field(ge=0)]


class Part(BaseModel):
    """Ground of every part: unknown keys are refused, ``x-...`` keys are kept."""

    model_config = ConfigDict(
        extra="allow",
        frozen=True,
        json_schema_extra={"additionalProperties": False, "patternProperties": {"^x-": True}},
    )

    @model_validator(mode="before")
    @classmethod
    def _only_known(cls, data: Any) -> Any:  # noqa: ANN401  the raw JSON value
        if isinstance(data, dict):
            known = {f.alias or n for n, f in cls.model_fields.items()}
            for key in data:
                if key not in known and not str(key).startswith("x-"):
                    context = {"known": ", ".join(sorted(known)), "key": str(key)}
                    rule: LiteralString = "unknown key; known are {known}"
                    kind: LiteralString = "unknown_key"
                    raise PydanticCustomError(kind, rule, context)
        return data

    def kept(self) -> dict[str, Any] | None:
        """The ``x-...`` keys, None when there are none."""
        return dict(self.model_extra) if self.model_extra else None


SheetKind = Literal[
    "walk_round",
    "supply_pressure",
    "hold",
    "command",
    "coil_resistance",
    "coil_voltage_drop",
    "pressure_drop",
    "injector_balance_running",
    "tip_leak",
    "flow_bench",
    "correction",
    "cranking_balance",
    "return_volume",
    "rail_pressure",
    "opening_pressure",
]


class SetAsidePart(Part):
    """A procedure that will not be done on this job, and why."""

    kind: SheetKind
    reason: str = Field(min_length=1, max_length=200)


class JobPart(Part):
    """What the visit is about."""

    number: str = Field("", max_length=24)
    opened: Instant | None = None
    complaint: str = Field("", max_length=500)
    codes: list[Annotated[str, Field(min_length=1, max_length=12)]] = Field([], max_length=40)
    set_aside: list[SetAsidePart] = Field([], max_length=20)


class InjectorPart(Part):
    """One injector."""

    id: Label
    cylinder: int = Field(ge=1, le=16)
    bank: str = Field("", max_length=12)
    feed: str = Field("", max_length=24)


class VehiclePart(Part):
    """The vehicle with its injectors, in reach order."""

    name: str = Field(min_length=1, max_length=120)
    registration: str = Field("", max_length=40)
    distance_km: NotNegative | None = None
    fuel_system: FuelSystem
    injectors: list[InjectorPart] = Field(min_length=1, max_length=16)

    @model_validator(mode="after")
    def _labels_once(self) -> Self:
        seen: set[str] = set()
        for one in self.injectors:
            if one.id in seen:
                message = f"injector id {one.id!r} stands twice"
                raise ValueError(message)
            seen.add(one.id)
        return self


class GaugePart(Part):
    """The instrument; ``step`` is in the sheet's unit."""

    name: str = Field("", max_length=60)
    step: Positive


class BurstPart(Part):
    """The same burst for every injector."""

    pulses: int | None = Field(None, ge=1, le=10_000)
    on_ms: Positive | None = None


class EnginePart(Part):
    """The engine's state while measuring."""

    state: EngineState = "key_on_engine_off"
    temperature_c: Annotated[Number, Field(ge=-60, le=200)] | None = None


class RulePart(Part):
    """The rule picked for the sheet; ``limit`` and ``reject`` are in the sheet's unit."""

    name: RuleName = "flow_index"
    tolerance_percent: Annotated[Number, Field(gt=0, le=100)] | None = None
    limit: Positive | None = None
    reject: Positive | None = None
    score: Positive | None = None
    alpha: Annotated[Number, Field(gt=0, lt=1)] | None = None
    suspect: Label | None = None
    label: str = Field("", max_length=60)
    source: str = Field("", max_length=200)


class ExpectedPart(Part):
    """The drop that a maker or an earlier sheet foretells, in the sheet's unit."""

    drop: Positive
    source: str = Field("", max_length=200)


class DropReadingPart(Part):
    """One burst.  A figure left out needs the note ``none`` or ``not_read``."""

    injector: Label
    pass_: int = Field(1, alias="pass", ge=1, le=99)
    first: NotNegative | None = None
    second: NotNegative | None = None
    sound: Literal["clicks", "buzzes", "none"] | None = None
    fires_at: NotNegative | None = None
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


class SheetHead(Part):
    """What every sheet has."""

    id: str = Field(min_length=1, max_length=24)
    taken: Instant | None = None


class DropSheetPart(SheetHead):
    """A pressure drop sheet."""

    kind: Literal["pressure_drop"]
    unit: UnitName
    gauge: GaugePart
    burst: BurstPart = BurstPart()
    engine: EnginePart = EnginePart()
    rule: RulePart = RulePart()
    expected: ExpectedPart | None = None
    supply_v: Annotated[Number, Field(gt=0, le=60)] | None = None
    neighbour_proven: bool | None = None
    when: When = ""
    readings: list[DropReadingPart] = Field(max_length=2000)
