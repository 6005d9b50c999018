"""What the repair as it was done comes to by the shop's prices: parts, cleaning, work.

>>> lines = bill((Repair(injector="5", done="replaced"), Repair(injector="4", done="cleaned")),
...              Prices(labour_per_hour=90.0, reach_minutes=60, each_minutes=12, part=120.0, cleaning=25.0))
>>> [(line.what, line.amount) for line in lines]
[('Injector', 120.0), ('Cleaning', 25.0), ('Work', 126.0)]
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from plumb.core.mend.options import SHIM_MINUTES, Prices
from plumb.core.mend.repairs import TAKEN_OUT, Repair

_PRICED: Final = (
    ("replaced", "Injector", "part"),
    ("cleaned", "Cleaning", "cleaning"),
    ("rebuilt", "Bench test and rebuild", "rebuild"),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class BillLine:
    """One line: what, how many (pieces, or hours where ``hours``), and what that comes to.

    ``amount`` is None where its price was not said.
    """

    what: str
    count: float
    amount: float | None
    hours: bool = False


def bill(repairs: Sequence[Repair], prices: Prices) -> tuple[BillLine, ...]:
    """Parts and work of the repairs, one visit for all that was done on one day; empty for none."""
    made = []
    for done, what, price in _PRICED:
        count = len({r.injector for r in repairs if r.done == done})
        each = getattr(prices, price)
        if count:
            made.append(
                BillLine(what=what, count=count, amount=None if each is None else count * each)
            )
    out = {p for r in repairs if r.done in TAKEN_OUT for p in r.places}
    if out:
        days = {r.at.date() for r in repairs if r.done in TAKEN_OUT and r.at is not None}
        shims = sum(r.done == "reshimmed" for r in repairs)
        hours = prices.hours(len(out), visits=max(1, len(days))) + shims * SHIM_MINUTES / 60.0
        work = prices.money(hours)
        amount = None if work is None else round(work, 2)
        made.append(BillLine(what="Work", count=hours, amount=amount, hours=True))
    return tuple(made)
