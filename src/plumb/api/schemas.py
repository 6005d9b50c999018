"""What the API takes in.  Figures come as text, exactly as typed."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from plumb.jobfile.models import Label, RuleName, UnitName

Typed = Annotated[str, Field(min_length=1, max_length=24, examples=["50.5"])]
MadeId = Annotated[
    str,
    Field(
        pattern=r"^[0-9a-f]{8}-([0-9a-f]{4}-){3}[0-9a-f]{12}$",
        examples=["7f0c1c0e-52a0-4a53-9d7e-3f6f0b6e2a11"],
    ),
]


class Body(BaseModel):
    """Ground of every request body: unknown keys are refused."""

    model_config = ConfigDict(extra="forbid")


class ReadingIn(Body):
    """One burst of one injector.

    ``id`` is made by the browser: sending it twice is harmless.  Without ``pass_number`` the next
    free pass is taken.  ``confirmed`` lists the codes of questions answered with "I meant it".
    """

    id: MadeId
    injector: Label = Field(examples=["4"])
    pass_number: int | None = Field(None, ge=1, le=99)
    first: Typed | None = None
    second: Typed | None = Field(None, examples=["26.5"])
    mark: Literal["none", "not_read", "read_late"] | None = None
    sound: Literal["clicks", "buzzes", "none"] | None = None
    note: str = Field("", max_length=500)
    replaces: MadeId | None = None
    confirmed: list[Annotated[str, Field(max_length=40)]] = Field([], max_length=8)


class GaugeIn(Body):
    """A gauge: name, unit and smallest step as typed."""

    name: str = Field(min_length=1, max_length=60, examples=["dial B"])
    unit: UnitName
    step: Typed = Field(examples=["0.5"])


class RuleIn(Body):
    """The rule of a sheet and its limits as typed; pressures in the sheet's unit."""

    name: RuleName = "flow_index"
    tolerance_percent: Typed | None = Field(None, examples=["10"])
    limit: Typed | None = None
    reject: Typed | None = None
    score: Typed | None = None
    alpha: Typed | None = None
    suspect: Label | None = None
    source: str = Field("", max_length=200)


class BurstIn(Body):
    """The burst."""

    pulses: int | None = Field(None, ge=1, le=10_000)
    on_ms: Typed | None = None


class EngineIn(Body):
    """The engine's state."""

    state: Literal["key_on_engine_off", "off", "idle", "cranking"] = "key_on_engine_off"
    temperature_c: Typed | None = None


class ExpectedIn(Body):
    """What a maker or an earlier sheet foretells; an empty drop takes it away."""

    drop: Typed | None = None
    source: str = Field("", max_length=200)


class SheetChangeIn(Body):
    """New conditions; ``version`` is the one the person saw."""

    version: int = Field(ge=1)
    gauge: GaugeIn | None = None
    burst: BurstIn | None = None
    engine: EngineIn | None = None
    rule: RuleIn | None = None
    expected: ExpectedIn | None = None
    supply_v: Typed | None = None
    neighbour_proven: bool | None = None


class NewSheetIn(Body):
    """A new drop sheet on a job."""

    request_id: MadeId
    gauge: GaugeIn


class NewJobIn(Body):
    """A new job: a known vehicle by its id, or the few things a new one needs."""

    request_id: MadeId
    vehicle_id: int | None = None
    vehicle_name: str = Field("", max_length=120, examples=["Torvik Lundy 1.8"])
    registration: str = Field("", max_length=40, examples=["SM-107"])
    fuel_system: Literal["port", "throttle_body", "direct"] = "port"
    cylinders: int = Field(4, ge=1, le=16)
    banks: int = Field(1, ge=1, le=2)
    complaint: str = Field("", max_length=500, examples=["rough idle when warm"])
    codes: list[Annotated[str, Field(min_length=1, max_length=12)]] = Field([], max_length=40)
    gauge_id: int | None = None


class JobChangeIn(Body):
    """What may be changed of a job."""

    complaint: str | None = Field(None, max_length=500)
    codes: list[Annotated[str, Field(min_length=1, max_length=12)]] | None = Field(
        None, max_length=40
    )
    closed: bool | None = None


class ReachOrderIn(Body):
    """Every injector once, easiest to reach first."""

    order: list[Label] = Field(max_length=16, examples=[["3", "1", "5", "2", "4", "6"]])


class InjectorIn(Body):
    """Where an injector sits and what feeds it."""

    bank: str | None = Field(None, max_length=12)
    feed: str | None = Field(None, max_length=24)


class Health(BaseModel):
    """Whether application and database answer."""

    application: str
    database: str
    version: str
