"""What drove an injector at each reading: a weak supply makes good injectors look stuck.

>>> dead = Noted(injector="3", supply_v=9.8, mark=Mark.NONE)
>>> alive = Noted(injector="3", number=2, first=345.0, second=179.0, supply_v=12.6)
>>> counted((dead, alive), None) == (alive,), counted((dead,), None) == (dead,)
(True, True)
"""

import math
from collections.abc import Sequence
from typing import Final

from plumb.core.measure.readings import Mark, Noted

TESTER: Final = "tester"
DRIVERS: Final = {"tester": "a tester at its plug", "controller": "the car’s controller"}
"""What opens the injector in a burst: behind a tester at the plug no command and no feed is in between."""
WEAK_SUPPLY_V: Final = 12.0
"""Below this the tester's supply makes good injectors look stuck; common practice, no source."""


def volts_at(reading: Noted, sheet_v: float | None) -> float | None:
    """What drove the injector at a reading: its own, else the sheet's; None where nobody said."""
    return sheet_v if reading.supply_v is None else reading.supply_v


def counted(readings: Sequence[Noted], sheet_v: float | None) -> tuple[Noted, ...]:
    """The readings that count: of one that was read again with good volts, those with weak ones do not."""

    def weak(reading: Noted) -> bool:
        volts = volts_at(reading, sheet_v)
        return (math.inf if volts is None else volts) < WEAK_SUPPLY_V

    good = {r.injector for r in readings if not weak(r) and r.mark is not Mark.NOT_READ}
    return tuple(r for r in readings if r.injector not in good or not weak(r))


def lowest_volts(readings: Sequence[Noted], sheet_v: float | None) -> dict[str, float]:
    """What drove each injector; of several readings the lowest, of readings without volts nothing."""
    made: dict[str, float] = {}
    for reading in readings:
        volts = volts_at(reading, sheet_v)
        if volts is not None:
            made[reading.injector] = min(volts, made.get(reading.injector, volts))
    return made
