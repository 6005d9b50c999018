"""Where a rail's trace is at rest: the way up, while the pump fills it, and the way down say nothing of its control.

A rail *surges* where it goes to and fro, three times at least; one dip or one step is none.  Common practice,
no source.

>>> import numpy as np
>>> t = np.arange(0.0, 8.0, 0.1)
>>> where = at_rest(t, 90.0 * (1.0 - np.exp(-t / 1.2)), np.full(80, 280.0), cranking=True)
>>> float(t[where][0])
3.0
"""

from typing import Final

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

NEAR: Final = 0.10
"""The way up ends where the rail first comes so near to where it stays, the way down begins where it last is."""
CRANKED_S: Final = 3.0
"""A starter needs so long to fill the rail."""
GONE: Final = 0.5
"""A trace that begins or ends below so much of where the rail stays has a way up, or down."""
PERIODS: Final = 3
_LEAST: Final = 0.2
"""A rest that is shorter than so much of the trace is none: then the last third speaks."""


def at_rest(t: Array, actual: Array, wanted: Array, *, cranking: bool) -> NDArray[np.intp]:
    """The places of the moments at rest, of a trace of at least one moment."""
    count = len(t)
    running = np.flatnonzero(wanted > 0.0)
    last = int(running[-1]) if len(running) else count - 1
    level = float(np.median(actual[last // 2 : last + 1]))
    near = np.flatnonzero(actual[: last + 1] >= (1.0 - NEAR) * level)
    first = int(near[0]) if len(near) and actual[0] < GONE * level else 0
    if len(near) and actual[last] < GONE * level:
        last = int(near[-1])
    if cranking:
        first = max(first, int(np.searchsorted(t, t[0] + CRANKED_S - 1e-9)))
    if last - first + 1 < _LEAST * count:
        first = min(first, last - last // 3)
    return np.arange(first, last + 1)


def periods(error: Array, limit: Array) -> float:
    """How often it goes to and fro: each time beyond half the limit on one side, then on the other, is a half."""
    side = np.where(error > limit / 2.0, 1, np.where(error < -limit / 2.0, -1, 0))
    beyond = side[side != 0]
    return (np.count_nonzero(np.diff(beyond)) + 1) / 2.0 if len(beyond) else 0.0
