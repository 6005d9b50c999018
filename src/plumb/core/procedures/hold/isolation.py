"""Where does it go?  Each step's outcome strikes out sources; what contradicts is said.

One leak at a time is assumed: a source stays when every outcome noted fits it.  When no source
fits all outcomes there is more than one leak, or one outcome was misread, and the board says which
steps stand against each other.

>>> [s for s in board((("clamp_supply", "falls"), ("clamp_return", "holds")), "low").left]
['regulator']
>>> board((("clamp_supply", "holds"), ("clamp_return", "holds")), "low").contradiction
True
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Final

from plumb.core.measure.problems import PlumbError, Problem


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One thing to try: its outcomes, which sources each outcome leaves, minutes of work."""

    code: str
    title: str
    minutes: float
    leaves: dict[str, frozenset[str]]
    strikes: dict[str, str]


LOW: Final = {
    "supply_check_valve": "check valve of the supply",
    "regulator": "regulator, into the return",
    "regulator_diaphragm": "regulator's diaphragm",
    "injectors": "an injector",
    "cold_start_injector": "cold-start injector, if there is one",
    "outside_leak": "a leak to the outside",
}
HIGH: Final = {
    "pump_outlet_valve": "outlet valve of the high-pressure pump",
    "control_valve": "control valve",
    "unions": "pipes, unions, rail seals",
    "injector_seats": "seat of an injector",
}
SOURCES: Final = {"low": LOW, "high": HIGH}


def _step(code: str, title: str, minutes: float, only: dict[str, set[str]], among: set[str],
          other: dict[str, str], reasons: dict[str, str]) -> Step:  # fmt: skip
    """A step whose one outcome leaves ``only`` some sources, and whose other leaves the rest."""
    (outcome, left), (counter,) = next(iter(only.items())), other
    return Step(
        code=code,
        title=title,
        minutes=minutes,
        leaves={outcome: frozenset(left), counter: frozenset(among - left)},
        strikes=reasons,
    )


def _low(code: str, title: str, minutes: float, outcome: str, left: set[str], counter: str,
         reasons: dict[str, str]) -> Step:  # fmt: skip
    return _step(code, title, minutes, {outcome: left}, set(LOW), {counter: ""}, reasons)


def _high(code: str, title: str, minutes: float, outcome: str, left: set[str], counter: str,
          reasons: dict[str, str]) -> Step:  # fmt: skip
    return _step(code, title, minutes, {outcome: left}, set(HIGH), {counter: ""}, reasons)


STEPS: Final[dict[str, tuple[Step, ...]]] = {
    "low": (
        _low("vacuum_hose", "Vacuum hose looked into", 1.0, "wet", {"regulator_diaphragm"}, "dry",
             {"wet": "fuel stands in the vacuum hose", "dry": "the hose is dry"}),
        _low("outside", "Lines and unions looked at", 2.0, "wet", {"outside_leak"}, "dry",
             {"wet": "fuel is seen outside", "dry": "nothing is wet outside"}),
        _low("clamp_return", "Return clamped", 3.0, "holds", {"regulator"}, "falls",
             {"holds": "it holds once the return is clamped",
              "falls": "it still falls with the return clamped"}),
        _low("clamp_supply", "Supply clamped at shut-off", 4.0, "holds", {"supply_check_valve"},
             "falls", {"holds": "it holds once the supply is clamped",
                       "falls": "it still falls with the supply clamped"}),
        _low("clamp_both", "Both clamped", 5.0, "holds", {"supply_check_valve", "regulator"},
             "falls", {"holds": "it holds with both clamped",
                       "falls": "it still falls with both clamped"}),
        _low("tips", "Tips looked at under pressure", 10.0, "wet", {"injectors"}, "dry",
             {"wet": "a tip is wet under pressure", "dry": "the tips stay dry"}),
    ),
    "high": (
        _high("low_side", "Low side watched", 2.0, "rises", {"pump_outlet_valve"}, "steady",
              {"rises": "the low side rises: it falls back through the pump",
               "steady": "the low side stays"}),
        _high("outside", "Pipes and unions looked at, rail relieved first", 3.0, "wet", {"unions"},
              "dry", {"wet": "fuel is seen at a union", "dry": "nothing is wet outside"}),
        _high("tips", "Tips looked at, injectors out", 20.0, "wet", {"injector_seats"}, "dry",
              {"wet": "a tip is wet", "dry": "the tips stay dry"}),
    ),
}  # fmt: skip
"""What each outcome leaves; minutes are common practice, no source."""


def outcome_fact(rail: str, step: str, outcome: str) -> str:
    """The fact that a step of the board came out so."""
    return f"board_{rail}_{step}_{outcome}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Struck:
    """A source that was struck out, and the first outcome that did it."""

    source: str
    by: str
    because: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Proposal:
    """The step to try next, and its minutes of work."""

    step: str
    minutes: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Board:
    """The isolation board: tried steps, what is left, what was struck out, what contradicts.

    ``against`` are pairs of steps whose outcomes no single leak explains.
    """

    rail: str
    tried: tuple[tuple[str, str], ...]
    left: tuple[str, ...]
    struck: tuple[Struck, ...]
    contradiction: bool
    against: tuple[tuple[str, str], ...]
    next_step: Proposal | None

    @property
    def found(self) -> str | None:
        """The one source that is left, None while there are several or none."""
        return self.left[0] if len(self.left) == 1 and self.tried else None


def step_of(code: str, rail: str) -> Step:
    """The step of that code on that rail; :class:`PlumbError` when there is none."""
    for step in STEPS[rail]:
        if step.code == code:
            return step
    raise PlumbError(
        Problem(
            path="step",
            rule=f"on the {rail}-pressure side the steps are "
            + ", ".join(s.code for s in STEPS[rail]),
            value=code,
            code="unknown_step",
        )
    )


def board(tried: Sequence[tuple[str, str]], rail: str) -> Board:
    """The board after the steps that were tried; the last outcome of a step counts.

    Raises :class:`PlumbError` for a step or an outcome that this rail does not have.
    """
    latest: dict[str, str] = {}
    for code, outcome in tried:
        step = step_of(code, rail)
        if outcome not in step.leaves:
            raise PlumbError(
                Problem(
                    path="outcome",
                    rule=f"the outcome of {code} is " + " or ".join(step.leaves),
                    value=outcome,
                    code="unknown_outcome",
                )
            )
        latest[code] = outcome
    left = set(SOURCES[rail])
    struck: list[Struck] = []
    for code, outcome in latest.items():
        step = step_of(code, rail)
        struck += [
            Struck(source=s, by=code, because=step.strikes[outcome])
            for s in SOURCES[rail]
            if s in left and s not in step.leaves[outcome]
        ]
        left &= step.leaves[outcome]
    return Board(
        rail=rail,
        tried=tuple(latest.items()),
        left=tuple(s for s in SOURCES[rail] if s in left),
        struck=tuple(struck),
        contradiction=not left,
        against=_against(latest, rail) if not left else (),
        next_step=_proposal(left, latest, rail) if left else None,
    )


def _against(latest: dict[str, str], rail: str) -> tuple[tuple[str, str], ...]:
    """Pairs of steps that cannot both be true; all pairs where only three together disagree."""
    pairs = tuple(
        (a, b)
        for a, b in combinations(latest, 2)
        if not step_of(a, rail).leaves[latest[a]] & step_of(b, rail).leaves[latest[b]]
    )
    return pairs or tuple(combinations(latest, 2))


def _proposal(left: set[str], latest: dict[str, str], rail: str) -> Proposal | None:
    """The untried step that leaves the fewest sources for each minute of work.

    Every source that is left counts alike; an outcome comes as often as sources that give it.
    """
    best: tuple[float, Proposal] | None = None
    for step in STEPS[rail]:
        if step.code in latest or len(left) < 2:
            continue
        parts = [len(left & leaves) for leaves in step.leaves.values()]
        if 0 in parts:
            continue
        expected = sum(n * n for n in parts) / len(left)
        score = (len(left) - expected) / step.minutes
        if best is None or score > best[0] + 1e-12:
            made = Proposal(step=step.code, minutes=step.minutes)
            best = (score, made)
    return best[1] if best else None
