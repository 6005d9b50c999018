"""The card of the flow bench."""

from typing import Final

from plumb.core.compare.drops.asks import next_step
from plumb.core.compare.drops.sheet import DropResult, analyse_drop
from plumb.core.compare.drops.words import SAYS, because, headline, notes, state, under
from plumb.core.compare.drops.working import working_of_volumes
from plumb.core.procedures.cautions import LAST
from plumb.core.procedures.flow_bench.analysis import KIND, SPRAYS
from plumb.core.procedures.flow_bench.facts import MAKES, facts
from plumb.core.procedures.flow_bench.guide import FLOW_BENCH_GUIDE
from plumb.core.procedures.flow_bench.shows import SHOWS
from plumb.core.procedures.kind import Effort, Entry, Kind, petrol


def _speaks_as(result: DropResult) -> str:
    """A bench after cleaning speaks beside the one before."""
    return f"{KIND} after" if result.sheet.when == "after_cleaning" else KIND


FLOW_BENCH: Final = Kind(
    code=KIND,
    title="Flow bench",
    how="off the car: the same time and pressure for each",
    care="Mist of test fluid burns and is unhealthy: hood, air, eye protection. Pulse only as "
    "long as the bench asks." + LAST,
    measure="The same time and pressure for each; look at the spray as well.",
    places=petrol(100),
    effort=Effort(once=30.0, each=3.0, whole_set=True),
    tracks="share",
    optional=True,
    compares=True,
    unit="ml",
    entry=Entry(
        shape="value", figures=("volume",), marks=frozenset({"none", "not_read"}), sprays=SPRAYS
    ),
    says=SAYS,
    makes=MAKES,
    guide=FLOW_BENCH_GUIDE,
    shows=SHOWS,
    clears=("either_half",),
    analyse=analyse_drop,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    under=under,
    working=working_of_volumes,
    asks=lambda kind, result, _told: next_step(result, kind.effort.each),
    speaks_as=_speaks_as,
)
