"""The verdict of one injector: facts of all sheets -> condition -> action, as an open table.

The first row that fits gives condition and action; every row that fits is shown.  Rows that ask for
a new part stand behind gates: what could imitate the fault must have been ruled out first.

>>> judge(frozenset({"drop_low"})).action
'clean_and_repeat'
>>> judge(frozenset({"drop_none", "neighbour_answered", "command_good", "coil_good"})).action
'clean_and_repeat'
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final

from plumb.core.causes.sighting import Sighting
from plumb.core.weigh.suspicions import CONTRADICTIONS, NOT_RULED_OUT, SUSPICIONS, Contradiction
from plumb.core.weigh.table import TABLE

__all__ = ["NOT_RULED_OUT", "TABLE", "Verdict", "judge"]


READS: Final = frozenset({"held_to_expected"})
"""Facts that the words of a verdict hang on."""
LEAVE: Final = "leave"
"""What is done with an injector that is not settled, where nothing is left that would tell more of it."""
_ASKS: Final = frozenset({"repeat", "measure"})
_MEANT: Final = frozenset({"passes disagree", "no response on a weak supply", "does not chatter"})
"""Rows whose further reading is an answer that a person owes, whatever else there is to do."""
DOES_NOTHING: Final = frozenset({"keep", *_ASKS, LEAVE})
"""Actions that leave an injector as it is."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What one injector is and what to do with it, and the rows that said so.

    ``fired`` names every row that fits, the deciding one first; ``accepted`` is why a person takes it as
    it is although the readings do not settle it.
    """

    row: str
    condition: str
    action: str
    because: str
    not_ruled_out: tuple[str, ...]
    ruled_out: tuple[str, ...] = ()
    fired: tuple[str, ...] = ()
    contradictions: tuple[Contradiction, ...] = ()
    accepted: str = ""

    @property
    def waits(self) -> bool:
        """Whether something comes before it is called the reason.

        Passes that disagree may be a slip: until one is told from the other they explain nothing.
        """
        may_be_a_slip = self.condition == "intermittent" and self.action == "repeat"
        return self.action == "check_first" or may_be_a_slip

    @property
    def can_be_accepted(self) -> bool:
        """Whether further readings are asked for, and nothing else is known against it."""
        undecided = self.condition == "not_settled" and self.action in {"repeat", LEAVE}
        return undecided and not self.contradictions


def accept(verdict: Verdict, reason: str) -> Verdict:
    """A verdict that the readings leave open, taken by a person as it is; any other stays."""
    if not reason or not verdict.can_be_accepted:
        return verdict
    return replace(
        verdict, condition="sound", action="keep", because=f"accepted as it is: {reason}",
        accepted=reason, not_ruled_out=(),
    )  # fmt: skip


def at_rest(verdicts: Iterable[tuple[str, Verdict]]) -> tuple[tuple[str, Verdict], ...]:
    """The verdicts once nothing is left to measure: nobody is to be read again, or at last."""
    return tuple(
        (label, replace(v, action=LEAVE) if v.action in _ASKS and v.row not in _MEANT else v)
        for label, v in verdicts
    )


_ACTIONS: Final = {
    **dict.fromkeys(
        ("coil_open", "coil_shorted", "coil_out_of_window", "stuck_open", "leaks_at_tip"), "replace"
    ),
    **dict.fromkeys(("opens_early", "opens_late"), "reshim"),
    **dict.fromkeys(("returns_too_much", "gives_more", "intermittent"), "bench_test"),
}
"""What is done with an injector at which a person found that; all others are cleaned first."""


def judge_sighted(sighting: Sighting) -> Verdict:
    """The verdict of an injector at which a person found one of an injector's faults."""
    return Verdict(
        row="found by a person",
        condition=sighting.fault,
        action=_ACTIONS.get(sighting.fault, "clean_and_repeat"),
        because=sighting.told(),
        not_ruled_out=(),
        fired=("found by a person",),
    )


@lru_cache(maxsize=1024)
def judge(facts: frozenset[str], fuel_system: str = "port") -> Verdict:
    """The verdict of one injector from the codes of its own facts and of the engine's."""
    against = tuple(c for c in CONTRADICTIONS if all(g & facts for g in c.needs))
    codes = facts | {"contradicted"} if against else facts
    fired = [row for row in TABLE if row.fits(codes)]
    row = fired[0]
    open_: list[str] = []
    cleared: list[str] = []
    for code in row.not_ruled_out:
        if SUSPICIONS[code].could_be(codes, fuel_system):
            (cleared if SUSPICIONS[code].cleared_by & facts else open_).append(code)
    because = row.alone if row.alone and "held_to_expected" in facts else row.because
    if against and row.name == "contradiction":
        because = "; ".join(c.text for c in against) + ": one of them is wrong, do it again"
    return Verdict(
        row=row.name,
        condition=row.condition,
        action=row.action,
        because=because,
        not_ruled_out=tuple(open_),
        ruled_out=tuple(cleared),
        fired=tuple(r.name for r in fired[:-1] or fired),
        contradictions=against,
    )
