"""What the service hands to the API about safe keeping: plain data."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class KeepingView:
    """How safe the shop's figures are.

    ``last`` is when the last backup was made, empty where there is none; ``by_clock`` whether they are
    made by themselves; ``free_mb`` is the room where the database lives; ``told`` what somebody should
    look after, in words.
    """

    last: str
    by_clock: bool
    free_mb: int
    told: list[str]
