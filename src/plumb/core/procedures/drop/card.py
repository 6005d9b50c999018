"""The card of the drop."""

from typing import Final

from plumb.core.compare.drops.asks import next_step
from plumb.core.compare.drops.sheet import analyse_drop
from plumb.core.compare.drops.words import SAYS, because, headline, notes, under
from plumb.core.compare.drops.working import working
from plumb.core.measure.spoken import NO_START
from plumb.core.procedures.cautions import FUEL, LAST
from plumb.core.procedures.drop.analysis import KIND
from plumb.core.procedures.drop.facts import MAKES, facts
from plumb.core.procedures.drop.guide import DROP_GUIDE
from plumb.core.procedures.drop.shows import SHOWS
from plumb.core.procedures.drop.words import state
from plumb.core.procedures.kind import Effort, Entry, Kind, Told, petrol

DROP: Final = Kind(
    code=KIND,
    title="Drop per injector",
    how="key on, engine off · pump off · one burst per key cycle",
    care=FUEL
    + " A burst leaves raw fuel in its cylinder: run the engine before the next one there, "
    "or it can lock." + LAST,
    on={
        NO_START: Told(
            care=FUEL
            + " A burst leaves raw fuel in its cylinder, and this engine does not burn it: one burst "
            "a cylinder, then clear it (fuel and ignition off, plugs out, cranked) before another "
            "one there, or it can lock." + LAST
        ),
    },
    measure="One burst each, from nearly the same pressure; write down what it was.",
    head="Flow against the set",
    straight="drop sheet",
    places=petrol(70),
    effort=Effort(once=3.0, each=1.5, whole_set=True),
    tracks="share",
    compares=True,
    unit="psi",
    entry=Entry(
        shape="burst",
        figures=("first", "second"),
        marks=frozenset({"none", "not_read"}),
        sounds=("clicks", "buzzes", "none"),
    ),
    says=(*SAYS, "not measured"),
    makes=MAKES,
    guide=DROP_GUIDE,
    shows=SHOWS,
    analyse=analyse_drop,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    under=under,
    working=working,
    asks=lambda kind, result, _told: next_step(result, kind.effort.each),
)
