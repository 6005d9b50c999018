"""What the API takes in.  Figures come as text, exactly as typed."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from plumb.core.procedures import USUAL_FIRST
from plumb.jobfile.models import (
    MOST_CYLINDERS,
    MOST_INJECTORS,
    Code,
    Day,
    FuelSystem,
    Label,
    RuleName,
    SetName,
    SheetKind,
)

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


class LearningIn(Body):
    """Whether the shop's closed jobs count into how common faults are."""

    on: bool


class ReadingIn(Body):
    """One reading of one row.

    ``id`` is made by the browser: sending it twice is harmless.  ``injector`` is the row: an
    injector, a state (``key_on``, ``running``, ``hose_off``) on the supply sheet, a step of the
    isolation board; empty with ``at_s`` for a moment of a hold.  Without ``pass_number`` the next
    free pass is taken.  ``confirmed`` lists the codes of questions answered with "as typed".
    """

    id: MadeId
    injector: str = Field(max_length=24, examples=["4"])
    pass_number: int | None = Field(None, ge=1, le=99)
    first: Typed | None = None
    second: Typed | None = Field(None, examples=["26.5"])
    value: Typed | None = Field(None, examples=["12.4"])
    at_s: Typed | None = Field(None, examples=["60"])
    word: str | None = Field(None, max_length=16, examples=["blinks"])
    spray: Literal["even", "streaky", "stream", "none"] | None = None
    fires_at: Typed | None = Field(None, examples=["22"])
    mark: Literal["none", "not_read", "read_late", "over"] | None = None
    sound: Literal["clicks", "buzzes", "none", "chatters", "weak", "silent"] | None = None
    seat: Literal["dry", "damp", "wet"] | None = None
    shim: Typed | None = Field(None, examples=["1.04"])
    note: str = Field("", max_length=500)
    by: str = Field("", max_length=40, description="who took it, as typed", examples=["Ines K."])
    replaces: MadeId | None = None
    confirmed: list[Annotated[str, Field(max_length=40)]] = Field([], max_length=8)


GaugeUnit = Literal[
    "psi", "kPa", "bar", "MPa", "kgf/cm2", "ohm", "V", "A", "ml", "mm3", "percent", "ms"
]
Maybe = Annotated[str, Field(max_length=24)]


class GaugeIn(Body):
    """A gauge: name, unit and smallest step as typed; a meter's leads and accuracy; a pressure gauge's class.

    ``class_percent`` is in % of the ``span``; where it is not known that of a dial or a digital one is assumed.
    """

    name: str = Field(min_length=1, max_length=60, examples=["dial B"])
    unit: GaugeUnit
    step: Typed = Field(examples=["0.5"])
    lead: Maybe = ""
    percent: Maybe = ""
    counts: Maybe = ""
    address: str = Field("", max_length=120, examples=["TCPIP::192.168.4.20::5025::SOCKET"])
    command: str = Field("", max_length=60, examples=["MEAS:PRES?"])
    class_percent: Maybe = ""
    span: Maybe = ""
    reads: Literal["", "dial", "digital"] = ""


class RuleIn(Body):
    """The rule of a sheet and its limits as typed; pressures in the sheet's unit."""

    name: RuleName = "flow_index"
    tolerance_percent: Typed | None = Field(None, examples=["10"])
    limit: Typed | None = None
    reject: Typed | None = None
    score: Typed | None = None
    alpha: Typed | None = None
    suspect: str | None = Field(None, min_length=1, max_length=12)
    label: str = Field("", max_length=60)
    source: str = Field("", max_length=200)


class SheetChangeIn(Body):
    """New conditions; ``version`` is the one the person saw.

    ``put`` are typed texts by the key of the job file (``window.low``); an empty one takes away.
    """

    version: int = Field(ge=1)
    gauge: GaugeIn | None = None
    rule: RuleIn | None = None
    put: dict[Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=500)]] = Field(
        {}, examples=[{"window.low": "11"}]
    )


class NewSheetIn(Body):
    """A new sheet on a job; without a gauge the usual one of its kind is taken."""

    request_id: MadeId
    kind: SheetKind = USUAL_FIRST
    gauge: GaugeIn | None = None
    when: Literal["", "before_cleaning", "after_cleaning"] = ""
    because: Annotated[str, Field(max_length=120)] = ""
    after: Annotated[str, Field(max_length=24)] = ""
    injectors: list[Label] = Field([], max_length=MOST_INJECTORS)


InjectorsEach = Literal["one_each", "two_each", "one_for_all", "two_for_all", "port_and_direct"]


class NewJobIn(Body):
    """A new job: a known vehicle by its id, or the few things a new one needs."""

    request_id: MadeId
    vehicle_id: int | None = None
    vehicle_name: str = Field("", max_length=120, examples=["Torvik Lundy 1.8"])
    registration: str = Field("", max_length=40, examples=["SM-107"])
    fuel_system: FuelSystem = "port"
    cylinders: int = Field(4, ge=1, le=16)
    banks: int = Field(1, ge=1, le=2)
    injectors: InjectorsEach = "one_each"
    distance: Typed | None = None
    distance_unit: Literal["km", "mi", "h"] = "km"
    complaint: str = Field("", max_length=500, examples=["rough idle when warm"])
    codes: list[Code] = Field([], max_length=40)
    gauge_id: int | None = None
    layout_id: int | None = None
    begin_with: SheetKind = USUAL_FIRST
    day: str = Field("", max_length=10, examples=["2024-05-12"])
    day_because: str = Field("", max_length=200, examples=["from the job book"])


class SeatIn(Body):
    """An injector as it is to be; ``was`` is its label now, empty for one that is new."""

    was: str = Field("", max_length=12)
    label: Label
    cylinder: int = Field(ge=0, le=MOST_CYLINDERS)
    bank: str = Field("", max_length=12)
    feed: str = Field("", max_length=24)
    set_name: SetName = ""


class EngineIn(Body):
    """A vehicle as it is to be, its injectors in reach order; ``seen`` are the labels it had."""

    seen: list[str] = Field(max_length=MOST_INJECTORS)
    name: str = Field(min_length=1, max_length=120)
    registration: str = Field("", max_length=40)
    distance_unit: Literal["km", "mi", "h"] = "km"
    cylinders: int = Field(ge=1, le=MOST_CYLINDERS)
    firing_order: list[Annotated[int, Field(ge=1, le=MOST_CYLINDERS)]] = Field(
        [], max_length=MOST_CYLINDERS
    )
    boosted: bool = False
    injectors: list[SeatIn] = Field(min_length=1, max_length=MOST_INJECTORS)


class AsideIn(Body):
    """A procedure that will not be done on this job; an empty reason takes it back."""

    kind: SheetKind
    reason: str = Field(max_length=200)


class DatedIn(Body):
    """When a visit was that is noted later, and why it is."""

    day: str = Field(max_length=10, examples=["2024-05-12"])
    because: str = Field(max_length=200, examples=["from the job book"])


class OrderedIn(Body):
    """Parts that a job waits for, and when they are due; none: it waits no more."""

    what: str = Field(max_length=200, examples=["two injectors"])
    due: Day | Literal[""] = Field("", examples=["2026-12-04"])


class AcceptedIn(Body):
    """That a value which is not settled is taken as it is, and why; an empty reason takes that back."""

    injector: Label
    reason: str = Field(
        max_length=200, examples=["runs well, the window is the maker’s for a new one"]
    )


class JobChangeIn(Body):
    """What may be changed of a job; ``version`` is the one at which complaint and codes were seen."""

    version: int | None = None
    complaint: str | None = Field(None, max_length=500)
    codes: list[Code] | None = Field(None, max_length=40)
    distance: Annotated[str, Field(max_length=24)] | None = None
    closed: Literal[False] | None = Field(None, description="false opens a closed job again")
    aside: AsideIn | None = None
    dated: DatedIn | None = None
    ordered: OrderedIn | None = None
    accepted: AcceptedIn | None = None


class ReachOrderIn(Body):
    """Every injector once, easiest to reach first."""

    order: list[Label] = Field(max_length=MOST_INJECTORS, examples=[["3", "1", "5", "2", "4", "6"]])


class InjectorIn(Body):
    """Where an injector sits and what feeds it."""

    bank: str | None = Field(None, max_length=12)
    feed: str | None = Field(None, max_length=24)


class ShelfIn(Body):
    """A window, a rule or prices for the shelf: typed texts by key."""

    what: Literal["window", "rule", "price", "box"]
    name: str = Field(min_length=1, max_length=80, examples=["Torvik port coils"])
    kind: SheetKind | Literal[""] = ""
    unit: GaugeUnit | Literal[""] = ""
    values: dict[Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=200)]]


class LayoutIn(Body):
    """Keep a vehicle's cylinders, banks and feeds as a layout."""

    name: str = Field(min_length=1, max_length=80)
    vehicle_id: int


class TakeLayoutIn(Body):
    """Put a layout's banks and feeds on a vehicle."""

    layout_id: int


class TakeOneIn(Body):
    """One burst of a log for one injector."""

    number: int = Field(ge=0, le=9999)
    injector: str = Field(min_length=1, max_length=12)


class TakeIn(Body):
    """Bursts that become readings."""

    take: list[TakeOneIn] = Field(min_length=1, max_length=200)


class MoveIn(Body):
    """Begin and end of a burst, set by hand, in seconds of the log."""

    start_s: float = Field(ge=0, le=1e7)
    end_s: float = Field(ge=0, le=1e7)


class Health(BaseModel):
    """Whether application and database answer; ``unreadable`` are tables that are damaged."""

    application: str
    database: str
    unreadable: list[str]
    version: str
