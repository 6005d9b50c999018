"""What the balance while idling shows of each fault, and how often."""

from typing import Final

from plumb.core.compare.drops.shows import AGAIN, BY_ENGINE, flow_table

SHOWS: Final = (flow_table("running", **BY_ENGINE), AGAIN)
"""Each injector against those that agree, opened by the controller."""
