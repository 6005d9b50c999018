"""The cards of the coils: resistance, and voltage drop under load."""

from typing import Final

from plumb.core.procedures.cautions import LAST
from plumb.core.procedures.coils.analysis import RESISTANCE, VOLTAGE, analyse_coils
from plumb.core.procedures.coils.facts import MAKES_OHM, MAKES_VOLT, facts
from plumb.core.procedures.coils.guide import COIL_RESISTANCE_GUIDE, COIL_VOLTAGE_GUIDE
from plumb.core.procedures.coils.shows import SHOWS_OHM, SHOWS_VOLT
from plumb.core.procedures.coils.words import SAYS, because, headline, notes, state, under
from plumb.core.procedures.coils.working import working
from plumb.core.procedures.kind import Effort, Entry, Kind, Place, petrol

_COLD: Final = "cold_first"

COIL_RESISTANCE: Final = Kind(
    code=RESISTANCE,
    title="Coils",
    head="Coil",
    how="unplugged, cold, wait until the meter settles",
    care="Key off before a plug comes off: a clip that is not home falls off on the road." + LAST,
    places=petrol(50, first=_COLD, when="complains_cold")
    | {"common_rail": Place(order=80, first=_COLD, when="complains_cold")},
    effort=Effort(once=1.0, each=0.7, cold=True, whole_set=True, spot=True, beside=True),
    electrical=True,
    tracks="value",
    unit="ohm",
    entry=Entry(shape="value", figures=("coil",), marks=frozenset({"over", "not_read"})),
    says=SAYS,
    makes=MAKES_OHM,
    guide=COIL_RESISTANCE_GUIDE,
    shows=SHOWS_OHM,
    clears=("coil",),
    analyse=analyse_coils,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    under=under,
    working=working,
)

COIL_VOLTAGE: Final = Kind(
    code=VOLTAGE,
    title="Coils under load",
    head="Under load",
    how="the same current through each, compare the volts",
    care="A short pulse only: battery voltage held on a coil burns it." + LAST,
    places=petrol(60),
    effort=Effort(once=2.0, each=1.0, whole_set=True, spot=True, beside=True),
    optional=True,
    unit="V",
    entry=Entry(shape="value", figures=("drop",), marks=frozenset({"over", "not_read"})),
    says=SAYS,
    makes=MAKES_VOLT,
    guide=COIL_VOLTAGE_GUIDE,
    shows=SHOWS_VOLT,
    clears=("coil_under_load",),
    analyse=analyse_coils,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    under=under,
    working=working,
)
