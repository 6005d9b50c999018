"""The card of the tips."""

from typing import Final

from plumb.core.compare.seen import because, state, working
from plumb.core.procedures.cautions import FUEL, LAST
from plumb.core.procedures.kind import Effort, Entry, Kind, petrol
from plumb.core.procedures.tips.analysis import KIND, analyse_tips
from plumb.core.procedures.tips.facts import MAKES, facts
from plumb.core.procedures.tips.guide import TIPS_GUIDE
from plumb.core.procedures.tips.shows import SHOWS
from plumb.core.procedures.tips.words import headline

TIPS: Final = Kind(
    code=KIND,
    title="Tip leak",
    how="rail under pressure, tips in sight",
    care=FUEL
    + " Catch every drop; off the car pulse an injector only briefly, battery voltage held "
    "on its coil burns it." + LAST,
    places=petrol(90),
    effort=Effort(once=20.0, each=0.5),
    entry=Entry(
        shape="words",
        words=(("dry", "d"), ("weeps", "w"), ("drips", "r"), ("pours", "p")),
        once=True,
    ),
    says=("dry", "weeps", "drips", "pours"),
    makes=MAKES,
    guide=TIPS_GUIDE,
    shows=SHOWS,
    clears=("tip",),
    analyse=analyse_tips,
    facts=facts,
    headline=headline,
    state=state,
    because=because,
    working=working,
)
