"""Facts of the coils, by resistance and under load."""

from collections.abc import Iterator
from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.fact import Fact
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import rounded
from plumb.core.procedures.coils.analysis import RESISTANCE, CoilResult

_BOTH: Final = {
    "coil_open": "no current passes",
    "coil_short": "the coil is far too low",
    "coil_unsettled": "the meter cannot tell, or the set falls into halves",
}
MAKES_OHM: Final = {
    **_BOTH,
    "a_coil_reads": "some coil of the set reads",
    "coil_good": "the coil lies where it should",
    "coil_out": "the coil lies outside",
}
MAKES_VOLT: Final = {
    **_BOTH,
    "volts_good": "the voltage drop lies where it should",
    "volts_out": "the voltage drop lies outside",
}


def facts(key: str, result: CoilResult) -> Iterator[Fact]:
    """How each coil reads, and that one reads at all."""
    ohm = result.kind == RESISTANCE
    read = [f for f in result.findings if f.state not in {State.OPEN, State.NOT_JUDGED}]
    if ohm and read:
        yield Fact(code="a_coil_reads", injector="", sheet=key)
    for f in result.findings:
        code = _coil_code(f, result, ohm=ohm)
        if code:
            # Without the coil's temperature nobody knows what it has at 20 degrees.
            unit = "V" if not ohm else "Ω at 20 °C" if result.sheet.corrects else "Ω as read"
            figure = "open" if f.value is None else f"{rounded(f.value, 2)} {unit}"
            name = "coil" if ohm else "voltage drop"
            yield Fact(
                code=code, injector=f.injector, sheet=key, text=f"{name} {figure}",
                leans=_leans(f, ohm=ohm),
            )  # fmt: skip


def _leans(finding: Finding, *, ohm: bool) -> tuple[tuple[str, float], ...]:
    """What a coil that is not settled may be."""
    if finding.state is not State.UNSETTLED or finding.probability_out is None:
        return ()
    name = "coil" if ohm else "volts"
    out = finding.probability_out
    return ((f"{name}_good", 1.0 - out), (f"{name}_out", out))


def _coil_code(finding: Finding, result: CoilResult, *, ohm: bool) -> str:
    if finding.state is State.OPEN:
        return "coil_open"
    if finding.injector in result.shorted:
        return "coil_short"
    name = "coil" if ohm else "volts"
    if finding.state is State.IN_PLUMB:
        return f"{name}_good"
    if finding.state is State.LOW or finding.state is State.HIGH:
        return f"{name}_out"
    open_ = finding.state is State.UNSETTLED or finding.state is State.SPLIT
    return "coil_unsettled" if open_ else ""
