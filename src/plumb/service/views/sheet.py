"""What the service hands to the API: plain data, every figure ready to be drawn.

Pressures are texts in the unit asked for, with the digits the gauge allows; deviations are numbers
in per cent, because they are drawn to scale.
"""

from dataclasses import dataclass

from plumb.service.views.hold import HoldView


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
class NextView:
    """The next step: which sheet, which injectors, how many passes, about how long, in words.

    ``anew``: on a sheet of its own, though one of that kind is there; ``repairs``: something is put
    right first, and ``kind`` is then repeated; ``after`` is the sheet that it is compared with after a
    repair; ``asks``: nothing is measured, the complaint is asked for again.  ``alternatives`` could be
    done instead.
    """

    kind: str
    injectors: list[str]
    passes: int
    minutes: float
    isolation: str
    title: str
    text: str
    anew: bool
    repairs: bool
    after: str
    asks: bool
    alternatives: list["OtherStepView"]


@dataclass(frozen=True, slots=True, kw_only=True)
class OtherStepView:
    """What could be done instead of the next step, in words."""

    kind: str
    injectors: list[str]
    minutes: float
    title: str
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OptionView:
    """One choice of a field, or one word of a sheet; ``key`` types it."""

    code: str
    label: str
    key: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class GaugeView:
    """A gauge: name, unit, step, leads, class and span as typed; ``id`` is 0 for one that is only on a sheet.

    ``class_words`` tells its class, and that it is assumed where nobody knows it.
    """

    id: int
    name: str
    unit: str
    step: str
    lead: str = ""
    percent: str = ""
    counts: str = ""
    address: str = ""
    command: str = ""
    class_percent: str = ""
    span: str = ""
    reads: str = ""
    class_words: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldView:
    """One field behind a knob: number, whole, text, choice or yes."""

    key: str
    label: str
    kind: str
    value: str
    options: list[OptionView]


@dataclass(frozen=True, slots=True, kw_only=True)
class KnobView:
    """One condition of a sheet: what it is now, and the fields to change it."""

    name: str
    value: str
    note: str
    window: bool
    fields: list[FieldView]


@dataclass(frozen=True, slots=True, kw_only=True)
class EntryView:
    """How readings are typed: two figures, one, a moment and one, or one of the words.

    ``shape`` is burst, value, stroke, point, words, form or trace; ``figures`` names the fields and
    ``units`` gives their units.  ``signed``: a figure may be below zero; ``once``: a row takes one
    reading; ``marks`` may stand in place of a figure.  ``strokes`` is how often each row is stroked,
    0 where once will do.
    """

    shape: str
    figures: list[str]
    units: list[str]
    signed: bool
    once: bool
    marks: list[str]
    sounds: list[OptionView]
    seats: list[OptionView]
    strokes: int
    words: list[OptionView]
    sprays: list[OptionView]


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleOfSheetView:
    """The rule that decides on a sheet that compares; code empty where none does."""

    code: str
    title: str
    limits: dict[str, str]
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingView:
    """One live reading as typed, and as shown in the unit asked for.

    ``shown`` is its figure for a person: "50.5 26.5", "12.6", "blinks"; ``by`` who took it, empty
    where nobody said, ``typed_as`` what was typed where that was in another unit, ``captured`` the
    instrument that gave it, and where in its stream.
    """

    id: str
    pass_number: int
    first_typed: str | None
    second_typed: str | None
    value_typed: str | None
    shown: str
    mark: str | None
    word: str | None
    sound: str | None
    spray: str | None
    fires_at: str | None
    supply_v: str
    seat: str | None
    shim: str
    note: str
    taken: str
    by: str
    typed_as: str
    captured: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TrailView:
    """Where a nozzle hung with an earlier stack of shims, and what was changed after it."""

    at: float
    shown: str
    change: str


@dataclass(frozen=True, slots=True, kw_only=True)
class GhostView:
    """Where the planned shims should bring a nozzle: the bob and its 95 % range."""

    at: float
    low: float
    high: float
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class NozzleView:
    """One nozzle: what was seen last, its trail, the plan, and the strokes of the stack inside.

    ``seat_at`` is the pressure to hold the seat at, in the unit shown.
    """

    seat: str
    sound: str
    spray: str
    shim: str
    strokes: int
    seat_at: str
    trail: list[TrailView]
    plan: GhostView | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RowView:
    """One row of a sheet: an injector, or a state of the engine on the supply sheet.

    ``cells`` are the figures under the sheet's columns; ``at`` and ``u_at`` say where the bob hangs
    on the sheet's scale; ``settled`` fills it; ``tone`` is low, high, open or empty.  ``spared``: a repeat is for
    others, and does not ask for this one.  ``raw`` counts
    bursts whose fuel no run of the engine has burnt yet.

    ``readings`` are the newest few, oldest of them first; ``count`` says how many there are in all,
    ``figures`` how many of those have a figure, ``last_pass`` the highest number of a pass.
    """

    injector: str
    name: str
    cylinder: int
    bank: str
    feed: str
    count: int
    figures: int
    last_pass: int
    readings: list[ReadingView]
    cells: list[str]
    state: str
    words: str
    under: str
    tone: str
    at: float | None
    u_at: float | None
    settled: bool
    agrees: bool
    spared: bool
    passes_to_settle: int | None
    because: str
    raw: int
    nozzle: NozzleView | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ScaleView:
    """What the rows hang on.  ``relative``: per cent of the reference; else figures in ``unit``.

    ``low`` and ``high`` bound the corridor, None where that side is open; ``reach`` is how far to
    each side of the centre the scale goes, None where the corridor says it; ``gives``: its sides are
    giving less and giving more.
    """

    relative: bool
    unit: str
    centre: float
    low: float | None
    high: float | None
    decimals: int
    reach: float | None = None
    gives: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleView:
    """One rule on the same readings; ``fields`` are the limits that may be set for it."""

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
    fields: list[FieldView]


@dataclass(frozen=True, slots=True, kw_only=True)
class AgainView:
    """That a sheet is a repeat: the how manieth, begun when, and why."""

    number: int
    words: str
    taken: str
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FormView:
    """What is noted on a sheet without readings, or beside them: words by key.

    ``looked``: its rows can be told by eye, and whether somebody did; ``low_by_eye`` the cylinders
    that were seen to be low.
    """

    complaint: list[str]
    codes: list[str]
    hose: str
    connectors: str
    note: str
    pump: str
    complaints: list[OptionView]
    told: str
    looked_at: list[str]
    looked: bool | None
    low_by_eye: list[int]


@dataclass(frozen=True, slots=True, kw_only=True)
class TracedView:
    """That figures can come from a trace: what bringing one in is called; ``logs``: several at once."""

    words: str
    logs: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetView:
    """A sheet of any kind with everything a screen shows of it.

    ``reference`` is the group's flow index in the root of the gauge's unit, from which a waiting
    reading's provisional bob is drawn; ``engine_ran_at`` the last run of the engine that was noted;
    ``units`` are those that its gauge can have; ``traced`` is there where a trace can be brought in;
    ``by`` began it, empty where nobody signs in; ``learnt`` is another mark whenever other sheets teach something else of these nozzles.
    """

    id: int
    key: str
    job_number: str
    kind: str
    title: str
    sub: str
    care: str
    version: int
    closed: bool
    again: AgainView | None
    carried: str
    taken: str
    by: str
    unit: str
    units: list[str]
    fuel_system: str
    starts: bool
    gauge: GaugeView
    rule: RuleOfSheetView
    knobs: list[KnobView]
    columns: list[str]
    entry: EntryView
    scale: ScaleView
    rows: list[RowView]
    headline: list[SpanView]
    notes: list[str]
    rules: list[RuleView]
    next: NextView | None
    agreeing: list[str]
    agreeing_shown: str
    split: bool
    passed: bool
    measured: int
    reference: float | None
    limit_in_flow: str
    hold: HoldView | None
    form: FormView | None
    traced: TracedView | None
    engine_ran_at: str
    saved_at: str
    learnt: str


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
