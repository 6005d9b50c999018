"""Facts of the flow bench."""

from functools import partial

from plumb.core.compare.drops.facts import makes, of_drops

MAKES = makes("bench")

facts = partial(of_drops, "bench", "on the flow bench")
"""How much each injector gives, and how it sprays."""
