"""The other sheets of the job file: one model a procedure."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from plumb.jobfile.models import (
    EnginePart,
    ExpectedPart,
    GaugePart,
    Instant,
    Label,
    NotNegative,
    Part,
    Positive,
    RulePart,
    SheetHead,
    UnitName,
    When,
)
from plumb.jobfile.numbers import Number

Temperature = Annotated[Number, Field(ge=-60, le=200)]
Complaint = Literal[
    "rough_idle",
    "misfire",
    "long_crank",
    "no_start",
    "hard_start_cold",
    "hard_start_hot",
    "fuel_smell",
    "smoke_black",
    "smoke_white",
    "bogs",
    "fine_above_idle",
    "surges",
    "none",
]
Spray = Literal["even", "streaky", "stream", "none"]
SupplyState = Literal["key_on", "running", "hose_off"]


class MeterPart(GaugePart):
    """A meter: leads and accuracy, +-(percent of the reading + counts of the last digit)."""

    lead: NotNegative | None = None
    percent: NotNegative | None = None
    counts: NotNegative | None = None


class LimitsPart(Part):
    """A window: lower and upper limit in the sheet's unit, and who says so."""

    low: NotNegative | None = None
    high: NotNegative | None = None
    source: str = Field("", max_length=200)

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if self.low is not None and self.high is not None and self.low >= self.high:
            message = f"the window's low ({self.low}) is below its high ({self.high})"
            raise ValueError(message)
        return self


class SetLimitsPart(LimitsPart):
    """A window with the largest difference across the set."""

    spread: Positive | None = None


class CoilLimitsPart(SetLimitsPart):
    """A window for coils, which holds between two coil temperatures."""

    from_c: Temperature | None = None
    to_c: Temperature | None = None

    @model_validator(mode="after")
    def _warmer(self) -> Self:
        if self.from_c is not None and self.to_c is not None and self.from_c > self.to_c:
            message = f"from_c ({self.from_c}) is not above to_c ({self.to_c})"
            raise ValueError(message)
        return self


class ValuePart(Part):
    """One figure of one injector; null needs the note over, none or not_read."""

    injector: Label
    pass_: int = Field(1, alias="pass", ge=1, le=99)
    value: NotNegative | None = None
    note: str = Field("", max_length=500)
    taken: Instant | None = None

    @property
    def mark(self) -> str | None:
        """The note, where it is one of the words that mean something."""
        return self.note if self.note in {"over", "none", "not_read", "read_late"} else None

    @model_validator(mode="after")
    def _whole(self) -> Self:
        silent = self.note in {"over", "none", "not_read"}
        if self.value is None and not silent:
            message = "a value is needed, or the note over, none or not_read"
            raise ValueError(message)
        if self.value is not None and silent:
            message = f"the note {self.note} stands for a missing figure, but there is one"
            raise ValueError(message)
        return self


class BenchReadingPart(ValuePart):
    """One volume on the flow bench, and how its spray looked."""

    spray: Spray | None = None


class SeenPart(Part):
    """One word of one injector."""

    injector: Label
    note: str = Field("", max_length=500)
    taken: Instant | None = None


class CommandSeenPart(SeenPart):
    """The test lamp at one plug."""

    seen: Literal["blinks", "weak", "dark", "steady"]


class TipSeenPart(SeenPart):
    """One tip under pressure."""

    seen: Literal["dry", "weeps", "drips", "pours"]


class WalkPart(SheetHead):
    """The walk-round."""

    kind: Literal["walk_round"]
    complaint: list[Complaint] = Field([], max_length=13)
    codes: list[Annotated[str, Field(min_length=1, max_length=12)]] = Field([], max_length=40)
    hose: Literal["", "dry", "damp", "wet"] = ""
    connectors: Literal["", "good", "loose", "broken"] = ""
    note: str = Field("", max_length=500)


class SupplyReadingPart(Part):
    """The supply pressure in one state of the engine."""

    state: SupplyState
    value: NotNegative
    note: str = Field("", max_length=500)
    taken: Instant | None = None


class SupplyPart(SheetHead):
    """Supply pressure."""

    kind: Literal["supply_pressure"]
    unit: UnitName
    gauge: GaugePart
    pump: Literal["", "runs", "clicks_only", "silent"] = ""
    windows: dict[SupplyState, LimitsPart] = Field({})
    engine: EnginePart = EnginePart()
    readings: list[SupplyReadingPart] = Field(max_length=30)


class HoldLimitsPart(Part):
    """Both kinds of limit: lost at most within a time, left at least after a time."""

    lost_at_most: Positive | None = None
    within_s: Positive | None = None
    left_at_least: Positive | None = None
    after_s: Positive | None = None
    source: str = Field("", max_length=200)

    @model_validator(mode="after")
    def _timed(self) -> Self:
        if self.lost_at_most is not None and self.within_s is None:
            message = "lost_at_most needs within_s"
            raise ValueError(message)
        if self.left_at_least is not None and self.after_s is None and self.within_s is None:
            message = "left_at_least needs after_s"
            raise ValueError(message)
        return self


class PointPart(Part):
    """One reading of a hold."""

    t_s: Annotated[Number, Field(ge=0, le=100_000)]
    value: NotNegative
    note: str = Field("", max_length=500)
    taken: Instant | None = None


class IsolationPart(Part):
    """One thing that was tried, and what came of it."""

    step: Literal[
        "clamp_supply", "clamp_return", "clamp_both", "vacuum_hose", "tips", "outside", "low_side"
    ]
    outcome: Literal["holds", "falls", "dry", "wet", "rises", "steady"]
    taken: Instant | None = None


class HoldPart(SheetHead):
    """The hold, with its isolation board."""

    kind: Literal["hold"]
    unit: UnitName
    gauge: GaugePart
    rail: Literal["low", "high"] = "low"
    window: HoldLimitsPart = HoldLimitsPart()
    engine: EnginePart = EnginePart()
    series: list[PointPart] = Field([], max_length=5000)
    isolation: list[IsolationPart] = Field([], max_length=40)


class CommandPart(SheetHead):
    """The command at each plug."""

    kind: Literal["command"]
    engine: EnginePart = EnginePart()
    readings: list[CommandSeenPart] = Field(max_length=200)


class CoilPart(SheetHead):
    """Coil resistances."""

    kind: Literal["coil_resistance"]
    unit: Literal["ohm"]
    gauge: MeterPart
    temperature_c: Temperature | None = None
    temperature_within_c: NotNegative | None = None
    window: CoilLimitsPart = CoilLimitsPart()
    rule: RulePart = RulePart()
    readings: list[ValuePart] = Field(max_length=2000)


class CoilVoltagePart(SheetHead):
    """Voltage drops of the coils under one current."""

    kind: Literal["coil_voltage_drop"]
    unit: Literal["V"]
    gauge: MeterPart
    current_a: Positive | None = None
    pulse_ms: Positive | None = None
    window: SetLimitsPart = SetLimitsPart()
    rule: RulePart = RulePart()
    readings: list[ValuePart] = Field(max_length=2000)


class RunningConditionsPart(Part):
    """Entry conditions of the running balance, in the sheet's unit."""

    low_side: NotNegative | None = None
    lost_in_60_s: NotNegative | None = None
    rail: Positive | None = None


class RunningPart(SheetHead):
    """Rail drops that the tester reports for each injector, the engine idling."""

    kind: Literal["injector_balance_running"]
    unit: UnitName
    gauge: GaugePart
    conditions: RunningConditionsPart = RunningConditionsPart()
    engine: EnginePart = EnginePart(state="idle")
    rule: RulePart = RulePart()
    expected: ExpectedPart | None = None
    readings: list[ValuePart] = Field(max_length=2000)


class TipPart(SheetHead):
    """Tips under pressure."""

    kind: Literal["tip_leak"]
    place: Literal["", "on_car", "off_car"] = ""
    duration_s: Positive | None = None
    readings: list[TipSeenPart] = Field(max_length=200)


class FlowBenchPart(SheetHead):
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
