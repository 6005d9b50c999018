"""What fault codes speak for: classes of codes, and how often a fault sets one of the class.

The meaning of a code is of SAE J2012 (its public list); how often a fault sets it is common practice,
no source.  A code that stands in no class is kept and speaks for nothing.

>>> read_code("P0304")
CodeRead(name='misfire_of', cylinder=4)
>>> read_code("P0171").name, read_code("P1234")
('lean', None)
"""

import re
from collections.abc import Mapping
from typing import Final, NamedTuple

from plumb.core.causes.fault import often


class CodeRead(NamedTuple):
    """The class of a code, and its cylinder where it names one (0: none)."""

    name: str
    cylinder: int = 0


CLASSES: Final = {
    "misfire_of": ("a misfire of cylinder {0}", often(
        "always command coil_open no_response ignition, often gives_less shared_feed compression "
        "stuck_open coil_shorted opens_weakly intermittent, "
        "sometimes leaks_at_tip bad_spray coil_out_of_window returns_too_much gives_more"
    )),
    "misfire": ("misfires of several cylinders", often(
        "often supply shared_feed ignition, sometimes air rail_control gives_less command compression "
        "timing all_clogged other"
    )),
    "circuit_of": ("the circuit of injector {0}", often(
        "always coil_open, often command coil_shorted shared_feed, sometimes coil_out_of_window"
    )),
    "lean": ("a mixture that is too lean", often(
        "often supply air all_clogged, sometimes gives_less pump no_response other"
    )),
    "rich": ("a mixture that is too rich", often(
        "often leaks_at_tip regulator_diaphragm stuck_open gives_more, "
        "sometimes regulator cold_start_injector air other"
    )),
    "rail_low": ("a rail pressure that is too low", often(
        "often supply pump rail_control returns_too_much control_valve stuck_open, "
        "sometimes pump_outlet_valve unions leaks_at_tip other"
    )),
    "rail_high": ("a rail pressure that is too high", often("often rail_control, sometimes other")),
    "rail_sensor": ("the circuit of the rail pressure’s sensor", often(
        "often rail_control, sometimes other"
    )),
}  # fmt: skip
"""Each class: what its codes say, and how often a fault sets one."""

_AFTER_INJECTORS: Final = {
    **dict.fromkeys(("P0101", "P0102", "P0103"), "the air mass"),
    **dict.fromkeys(("P0234", "P0299", "P2263"), "the boost"),
    **dict.fromkeys(("P0400", "P0401", "P0402"), "the recirculation of exhaust"),
}
"""Codes (numbers of SAE J2012, from memory) of what a wrong mixture upsets: they come along with injectors
that are off, and often stay away once these are put right; common practice, no source."""

LEAK: Final = 0.01
"""How often such a code stands in memory without any fault that Plumb weighs."""

_NAMED: Final = {
    "P0300": "misfire", "P0171": "lean", "P0174": "lean", "P0172": "rich", "P0175": "rich",
    "P0087": "rail_low", "P0088": "rail_high",
    **dict.fromkeys(("P0190", "P0191", "P0192", "P0193", "P0194"), "rail_sensor"),
}  # fmt: skip
_NUMBERED: Final = re.compile(r"P0([23])(\d\d)")
_MOST: Final = 12
"""P0301 to P0312 and P0201 to P0212 name a cylinder."""


def of_cylinders(cylinders: Mapping[str, int]) -> dict[int, str]:
    """The injector of each cylinder's number: the first in reach order, where a cylinder has several."""
    return {number: label for label, number in reversed(tuple(cylinders.items()))}


def read_code(code: str) -> CodeRead | None:
    """What a code as it is written speaks of; None where Plumb knows nothing of it."""
    plain = code.partition("-")[0]
    if plain in _NAMED:
        return CodeRead(_NAMED[plain])
    match = _NUMBERED.fullmatch(plain)
    if match is None or not 1 <= int(match[2]) <= _MOST:
        return None
    return CodeRead("misfire_of" if match[1] == "3" else "circuit_of", int(match[2]))


def explained_by(code: str) -> frozenset[str]:
    """The faults that set a code; empty where Plumb knows nothing of it."""
    read = read_code(code)
    return frozenset(CLASSES[read.name][1]) if read else frozenset()


def comes_along(code: str) -> str:
    """What a code speaks of that injectors which are off upset; empty for any other.

    >>> comes_along("P0299-00"), comes_along("P0340")
    ('the boost', '')
    """
    return _AFTER_INJECTORS.get(code.partition("-")[0], "")


def code_words(code: str) -> str:
    """What a code says, in words; empty where Plumb does not know it."""
    read = read_code(code)
    return CLASSES[read.name][0].format(read.cylinder) if read else ""
