"""What the hold says."""

from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import show_pressure
from plumb.core.measure.text import NOTHING_YET, Span, listed
from plumb.core.measure.uncertainty import KNOWN_TO
from plumb.core.procedures.hold.analysis import HoldResult
from plumb.core.procedures.hold.isolation import SOURCES, step_of

_WORDS: Final = {
    State.IN_PLUMB: "holds",
    State.LOW: "loses too much",
    State.UNSETTLED: "not settled",
    State.NOT_JUDGED: "not measured",
}
HELD: Final = tuple(_WORDS.values())
"""What can be said of a limit."""


def _clock(seconds: float) -> str:
    if seconds < 120:
        return f"{seconds:g} s"
    return f"{seconds / 60:g} min"


def headline(result: HoldResult, unit: str) -> tuple[Span, ...]:
    """Whether it holds, by the worst of its limits."""
    step = result.sheet.step

    def p(kpa: float) -> str:
        return show_pressure(kpa, unit, step) + f" {unit}"

    if not result.sheet.series:
        return NOTHING_YET
    if result.collapsed:
        return (Span(text="The pressure is gone within seconds.", tone="low"),)
    if not result.judged:
        return (Span(text="Noted. Without a limit nothing says whether that is enough."),)
    worst = next(j for j in result.judged if j.state is result.state)
    when, then = _clock(worst.at_s), worst.then
    figure = f"{p(then.value)} {'left' if then.read else 'foretold'} after {when}"
    asked = f"{p(worst.least_left)} asked for"
    if result.state is State.IN_PLUMB and result.rising:
        return (Span(text=f"Holds: the pressure rises, heat soak and no leak; {asked}."),)
    if result.state is State.IN_PLUMB:
        return (Span(text=f"Holds: {figure}, {asked}."),)
    if result.state is State.LOW:
        return (Span(text="Does not hold: ", tone="low"), Span(text=f"{figure}, {asked}."))
    if worst.too_early:
        last_s, last = max(result.sheet.series)
        text = f"{p(last)} after {_clock(last_s)}; {asked} after {when}. The reading then counts."
        return (Span(text="Too early to tell: ", tone="open"), Span(text=text))
    return (
        Span(text="Not decided yet: ", tone="open"),
        Span(text=f"{figure}, between {p(then.low)} and {p(then.high)} ({KNOWN_TO}); {asked}."),
    )


def notes(result: HoldResult, unit: str) -> tuple[str, ...]:
    """Heat, an early call, a collapse, and what the isolation board leaves."""
    made = []
    step = result.sheet.step
    if result.soaked and result.peak is not None:
        made.append(
            f"The hot engine raised it to {show_pressure(result.peak[1], unit, step)} {unit}: heat "
            "soak. No leak rate is taken from the rising part."
        )
    if result.small_leak:
        lost = show_pressure(result.lost_a_minute[0], unit, step / 10.0)
        made.append(
            f"A small leak, inside the limit: about {lost} {unit} in the first minute. A hold that "
            "passed is no proof of tight tips."
        )
    if result.fit is not None and result.fit.bent and result.state is State.UNSETTLED:
        made.append(
            "It does not fall as one leak does: two of them, heat, or one that closes. Nothing is foretold from that; "
            "the reading at its time counts."
        )
    if result.early:
        made.append("Called before its time: the whole range lies on one side of the limit.")
    if result.collapsed:
        made.append(
            "With a rich idle, a long crank and a smell of raw fuel this points to an injector that "
            "is stuck open."
        )
    board = result.board
    if board.contradiction:
        pairs = "; ".join(
            f"{step_of(a, board.rail).title.lower()} against {step_of(b, board.rail).title.lower()}"
            for a, b in board.against
        )
        made.append(
            f"Contradiction: {pairs}. Either there is more than one leak, or one outcome was misread."
        )
    elif board.found:
        made.append(f"One place is left: {SOURCES[board.rail][board.found]}.")
    elif board.tried:
        left = listed([SOURCES[board.rail][s] for s in board.left])
        made.append(f"Still possible: {left}.")
    return tuple(made)


def state(finding: Finding, _result: HoldResult) -> str:
    """The state of one limit."""
    return _WORDS[finding.state]


def because(_finding: Finding, result: HoldResult, unit: str) -> str:
    """What the hold says of the limit."""
    return "".join(s.text for s in headline(result, unit))
