"""The card of the hold."""

from typing import Final

from plumb.core.procedures.cautions import FUEL, JETS, LAST
from plumb.core.procedures.hold.analysis import KIND, analyse_hold
from plumb.core.procedures.hold.asks import asks
from plumb.core.procedures.hold.facts import MAKES, facts
from plumb.core.procedures.hold.guide import HOLD_GUIDE
from plumb.core.procedures.hold.isolation import HIGH, LOW
from plumb.core.procedures.hold.shows import SHOWS
from plumb.core.procedures.hold.words import HELD, because, headline, notes, state
from plumb.core.procedures.hold.working import working
from plumb.core.procedures.kind import PETROL, Effort, Entry, Kind, Place, Told, petrol

_CARE: Final = FUEL + " Relieve the rail before the gauge comes off; a hot manifold lights fuel."

HOLD: Final = Kind(
    code=KIND,
    title="Hold",
    how="pump off, pressure against time",
    care=_CARE + LAST,
    on={
        "direct": Told(care=_CARE + JETS + LAST),
        "common_rail": Told(
            how="the tester cranks and shuts off: the rail at shut-off, 10 s and 60 s",
            care="Cranking: clear of belts, gearbox in neutral. Wait until the rail is empty before "
            "anything is opened; catch and wipe what comes." + JETS + LAST,
        ),
    },
    places=petrol(30) | {"common_rail": Place(order=60)},
    effort=Effort(once=6.0, later=8.0),
    of_engine=True,
    unit="psi",
    entry=Entry(shape="point", figures=("pressure",)),
    makes=MAKES,
    guide=HOLD_GUIDE,
    shows=SHOWS,
    clears=("leak_during_the_burst",),
    asks_by=frozenset({"tips_looked_at", "all_tips_dry"}),
    says=HELD,
    absent={
        **dict.fromkeys(PETROL, frozenset(f"source_{code}" for code in HIGH if code not in LOW)),
        "common_rail": frozenset(f"source_{code}" for code in LOW if code not in HIGH),
    },
    analyse=analyse_hold,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    working=working,
    asks=asks,
)
