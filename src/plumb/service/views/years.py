"""What the service hands to the API of a vehicle's years: plain data."""

from dataclasses import dataclass

from plumb.service.views.finishing import PartView
from plumb.service.views.job import VehicleView


@dataclass(frozen=True, slots=True, kw_only=True)
class VisitView:
    """A job of a vehicle: its number, day, distance in the vehicle's unit, complaint, what was done."""

    number: str
    opened: str
    distance: str
    complaint: str
    closed: bool
    done: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class PointView:
    """One figure: when, at which distance (None: not noted), its value and standard uncertainty.

    ``job`` is empty for a figure from paper, whose ``source`` is told instead.
    """

    at: str
    distance: float | None
    value: float
    u: float
    job: str
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class KnotOnLineView:
    """A repair on the line of a place: when, and what was done."""

    at: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SlopeView:
    """How it moves against date or distance: the slope for a year or a thousand, its range, in words."""

    slope: float
    low: float
    high: float
    leaves: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SeriesView:
    """A place, or a part, over the years.

    ``low`` and ``high`` are its window now; ``change`` that of the last two figures with its uncertainty.
    """

    name: str
    place: str
    points: list[PointView]
    repairs: list[KnotOnLineView]
    low: float | None
    high: float | None
    change: float | None
    change_u: float | None
    sliding: bool
    by_date: SlopeView | None
    by_distance: SlopeView | None


@dataclass(frozen=True, slots=True, kw_only=True)
class QuantityView:
    """One quantity that a kind of sheet measures: by place, and by part."""

    kind: str
    title: str
    unit: str
    share: bool
    places: list[SeriesView]
    parts: list[SeriesView]


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatView:
    """A place with the part that sits there, and since when (empty: from the beginning)."""

    place: str
    since: str
    part: PartView


@dataclass(frozen=True, slots=True, kw_only=True)
class YearsView:
    """A vehicle with its visits, its parts in their places, and every quantity over the years."""

    vehicle: VehicleView
    visits: list[VisitView]
    seats: list[SeatView]
    quantities: list[QuantityView]


@dataclass(frozen=True, slots=True, kw_only=True)
class LastView:
    """Where a row of a sheet hung the last time, on the sheet's own scale, and when that was."""

    row: str
    at: float
    u_at: float | None
    when: str
    job: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ThenView:
    """What a row gave then, as it was typed, pass after pass."""

    row: str
    figures: str


@dataclass(frozen=True, slots=True, kw_only=True)
class BaselineView:
    """An earlier sound set that can be taken as what is expected of a sheet.

    ``put`` are the typed texts that take it; ``used``: they stand there; ``own``: it is this vehicle's,
    and ``then`` tells the figures of its injectors.
    """

    words: str
    put: dict[str, str]
    used: bool
    own: bool
    then: list[ThenView]


@dataclass(frozen=True, slots=True, kw_only=True)
class LearntWindowView:
    """A window learnt from the shop's own sound parts; ``put`` are the typed texts that take it."""

    words: str
    low: float
    high: float
    count: int
    unit: str
    put: dict[str, str]
