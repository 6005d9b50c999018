"""What a begun hold still asks for: a reading that is due, or the next step of the board."""

from collections.abc import Set as AbstractSet

from plumb.core.measure.decision import State
from plumb.core.measure.step import NextStep
from plumb.core.procedures.hold.analysis import HoldResult
from plumb.core.procedures.hold.isolation import step_of
from plumb.core.procedures.kind import AnyKind


def asks(kind: AnyKind, result: HoldResult, told: AbstractSet[str]) -> NextStep | None:
    """A hold that is not finished, or a rail that loses it somewhere not yet known.

    ``told`` are the facts of the whole job: tips that were looked at need not be looked at again.
    """
    last = result.sheet.series[-1][0] if result.sheet.series else -1.0
    if result.state is State.UNSETTLED and result.due_after(last) is not None:
        return kind.step((), "hold_due")
    proposal = result.board.next_step
    if result.state is not State.LOW or proposal is None or result.board.found:
        return None
    looked = "tips_looked_at" in told
    if looked and ("all_tips_dry" not in told or proposal.step == "tips"):
        return None
    step = step_of(proposal.step, result.sheet.rail)
    return NextStep(
        kind=kind.code, injectors=(), passes=1, minutes=step.minutes, reason="isolate",
        isolation=proposal.step, tried=step.title,
    )  # fmt: skip
