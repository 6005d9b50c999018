"""What stands on each sheet: how it is done in half a line, and the usual cautions.

The cautions are common practice, no source; the maker's procedure and local rules come first.
"""

from typing import Final

HOW: Final = {
    "walk_round": "before any gauge is fitted: listen, look, smell, feel",
    "supply_pressure": "gauge on the rail, air let out into a container",
    "hold": "pump off, pressure against time",
    "command": "test lamp at each plug, cranking or running",
    "coil_resistance": "unplugged, cold, wait until the meter settles",
    "coil_voltage_drop": "the same current through each, compare the volts",
    "pressure_drop": "key on, engine off · pump off · one burst per key cycle",
    "injector_balance_running": "engine idling, one injector shut at a time",
    "tip_leak": "rail under pressure, tips in sight",
    "correction": "engine warm and idling, as the controller shows them",
    "cranking_balance": "kept from starting, clamp round all starter cables",
    "return_volume": "a tube on each return, the common return clamped",
    "rail_pressure": "at idle, then a little above: what is wanted and what is there",
    "opening_pressure": "slow strokes; the seat dry for 10 s at 20 bar below opening",
    "flow_bench": "off the car: the same time and pressure for each",
}

_FUEL: Final = (
    "Fuel under pressure: relieve the rail, catch and wipe what comes, cap it. Eye protection, "
    "gloves, air, an extinguisher, no sparks or hot lamps."
)
_LAST: Final = (
    " The maker’s procedure, local rules and a licensed workshop come before what Plumb says."
)

CARE: Final = {
    "walk_round": "Fuel on the floor or a strong smell: stop, air the bay, keep every spark away. "
    "A hand near belts and fans only with the engine off." + _LAST,
    "supply_pressure": _FUEL + " A bridged pump relay gets a fuse." + _LAST,
    "hold": _FUEL + " Relieve the rail before the gauge comes off; a hot manifold lights fuel. "
    "High-pressure fuel goes through skin: never feel for a leak, any jet wound is a hospital "
    "matter at once." + _LAST,
    "command": "Cranking: clear of belts, gearbox in neutral; rest the starter between spells."
    + _LAST,
    "coil_resistance": "Key off before a plug comes off: a clip that is not home falls off on the "
    "road." + _LAST,
    "coil_voltage_drop": "A short pulse only: battery voltage held on a coil burns it." + _LAST,
    "pressure_drop": _FUEL + " A burst leaves raw fuel in its cylinder: run the engine before the "
    "next one there, or it can lock." + _LAST,
    "injector_balance_running": "The engine runs: clear of belts and fans, gearbox in neutral, "
    "exhaust led out. The rail holds pressure that goes through skin: open nothing." + _LAST,
    "tip_leak": _FUEL + " Catch every drop; off the car pulse an injector only briefly, battery "
    "voltage held on its coil burns it." + _LAST,
    "correction": "The engine runs: clear of belts and fans, gearbox in neutral, exhaust led out."
    + _LAST,
    "cranking_balance": "Cranking: clear of belts, gearbox in neutral; rest the starter between "
    "spells." + _LAST,
    "return_volume": _FUEL
    + " Diesel at rail pressure goes through skin: never feel for a leak, any "
    "jet wound is a hospital matter at once. Cranking: clear of belts, rest the starter." + _LAST,
    "rail_pressure": "The engine runs: clear of belts and fans. The rail holds pressure that goes "
    "through skin and is hot: open nothing, touch no union, never feel for a leak; any jet wound is "
    "a hospital matter at once." + _LAST,
    "opening_pressure": "The spray goes through skin: keep hands out of the jet, shield and eye "
    "protection on; any jet wound is a hospital matter at once. The mist burns and is unhealthy: "
    "hood, air, away from heat. Tighten the body to its torque: too much moves the pressure."
    + _LAST,
    "flow_bench": "Mist of test fluid burns and is unhealthy: hood, air, eye protection. Pulse "
    "only as long as the bench asks." + _LAST,
}
