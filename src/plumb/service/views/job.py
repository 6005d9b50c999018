"""What the service hands to the API about jobs, vehicles and the shelf: plain data."""

from dataclasses import dataclass, field

from plumb.service.views.finishing import FinishingView
from plumb.service.views.sheet import AdviceView, AgainView, NextView, SheetView, SpanView


@dataclass(frozen=True, slots=True, kw_only=True)
class KnotView:
    """A knot of the route: a sheet that is there, or one that could be begun (``sheet_id`` 0).

    ``state`` is done, now, next, open or aside; ``empty``: nothing was noted on it yet.
    """

    sheet_id: int
    key: str
    kind: str
    title: str
    sub: str
    state: str
    again: AgainView | None = None
    empty: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class RepeatView:
    """The sheet to do again after the fix: which, on whom, after what, and what that is called.

    ``after`` is the sheet that it is compared with.
    """

    kind: str
    after: str
    injectors: list[str]
    when: str
    reason: str
    title: str


@dataclass(frozen=True, slots=True, kw_only=True)
class VerdictRowView:
    """One injector: what each sheet shows of it, what it reads as, what to do, and why.

    ``accepted`` is why a person takes it as it is although its readings do not settle it.
    """

    injector: str
    bank: str
    feed: str
    cells: list[str]
    at: float | None
    u_at: float | None
    tone: str
    condition: str
    condition_words: str
    action: str
    action_words: str
    because: str
    evidence: list[str]
    not_ruled_out: list[str]
    ruled_out: list[str]
    rows: list[str]
    contradictions: list[str]
    can_be_accepted: bool
    accepted: str


@dataclass(frozen=True, slots=True, kw_only=True)
class VerdictView:
    """The verdict of a job: one sentence, the matrix, what was ruled out, what is only assumed."""

    sentence: list[SpanView]
    sub: str
    columns: list[str]
    chart: int | None
    corridor_percent: float
    rows: list[VerdictRowView]
    causes: list[str]
    ruled_out: list[AdviceView]
    assumed: list[str]
    advice: list[AdviceView]
    care: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CauseView:
    """One line of what could be behind the complaint.

    ``share`` is how likely it is, in per cent; ``state`` is found, suspected, possible or cleared;
    ``note`` what found or cleared it, or what would tell.  ``common`` says how common it is here.
    """

    code: str
    words: str
    state: str
    share: float
    outside: bool
    note: str
    speaks_for: list[str]
    speaks_against: list[str]
    common: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MovedView:
    """A cause that one sheet moved: from which share to which, in per cent."""

    words: str
    before: float
    after: float


@dataclass(frozen=True, slots=True, kw_only=True)
class DiagnosisView:
    """Whether the complaint is explained, by what, and what else could be behind it.

    ``explained`` is open, yes, partly, no or none; ``by_word`` says word by word by what; ``moved`` is
    what each sheet moved, by its key; ``remains`` lies outside, with how it is usually told.
    """

    complaint: str
    explained: str
    by_word: list[AdviceView]
    causes: list[CauseView]
    remains: list[AdviceView]
    moved: dict[str, list[MovedView]]


@dataclass(frozen=True, slots=True, kw_only=True)
class InjectorView:
    """An injector of a vehicle."""

    label: str
    cylinder: int
    set_name: str
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
    cylinders: int
    firing_order: list[int]
    boosted: bool
    distance_unit: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderedView:
    """Parts that a job waits for, when they are due (empty: nobody knows), and both in words."""

    what: str
    due: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class JobView:
    """A job with its vehicle, the route, the next step and the verdict.

    ``by`` opened it, empty where nobody signs in; ``dated_because`` is filled where the visit was on
    another day than it was noted; ``ordered`` are the parts that it waits for; ``repeat`` is the sheet to do again after the fix,
    None before one was done.
    """

    number: str
    opened: str
    dated_because: str
    ordered: OrderedView | None
    by: str
    closed: bool
    complaint: str
    codes: list[str]
    version: int
    distance_km: str | None
    distance: str
    vehicle: VehicleView
    route: list[KnotView]
    next: NextView | None
    diagnosis: DiagnosisView
    repeat: RepeatView | None
    verdict: VerdictView
    finishing: FinishingView


@dataclass(frozen=True, slots=True, kw_only=True)
class BlanksView:
    """A job as it begins on the largest engine of a fuel system, and every sheet of its route, empty."""

    job: JobView
    sheets: list[SheetView]


@dataclass(frozen=True, slots=True, kw_only=True)
class BobView:
    """A bob on the small chart of a job's line; ``said`` is what it hangs at, for those who hear it.

    Where something else than flow is compared, ten per cent are the corridor of that sheet.
    """

    injector: str
    state: str
    deviation_percent: float
    said: str


@dataclass(frozen=True, slots=True, kw_only=True)
class JobLineView:
    """One job on the list of today; ``waits`` is now, parts, done or start."""

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
class JobsPageView:
    """A page of jobs, and how many fit the question in all, or that there are ``more`` than that."""

    total: int
    more: bool
    jobs: list[JobLineView]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShelfView:
    """A window, a rule or a layout on the shelf; ``values`` are typed texts by key."""

    id: int
    what: str
    name: str
    kind: str
    unit: str
    values: dict[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportView:
    """What an import would do, or did: how much fits, and every problem by place."""

    fits: bool
    stored: bool
    summary: str
    job_number: str
    readings: int
    problems: list[str]
