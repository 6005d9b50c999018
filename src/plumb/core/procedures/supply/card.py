"""The card of the supply pressure."""

from collections.abc import Set as AbstractSet
from typing import Final

from plumb.core.measure.spoken import NO_START
from plumb.core.measure.step import NextStep
from plumb.core.measure.text import WINDOW_WORDS
from plumb.core.procedures.cautions import FUEL, JETS, LAST, WHILE_CRANKING
from plumb.core.procedures.kind import AnyKind, Effort, Entry, Kind, Place, Told, petrol
from plumb.core.procedures.supply.analysis import KIND, STATES, SupplyResult, analyse_supply
from plumb.core.procedures.supply.facts import MAKES, facts
from plumb.core.procedures.supply.guide import SUPPLY_GUIDE
from plumb.core.procedures.supply.shows import SHOWS
from plumb.core.procedures.supply.words import because, headline, notes, state
from plumb.core.procedures.supply.working import working

_CARE: Final = FUEL + " A bridged pump relay gets a fuse."
_WITH_HOSE: Final = Told(
    measure="Key on first, then running, then with the regulator's vacuum hose pulled off.",
    slots=("key_on", "running", "hose_off"),
)
_LOW_SIDE: Final = "gauge in the low side, before the high-pressure pump; air let out first"


def _figure(kind: AnyKind, result: SupplyResult, _told: AbstractSet[str]) -> NextStep | None:
    """A pump that runs is no supply pressure yet: a figure is asked for."""
    heard = result.sheet.pump and not result.ends_here
    return kind.step((), "pump_first") if heard and not result.sheet.readings else None


SUPPLY: Final = Kind(
    code=KIND,
    title="Supply pressure",
    how="gauge on the rail, air let out into a container",
    care=_CARE + LAST,
    on={
        **dict.fromkeys(("port", "throttle_body"), _WITH_HOSE),
        "direct": Told(
            how=_LOW_SIDE,
            measure="Key on first, then running.",
            care=_CARE + JETS + LAST,
            slots=("key_on", "running"),
        ),
        "common_rail": Told(
            how=_LOW_SIDE,
            measure="Key on first, then running.",
            care=_CARE + JETS + LAST,
            slots=("key_on", "running"),
        ),
        NO_START: Told(
            measure="Key on first, then while cranking.",
            care=f"{_CARE} {WHILE_CRANKING}" + LAST,
            slots=("key_on", "cranking"),
        ),
        f"direct {NO_START}": Told(care=f"{_CARE}{JETS} {WHILE_CRANKING}" + LAST),
        f"common_rail {NO_START}": Told(care=f"{_CARE}{JETS} {WHILE_CRANKING}" + LAST),
    },
    places=petrol(20, first="pump_first") | {"common_rail": Place(order=20, first="pump_first")},
    effort=Effort(once=4.0),
    engine="any",
    of_engine=True,
    unit="psi",
    entry=Entry(shape="value", figures=("pressure",), slots=STATES, once=True),
    makes=MAKES,
    guide=SUPPLY_GUIDE,
    shows=SHOWS,
    clears=("supply_pressure",),
    says=("no window given", *WINDOW_WORDS.values()),
    absent={name: frozenset({"regulator_dead"}) for name in ("direct", "common_rail")},
    analyse=analyse_supply,
    facts=facts,
    headline=headline,
    notes=notes,
    state=state,
    because=because,
    working=working,
    asks=_figure,
    runs=lambda result: any(f.place == "running" and f.passes for f in result.findings),
)
