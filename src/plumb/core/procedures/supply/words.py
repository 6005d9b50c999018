"""What the supply pressure says."""

from plumb.core.compare.said import class_note
from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import rounded
from plumb.core.measure.text import NOTHING_YET, WINDOW_WORDS, Span
from plumb.core.procedures.supply.analysis import NAMES, SupplyResult
from plumb.core.procedures.supply.pump import fed_weakly, heard, where


def headline(result: SupplyResult, _unit: str) -> tuple[Span, ...]:
    """What ends the work, what is out of its window, or that all is inside."""
    pump, volts = result.sheet.pump, result.sheet.pump_v
    if result.ends_here:
        told = heard(pump) or "No pressure with the key on"
        return (Span(text=f"{told}: ", tone="open"),
                Span(text=f"{where(pump, volts)} The injector work stops here."))  # fmt: skip
    read = [f for f in result.findings if f.value is not None]
    if not read:
        return NOTHING_YET
    out = [f for f in read if f.state in {State.LOW, State.HIGH, State.UNSETTLED}]
    if out:
        said = "; ".join(f"{NAMES[f.place].lower()} {WINDOW_WORDS[f.state]}" for f in out)
        tone = (
            "low" if out[0].state is State.LOW else "high" if out[0].state is State.HIGH else "open"
        )
        return (Span(text=f"{said[0].upper()}{said[1:]}.", tone=tone),)
    if all(f.state is State.NOT_JUDGED for f in read):
        return (Span(text="Noted. Without a window nothing says what it should be."),)
    return (Span(text="The supply is inside its window."),)


def notes(result: SupplyResult, unit: str) -> tuple[str, ...]:
    """Whether the pump has its volts, and the regulator answers to its hose."""
    made: tuple[str, ...] = ()
    if fed_weakly(result.sheet.pump, result.sheet.pump_v) and not result.ends_here:
        volts = rounded(result.sheet.pump_v or 0.0, 1)
        fed = f"Only {volts} V at the pump's plug while it runs: put its feed and ground right "
        made = (f"{fed}before the pump is blamed.",)
    made += class_note(result.findings, result.sheet.u_class, unit)
    return made + _regulator_notes(result)


def _regulator_notes(result: SupplyResult) -> tuple[str, ...]:
    if result.regulator_answers is False:
        return (
            (
                "The pressure does not rise when the vacuum hose comes off: a regulator that does "
                "not answer, a blocked hose, or a system without a vacuum regulator."
            ),
        )
    if result.regulator_answers:
        return ("It rises when the vacuum hose comes off: the regulator answers.",)
    return ()


def state(finding: Finding, _result: SupplyResult) -> str:
    """How one state of the engine lies in its window."""
    if finding.state is State.NOT_JUDGED:
        return "no window given" if finding.passes else ""
    return WINDOW_WORDS[finding.state]


def because(finding: Finding, result: SupplyResult, _unit: str) -> str:
    """The state says it."""
    return state(finding, result) or "not measured"
