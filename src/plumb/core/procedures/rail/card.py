"""The card of the rail pressure."""

from typing import Final

from plumb.core.procedures.cautions import LAST
from plumb.core.procedures.kind import Effort, Entry, Kind, Place
from plumb.core.procedures.rail.analysis import KIND, analyse_rail
from plumb.core.procedures.rail.facts import MAKES, facts
from plumb.core.procedures.rail.words import because, headline, notes, state
from plumb.core.procedures.rail.working import working

RAIL: Final = Kind(
    code=KIND,
    title="Rail pressure",
    how="at idle, then a little above: what is wanted and what is there",
    care="The engine runs: clear of belts and fans. The rail holds pressure that goes through "
    "skin and is hot: open nothing, touch no union, never feel for a leak; any jet wound "
    "is a hospital matter at once." + LAST,
    places={"common_rail": Place(order=40)},
    effort=Effort(once=4.0),
    engine="idle",
    of_engine=True,
    unit="bar",
    entry=Entry(shape="trace"),
    clears=("rail_pressure",),
    makes=MAKES,
    analyse=analyse_rail,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    working=working,
)
