"""The card of the opening pressures."""

from typing import Final

from plumb.core.procedures.cautions import LAST
from plumb.core.procedures.kind import Effort, Entry, Kind, Place
from plumb.core.procedures.opening.analysis import KIND, analyse_opening
from plumb.core.procedures.opening.asks import asks
from plumb.core.procedures.opening.facts import MAKES, facts
from plumb.core.procedures.opening.guide import OPENING_GUIDE
from plumb.core.procedures.opening.shows import SHOWS
from plumb.core.procedures.opening.words import SAYS, because, headline, notes, state, under
from plumb.core.procedures.opening.working import working

OPENING: Final = Kind(
    code=KIND,
    title="Opening pressure",
    how="slow strokes; the seat dry for 10 s at 20 bar below opening",
    straight="opening pressures",
    measure="Slow strokes on the hand pump; then sound, spray, and the seat for 10 s at 20 bar below "
    "opening.",
    care="The spray goes through skin: keep hands out of the jet, shield and eye protection on; "
    "any jet wound is a hospital matter at once. The mist burns and is unhealthy: hood, "
    "air, away from heat. Tighten the body to its torque: too much moves the pressure." + LAST,
    places={"mechanical_diesel": Place(order=40)},
    effort=Effort(once=30.0, each=8.0, whole_set=True),
    tracks="value",
    compares=True,
    must=True,
    behind=(("compression", "compression_first"),),
    unit="bar",
    entry=Entry(
        shape="stroke",
        figures=("opens", "shims"),
        marks=frozenset({"none"}),
        sounds=("chatters", "weak", "silent"),
        seats=("dry", "damp", "wet"),
        sprays=("even", "streaky", "stream", "none"),
    ),
    says=SAYS,
    makes=MAKES,
    guide=OPENING_GUIDE,
    shows=SHOWS,
    clears=("opening_pressure",),
    analyse=analyse_opening,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    under=under,
    working=working,
    asks=asks,
)
