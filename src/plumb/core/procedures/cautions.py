"""Cautions that stand on several cards; common practice, no source.

The maker's procedure and local rules come first, and every card says so.
"""

from typing import Final

_SAFE: Final = "Eye protection, gloves, air, an extinguisher, no sparks or hot lights."
FUEL: Final = f"Fuel under pressure: relieve the rail, catch and wipe what comes, cap it. {_SAFE}"
FUEL_LINES: Final = f"Fuel comes from the open lines: catch and wipe it, cap them. {_SAFE}"
LAST: Final = (
    " The maker’s procedure, local rules and a licensed workshop come before what Plumb says."
)
JETS: Final = (
    " High-pressure fuel goes through skin: never feel for a leak, open no union of the rail, any "
    "jet wound is a hospital matter at once."
)
JETS_OF_PIPES: Final = (
    " Fuel at injection pressure goes through skin: never feel for a leak at a pipe, any jet wound "
    "is a hospital matter at once."
)
WHILE_IDLING: Final = (
    "The engine runs: clear of belts and fans, gearbox in neutral, exhaust led out."
)
WHILE_CRANKING: Final = (
    "Cranking: clear of belts, gearbox in neutral; rest the starter between spells."
)
