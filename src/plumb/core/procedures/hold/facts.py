"""Facts of the hold and of its isolation board."""

from collections.abc import Iterator
from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.fact import Fact
from plumb.core.procedures.hold.analysis import HoldResult
from plumb.core.procedures.hold.isolation import HIGH, LOW, STEPS, outcome_fact

_OF_A_HOLD: Final = {
    "collapsed": "the pressure is gone within seconds",
    "lost": "the rail does not hold",
    "good": "the rail holds",
    "small_leak": "the rail holds by its limits, and yet loses a little",
    "tight": "the rail loses less than a tip that drips would take",
    "soaks": "the pressure rose in a hot rail",
}
PREFIX: Final = {"low": "hold", "high": "high_hold"}
"""What one side of the pump holds says nothing of the other: facts of their own."""
MAKES: Final = {
    **{f"{PREFIX['low']}_{code}": said for code, said in _OF_A_HOLD.items()},
    **{
        f"{PREFIX['high']}_{code}": f"on the high side: {said}" for code, said in _OF_A_HOLD.items()
    },
    "injectors_tight": "the board has struck out the injectors",
    **{
        fact: f"the board: {step.title}, {outcome}"
        for rail, steps in STEPS.items()
        for step in steps
        for outcome in step.leaves
        for fact in (outcome_fact(rail, step.code, outcome),)
    },
    **{f"source_{code}": f"the one place left: {name}" for code, name in {**LOW, **HIGH}.items()},
}


def facts(key: str, result: HoldResult) -> Iterator[Fact]:
    """Whether the rail holds, what the heat did, and what the isolation board leaves."""
    board, name = result.board, PREFIX[result.sheet.rail]
    if result.collapsed:
        yield Fact(
            code=f"{name}_collapsed", injector="", sheet=key,
            text="the rail's pressure is gone within seconds",
        )  # fmt: skip
    elif result.state is State.LOW:
        yield Fact(code=f"{name}_lost", injector="", sheet=key, text="the rail does not hold")
    elif result.state is State.IN_PLUMB:
        yield Fact(code=f"{name}_good", injector="", sheet=key, text="the rail holds")
    if result.small_leak:
        yield Fact(
            code=f"{name}_small_leak", injector="", sheet=key,
            text="the rail loses a little, inside its limit",
        )  # fmt: skip
    if result.tight:
        yield Fact(code=f"{name}_tight", injector="", sheet=key)
    if result.soaked and result.state is not State.LOW:
        yield Fact(
            code=f"{name}_soaks", injector="", sheet=key,
            text="the pressure rose in the hot rail: heat soak, no leak",
        )  # fmt: skip
    for step, outcome in board.tried:
        code = outcome_fact(result.sheet.rail, step, outcome)
        yield Fact(code=code, injector="", sheet=key, weighs=False)
    if board.found:
        yield Fact(code=f"source_{board.found}", injector="", sheet=key)
    seats = {"low": "injectors", "high": "injector_seats"}[result.sheet.rail]
    if board.tried and not board.contradiction and seats not in board.left:
        yield Fact(code="injectors_tight", injector="", sheet=key)
