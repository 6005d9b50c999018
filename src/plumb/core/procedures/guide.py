"""How a procedure is done: what it shows and what not, what is needed, the steps, the usual slips.

>>> Guide(shows="flow", hides="spray", needs=("a gauge",), steps=("read",), look=("no drop",),
...       slips=("late",), enough="once", schools="").connect
()
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Final

DRAWINGS: Final = {
    "gauge_on_rail": "the gauge on the rail’s test port, its valve over a container",
    "relay_link": "a fused link across the relay’s load contacts 30 and 87, the coil 85 and 86 left alone",
    "lamp_at_plug": "a test lamp in the injector’s plug, the injector unplugged",
    "hand_pump": "a nozzle on the hand pump, its tip in a closed jar",
}
"""The drawings that a page knows, each in words for who does not see it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Guide:
    """The card of a procedure, for who does it for the first time; ``drawings`` are of :data:`DRAWINGS`.

    ``schools`` tells how others do it, and what that changes; ``instead`` what a line is on another
    fuel system (``""``: nothing).
    """

    shows: str
    hides: str
    needs: tuple[str, ...]
    steps: tuple[str, ...]
    look: tuple[str, ...]
    slips: tuple[str, ...]
    enough: str
    schools: str
    connect: tuple[str, ...] = ()
    drawings: tuple[str, ...] = ()
    instead: Mapping[str, Mapping[str, str]] = field(default_factory=dict)

    def on(self, fuel_system: str) -> "Guide":
        """The card on an engine of that fuel system: lines that do not fit it are told otherwise, or left out."""
        other = self.instead.get(fuel_system, {})

        def lines(told: tuple[str, ...]) -> tuple[str, ...]:
            return tuple(text for line in told if (text := other.get(line, line)))

        return replace(
            self,
            shows=other.get(self.shows, self.shows),
            hides=other.get(self.hides, self.hides),
            enough=other.get(self.enough, self.enough),
            needs=lines(self.needs), connect=lines(self.connect), steps=lines(self.steps),
            look=lines(self.look), slips=lines(self.slips),
        )  # fmt: skip
