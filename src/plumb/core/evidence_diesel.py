"""Facts of the diesel sheets: corrections, cranking balance, rail, return volumes, nozzles."""

import math
from collections import Counter
from collections.abc import Iterator
from typing import Final

from plumb.core import correction, cranking, opening, rail, returns
from plumb.core.decision import State
from plumb.core.fact import Fact
from plumb.core.quantities import KPA_PER, show_pressure
from plumb.core.shims import MM_PER_THOU, Plan, show_shim

Diesel = correction.CorrectionResult | returns.ReturnResult | cranking.CrankingResult

STATES: Final = {
    State.LOW: "low",
    State.HIGH: "high",
    State.IN_PLUMB: "in_plumb",
    State.NO_RESPONSE: "none",
    State.UNSETTLED: "unsettled",
    State.SPLIT: "split",
}
"""The word of each state in the codes of facts."""

_SAID: Final = {
    correction.KIND: ("correction", {"high": "asks for more fuel than its neighbours",
                                     "low": "asks for less fuel than its neighbours"}),
    returns.KIND: ("returns", {"high": "returns too much", "none": "returns nothing"}),
    cranking.KIND: ("cranking", {"low": "its hump of starter current is low"}),
}  # fmt: skip


def of_compared(key: str, result: Diesel) -> Iterator[Fact]:
    """A fact for each state; and one for the engine where a low hump is nobody's yet."""
    prefix, said = _SAID[result.kind]
    for f in result.findings:
        word = STATES.get(f.state)
        if word is not None:
            yield Fact(
                code=f"{prefix}_{word}", injector=f.injector, sheet=key, text=said.get(word, "")
            )
    if isinstance(result, cranking.CrankingResult) and result.uneven:
        yield Fact(
            code="cranking_uneven", injector="", sheet=key,
            text="one hump of starter current is low in every cycle",
        )  # fmt: skip


_RAIL: Final = {
    "good": ("rail_good", "the rail follows what is wanted"),
    "surges": ("rail_surges", "the rail pressure surges"),
    "low": ("rail_low", "the rail stays below what is wanted"),
    "high": ("rail_high", "the rail stays above what is wanted"),
}


def of_rail(key: str, result: rail.RailResult) -> Iterator[Fact]:
    """How the rail follows what is wanted; nothing from a trace that is too short."""
    if result.state in _RAIL:
        code, text = _RAIL[result.state]
        yield Fact(code=code, injector="", sheet=key, text=text)


_FAULTS: Final = {
    "seat_wet": "its seat wets within the hold",
    "seat_damp": "its seat is damp after the hold",
    "spray_bad": "its spray is bad",
}
_OPENS: Final = {"low": "opens early", "high": "opens late", "none": "no pressure builds on it"}


def of_opening(key: str, result: opening.OpeningResult) -> Iterator[Fact]:
    """How each nozzle opens, what a shim cannot cure, and the shims that are planned."""
    for f, nozzle in zip(result.findings, result.nozzles, strict=True):
        word = STATES.get(f.state)
        if word is not None:
            yield Fact(
                code=f"opens_{word}", injector=f.injector, sheet=key, text=_OPENS.get(word, "")
            )
        if nozzle.fault:
            yield Fact(
                code=f"nozzle_{nozzle.fault}", injector=f.injector, sheet=key,
                text=_FAULTS[nozzle.fault],
            )  # fmt: skip
        if nozzle.plan is not None:
            yield Fact(
                code="shim_planned", injector=f.injector, sheet=key,
                text=plan_words(nozzle.plan, result),
            )  # fmt: skip
        if f.passes and result.sheet.when == "after_cleaning":
            yield Fact(code="after_cleaning", injector=f.injector, sheet=key)


def plan_words(plan: Plan, result: opening.OpeningResult) -> str:
    """The stack to fit and what it should give, in the sheet's unit."""
    unit, step = result.sheet.unit, result.sheet.step
    length = result.sheet.length
    counts = Counter(plan.added)
    pieces = " and ".join(
        f"{n} × {show_shim(x, length)}" if n > 1 else show_shim(x, length)
        for x, n in sorted(counts.items())
    )
    what = f"add {pieces} {length}" if plan.stays else f"fit {pieces} {length} instead"
    low, now, high = (
        show_pressure(max(0.0, p), unit, step) for p in (plan.low, plan.predicted, plan.high)
    )
    return f"{what}: {now} {unit} ({low} to {high})"


def sensitivity_words(result: opening.OpeningResult) -> str:
    """What a hundredth of a millimetre buys, with its range, in the sheet's unit."""
    unit = result.sheet.unit
    s = result.sensitivity
    small, said = (MM_PER_THOU, "1 thou") if result.sheet.length == "thou" else (0.01, "0.01 mm")
    # Two digits of the range, in whatever unit it is told.
    factor = KPA_PER[unit]
    step = factor * 10.0 ** (math.floor(math.log10(max(2.0 * s.u * small / factor, 1e-9))) - 1)
    return (
        f"{show_pressure(s.kpa_per_mm * small, unit, step)} ± "
        f"{show_pressure(2 * s.u * small, unit, step)} {unit} for {said}"
    )
