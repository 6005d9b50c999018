"""What could imitate a fault, what contradicts what, and what on the engine comes first: as data."""

from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from typing import Final

from plumb.core.procedures import FUEL_SYSTEMS, KINDS
from plumb.core.procedures.kind import PETROL
from plumb.core.weigh.row import Needs
from plumb.core.weigh.row import needs as _any


@dataclass(frozen=True, slots=True, kw_only=True)
class Suspicion:
    """Something that could imitate the fault: in words, and the facts that clear it.

    Which sheet would settle it says the kind of sheet (``clears``); ``on`` are the fuel systems that
    have what it speaks of, ``found_by`` facts that clear it of imitating because they are what is wrong (it is not
    ruled out then), ``imitates`` the facts that it could be behind (none: all of them).
    """

    words: str
    cleared_by: frozenset[str] = frozenset()
    on: frozenset[str] = frozenset(FUEL_SYSTEMS)
    imitates: frozenset[str] = frozenset()
    found_by: frozenset[str] = frozenset()

    def could_be(self, facts: AbstractSet[str], fuel_system: str) -> bool:
        """Whether it could imitate what was measured on that engine."""
        return fuel_system in self.on and (not self.imitates or bool(self.imitates & facts))


@dataclass(frozen=True, slots=True, kw_only=True)
class Contradiction:
    """Two procedures that cannot both be right, by a fact of each side.

    ``again`` says which side's sheet is done again first: 0 the first, 1 the second.
    """

    name: str
    needs: Needs
    text: str
    again: int = 0

    @property
    def repeat(self) -> str:
        """The kind of sheet that makes the facts of the side to do again."""
        return next(k.code for k in KINDS if self.needs[self.again] & k.makes.keys())


_BURST_WEAK: Final = frozenset(
    {"drop_low", "drop_none", "drop_intermittent", "fires_late", "answered_late"}
)
_RUNNING_WEAK: Final = frozenset({"running_low", "running_none", "running_intermittent"})
_IN_THE_CYLINDER: Final = frozenset(
    {"correction_high", "correction_low", "opens_low", "opens_high", "opens_none", "opens_in_plumb",
     "nozzle_seat_wet", "nozzle_seat_damp", "nozzle_spray_bad"}
)  # fmt: skip
"""What is measured, or complained of, in a cylinder that works."""

SUSPICIONS: Final[dict[str, Suspicion]] = {
    "tester_supply": Suspicion(
        words="a weak supply to the tester",
        cleared_by=frozenset({"tester_good", "neighbour_answered"}),
        imitates=_BURST_WEAK,
    ),
    "command": Suspicion(
        words="no or weak command", cleared_by=frozenset({"command_good", "driven_by_tester"}),
        imitates=_BURST_WEAK | _RUNNING_WEAK,
    ),
    "coil": Suspicion(
        words="the coil", cleared_by=frozenset({"coil_good"})
    ),
    "coil_under_load": Suspicion(
        words="the coil under load", cleared_by=frozenset({"volts_good"})
    ),
    "shared_feed": Suspicion(
        words="a feed, fuse or driver it shares", on=frozenset({*PETROL, "common_rail"}),
        cleared_by=frozenset({"partner_sound", "command_good", "driven_by_tester"}),
    ),
    "stuck_shut": Suspicion(words="an injector stuck shut or plugged"),
    "supply_pressure": Suspicion(
        words="the supply pressure", cleared_by=frozenset({"supply_good"}),
        imitates=_BURST_WEAK | _RUNNING_WEAK | {"set_low", "set_high"},
    ),
    "read_late": Suspicion(
        words="a late second reading", cleared_by=frozenset({"two_passes", "bench_high"}),
        imitates=frozenset({"drop_high"}),
    ),
    "leak_during_the_burst": Suspicion(
        words="a rail that leaks meanwhile",
        cleared_by=frozenset({"hold_good", "hold_soaks"}),
        imitates=frozenset({"drop_high"}),
    ),
    "tip": Suspicion(
        words="a tip that leaks",
        cleared_by=frozenset({"tip_dry", "all_tips_dry", "injectors_tight"}),
    ),
    "compression": Suspicion(
        words="compression of its cylinder",
        cleared_by=frozenset({"cranking_in_plumb"}),
        imitates=_RUNNING_WEAK | _IN_THE_CYLINDER,
    ),
    "rail_pressure": Suspicion(
        words="the rail pressure, wanted against actual",
        # A rail that lies low raises no return: it is what the returns have left of it.
        cleared_by=frozenset({"rail_good", "rail_low"}), on=frozenset({"common_rail"}),
        found_by=frozenset({"rail_low"}),
    ),
    "opening_pressure": Suspicion(
        words="the opening pressure of its nozzle",
        cleared_by=frozenset({"opens_in_plumb"}),
    ),
    "tester_dial": Suspicion(
        words="the dial of the nozzle tester: prove it on a nozzle that is known",
        on=frozenset({"mechanical_diesel"}),
    ),
    "returns": Suspicion(
        words="what it returns",
        cleared_by=frozenset({"returns_in_plumb", "returns_high"}),
        found_by=frozenset({"returns_high"}),
    ),
    "ignition": Suspicion(words="ignition of its cylinder"),
    "meter": Suspicion(words="the meter and its leads", cleared_by=frozenset({"a_coil_reads"})),
    "fault_shared_by_all": Suspicion(
        words="a fault that all of them share", cleared_by=frozenset({"set_as_expected"})
    ),
    "either_half": Suspicion(words="either side of the set"),
}  # fmt: skip
"""What could imitate a fault, and what clears it."""

CLEARED_BY_SHEET: Final = {code: k.code for k in KINDS for code in k.clears}
"""The kind of sheet that is asked for to settle a suspicion; not every one has any."""

NOT_RULED_OUT: Final = {code: s.words for code, s in SUSPICIONS.items()}
"""Plain words for the codes of ``not_ruled_out``."""

CONTRADICTIONS: Final = (
    Contradiction(
        name="coil open, but it answers",
        needs=_any("coil_open", "drop_in_plumb drop_low drop_high running_in_plumb"),
        text="its coil reads open, and yet it answered a burst",
    ),
    Contradiction(
        name="car and bench disagree",
        needs=_any("drop_in_plumb", "bench_low bench_high bench_none"),
        text="in plumb on the car, but not on the flow bench",
    ),
    Contradiction(
        name="bench and car disagree",
        needs=_any("drop_low drop_high drop_none", "bench_in_plumb"),
        text="in plumb on the flow bench, but not on the car",
    ),
    Contradiction(
        name="engine off and running disagree",
        needs=_any("drop_in_plumb", "running_low running_high"),
        text="in plumb with the engine off, but not while it runs", again=1,
    ),
    Contradiction(
        name="the rail is tight, but a tip drips",
        needs=_any("hold_tight high_hold_tight", "tip_drips tip_pours"),
        text="the rail loses less than a drip would take, and yet this tip drips",
    ),
    Contradiction(
        name="the board clears what drips",
        needs=_any("injectors_tight", "tip_drips tip_pours"),
        text="the isolation board clears the injectors, and yet this tip drips", again=1,
    ),
    Contradiction(
        name="ohms and volts disagree",
        needs=_any("coil_good", "volts_out"),
        text="its coil is good by resistance, but not under load", again=1,
    ),
)  # fmt: skip
"""Pairs of procedures that cannot both be right."""

CAUSES: Final = {
    "no_supply": "the pump or its feed: there is nothing to test an injector with",
    "supply_low": "the supply: pump, filter or regulator",
    "supply_high": "the regulator or its return",
    "regulator_dead": "the regulator or its vacuum hose",
    "hose_wet": "the regulator: its diaphragm is torn",
    "connectors_bad": "the connectors: one that is not home falls off on the road",
    "source_supply_check_valve": "the check valve of the supply",
    "source_regulator": "the regulator: it leaks into the return",
    "source_regulator_diaphragm": "the regulator: its diaphragm is torn",
    "source_cold_start_injector": "the cold-start injector",
    "source_outside_leak": "a leak to the outside",
    "source_pump_outlet_valve": "the outlet valve of the high-pressure pump",
    "source_control_valve": "the control valve",
    "source_unions": "pipes, unions and seals of the rail",
    "rail_surges": "the rail pressure: it surges; its regulator or valve",
    "rail_low": "the rail pressure: it stays below what is wanted; pump, regulator, or what returns",
    "rail_none": "the rail: next to nothing builds up; what feeds the pump, and the pump itself",
    "rail_high": "the rail pressure: it stays above what is wanted; regulator or sensor",
    "cranking_low": "compression: a hump of starter current is low",
    "cranking_uneven": "compression: one hump is low in every cycle, and a sync tells whose",
}
"""What is to be checked first on the engine itself, by fact."""
