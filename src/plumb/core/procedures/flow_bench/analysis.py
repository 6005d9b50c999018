"""The flow bench: volumes of injectors that are off the car, static or pulsed, and their sprays.

How the volumes are compared stands in ``compare.drops``; here the quantity itself is what passed.
"""

from typing import Final

KIND: Final = "flow_bench"
SPRAYS: Final = ("even", "streaky", "stream", "none")
"""How a spray looks."""
