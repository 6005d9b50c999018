"""The card of the return volumes."""

from typing import Final

from plumb.core.procedures.cautions import FUEL, LAST
from plumb.core.procedures.kind import Effort, Entry, Kind, Place, unread
from plumb.core.procedures.returns.analysis import KIND, analyse_returns
from plumb.core.procedures.returns.facts import MAKES, facts
from plumb.core.procedures.returns.words import because, headline, notes, state
from plumb.core.procedures.returns.working import working

RETURNS: Final = Kind(
    code=KIND,
    title="Return volumes",
    how="a tube on each return, the common return clamped",
    care=FUEL
    + " Diesel at rail pressure goes through skin: never feel for a leak, any jet wound is a "
    "hospital matter at once. Cranking: clear of belts, rest the starter." + LAST,
    measure="A tube on each return, the common return clamped, one clock for all.",
    places={"common_rail": Place(order=70), "mechanical_diesel": Place(order=30)},
    effort=Effort(once=15.0, each=1.5, whole_set=True),
    engine="idle",
    compares=True,
    unit="ml",
    entry=Entry(shape="value", figures=("volume",), marks=frozenset({"none", "over", "not_read"})),
    clears=("returns",),
    makes=MAKES,
    analyse=analyse_returns,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    working=working,
    asks=unread,
)
