"""What the service hands to the API: plain data, every figure ready to be drawn.

Pressures are texts in the unit asked for, with the digits the gauge allows; deviations are numbers
in per cent, because they are drawn to scale.
"""

from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingView:
    """One live reading as typed, and as shown in the unit asked for."""

    id: str
    pass_number: int
    first_typed: str | None
    second_typed: str | None
    first: str
    second: str
    drop: str
    mark: str | None
    sound: str | None
    note: str
    taken: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RowView:
    """One injector's row: readings, means, where its bob hangs and what it reads as.

    ``settled`` fills the bob; ``tone`` is low, high, open or empty.
    """

    injector: str
    cylinder: int
    bank: str
    feed: str
    readings: list[ReadingView]
    first: str
    second: str
    drop: str
    state: str
    words: str
    under: str
    tone: str
    deviation_percent: float | None
    uncertainty_percent: float | None
    settled: bool
    agrees: bool
    passes_to_settle: int | None
    because: str
    condition: str
    action: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SpanView:
    """A piece of the headline."""

    text: str
    tone: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AdviceView:
    """A thing to do and why."""

    title: str
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleView:
    """One rule on the same readings."""

    code: str
    title: str
    decides: str
    limits: str
    source: str
    applies: bool
    reason: str
    caution: str
    reject: list[str]
    repeat: list[str]
    chosen: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class NextView:
    """The next step: which injectors, how many passes, about how long, in words."""

    injectors: list[str]
    passes: int
    minutes: float
    title: str
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class GaugeView:
    """A gauge: name, unit, step as typed; ``id`` is 0 for one that is only on a sheet."""

    id: int
    name: str
    unit: str
    step: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ConditionsView:
    """The conditions of a sheet, figures as typed."""

    gauge: GaugeView
    pulses: int | None
    on_ms: str | None
    engine_state: str
    engine_temperature_c: str | None
    supply_v: str | None
    neighbour_proven: bool
    expected_drop: str | None
    expected_source: str
    rule: str
    rule_title: str
    rule_limits: dict[str, str]
    rule_source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetView:
    """A drop sheet with everything a screen shows of it.

    ``reference`` is the group's flow index in the root of the gauge's unit (a waiting reading's
    provisional bob is drawn from it); ``corridor_percent`` the half-width of the tolerance.
    """

    id: int
    key: str
    job_number: str
    kind: str
    version: int
    taken: str
    unit: str
    fuel_system: str
    conditions: ConditionsView
    rows: list[RowView]
    headline: list[SpanView]
    advice: list[AdviceView]
    notes: list[str]
    rules: list[RuleView]
    next: NextView | None
    agreeing: list[str]
    agreeing_drop: str
    split: bool
    passed: bool
    measured: int
    reference: float | None
    corridor_percent: float
    limit_in_flow: str
    saved_at: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LineView:
    """One figure of how it was worked out."""

    label: str
    figure: str
    unit: str
    formula: str
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkingView:
    """How a sheet was worked out: the set's figures, and each injector's by label."""

    version: int
    shared: list[LineView]
    injectors: dict[str, list[LineView]]


@dataclass(frozen=True, slots=True, kw_only=True)
class BobView:
    """A bob on the small chart of a job's line."""

    injector: str
    state: str
    deviation_percent: float


@dataclass(frozen=True, slots=True, kw_only=True)
class JobLineView:
    """One job on the list of today; ``waits`` is now, done or start."""

    number: str
    vehicle: str
    registration: str
    complaint: str
    codes: list[str]
    opened: str
    closed: bool
    cylinders: int
    fuel_system: str
    waits: str
    next_title: str
    next_sub: str
    corridor_percent: float
    bobs: list[BobView] = field(default_factory=list)


@dataclass(frozen=True, slots=True, kw_only=True)
class InjectorView:
    """An injector of a vehicle."""

    label: str
    cylinder: int
    bank: str
    feed: str


@dataclass(frozen=True, slots=True, kw_only=True)
class VehicleView:
    """A vehicle with its injectors in reach order."""

    id: int
    name: str
    registration: str
    fuel_system: str
    injectors: list[InjectorView]


@dataclass(frozen=True, slots=True, kw_only=True)
class KnotView:
    """A knot of the route: a sheet that is there, its state done or now, and a line about it."""

    sheet_id: int
    key: str
    kind: str
    title: str
    sub: str
    state: str


@dataclass(frozen=True, slots=True, kw_only=True)
class JobView:
    """A job with its vehicle and the route."""

    number: str
    opened: str
    closed: bool
    complaint: str
    codes: list[str]
    distance_km: str | None
    vehicle: VehicleView
    route: list[KnotView]


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportView:
    """What an import would do, or did: how much fits, and every problem by place."""

    fits: bool
    stored: bool
    summary: str
    job_number: str
    readings: int
    problems: list[str]
