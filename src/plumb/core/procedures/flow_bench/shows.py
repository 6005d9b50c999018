"""What the flow bench shows of each fault, and how often."""

from typing import Final

from plumb.core.compare.drops.shows import AGAIN, SET, SPRAY, flow_table

SHOWS: Final = (flow_table("bench"), AGAIN, SPRAY, SET)
"""Each injector's volume against those that agree, its spray, and the set as a whole."""
