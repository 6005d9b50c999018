"""One finding: what a sheet says of one injector, or of one state of the engine."""

from dataclasses import dataclass

from plumb.core.decision import State


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What a sheet says of one injector (or, on the supply sheet, of one state of the engine).

    ``value`` and ``reference`` are in the rule's quantity (kPa, or sqrt(kPa) for the flow index);
    ``deviation``, ``u``, ``tolerance`` are fractions, positive gives more.  ``passes`` counts the
    measured bursts, ``answered_late`` says that an earlier burst was marked "no response".
    """

    injector: str
    quantity: str
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
    because: str = ""
