"""How fast nozzles lose the pressure they are held at below opening: a worn needle lets by though its seat is dry.

>>> held = Held(for_s=10.0, lost=(("1", 1200.0), ("2", 900.0), ("3", 4000.0)), at_most=2000.0)
>>> held.too_fast("3"), held.too_fast("1"), held.apart
(True, False, ('3',))
"""

from dataclasses import dataclass
from statistics import median
from typing import Final

_APART: Final = 2.0
"""What loses so many times the middle of the set is told, where no maker says what is allowed; common practice, no source."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Held:
    """Nozzles held for ``for_s`` seconds below their opening pressure: what each lost, kPa.

    ``at_most`` is what their maker allows in that time; None: nobody has said.
    """

    for_s: float
    lost: tuple[tuple[str, float], ...]
    at_most: float | None = None

    def of(self, injector: str) -> float | None:
        """What one lost; None where nobody noted it."""
        return dict(self.lost).get(injector)

    def too_fast(self, injector: str) -> bool | None:
        """Whether one loses more than is allowed; None where nothing says."""
        lost = self.of(injector)
        return None if lost is None or self.at_most is None else lost > self.at_most

    @property
    def apart(self) -> tuple[str, ...]:
        """Who loses far more than the middle of the set; nobody of fewer than three."""
        if len(self.lost) < 3:
            return ()
        middle = median(x for _, x in self.lost)
        return tuple(label for label, x in self.lost if x > _APART * middle)
