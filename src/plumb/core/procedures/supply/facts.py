"""Facts of the supply pressure."""

from collections.abc import Iterator
from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.fact import Fact
from plumb.core.procedures.supply.analysis import NAMES, SupplyResult
from plumb.core.procedures.supply.pump import heard, where

MAKES: Final = {
    "no_supply": "no pump or no pressure",
    "supply_low": "the pressure lies below its window",
    "supply_high": "the pressure lies above its window",
    "supply_good": "the pressure lies inside its window",
    "regulator_dead": "the pressure does not rise when the vacuum hose comes off",
}


def facts(key: str, result: SupplyResult) -> Iterator[Fact]:
    """Nothing to test with, or how the pressure lies in each state of the engine."""
    pump = result.sheet.pump
    if result.ends_here:
        told = heard(pump) or "No pressure with the key on"
        text = f"{told[0].lower()}{told[1:]}"
        if result.sheet.pump_v is not None:
            text += f"; {where(pump, result.sheet.pump_v).rstrip('.')}"
        yield Fact(code="no_supply", injector="", sheet=key, text=text)
        return
    states = {f.place: f.state for f in result.findings if f.value is not None}
    for name, state in states.items():
        spoken = NAMES[name].lower()
        if state in {State.LOW, State.HIGH}:
            side = "below" if state is State.LOW else "above"
            yield Fact(
                code="supply_low" if state is State.LOW else "supply_high", injector="",
                sheet=key, text=f"supply pressure {side} its window, {spoken}",
            )  # fmt: skip
    if result.passed and any(s is State.IN_PLUMB for s in states.values()):
        yield Fact(code="supply_good", injector="", sheet=key, text="supply inside its window")
    if result.regulator_answers is False:
        yield Fact(
            code="regulator_dead", injector="", sheet=key,
            text="the pressure does not rise when the vacuum hose comes off",
        )  # fmt: skip
