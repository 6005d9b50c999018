"""What the supply pressure says."""

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.text import NOTHING_YET, WINDOW_WORDS, Span
from plumb.core.procedures.supply.analysis import NAMES, SupplyResult


def headline(result: SupplyResult, _unit: str) -> tuple[Span, ...]:
    """What ends the work, what is out of its window, or that all is inside."""
    pump = result.sheet.pump
    if pump == "clicks_only":
        return (Span(text="The relay clicks, the pump does not run: ", tone="open"),
                Span(text="pump or its feed. The injector work stops here."))  # fmt: skip
    if pump == "silent":
        return (Span(text="Neither relay nor pump is heard: ", tone="open"),
                Span(text="fuse, relay and feed first. The injector work stops here."))  # fmt: skip
    if result.no_pressure:
        return (Span(text="No pressure with the key on: ", tone="open"),
                Span(text="the pump or its feed. The injector work stops here."))  # fmt: skip
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


def notes(result: SupplyResult, _unit: str) -> tuple[str, ...]:
    """Whether the regulator answers to its hose."""
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
