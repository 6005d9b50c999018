"""How well one reading is known: the gauge's step, a late reading, the burst's repeatability.

A gauge read to its smallest step d is known to d/sqrt(12) (JCGM 100:2008, F.2.2.1); "read late"
adds one step.  A burst never passes exactly the same fuel twice: that scatter is relative to the
flow index, starts from a prior of 1 % worth four degrees of freedom, and is pooled with the passes
at hand.

>>> round(step_uncertainty(0.5), 4)
0.1443
>>> round(Repeatability.pooled([[1.95, 1.97], [2.0]]).relative, 5)
0.00951

The class of a gauge is common to all readings of a sheet and cancels in every comparison of neighbours; it
counts against windows only (:func:`class_uncertainty`).
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Final, NamedTuple, Self

SQRT12: Final = math.sqrt(12.0)
PRIOR_RELATIVE: Final = 0.01
PRIOR_DEGREES: Final = 4.0
COVERAGE: Final = 2.0
"""A change counts beyond so many standard uncertainties of it (k = 2, JCGM 100:2008, 6.2.1)."""


REACHES: Final = 1.96
KNOWN_TO: Final = "95 %"
"""Every ± and every interval that is shown holds so much: 1.96 u, or Student's t where few figures are behind it."""


def reach(u: float) -> float:
    """What is told beside a figure as its ±: so far the true one lies away in one of twenty, of either side.

    >>> round(reach(0.5), 2)
    0.98
    """
    return REACHES * u


def step_uncertainty(step: float, *, read_late: bool = False) -> float:
    """Standard uncertainty of a reading from the gauge's step, in the step's unit.

    ``read_late``: the pressure may have crept by up to a step, which is added in full because it
    is not known which way (common practice, no source).
    """
    return step / SQRT12 + (step if read_late else 0.0)


ASSUMED_CLASS: Final = {"dial": 1.6, "digital": 0.5}
"""Where nobody knows a gauge's class, in % of its span; common practice, no source (EN 837-1 has 1.6 as a class)."""

MOST_CLASS: Final = 20
"""No gauge is so bad, in % of its span: a larger figure is a slip."""


def class_uncertainty(percent: float | None, span: float | None, reads: str = "") -> float:
    """Standard uncertainty that a gauge's class adds to every pressure it shows, in the unit of its ``span``.

    The true pressure lies anywhere within +-``percent`` of the span (JCGM 100:2008, 4.3.7); without a percent the
    class of a ``dial`` or ``digital`` gauge is assumed, and nothing where no span is known.

    >>> round(class_uncertainty(1.6, 100.0), 4), round(class_uncertainty(None, 100.0, "digital"), 4)
    (0.9238, 0.2887)
    """
    if span is None:
        return 0.0
    half = ASSUMED_CLASS[reads or "dial"] if percent is None else percent
    return half / 100.0 * span / math.sqrt(3.0)


def class_words(percent: str, span: str, reads: str, unit: str) -> str:
    """How a gauge's class is told, as typed; that of one nobody knows is said to be assumed.

    >>> class_words("", "100", "dial", "psi"), class_words("1", "100", "", "psi"), class_words("", "", "", "psi")
    ('class 1.6 % of 100 psi, assumed', 'class 1 % of 100 psi', '')
    """
    if not span:
        return ""
    if percent:
        return f"class {percent} % of {span} {unit}"
    return f"class {ASSUMED_CLASS[reads or 'dial']:g} % of {span} {unit}, assumed"


def sample_sd(values: Sequence[float]) -> float:
    """Sample standard deviation of two or more values, by the corrected two-pass formula.

    The second pass takes the rounding error of the mean out again (Chan, Golub and LeVeque 1983,
    The American Statistician 37, 242-247); twenty times quicker than exact fractions.
    """
    count = len(values)
    mean = math.fsum(values) / count
    left = [x - mean for x in values]
    squares = math.fsum(d * d for d in left) - math.fsum(left) ** 2 / count
    return math.sqrt(max(0.0, squares) / (count - 1))


Scatter = tuple[float, int]
"""Sum of the squared relative deviations from the mean, and their degrees of freedom."""


def relative_scatter(values: Sequence[float]) -> Scatter:
    """How the passes of one injector scatter about their mean; nothing of one pass, or of no flow."""
    if len(values) < 2:
        return 0.0, 0
    mean = sum(values) / len(values)
    if mean <= 0.0:
        return 0.0, 0
    return sum((x / mean - 1.0) ** 2 for x in values), len(values) - 1


class Contribution(NamedTuple):
    """One source of uncertainty of one result, relative to the reference, 1 sigma."""

    source: str
    relative: float


def combined(contributions: Iterable[Contribution]) -> float:
    """Root of the sum of squares (JCGM 100:2008, 5.1.2, uncorrelated)."""
    return math.sqrt(sum(c.relative**2 for c in contributions))


@dataclass(frozen=True, slots=True, kw_only=True)
class Repeatability:
    """Scatter from burst to burst, relative to the flow index.

    ``degrees`` counts the prior's; ``own_degrees`` only what the passes of this sheet brought, and ``own`` is the
    scatter that they show by themselves, nought without any.
    """

    relative: float
    degrees: float
    own_degrees: int
    own: float = 0.0

    @classmethod
    def pooled(
        cls,
        passes: Iterable[Sequence[float]],
        *,
        prior: float = PRIOR_RELATIVE,
        prior_degrees: float = PRIOR_DEGREES,
    ) -> Self:
        """Pool the prior with the passes, one sequence of flow indices an injector."""
        return cls.of_scatters(
            map(relative_scatter, passes), prior=prior, prior_degrees=prior_degrees
        )

    @classmethod
    def of_scatters(
        cls,
        scatters: Iterable[Scatter],
        *,
        prior: float = PRIOR_RELATIVE,
        prior_degrees: float = PRIOR_DEGREES,
    ) -> Self:
        """Pool the prior with what :func:`relative_scatter` made of each injector's passes."""
        squares = prior_degrees * prior * prior
        own_squares, own = 0.0, 0
        for mine, degrees in scatters:
            squares += mine
            own_squares += mine
            own += degrees
        return cls(
            relative=math.sqrt(squares / (prior_degrees + own)),
            degrees=prior_degrees + own,
            own_degrees=own,
            own=math.sqrt(own_squares / own) if own else 0.0,
        )


def wilson(hits: int, of: int) -> tuple[float, float]:
    """The 95 % interval of a share (Wilson 1927, without correction for continuity).

    >>> low, high = wilson(97, 100)
    >>> round(low, 3), round(high, 3)
    (0.915, 0.99)
    """
    if not of:
        return 0.0, 1.0
    z, p = 1.959964, hits / of
    middle = (p + z * z / (2 * of)) / (1 + z * z / of)
    half = z * math.sqrt(p * (1 - p) / of + z * z / (4 * of * of)) / (1 + z * z / of)
    return max(0.0, middle - half), min(1.0, middle + half)
