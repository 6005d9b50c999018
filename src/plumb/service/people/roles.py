"""What each role may do: the ranks, and the one question that a use asks by itself."""

from typing import Final

from plumb.core.measure.problems import Problem
from plumb.service.people.refusals import MayNot
from plumb.store.actor import acting
from plumb.store.tables_people import ROLES

RANK: Final = {role: n for n, role in enumerate(ROLES)}
_WHO: Final = {"technician": "a technician", "lead": "a lead", "owner": "an owner"}


def at_least(role: str, wanted: str) -> bool:
    """Whether somebody of a role may do what another role may.

    >>> at_least("lead", "technician"), at_least("reader", "technician"), at_least("", "owner")
    (True, False, False)
    """
    return RANK.get(role, -1) >= RANK[wanted]


def may_not(wanted: str, what: str = "that") -> MayNot:
    """The refusal of something that is for others to do."""
    rule = f"{what} takes {_WHO[wanted]}; ask one, or have your role changed"
    return MayNot(Problem(path="", rule=rule, code="role"))


def must_be(wanted: str, what: str) -> None:
    """Raise :class:`MayNot` where who is at it may not; a workshop without people may everything."""
    if not at_least(acting.get().role, wanted):
        raise may_not(wanted, what)
