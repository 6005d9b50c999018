"""The card of the return volumes."""

from typing import Final

from plumb.core.measure.spoken import NO_START
from plumb.core.procedures.cautions import (
    FUEL,
    FUEL_LINES,
    JETS,
    LAST,
    WHILE_CRANKING,
    WHILE_IDLING,
)
from plumb.core.procedures.kind import Effort, Entry, Kind, Place, Told, unread
from plumb.core.procedures.returns.analysis import KIND, analyse_returns
from plumb.core.procedures.returns.facts import MAKES, facts
from plumb.core.procedures.returns.guide import RETURNS_GUIDE
from plumb.core.procedures.returns.shows import SHOWS
from plumb.core.procedures.returns.words import SAYS, because, headline, notes, state
from plumb.core.procedures.returns.working import working

RETURNS: Final = Kind(
    code=KIND,
    title="Return volumes",
    how="a tube on each return, the common return clamped",
    care=f"{FUEL}{JETS} {WHILE_IDLING}" + LAST,
    on={
        NO_START: Told(
            how="cranked in spells with rests; a tube on each return, the common return clamped",
            measure="Crank in several spells with rests for the starter, a tube on each return, the "
            "common return clamped; write each spell down.",
            care=f"{FUEL}{JETS} {WHILE_CRANKING}" + LAST,
        ),
        "mechanical_diesel": Told(
            how="a tube on each leak-off, the common line clamped",
            measure="A tube on each leak-off, the common line clamped, one clock for all.",
            care=f"{FUEL_LINES} {WHILE_IDLING}" + LAST,
        ),
        f"mechanical_diesel {NO_START}": Told(
            how="cranked in spells with rests; a tube on each leak-off, the common line clamped",
            measure="Crank in several spells with rests for the starter, a tube on each leak-off, the "
            "common line clamped; write each spell down.",
            care=f"{FUEL_LINES} {WHILE_CRANKING}" + LAST,
        ),
    },
    measure="A tube on each return, the common return clamped, one clock for all.",
    places={"common_rail": Place(order=70), "mechanical_diesel": Place(order=30)},
    effort=Effort(once=15.0, each=1.5, whole_set=True),
    engine="idle",
    cranks=True,
    tracks="value",
    compares=True,
    unit="ml",
    entry=Entry(shape="value", figures=("volume",), marks=frozenset({"none", "over", "not_read"})),
    clears=("returns",),
    says=SAYS,
    together=True,
    makes=MAKES,
    guide=RETURNS_GUIDE,
    shows=SHOWS,
    analyse=analyse_returns,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    working=working,
    runs=lambda result: result.begun and result.sheet.state == "idle",
    asks=unread,
)
