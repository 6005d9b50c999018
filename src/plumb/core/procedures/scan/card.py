"""The card of the scan."""

from typing import Final

from plumb.core.measure.spoken import NO_START
from plumb.core.procedures.cautions import LAST
from plumb.core.procedures.kind import Effort, Entry, Kind, Place, Told, petrol
from plumb.core.procedures.scan.analysis import KIND, analyse_scan
from plumb.core.procedures.scan.facts import MAKES, facts
from plumb.core.procedures.scan.guide import SCAN_GUIDE
from plumb.core.procedures.scan.shows import SHOWS
from plumb.core.procedures.scan.words import SAYS, because, headline, notes, state
from plumb.core.procedures.scan.working import working

SCAN: Final = Kind(
    code=KIND,
    title="Scan",
    how="warm engine: trims at idle, then at about 2500 a minute; misfires by cylinder",
    measure="Warm engine, closed loop: long and short trim at idle, then held at about 2500 a minute; "
    "then the misfire count of each cylinder, and over how long it was counted.",
    care="In the workshop the exhaust goes outside and nobody stands before the vehicle; on the road "
    "somebody else reads the tool." + LAST,
    on={
        "common_rail": Told(
            how="misfires by cylinder, from the controller’s memory or while it idles",
            measure="The misfire count of each cylinder, and over how long it was counted; a diesel has no "
            "trims to read here.",
        ),
        NO_START: Told(
            how="key on: misfires by cylinder as the memory keeps them",
            measure="Key on, engine off: the misfire counts that memory keeps, cylinder by cylinder. Write "
            "the codes down before anything is erased.",
        ),
    },
    places=petrol(25) | {"common_rail": Place(order=25)},
    effort=Effort(once=5.0),
    engine="any",
    of_engine=True,
    unit="percent",
    entry=Entry(shape="value", figures=("reads",), signed=True, once=True),
    makes=MAKES,
    guide=SCAN_GUIDE,
    shows=SHOWS,
    says=SAYS,
    unsaid={"common_rail": frozenset({"in plumb", "lean", "rich"})},
    absent={"common_rail": frozenset(m for m in MAKES if m.startswith(("trims_", "one_bank")))},
    analyse=analyse_scan,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    working=working,
    runs=lambda result: any(t.total is not None for t in result.sheet.trims),
)
