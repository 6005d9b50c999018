"""What rules are worth on simulated sets, and what it takes to be sure, as a screen shows them."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class ShareView:
    """A share in per cent with its 95 % interval (Wilson), of how many; None where there are none yet."""

    percent: float | None
    low: float
    high: float
    of: int


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleWorthView:
    """What one rule is worth: bad ones caught, good ones condemned, healthy sets accused.

    ``repeats`` are bursts asked for besides, an injector; ``shop``: one of the shop's own; ``chosen``:
    the rule of the sheet that was come from.
    """

    code: str
    title: str
    shop: bool
    chosen: bool
    caught: ShareView
    condemned: ShareView
    accused: ShareView
    repeats: float
    undecided: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SetupView:
    """What is simulated, pressures in ``unit``: gauge step, a good burst from ``first`` to ``second``.

    ``scatter`` is how far starts wander; ``tolerance_percent`` what is allowed; ``passes`` of everyone
    before any rule judges.
    """

    unit: str
    step: float
    first: float
    second: float
    scatter: float
    size: int
    tolerance_percent: float
    passes: int
    ideal: bool
    rule: str
    told: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WorthView:
    """A simulation: how many ``sets`` of how many are done, and what they say so far."""

    id: str
    setup: SetupView
    sets: int
    of: int
    running: bool
    rules: list[RuleWorthView]


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanView:
    """One way to be sure: gauge, burst, passes, bursts in all and their minutes; ``now`` where nothing changes."""

    step: str
    second: str
    longer: float
    passes: int
    bursts: int
    minutes: float
    certainty_percent: float
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannerView:
    """What would call out an injector that is off by so much, with so much certainty.

    ``now_percent`` is how certain one pass with this gauge and burst is.
    """

    unit: str
    off_percent: float
    certainty_percent: float
    now_percent: float
    plans: list[PlanView]
    told: str
