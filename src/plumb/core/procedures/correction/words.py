"""What the corrections say."""

from typing import Final

from plumb.core.compare import said
from plumb.core.compare.renewed import note as renewed_note
from plumb.core.compare.said import headline_by_word, state_in
from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import decimals_for, rounded
from plumb.core.measure.text import Span, listed
from plumb.core.procedures.correction.analysis import CorrectionResult

_WORDS: Final = {
    State.HIGH: "weak cylinder",
    State.LOW: "strong cylinder",
    State.SPLIT: "set is split",
}
UNITS: Final = {"mm3": "quantity", "percent": "points", "ms": "on-time"}
"""What a figure of the controller is called by its unit."""
SAYS: Final = (*_WORDS.values(), *said.SAYS)


def state(finding: Finding, _result: CorrectionResult) -> str:
    """Weak or strong: a cylinder, not yet an injector."""
    return state_in(_WORDS, finding)


def headline(result: CorrectionResult, _unit: str) -> tuple[Span, ...]:
    """Which cylinders are weak or strong."""
    return headline_by_word(result.findings, lambda f: state(f, result))


def notes(result: CorrectionResult, _unit: str) -> tuple[str, ...]:
    """What comes before an injector, and a set that falls into halves."""
    made = list(renewed_note(result.findings))
    if any(f.state in {State.HIGH, State.LOW} for f in result.findings):
        made.append(
            "A weak cylinder is not yet an injector: cranking balance and rail pressure first."
        )
    made += _of_both(result)
    if result.split:
        made.append("Two halves stand against each other; comparing cannot say which is right.")
    return tuple(made)


def because(finding: Finding, result: CorrectionResult, _unit: str) -> str:
    """The correction, how far it lies from those that agree, and what is allowed."""
    word = state(finding, result) or "not measured"
    if finding.value is None or finding.reference is None:
        return word
    places = decimals_for(result.sheet.step)
    text = (
        f"{word}: {rounded(finding.value, places)} {result.sheet.unit}, "
        f"{rounded(abs(finding.deviation or 0.0), places)} from those that agree at "
        f"{rounded(finding.reference, places)}; allowed {rounded(result.apart, places)}"
    )
    beside = beside_words(finding.injector, result)
    return f"{text}; {beside} beside it" if beside else text


def beside_words(injector: str, result: CorrectionResult) -> str:
    """The second figure of a cylinder with its unit; empty where there is none."""
    second = result.sheet.beside
    value = dict(second.figures).get(injector) if second else None
    if second is None or value is None:
        return ""
    return f"{rounded(value, decimals_for(second.step))} {second.unit}"


def under(finding: Finding, result: CorrectionResult, _unit: str) -> str:
    """What the controller shows beside it."""
    second = beside_words(finding.injector, result)
    return f"{second} beside it" if second else ""


def _of_both(result: CorrectionResult) -> list[str]:
    """Where both figures do not single out the same cylinders, and where second ones are missing."""
    second = result.sheet.beside
    if second is None or result.beside is None:
        return []
    made = []
    read, count = len(second.figures), len(result.sheet.injectors)
    if read < count:
        made.append(f"Second figures of {read} of {count} cylinders, in the order of the rows.")
    if result.differ:
        made.append(
            f"By {UNITS[result.sheet.unit]} {_apart(result)}; by {UNITS[second.unit]} beside it {_apart(result.beside)}. "
            f"Look again at {listed(result.differ)}: misread, or more time for the same fuel."
        )
    return made


def _apart(result: CorrectionResult) -> str:
    """Who stands apart, in words."""
    by = {
        word: [f.injector for f in result.findings if f.state is state]
        for state, word in ((State.HIGH, "weak"), (State.LOW, "strong"))
    }
    told = [f"{listed(x)} {'are' if len(x) > 1 else 'is'} {word}" for word, x in by.items() if x]
    return " and ".join(told) or "nobody stands apart"
