"""What a trace looks like on a screen: envelopes to draw, humps, bursts and where they lie."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class RoleView:
    """One thing a column can be, and the column that is taken for it."""

    code: str
    label: str
    needed: bool
    column: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnView:
    """A column of a file: its name, its unit, its first cells."""

    name: str
    unit: str
    cells: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class TraceHeadView:
    """What the beginning of a file shows: its columns, and which is taken for what."""

    fits: bool
    columns: list[ColumnView]
    roles: list[RoleView]
    unit_missing: bool
    problems: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChannelView:
    """One channel as lowest and highest of equal runs of time."""

    name: str
    unit: str
    low: list[float]
    high: list[float]


@dataclass(frozen=True, slots=True, kw_only=True)
class HumpView:
    """One place of the cycle: whose hump, its height over the cycles in per cent, and the state."""

    place: int
    injector: str
    percent: float
    cycles: list[float]
    low_cycles: int
    state: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class BurstView:
    """One burst of a log: where it lies, both readings as shown, how well known, and why doubted.

    ``injector`` is the one it was taken for or is offered for; ``reading_id`` is empty until then.
    """

    number: int
    start_s: float
    end_s: float
    first: str
    second: str
    confidence_percent: float
    drift: str
    doubts: list[str]
    doubtful: bool
    injector: str
    reading_id: str
    moved: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PartView:
    """A stretch of a log, drawn finely: lowest and highest of equal runs."""

    from_s: float
    to_s: float
    low: list[float]
    high: list[float]


@dataclass(frozen=True, slots=True, kw_only=True)
class TraceNameView:
    """One of the traces of a sheet."""

    id: int
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TraceView:
    """A sheet's trace: ``id`` 0 where only what was found in it is known, not the file itself.

    ``log``: bursts can be taken from it; ``band`` is a share of the first channel to each side of it.
    ``all`` are the traces of the sheet, newest first: a drop sheet keeps each log that was brought.
    """

    id: int
    log: bool
    band: float | None
    name: str
    samples: int
    rate_hz: float
    from_s: float
    to_s: float
    unit: str
    channels: list[ChannelView]
    humps: list[HumpView]
    hump_times: list[float]
    bursts: list[BurstView]
    synced: bool
    notes: list[str]
    all: list[TraceNameView]
