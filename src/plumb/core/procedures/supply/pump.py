"""A pump that does not run, or runs weakly: what was heard, the volts at its plug, and where that leads.

Measured at the plug, connected, while it should run.  Common practice, no source: near the battery's
volts its feed is good; under a volt nothing arrives; in between they are lost on the way.

>>> where("clicks_only", 11.8)
'11.8 V arrive at its plug: the pump itself or its ground.'
"""

from typing import Final

from plumb.core.measure.quantities import rounded

ENOUGH_V: Final = 10.0
NOTHING_V: Final = 1.0

_HEARD: Final = {
    "clicks_only": "The relay clicks, the pump does not run",
    "silent": "Neither relay nor pump is heard",
}


def heard(pump: str) -> str:
    """What was heard, where that ends the injector work; empty where the pump runs or nobody listened."""
    return _HEARD.get(pump, "")


def where(pump: str, volts: float | None) -> str:
    """Where to look: at the pump, on the way to it, or at what should switch it."""
    if volts is None:
        first = "fuse, relay, feed or pump" if pump == "silent" else "the pump or its feed"
        return f"{first}; the volts at its plug tell which."
    told = f"{rounded(volts, 1)} V"
    if volts >= ENOUGH_V:
        return f"{told} arrive at its plug: the pump itself or its ground."
    if volts >= NOTHING_V:
        return f"only {told} arrive at its plug: a bad contact or wire on the way, or the ground."
    if pump == "silent":
        return "no volts at its plug: fuse, relay and what switches the relay."
    return "no volts at its plug though the relay clicks: its contacts, the fuse or the wire behind them."


def fed_weakly(pump: str, volts: float | None) -> bool:
    """Whether a pump that runs, or was not listened to, has too few volts to be blamed for its pressure."""
    return not heard(pump) and volts is not None and volts < ENOUGH_V
