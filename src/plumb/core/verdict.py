"""The verdict of one injector: findings → condition → action, as an open table.

The first row that fits is taken, and each row says why in a sentence.  No row asks for a new part:
a drop alone cannot tell an injector from its wiring, its feed or its cylinder.

>>> judge_injector(State.LOW, neighbour_proven=True).action
'clean_and_repeat'
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from plumb.core.decision import State


@dataclass(frozen=True, slots=True, kw_only=True)
class VerdictRow:
    """One row: when it fits, the condition and action codes, why, and what is not ruled out."""

    name: str
    fits: Callable[[State, bool], bool]
    condition: str
    action: str
    because: str
    not_ruled_out: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What one injector is and what to do with it, and the row that said so."""

    row: str
    condition: str
    action: str
    because: str
    not_ruled_out: tuple[str, ...]


def _is(state: State) -> Callable[[State, bool], bool]:
    return lambda found, _proven: found is state


TABLE: Final = (
    VerdictRow(
        name="no response, tester not proven",
        fits=lambda found, proven: found is State.NO_RESPONSE and not proven,
        condition="no_response",
        action="check_first",
        because="no drop, and no neighbour has answered the same burst: prove the tester first",
        not_ruled_out=("tester_supply", "command", "coil", "shared_feed", "stuck_shut"),
    ),
    VerdictRow(
        name="no response, tester proven",
        fits=_is(State.NO_RESPONSE),
        condition="no_response",
        action="check_first",
        because="no drop while its neighbours answer: plug, command and coil come before the "
        "injector",
        not_ruled_out=("command", "coil", "shared_feed", "stuck_shut"),
    ),
    VerdictRow(
        name="gives less",
        fits=_is(State.LOW),
        condition="gives_less",
        action="clean_and_repeat",
        because="gives less than the injectors that agree: clogged or sticking",
        not_ruled_out=("coil", "command", "tester_supply"),
    ),
    VerdictRow(
        name="gives more",
        fits=_is(State.HIGH),
        condition="gives_more",
        action="bench_test",
        because="gives more than the injectors that agree: leaking, worn, or read late",
        not_ruled_out=("read_late", "leak_during_the_burst"),
    ),
    VerdictRow(
        name="in plumb",
        fits=_is(State.IN_PLUMB),
        condition="sound",
        action="keep",
        because="gives what the injectors that agree give",
        not_ruled_out=("fault_shared_by_all",),
    ),
    VerdictRow(
        name="set split",
        fits=_is(State.SPLIT),
        condition="not_settled",
        action="check_first",
        because="the set falls into halves; another procedure or an expected drop must say which "
        "is right",
        not_ruled_out=("shared_feed", "either_half"),
    ),
    VerdictRow(
        name="not settled",
        fits=lambda _found, _proven: True,
        condition="not_settled",
        action="repeat",
        because="the readings do not settle it",
        not_ruled_out=(),
    ),
)

NOT_RULED_OUT: Final = {
    "tester_supply": "a weak supply to the tester",
    "command": "no or weak command",
    "coil": "the coil",
    "shared_feed": "a feed, fuse or driver it shares",
    "stuck_shut": "an injector stuck shut or plugged",
    "read_late": "a late second reading",
    "leak_during_the_burst": "a rail that leaks meanwhile",
    "fault_shared_by_all": "a fault that all of them share",
    "either_half": "either half of the set",
}
"""Plain words for the codes of ``not_ruled_out``."""


def judge_injector(state: State, *, neighbour_proven: bool) -> Verdict:
    """The verdict of one injector from its state on the drop sheet.

    ``neighbour_proven``: another injector answered the same tester, so the tester works.
    """
    row = next(r for r in TABLE if r.fits(state, neighbour_proven))
    return Verdict(
        row=row.name,
        condition=row.condition,
        action=row.action,
        because=row.because,
        not_ruled_out=row.not_ruled_out,
    )
