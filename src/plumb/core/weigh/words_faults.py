"""A fault in words, with whose it is.

>>> from plumb.core.causes.table import FAULTS
>>> named(FAULTS["gives_less"], ("4",)), named(FAULTS["compression"], ("2", "3"))
('injector 4 (gives less)', 'compression, 2 or 3')
"""

from collections.abc import Sequence

from plumb.core.causes.fault import FEED, INJECTOR, Fault
from plumb.core.measure.text import listed

_MOST_NAMES = 4


def named(fault: Fault, labels: Sequence[str], *, join: str = "or") -> str:
    """The fault, and at whom it is; ``join`` says whether at any of them (or) or at all (and)."""
    if not labels:
        return fault.words
    if len(labels) > _MOST_NAMES and join == "or":
        whom = f"{', '.join(labels[:3])} or another"
    else:
        whom = listed(labels).replace(" and ", f" {join} ")
    if fault.of == INJECTOR:
        return f"injector{'s' if len(labels) > 1 else ''} {whom} ({fault.words})"
    if fault.of == FEED:
        return f"{fault.words} of {whom}"
    return f"{fault.words}, {whom}"
