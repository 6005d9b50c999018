"""A hold as a screen shows it: the curve, what is foretold, and where the pressure may go."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class PointView:
    """One reading of a hold."""

    id: str
    t_s: float
    value: float
    shown: str
    note: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ForetoldView:
    """One limit of a hold, and the pressure at its time: read, or foretold with a range."""

    name: str
    at_s: float
    least_left: float
    value: float
    low: float
    high: float
    read: bool
    state: str
    shown: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TryView:
    """One step of the isolation board and what came of it."""

    step: str
    title: str
    outcomes: list[str]
    outcome: str
    reading_id: str
    proposed: bool
    minutes: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceView:
    """One place where it could go: still possible, or struck out and why."""

    source: str
    name: str
    struck: bool
    because: str


@dataclass(frozen=True, slots=True, kw_only=True)
class HoldView:
    """A hold: its readings, limits and what is foretold, the clock, the isolation board."""

    points: list[PointView]
    limits: list[ForetoldView]
    state: str
    begun_at: str
    due_s: float | None
    line: str
    settled_early: bool
    tries: list[TryView]
    places: list[PlaceView]
    contradiction: bool
