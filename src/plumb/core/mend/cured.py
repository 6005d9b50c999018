"""The chance that cleaning cures an injector, and what a shop's own before and after say of it.

Every injector that is cleaned is cured with the same unknown chance p, which has a Beta distribution.
Before a shop has cleaned anything it is Beta(3, 2): three of five (common practice, no source); each
injector that was put right counts one into the first figure, each that was not into the second.

>>> USUAL.mean, round(USUAL.all_of(2), 2)
(0.6, 0.4)
>>> low, high = USUAL.counting(cured=4, tried=5).interval()
>>> round(low, 4), round(high, 4)
(0.3999, 0.9251)
"""

from dataclasses import dataclass
from typing import Final

import scipy  # its parts load when first used: all at once cost every start a second

_OUTSIDE: Final = 0.05
"""What lies outside the interval that is told, half of it on each side."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Cured:
    """How likely cleaning is to cure: Beta(``cured``, ``not_cured``), ``own`` of them the shop's."""

    cured: float
    not_cured: float
    own: int = 0

    @property
    def mean(self) -> float:
        """The chance for one injector."""
        return self.cured / (self.cured + self.not_cured)

    def all_of(self, count: int) -> float:
        """The chance that each of so many is cured: E[p^k], which is more than E[p]^k."""
        made = 1.0
        for n in range(count):
            made *= (self.cured + n) / (self.cured + self.not_cured + n)
        return made

    def interval(self) -> tuple[float, float]:
        """The middle 95 % of the chance."""
        low, high = (
            float(scipy.special.betaincinv(self.cured, self.not_cured, at))
            for at in (_OUTSIDE / 2.0, 1.0 - _OUTSIDE / 2.0)
        )
        return low, high

    def counting(self, *, cured: int, tried: int) -> "Cured":
        """The same with so many injectors of the shop's own, ``cured`` of ``tried``."""
        if not 0 <= cured <= tried:
            message = f"of {tried} that were tried, {cured} cannot have been cured"
            raise ValueError(message)
        return Cured(
            cured=self.cured + cured, not_cured=self.not_cured + tried - cured, own=self.own + tried
        )


USUAL: Final = Cured(cured=3.0, not_cured=2.0)
"""Before a shop knows better: common practice, no source."""
