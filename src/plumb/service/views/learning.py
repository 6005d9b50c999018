"""What the service hands to the API about learning from closed jobs."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class CommonView:
    """How common a fault is on a fuel system, and how much of that is the shop's own."""

    fuel_system: str
    fault: str
    words: str
    cases: int
    per_hundred: float
    own_percent: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LearningView:
    """Whether closed jobs count, how many have a confirmed cause, and what they met."""

    on: bool
    jobs: int
    faults: list[CommonView]
