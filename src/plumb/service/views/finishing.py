"""What the service hands to the API of a job from its verdict on: plain data."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class WayView:
    """One way to put it right.

    Costs are in the shop's currency, None where a price is missing; hours are expected ones with their
    range.  ``second_visit`` is a chance in per cent; ``chance`` says how often cleaning cures.
    """

    option: str
    title: str
    injectors: list[str]
    cost: float | None
    cost_low: float | None
    cost_high: float | None
    hours: float
    hours_low: float
    hours_high: float
    second_visit: float
    chance: str
    because: str
    risk: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ChoiceView:
    """A way that was chosen; ``look_on`` (a day) and ``look_at`` (a distance) say when it is looked at again."""

    title: str
    option: str
    reason: str
    by: str
    at: str
    look_on: str
    look_at: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PartView:
    """A part; what is not known is empty."""

    make: str
    number: str
    serial: str
    mark: str
    note: str
    code: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RepairView:
    """One thing that was done, in words, with who and when."""

    id: str
    injector: str
    done: str
    words: str
    by: str
    at: str
    note: str
    part: PartView | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PairView:
    """A row before and after the repair.

    ``before_at`` and ``after_at`` are where its bob hung and hangs, in tenths of the corridor, with
    their uncertainties; None where a sheet has words only.  ``word`` is the change's code.
    """

    row: str
    kind: str
    title: str
    before_sheet: str
    sheet: str
    before_at: float | None
    before_u: float | None
    after_at: float | None
    after_u: float | None
    before_words: str
    after_words: str
    word: str
    word_text: str
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DueView:
    """A sheet to take again; ``key`` is the one that was begun for it, empty where none was."""

    kind: str
    title: str
    injectors: list[str]
    after: str
    key: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ThingView:
    """Something that goes with the repair; ``state`` is done, aside, or empty."""

    what: str
    words: str
    state: str
    reason: str
    by: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AnswerView:
    """One word of the complaint, and what became of it: gone, less, still_there, or not asked yet."""

    word: str
    words: str
    answer: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SignatureView:
    """Who signed, when, with which version of Plumb, and what was decided then.

    ``differs`` is what this version would decide otherwise, empty where it agrees.
    """

    by: str
    at: str
    reason: str
    hand: str
    version: str
    says: str
    differs: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SightingView:
    """A cause that a person found: in words, how, by whom, when."""

    id: str
    injector: str
    words: str
    how: str
    by: str
    at: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CanBeFoundView:
    """What can be chosen as found; ``at_one`` at an injector, else on the engine."""

    code: str
    words: str
    at_one: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class DoneView:
    """A word to choose from: what can be done to an injector, or what is wrong with the engine."""

    code: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FinishingView:
    """A job from its verdict on.

    ``missing`` names the prices that nobody has said; ``can_be_done`` what can be done to an injector,
    ``engine`` the causes of the engine that can be put right; ``over``: nothing is left to do but to
    sign; ``sightings`` are causes that persons found, ``can_be_found`` what can be chosen as such; ``reason_for`` is why closing asks for a reason, empty where it does not.
    """

    currency: str
    prices: dict[str, str]
    missing: list[str]
    options: list[WayView]
    choices: list[ChoiceView]
    can_be_done: list[DoneView]
    engine: list[DoneView]
    sightings: list[SightingView]
    can_be_found: list[CanBeFoundView]
    repairs: list[RepairView]
    pairs: list[PairView]
    swaps: list[str]
    due: list[DueView]
    things: list[ThingView]
    answers: list[AnswerView]
    over: bool
    reason_for: str
    signatures: list[SignatureView]


@dataclass(frozen=True, slots=True, kw_only=True)
class LookAgainView:
    """A vehicle whose fault was left, and whose day to be looked at again has come."""

    number: str
    vehicle_id: int
    vehicle: str
    registration: str
    words: str
    look_on: str
    look_at: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ShopView:
    """The shop as its papers name it; ``logo`` says whether there is one."""

    name: str
    address: str
    currency: str
    logo: bool
