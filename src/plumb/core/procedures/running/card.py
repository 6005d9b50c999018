"""The card of the running balance."""

from typing import Final

from plumb.core.compare.drops.asks import next_step
from plumb.core.compare.drops.sheet import analyse_drop
from plumb.core.compare.drops.words import SAYS, because, headline, notes, state
from plumb.core.compare.drops.working import working
from plumb.core.measure.spoken import NO_START
from plumb.core.procedures.cautions import LAST, WHILE_IDLING
from plumb.core.procedures.kind import Effort, Entry, Kind, Place, Told
from plumb.core.procedures.running.analysis import KIND
from plumb.core.procedures.running.facts import MAKES, facts
from plumb.core.procedures.running.guide import RUNNING_GUIDE
from plumb.core.procedures.running.shows import SHOWS
from plumb.core.procedures.running.words import under

RUNNING: Final = Kind(
    code=KIND,
    title="Balance while idling",
    how="engine idling, one injector shut at a time",
    care=WHILE_IDLING + " The rail holds pressure that goes through skin: open nothing." + LAST,
    on={
        NO_START: Told(
            how="only on an engine that idles: the drop with the engine off instead",
            measure="This needs an engine that idles.",
        ),
    },
    head="Idling",
    measure="One at a time, the engine idling; let the rail recover for a few seconds in between.",
    places={"direct": Place(order=80)},
    effort=Effort(once=2.0, each=0.5, whole_set=True),
    engine="idle",
    tracks="share",
    compares=True,
    unit="psi",
    entry=Entry(
        shape="value", figures=("drop",), marks=frozenset({"none", "not_read"}), like="direct"
    ),
    says=SAYS,
    makes=MAKES,
    guide=RUNNING_GUIDE,
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
