"""One finding: what a sheet says of one injector, or of one state of the engine."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.quantities import kpa_per


class Dimension(StrEnum):
    """What a finding's value is: it says in which unit it is told."""

    PRESSURE = "pressure"
    ROOT_OF_PRESSURE = "root_of_pressure"
    AS_TYPED = "as_typed"


@dataclass(frozen=True, slots=True, kw_only=True)
class Scale:
    """What a finding is drawn on.

    ``dimension`` is that of value and reference: kPa, sqrt(kPa), or the sheet's own unit as it was
    typed.  ``relative``: deviation, u and tolerance are fractions of the reference, else they are
    in the value's own unit.
    """

    dimension: Dimension
    relative: bool

    def per(self, unit: str) -> float:
        """How many of the core's unit of this dimension one ``unit`` is; :class:`PlumbError` for no pressure."""
        if self.dimension is Dimension.AS_TYPED:
            return 1.0
        factor = kpa_per(unit)
        return math.sqrt(factor) if self.dimension is Dimension.ROOT_OF_PRESSURE else factor


SHARE_OF_FLOW: Final = Scale(dimension=Dimension.ROOT_OF_PRESSURE, relative=True)
SHARE_OF_PRESSURE: Final = Scale(dimension=Dimension.PRESSURE, relative=True)
SHARE: Final = Scale(dimension=Dimension.AS_TYPED, relative=True)
IN_PRESSURE: Final = Scale(dimension=Dimension.PRESSURE, relative=False)
IN_POINTS: Final = Scale(dimension=Dimension.AS_TYPED, relative=False)


_OFF: Final = frozenset(
    {State.LOW, State.HIGH, State.NO_RESPONSE, State.OPEN, State.INTERMITTENT, State.SPLIT}
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What a sheet says of one injector, or of the whole engine where ``injector`` is empty.

    ``value`` and ``reference`` are in the dimension of ``scale``; so are ``deviation``, ``u`` and
    ``tolerance`` unless the scale is relative: then they are fractions of the reference.  Positive
    gives more.  ``place`` is the state of the engine that a finding of the supply speaks of.
    ``passes`` counts the readings, ``answered_late`` says that an earlier burst was marked "no
    response", ``bound`` that the rail ran empty and the value is only a lower bound.
    ``u_value`` is the standard uncertainty of the value itself where what is common to a sheet (its gauge,
    its temperature) makes that more than ``u`` says: it counts when sheets of different days are compared.
    ``carried`` says where its readings were carried over from, empty where they are the sheet's own;
    ``renewed`` what was done to the injector before (a code of the repairs), empty where it stayed as it was;
    ``ails`` is a fault that was seen beside the figure (a code of the sheet: its seat, its spray), whatever that says;
    ``graded``: its set is spread so evenly that who agrees, and with that what it reads as, is chance.
    """

    injector: str
    quantity: str
    scale: Scale
    state: State
    value: float | None
    reference: float | None
    deviation: float | None
    u: float | None
    tolerance: float | None
    probability_out: float | None
    passes_to_settle: int | None
    passes: int
    agrees: bool
    bound: bool = False
    answered_late: bool = False
    place: str = ""
    carried: str = ""
    u_value: float | None = None
    renewed: str = ""
    ails: str = ""
    graded: bool = False

    @property
    def good(self) -> bool:
        """In plumb, and nothing beside the figure speaks against it."""
        return self.state is State.IN_PLUMB and not self.ails

    @property
    def shows(self) -> bool:
        """It shows a fault, by its figure or beside it."""
        return self.state in _OFF or bool(self.ails)

    @property
    def read(self) -> bool:
        """It was read on this very sheet."""
        return not self.carried and self.told

    @property
    def told(self) -> bool:
        """It stands on the sheet with a reading or a judgement, its own or carried over."""
        return self.passes > 0 or self.state is not State.NOT_JUDGED

    @property
    def in_band(self) -> float | None:
        """Where it hangs, in half-widths of its band; None without a figure or a band."""
        if self.deviation is None or not self.tolerance or self.tolerance < 0.0:
            return None
        return self.deviation / self.tolerance

    @property
    def row(self) -> str:
        """The row of the sheet that it stands on: an injector, or a state of the engine."""
        return self.injector or self.place


def with_carried(
    findings: Sequence[Finding], carried: Sequence[tuple[str, str]]
) -> tuple[Finding, ...]:
    """The findings, those of rows that were carried over marked by where from."""
    origin = dict(carried)
    return tuple(
        replace(f, carried=origin[f.injector]) if f.injector in origin else f for f in findings
    )


def unread(place: str, scale: Scale = SHARE_OF_PRESSURE) -> Finding:
    """A state of the engine that nothing was read in."""
    return Finding(
        injector="", place=place, quantity=place, scale=scale, state=State.NOT_JUDGED,
        value=None, reference=None, deviation=None, u=None, tolerance=None, probability_out=None,
        passes_to_settle=None, passes=0, agrees=False,
    )  # fmt: skip


def all_in_plumb(findings: Sequence[Finding]) -> bool:
    """Every row was read and is in plumb; a sheet without rows has passed nothing."""
    return bool(findings) and all(f.good for f in findings)
