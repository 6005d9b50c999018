"""What the drop sheet shows of each fault, and how often."""

from typing import Final

from plumb.core.compare.drops.shows import AGAIN, BY_BURST, SET, WAKES, flow_table

SHOWS: Final = (flow_table("drop", **BY_BURST), AGAIN, WAKES, SET)
"""Each injector against those that agree, how it wakes, and the set as a whole."""
