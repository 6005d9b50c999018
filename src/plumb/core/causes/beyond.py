"""Where to look for a complaint once the fuel is shown good: what lies outside, word by word.

Common practice, no source.
"""

from collections.abc import Sequence
from typing import Final

from plumb.core.measure.text import listed

_PETROL: Final = {
    "hard_start_hot": ("vapour in hot fuel", "the temperature signal", "ignition when hot"),
    "hard_start_cold": ("the temperature signal", "ignition when cold", "the cranking speed"),
    "long_crank": ("the crankshaft’s signal", "the temperature signal", "the cranking speed"),
    "no_start": ("ignition", "the crankshaft’s signal", "the immobiliser"),
    "misfire": ("plugs, coils and leads", "valve springs and seats"),
    "rough_idle": ("unmetered air", "engine mounts", "the idle control"),
    "smoke_black": ("the mixture’s sensors", "the air filter"),
    "smoke_white": ("coolant in a cylinder",),
    "smoke_blue": ("oil past rings and valve stems", "the turbocharger’s seals"),
    "rich": ("the mixture’s sensors", "the purge valve", "the air filter"),
    "fuel_smell": ("tank, filler and canister",),
    "bogs": ("a blocked exhaust", "the air mass signal"),
    "surges": ("unmetered air", "the idle control"),
}
_DIESEL: Final = {
    "hard_start_hot": ("the cranking speed when hot", "the temperature signal"),
    "hard_start_cold": ("glow plugs and their relay", "the cranking speed", "compression"),
    "long_crank": ("the cranking speed", "air in the feed", "the crankshaft’s signal"),
    "no_start": ("air in the feed", "the stop valve", "the crankshaft’s signal", "the immobiliser"),
    "misfire": ("compression", "valve clearance"),
    "rough_idle": ("compression", "engine mounts"),
    "smoke_black": ("air filter and boost", "the recirculation of exhaust"),
    "smoke_blue": ("oil past rings and valve stems", "the turbocharger’s seals"),
    "rich": ("the air mass signal", "the recirculation of exhaust"),
    "smoke_white": ("glow plugs", "coolant in a cylinder", "start of delivery"),
    "fuel_smell": ("leak-off pipes", "tank and filler"),
    "bogs": ("a blocked exhaust", "boost and its hoses"),
    "surges": ("air in the feed", "the governor or its signal"),
}
STARTS: Final = frozenset({"hard_start_hot", "long_crank", "hard_start_cold"})
"""Words that a rail which holds its pressure over the stop answers: the fuel is there at the first turn."""


def beyond(words: Sequence[str], fuel_system: str) -> str:
    """What is looked at next, the words one after the other; empty where nothing is known of them.

    >>> beyond(("hard_start_hot",), "port")
    'vapour in hot fuel, the temperature signal and ignition when hot'
    """
    known = _DIESEL if fuel_system in {"common_rail", "mechanical_diesel"} else _PETROL
    return listed(list(dict.fromkeys(x for w in words for x in known.get(w, ()))))
