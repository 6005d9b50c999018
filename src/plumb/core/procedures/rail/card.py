"""The card of the rail pressure."""

from typing import Final

from plumb.core.measure.spoken import NO_START
from plumb.core.measure.text import WINDOW_WORDS
from plumb.core.procedures.cautions import LAST, WHILE_CRANKING
from plumb.core.procedures.kind import Effort, Entry, Kind, Place, Told
from plumb.core.procedures.rail.analysis import KIND, STATES, analyse_rail
from plumb.core.procedures.rail.facts import MAKES, facts
from plumb.core.procedures.rail.guide import RAIL_GUIDE
from plumb.core.procedures.rail.shows import SHOWS
from plumb.core.procedures.rail.words import because, headline, notes, state
from plumb.core.procedures.rail.working import working

_HOT: Final = (
    " The rail holds pressure that goes through skin and is hot: open nothing, touch no union, "
    "never feel for a leak; any jet wound is a hospital matter at once."
)

RAIL: Final = Kind(
    code=KIND,
    title="Rail pressure",
    how="at idle, then a little above: what is wanted and what is there",
    measure="As the controller shows them: what is wanted, then what is there; or a trace.",
    care="The engine runs: clear of belts and fans." + _HOT + LAST,
    on={
        NO_START: Told(
            how="while cranking: what is wanted and what is there",
            care=WHILE_CRANKING + _HOT + LAST,
            slots=("cranking",),
        ),
    },
    places={"common_rail": Place(order=40, first="rail_first", when=NO_START)},
    effort=Effort(once=4.0),
    engine="idle",
    cranks=True,
    of_engine=True,
    unit="bar",
    entry=Entry(shape="pair", figures=("wanted", "actual"), slots=STATES, once=True),
    clears=("rail_pressure",),
    makes=MAKES,
    guide=RAIL_GUIDE,
    shows=SHOWS,
    says=tuple(WINDOW_WORDS.values()),
    analyse=analyse_rail,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    working=working,
    runs=lambda result: any(f.place in {"idle", "raised"} and f.passes for f in result.findings),
)
