"""The card of the walk-round."""

from typing import Final

from plumb.core.procedures.cautions import JETS, JETS_OF_PIPES, LAST
from plumb.core.procedures.kind import PETROL, Effort, Entry, Kind, Place, Told
from plumb.core.procedures.walk.analysis import KIND, LOOKED_AT, analyse_walk
from plumb.core.procedures.walk.facts import MAKES, facts
from plumb.core.procedures.walk.guide import WALK_GUIDE
from plumb.core.procedures.walk.shows import SHOWS
from plumb.core.procedures.walk.words import because, headline, later, state
from plumb.core.procedures.walk.working import working

WALK: Final = Kind(
    code=KIND,
    title="Walk-round",
    how="before any gauge is fitted: listen, look, smell, feel",
    care="Fuel on the floor or a strong smell: stop, air the bay, keep every spark away. A hand "
    "near belts and fans only with the engine off." + LAST,
    on={
        "common_rail": Told(
            care="Fuel on the floor or a strong smell: stop, air the bay, keep every spark away. A "
            "hand near belts and fans only with the engine off." + JETS + LAST
        ),
        "mechanical_diesel": Told(
            care="Fuel on the floor or a strong smell: stop, air the bay, keep every spark away. A "
            "hand near belts and fans only with the engine off." + JETS_OF_PIPES + LAST
        ),
    },
    places=dict.fromkeys(
        (*PETROL, "common_rail", "mechanical_diesel"), Place(order=10, first="outside_first")
    ),
    effort=Effort(once=2.0),
    engine="any",
    of_engine=True,
    entry=Entry(shape="form"),
    absent={
        "common_rail": frozenset({"hose_wet", "hose_dry"}),
        "mechanical_diesel": frozenset(
            {"hose_wet", "hose_dry", "connectors_bad", "connectors_good"}
        ),
    },
    makes=MAKES,
    guide=WALK_GUIDE,
    looked_at=LOOKED_AT,
    shows=SHOWS,
    analyse=analyse_walk,
    facts=facts,
    headline=headline,
    state=state,
    because=because,
    working=working,
    later=later,
    complains=lambda result: result.sheet.complaint,
    codes_read=lambda result: result.sheet.codes,
)
