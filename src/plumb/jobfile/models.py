"""The parts that the job file and its sheets are made of.

Unknown keys are refused with their path, ``x-...`` keys are kept.
"""

import re
from datetime import date, datetime
from functools import cache
from typing import TYPE_CHECKING, Annotated, Any, Final, Literal, LiteralString, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator
from pydantic_core import PydanticCustomError

from plumb.core.measure.codes import FORM, written
from plumb.core.measure.quantities import plain
from plumb.core.measure.uncertainty import MOST_CLASS, class_uncertainty
from plumb.core.mend.repairs import Part as Fitted
from plumb.core.procedures import KINDS
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
    if not EARLIEST <= moment.year <= LATEST:
        message = f"the time lies between the years {EARLIEST} and {LATEST}"
        raise ValueError(message)
    return text


def _day(text: str) -> str:
    """A day like 2026-05-12; kept as it was written."""
    try:
        date.fromisoformat(text)
    except ValueError:
        message = "a day like 2026-05-12 is needed"
        raise ValueError(message) from None
    return text


Day = Annotated[str, AfterValidator(_day)]

EARLIEST: Final = 1970
LATEST: Final = 2199
"""Years that a workshop's papers can be from; beyond them a time is a slip of a clock."""

_NAME: Final = re.compile(r"\w(?:[\w .+-]*[\w.+-])?")


def _name(text: str) -> str:
    """A name that can stand in an address and be typed again: letters, digits, some between."""
    if text and not (_NAME.fullmatch(text) and text.isprintable()):
        message = "a name of letters and digits, with . + - _ or a blank inside"
        raise ValueError(message)
    return text


Instant = Annotated[
    str, Field(max_length=40, json_schema_extra={"format": "date-time"}), AfterValidator(_instant)
]
Label = Annotated[str, Field(min_length=1, max_length=12), AfterValidator(_name)]
SetName = Annotated[str, Field(max_length=12), AfterValidator(_name)]
MOST_CYLINDERS: Final = 16
MOST_INJECTORS: Final = 32
"""Two for each of sixteen cylinders."""


def _code(text: str) -> str:
    """A fault code in one of the forms there are; kept as it was typed."""
    if written(text) is None:
        raise ValueError(FORM)
    return text


Code = Annotated[str, Field(min_length=1, max_length=12), AfterValidator(_code)]
Positive = Annotated[Number, Field(gt=0)]
NotNegative = Annotated[Number, Field(ge=0)]


@cache
def _known(model: type[BaseModel]) -> frozenset[str]:
    """The keys of a part; asked once for each model, not once for each reading."""
    return frozenset(f.alias or n for n, f in model.model_fields.items())


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
            known = _known(cls)
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


if TYPE_CHECKING:
    SheetKind = str
else:
    SheetKind = Literal[tuple(kind.code for kind in KINDS)]
"""The code of a kind of sheet."""


class SetAsidePart(Part):
    """A procedure that will not be done on this job, and why."""

    kind: SheetKind
    reason: str = Field(min_length=1, max_length=200)


class AcceptedPart(Part):
    """An injector whose readings do not settle it, taken as it is by a person, who says why."""

    injector: Label
    reason: str = Field(min_length=1, max_length=200)
    by: str = Field("", max_length=40)
    at: Instant | None = None


class OrderedPart(Part):
    """Parts that the job waits for, and when they are due."""

    what: str = Field(min_length=1, max_length=200)
    due: Day | None = None


class JobPart(Part):
    """What the visit is about; ``dated_because`` says why it was noted on another day than it was."""

    number: Annotated[str, AfterValidator(_name)] = Field("", max_length=24)
    opened: Instant | None = None
    closed: Instant | None = None
    complaint: str = Field("", max_length=500)
    codes: list[Code] = Field([], max_length=40)
    set_aside: list[SetAsidePart] = Field([], max_length=20)
    dated_because: str = Field("", max_length=200)
    ordered: OrderedPart | None = None
    accepted: list[AcceptedPart] = Field([], max_length=32)


class FittedPartPart(Part):
    """The part that was put in; what is not known stays empty."""

    make: str = Field("", max_length=60)
    number: str = Field("", max_length=60)
    serial: str = Field("", max_length=60)
    mark: str = Field("", max_length=60)
    note: str = Field("", max_length=200)
    code: str = Field("", max_length=60)

    def core(self) -> Fitted:
        """The part for the core."""
        return Fitted(**{n: getattr(self, n) for n in type(self).model_fields})


class InjectorPart(Part):
    """One injector; without a cylinder it feeds all of them.

    Injectors of another ``set`` sit on a rail of their own and are never compared with these;
    ``retired``: it is no longer on the engine, and only its readings are kept; ``part`` is what sat in
    the place before any repair that the file tells of.
    """

    id: Label
    cylinder: int = Field(0, ge=0, le=MOST_CYLINDERS)
    bank: str = Field("", max_length=12)
    feed: str = Field("", max_length=24)
    set: SetName = ""
    retired: bool = False
    part: FittedPartPart | None = None


class VehiclePart(Part):
    """The vehicle with its injectors, in reach order.

    Where ``distance_unit`` is h the engine's hours are counted, and ``distance_km`` are hours.
    """

    name: str = Field(min_length=1, max_length=120)
    registration: str = Field("", max_length=40)
    distance_km: NotNegative | None = None
    fuel_system: FuelSystem
    distance_unit: Literal["km", "mi", "h"] = "km"
    boosted: bool = False
    cylinders: Annotated[int, Field(ge=1, le=MOST_CYLINDERS)] | None = None
    firing_order: list[Annotated[int, Field(ge=1, le=MOST_CYLINDERS)]] = Field(
        [], max_length=MOST_CYLINDERS
    )
    injectors: list[InjectorPart] = Field(min_length=1, max_length=MOST_INJECTORS)

    @property
    def cylinder_count(self) -> int:
        """How many cylinders there are: as told, else those that have an injector of their own."""
        own = {i.cylinder for i in self.injectors if i.cylinder and not i.retired}
        return self.cylinders or len(own) or 1

    @model_validator(mode="after")
    def _fits_the_engine(self) -> Self:
        beyond = [
            i.id
            for i in self.injectors
            if self.cylinders and i.cylinder > self.cylinders and not i.retired
        ]
        if beyond:
            message = f"injector {beyond[0]!r} is on a cylinder that this engine does not have"
            raise ValueError(message)
        if all(i.retired for i in self.injectors):
            message = "every injector is retired: an engine has at least one"
            raise ValueError(message)
        order, count = sorted(self.firing_order), self.cylinder_count
        if order and (len(order) != count or len(set(order)) != count):
            message = f"the firing order names every one of {count} cylinders once"
            raise ValueError(message)
        return self

    @model_validator(mode="after")
    def _labels_once(self) -> Self:
        seen: dict[str, str] = {}
        for one in self.injectors:
            same = seen.setdefault(one.id.casefold(), one.id)
            if same != one.id:
                message = f"injector ids {same!r} and {one.id!r} differ only in capitals"
                raise ValueError(message)
            if sum(i.id == one.id for i in self.injectors) > 1:
                message = f"injector id {one.id!r} stands twice"
                raise ValueError(message)
        return self


class GaugePart(Part):
    """The instrument; ``step`` and ``span`` are in the sheet's unit.

    ``class_percent`` is its class, in % of the span; without it that of a dial or a digital one (``reads``) is
    assumed where the span is known.
    """

    name: str = Field("", max_length=60)
    step: Positive
    class_percent: Annotated[Number, Field(gt=0, le=MOST_CLASS)] | None = None
    span: Positive | None = None
    reads: Literal["", "dial", "digital"] = ""

    @model_validator(mode="after")
    def _class_of_a_span(self) -> Self:
        if self.class_percent is not None and self.span is None:
            message = "a class is a share of the span: say the span, how far the gauge goes"
            raise ValueError(message)
        return self

    def u_class(self, factor: float = 1.0) -> float:
        """What its class adds to each pressure, one standard uncertainty, times ``factor``."""
        percent = None if self.class_percent is None else float(self.class_percent)
        span = None if self.span is None else float(self.span) * factor
        return class_uncertainty(percent, span, self.reads)


class BurstPart(Part):
    """The same burst for every injector."""

    pulses: int | None = Field(None, ge=1, le=10_000)
    on_ms: Positive | None = None
    driven_by: Literal["", "tester", "controller"] = ""


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
    """The drop that a maker or an earlier sheet foretells, in the sheet's unit; ``since`` is that sheet's day."""

    drop: Positive
    source: str = Field("", max_length=200)
    since: Day | None = None


class SheetPart(Part):
    """What every sheet has; each kind's own model says its ``kind`` and the rest.

    ``set`` is the set of injectors that it was taken on, where the engine has several; ``after`` is the
    id of the sheet that this one repeats after a repair.
    """

    kind: str
    id: Annotated[str, AfterValidator(_name)] = Field(min_length=1, max_length=24)
    taken: Instant | None = None
    set: SetName = ""
    after: Annotated[str, AfterValidator(_name)] = Field("", max_length=24)


Temperature = Annotated[Number, Field(ge=-60, le=200)]
Spray = Literal["even", "streaky", "stream", "none"]


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
            how = "is the same as" if self.low == self.high else "is above"
            message = f"low {plain(self.low)} {how} high {plain(self.high)}"
            raise ValueError(message)
        return self


class SetLimitsPart(LimitsPart):
    """A window with the largest difference across the set."""

    spread: Positive | None = None


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


class SeenPart(Part):
    """One word of one injector."""

    injector: Label
    note: str = Field("", max_length=500)
    taken: Instant | None = None


class TraceNotePart(Part):
    """Where a sheet's figures were taken from: the file's name, and how many samples it had."""

    name: str = Field("", max_length=120)
    samples: int | None = Field(None, ge=0)
