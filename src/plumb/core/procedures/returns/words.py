"""What the return volumes say."""

from typing import Final

from plumb.core.compare import said
from plumb.core.compare.renewed import note as renewed_note
from plumb.core.compare.said import headline_by_word, state_in
from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import decimals_for, rounded
from plumb.core.measure.text import Span, listed
from plumb.core.procedures.returns.analysis import LONGEST_SPELL_S, ReturnResult

_WORDS: Final = {State.HIGH: "returns too much", State.NO_RESPONSE: "no return"}
SAYS: Final = (*_WORDS.values(), *said.SAYS)


def state(finding: Finding, _result: ReturnResult) -> str:
    """Too much, nothing, or what the low group returns."""
    return state_in(_WORDS, finding)


def headline(result: ReturnResult, _unit: str) -> tuple[Span, ...]:
    """Who returns too much or nothing."""
    return headline_by_word(result.findings, lambda f: state(f, result))


def notes(result: ReturnResult, _unit: str) -> tuple[str, ...]:
    """What the comparison rests on, and how the volumes were taken."""
    made = list(renewed_note(result.findings))
    if result.rests_on_one:
        made.append(
            f"Rests on one: only {result.low_group[0]} returns little; measure that one again."
        )
    if result.sheet.clamped is False:
        made.append("The common return was not clamped: what comes back may be the pump's.")
    if result.sheet.duration_s is None:
        made.append("No time noted: volumes are compared with each other only.")
    if result.sheet.rail_kpa is not None:
        made.append(f"The rail reached {rounded(result.sheet.rail_kpa / 100.0, 0)} bar meanwhile.")
    if result.sheet.state == "cranking" and result.sheet.longest_s > LONGEST_SPELL_S:
        made.append("Cranked for long: rest the starter between spells, and note each of them.")
    if result.over:
        made.append(
            f"The tube of {listed(result.over)} ran over: empty it and measure for a shorter time."
        )
    return tuple(made)


def because(finding: Finding, result: ReturnResult, _unit: str) -> str:
    """The volume against a maker's limit and the low group."""
    word = state(finding, result) or "not measured"
    if finding.value is None or finding.reference is None:
        return word
    ratio = rounded(finding.value / finding.reference, 2)
    limit = ""
    if result.sheet.high is not None:
        places = decimals_for(result.sheet.step)
        volume, most = (rounded(x, places) for x in (finding.value, result.sheet.high))
        limit = f"{volume} ml, at most {most} are allowed; "
    return f"{word}: {limit}{ratio} times the low group"
