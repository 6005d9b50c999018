"""The card of the supply pressure."""

from typing import Final

from plumb.core.procedures.cautions import FUEL, LAST
from plumb.core.procedures.kind import Effort, Entry, Kind, Place, petrol
from plumb.core.procedures.supply.analysis import KIND, STATES, analyse_supply
from plumb.core.procedures.supply.facts import MAKES, facts
from plumb.core.procedures.supply.words import because, headline, notes, state
from plumb.core.procedures.supply.working import working

SUPPLY: Final = Kind(
    code=KIND,
    title="Supply pressure",
    how="gauge on the rail, air let out into a container",
    care=FUEL + " A bridged pump relay gets a fuse." + LAST,
    places=petrol(20, first="pump_first") | {"common_rail": Place(order=20, first="pump_first")},
    effort=Effort(once=4.0),
    engine="any",
    of_engine=True,
    unit="psi",
    entry=Entry(shape="value", figures=("pressure",), slots=STATES, once=True),
    makes=MAKES,
    clears=("supply_pressure",),
    analyse=analyse_supply,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    working=working,
)
