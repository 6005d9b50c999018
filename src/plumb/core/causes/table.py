"""Every fault that Plumb weighs, with how common it is and which complaint it brings about.

How common, in a hundred engines that come to be looked at, and how often which word of the complaint
goes with it are common practice, no source; a shop's own closed jobs count into the first
(:mod:`plumb.core.causes.common`).
"""

from typing import Final

from plumb.core.causes.fault import CYLINDER, ENGINE, FEED, INJECTOR, Fault, often

_PORT: Final = ("port", "throttle_body")
_PETROL: Final = (*_PORT, "direct")
_ELECTRIC: Final = (*_PETROL, "common_rail")
_DIESEL: Final = ("common_rail", "mechanical_diesel")
_ALL: Final = (*_ELECTRIC, "mechanical_diesel")


def _on(systems: tuple[str, ...], per_hundred: float, **other: float) -> dict[str, float]:
    """So many in a hundred on these fuel systems, and as said on others."""
    made = dict.fromkeys(systems, per_hundred / 100.0)
    return made | {s: n / 100.0 for s, n in other.items()}


_OF_INJECTORS: Final = (
    Fault(
        code="gives_less", of=INJECTOR, words="gives less", common=_on(_ELECTRIC, 5.0),
        brings=often("often misfire rough_idle, sometimes bogs smoke_white hard_start_cold"),
    ),
    Fault(
        code="gives_more", of=INJECTOR, words="gives more", common=_on(_ELECTRIC, 1.5),
        brings=often("often smoke_black rich, sometimes rough_idle fuel_smell fine_above_idle surges"),
    ),
    Fault(
        code="leaks_at_tip", of=INJECTOR, words="leaks at the tip",
        common=_on(_PETROL, 2.0, common_rail=1.0),
        outside=frozenset({"common_rail"}),
        told="taken out and tested on an injector bench, at all of its pressures",
        brings=often(
            "often long_crank hard_start_hot rough_idle fuel_smell rich, "
            "sometimes smoke_black fine_above_idle misfire smoke_white"
        ),
    ),
    Fault(
        code="stuck_open", of=INJECTOR, words="stuck open",
        common=_on(_PETROL, 0.4, common_rail=0.4),
        outside=frozenset({"common_rail"}),
        told="taken out and tested on an injector bench, at all of its pressures",
        brings=often(
            "often misfire rough_idle smoke_black fuel_smell long_crank rich, sometimes no_start hard_start_hot"
        ),
    ),
    Fault(
        code="no_response", of=INJECTOR, words="stuck shut",
        common=_on(_PETROL, 1.2, mechanical_diesel=0.6),
        brings=often("always misfire, often rough_idle, sometimes bogs no_start"),
    ),
    Fault(
        code="opens_weakly", of=INJECTOR, words="opens weakly", common=_on(_PETROL, 0.8),
        brings=often("often misfire rough_idle, sometimes hard_start_cold bogs"),
    ),
    Fault(
        code="intermittent", of=INJECTOR, words="sticks now and then", common=_on(_PETROL, 0.5),
        brings=often("often misfire, sometimes rough_idle surges bogs"),
    ),
    Fault(
        code="coil_open", of=INJECTOR, words="coil open", common=_on(_PETROL, 0.8),
        brings=often("always misfire, often rough_idle, sometimes bogs"),
    ),
    Fault(
        code="coil_shorted", of=INJECTOR, words="coil shorted", common=_on(_PETROL, 0.5),
        brings=often("often misfire rough_idle, sometimes no_start bogs"),
    ),
    Fault(
        code="coil_out_of_window", of=INJECTOR, words="coil out of its window",
        common=_on(_PETROL, 0.8),
        brings=often("sometimes misfire rough_idle hard_start_cold hard_start_hot"),
    ),
    Fault(
        code="bad_spray", of=INJECTOR, words="bad spray",
        common=_on(_PETROL, 1.0, mechanical_diesel=2.5),
        brings=often(
            "often rough_idle, sometimes misfire hard_start_cold smoke_black smoke_white bogs"
        ),
    ),
    Fault(
        code="returns_too_much", of=INJECTOR, words="returns too much",
        common=_on(("common_rail",), 3.0, mechanical_diesel=1.0),
        brings=often(
            "often long_crank, sometimes no_start hard_start_hot rough_idle bogs hard_start_cold misfire"
        ),
    ),
    Fault(
        code="opens_early", of=INJECTOR, words="opens early",
        common=_on(("mechanical_diesel",), 5.0),
        brings=often("often smoke_black rough_idle, sometimes misfire hard_start_cold bogs"),
    ),
    Fault(
        code="opens_late", of=INJECTOR, words="opens late",
        common=_on(("mechanical_diesel",), 2.0),
        brings=often("often misfire rough_idle, sometimes smoke_white hard_start_cold bogs"),
    ),
    Fault(
        code="seat_leaks", of=INJECTOR, words="seat leaks",
        common=_on(("mechanical_diesel",), 2.5),
        brings=often("often smoke_black rough_idle, sometimes smoke_white hard_start_hot misfire fuel_smell"),
    ),
)  # fmt: skip
"""Faults of one injector: the conditions of the verdict, under the same codes."""

_OF_CYLINDERS: Final = (
    Fault(
        code="command", of=CYLINDER, words="command: wiring or driver",
        common=_on(_PETROL, 2.0, common_rail=1.0),
        brings=often("always misfire, often rough_idle, sometimes bogs"),
        found_by=(("command_dark", "command_steady", "command_weak"),),
        outside=frozenset({"common_rail"}),
        told="plug, wire and driver of its injector, by the maker’s figures for current and insulation",
    ),
    Fault(
        code="compression", of=CYLINDER, words="compression", common=_on(_ALL, 0.8),
        brings=often(
            "often misfire rough_idle, sometimes hard_start_cold bogs smoke_white long_crank no_start"
        ),
        found_by=(("cranking_low",),), found_somewhere=("cranking_uneven",),
        outside=frozenset(_PETROL),
        told="a compression or leak-down test, cylinder by cylinder",
    ),
    Fault(
        code="ignition", of=CYLINDER, words="ignition", common=_on(_PETROL, 3.0),
        brings=often("always misfire, often rough_idle, sometimes bogs no_start hard_start_cold"),
        outside=frozenset(_PETROL),
        told="plug, coil and lead changed over with a neighbour's: the misfire goes along",
    ),
)  # fmt: skip
"""Faults of a cylinder that look like its injector's."""

_OF_FEEDS: Final = (
    Fault(
        code="shared_feed", of=FEED, words="fuse, wire or driver",
        common=_on(_PETROL, 1.5),
        brings=often("always misfire, often rough_idle bogs, sometimes no_start"),
        found_by=(("feed_dead",),),
    ),
)  # fmt: skip
"""Faults of what some injectors share."""

_OF_THE_ENGINE: Final = (
    Fault(
        code="pump", of=ENGINE, words="the pump or its feed", common=_on(_ELECTRIC, 2.0),
        brings=often("always no_start, sometimes long_crank bogs"),
        found_by=(("no_supply",),), put_right="pump, relay and its feed", stops_all=True,
    ),
    Fault(
        code="supply", of=ENGINE, words="the supply: pump or filter", common=_on(_ELECTRIC, 5.0),
        brings=often(
            "often bogs long_crank, sometimes no_start hard_start_cold hard_start_hot surges misfire rough_idle"
        ),
        found_by=(("supply_low",),), put_right="pump and filter of the supply",
    ),
    Fault(
        code="regulator", of=ENGINE, words="the regulator", common=_on(_PORT, 3.0),
        brings=often(
            "often long_crank smoke_black rich, sometimes hard_start_hot fuel_smell rough_idle bogs fine_above_idle"
        ),
        found_by=(("supply_high", "regulator_dead", "source_regulator"),),
    ),
    Fault(
        code="regulator_diaphragm", of=ENGINE, words="the regulator: its diaphragm is torn",
        common=_on(_PORT, 1.5),
        brings=often(
            "often smoke_black rough_idle rich, sometimes fuel_smell hard_start_hot long_crank fine_above_idle"
        ),
        found_by=(("hose_wet", "source_regulator_diaphragm"),),
    ),
    Fault(
        code="supply_check_valve", of=ENGINE, words="the check valve of the supply",
        common=_on(_PETROL, 4.0),
        brings=often("always long_crank, often hard_start_hot, sometimes hard_start_cold no_start"),
        found_by=(("source_supply_check_valve",),),
    ),
    Fault(
        code="cold_start_injector", of=ENGINE, words="the cold-start injector",
        common=_on(("port",), 0.6),
        brings=often("often hard_start_hot smoke_black rich, sometimes long_crank rough_idle fuel_smell"),
        found_by=(("source_cold_start_injector",),),
    ),
    Fault(
        code="outside_leak", of=ENGINE, words="a leak to the outside", common=_on(_PETROL, 1.0),
        brings=often("always fuel_smell, often long_crank, sometimes hard_start_hot bogs no_start"),
        found_by=(("source_outside_leak",),),
    ),
    Fault(
        code="pump_outlet_valve", of=ENGINE, words="the outlet valve of the high-pressure pump",
        common=_on(("common_rail",), 1.0),
        brings=often("often long_crank, sometimes no_start hard_start_hot bogs"),
        found_by=(("source_pump_outlet_valve",),),
    ),
    Fault(
        code="control_valve", of=ENGINE, words="the control valve of the rail",
        common=_on(("common_rail",), 1.5),
        brings=often("often long_crank, sometimes no_start surges bogs hard_start_hot"),
        found_by=(("source_control_valve",),),
    ),
    Fault(
        code="unions", of=ENGINE, words="pipes, unions and seals of the rail",
        common=_on(("common_rail",), 0.8),
        brings=often("often long_crank fuel_smell, sometimes no_start bogs hard_start_hot"),
        found_by=(("source_unions",),),
    ),
    Fault(
        code="rail_control", of=ENGINE, words="the control of the rail pressure",
        common=_on(("common_rail",), 3.0),
        brings=often("often surges rough_idle, sometimes long_crank bogs no_start misfire smoke_black"),
        found_by=(("rail_surges", "rail_high"),),
        put_right="the control of the rail: regulator, metering valve or sensor",
    ),
    Fault(
        code="all_clogged", of=ENGINE, words="all injectors clogged alike", common=_on(_PETROL, 1.0),
        brings=often("often bogs, sometimes hard_start_cold rough_idle misfire"),
        found_by=(("set_low",), ("supply_good",)),
    ),
    Fault(
        code="air", of=ENGINE, words="air: unmetered, or too little",
        common=_on(_PETROL, 4.0, common_rail=3.0, mechanical_diesel=5.0),
        brings=often("often rough_idle smoke_black bogs, sometimes misfire surges hard_start_cold"),
        outside=frozenset(_ALL),
        told="hoses, filter and charge pipes looked over; smoke blown into the intake shows a leak",
    ),
    Fault(
        code="intake_deposits", of=ENGINE, words="deposits on the intake valves",
        common=_on(("direct",), 3.0),
        brings=often("often rough_idle misfire hard_start_cold, sometimes bogs"),
        outside=frozenset({"direct"}), told="a borescope through the intake ports shows them",
    ),
    Fault(
        code="fuel_in_oil", of=ENGINE, words="oil that took fuel", common=_on(_PETROL, 0.8),
        brings=often("often rich, sometimes rough_idle fuel_smell"),
        outside=frozenset(_PETROL),
        told="oil above its mark, thin, and smelling of fuel: changed once what let it in is mended",
    ),
    Fault(
        code="timing", of=ENGINE, words="timing and valve gear",
        common=_on(_PETROL, 0.8, common_rail=0.8, mechanical_diesel=2.5),
        brings=often(
            "often bogs smoke_black smoke_white, sometimes rough_idle hard_start_cold hard_start_hot no_start misfire long_crank"
        ),
        outside=frozenset(_ALL),
        told="timing marks, valve clearance, and start of delivery on a diesel, by the maker’s figures",
    ),
    Fault(
        code="lift_pump", of=ENGINE, words="the lift pump, its filter, or air in the fuel",
        common=_on(("mechanical_diesel",), 4.0),
        brings=often(
            "often no_start bogs surges hard_start_cold, sometimes long_crank misfire hard_start_hot"
        ),
        outside=frozenset({"mechanical_diesel"}),
        told="a clear hose in the feed shows air; the filter’s age and the lift pump’s flow",
    ),
    Fault(
        code="other", of=ENGINE, words="something else", common=_on(_ALL, 5.0),
        brings=often(
            "sometimes rough_idle misfire long_crank no_start hard_start_cold hard_start_hot fuel_smell "
            "smoke_black smoke_white bogs fine_above_idle surges rich, often smoke_blue"
        ),
        outside=frozenset(_ALL), told="by the maker’s own search for this complaint",
    ),
)  # fmt: skip
"""Faults of the engine as a whole."""

FAULTS: Final = {f.code: f for f in (*_OF_INJECTORS, *_OF_CYLINDERS, *_OF_FEEDS, *_OF_THE_ENGINE)}
"""Every fault by its code: injectors, cylinders, what they share, the engine."""


def faults_on(fuel_system: str) -> tuple[Fault, ...]:
    """The faults that a fuel system can have."""
    return tuple(f for f in FAULTS.values() if fuel_system in f.common)
