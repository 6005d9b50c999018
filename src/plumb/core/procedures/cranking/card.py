"""The card of the cranking balance."""

from typing import Final

from plumb.core.procedures.cautions import LAST, WHILE_CRANKING
from plumb.core.procedures.cranking.analysis import KIND, analyse_cranking
from plumb.core.procedures.cranking.facts import MAKES, facts
from plumb.core.procedures.cranking.guide import CRANKING_GUIDE
from plumb.core.procedures.cranking.shows import SHOWS
from plumb.core.procedures.cranking.words import SAYS, because, headline, notes, state
from plumb.core.procedures.cranking.working import working
from plumb.core.procedures.kind import Effort, Entry, Kind, Place

CRANKING: Final = Kind(
    code=KIND,
    title="Cranking balance",
    how="kept from starting, clamp round all starter cables",
    care=WHILE_CRANKING + LAST,
    places={"common_rail": Place(order=50), "mechanical_diesel": Place(order=20)},
    effort=Effort(once=8.0, each=0.2, whole_set=True),
    engine="cranking",
    tracks="share",
    unit="percent",
    entry=Entry(shape="value", figures=("hump",), once=True),
    clears=("compression",),
    says=SAYS,
    together=True,
    makes=MAKES,
    guide=CRANKING_GUIDE,
    shows=SHOWS,
    analyse=analyse_cranking,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    working=working,
)
