"""The card of the corrections."""

from typing import Final

from plumb.core.measure.spoken import NO_START
from plumb.core.procedures.cautions import LAST, WHILE_IDLING
from plumb.core.procedures.correction.analysis import KIND, analyse_corrections
from plumb.core.procedures.correction.facts import MAKES, facts
from plumb.core.procedures.correction.guide import CORRECTION_GUIDE
from plumb.core.procedures.correction.shows import SHOWS
from plumb.core.procedures.correction.words import SAYS, because, headline, notes, state, under
from plumb.core.procedures.correction.working import working
from plumb.core.procedures.kind import Effort, Entry, Kind, Place, Told, unread

CORRECTION: Final = Kind(
    code=KIND,
    title="Corrections",
    how="engine warm and idling, as the controller shows them",
    care=WHILE_IDLING + LAST,
    on={
        NO_START: Told(
            how="only on an engine that idles: crank for humps, rail pressure and returns instead",
            measure="These need an engine that idles. While cranking: humps, rail pressure, returns.",
        ),
    },
    straight="corrections",
    measure="At idle, warm, as the controller shows them.",
    places={"common_rail": Place(order=30)},
    effort=Effort(once=3.0, each=0.3, whole_set=True),
    engine="idle",
    tracks="value",
    compares=True,
    unit="mm3",
    entry=Entry(shape="value", figures=("correction",), marks=frozenset({"not_read"}), signed=True),
    says=SAYS,
    together=True,
    makes=MAKES,
    guide=CORRECTION_GUIDE,
    shows=SHOWS,
    spoilt_by=frozenset({"rail_surges", "rail_low", "rail_none", "rail_high"}),
    analyse=analyse_corrections,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    under=under,
    working=working,
    asks=unread,
)
