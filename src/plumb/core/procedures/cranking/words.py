"""What the cranking balance says."""

from typing import Final

from plumb.core.compare import said
from plumb.core.compare.said import headline_by_word, state_in
from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import rounded
from plumb.core.measure.text import Span, counted, everyone, listed
from plumb.core.procedures.cranking.analysis import CrankingResult

_WORDS: Final = {State.LOW: "weak hump"}
SAYS: Final = (*_WORDS.values(), "even", "whose is not known", *said.SAYS)


def state(finding: Finding, result: CrankingResult) -> str:
    """The hump's state; without a sync all are even, or nobody knows whose it is."""
    if finding.value is None and finding.state is State.IN_PLUMB:
        return "even"
    if result.humps and finding.value is None:
        return "whose is not known"
    return state_in(_WORDS, finding)


def headline(result: CrankingResult, _unit: str) -> tuple[Span, ...]:
    """Which humps are low."""
    if result.humps:
        return _trace_headline(result)
    return headline_by_word(result.findings, lambda f: state(f, result))


def _trace_headline(result: CrankingResult) -> tuple[Span, ...]:
    """What the humps of a trace say; without a sync nobody knows whose they are."""
    low = [h for h in result.humps if h.state is State.LOW]
    open_ = [h for h in result.humps if h.state is State.UNSETTLED]
    if not low and not open_:
        return (Span(text=f"{everyone(len(result.humps), 'humps')} even."),)
    spans = []
    for humps, word, tone in ((low, "weak hump", "low"), (open_, "not settled", "open")):
        if not humps:
            continue
        if humps[0].label:
            text = f"{listed([h.label for h in humps])}: {word}. "
        else:
            text = f"{counted(len(humps)).capitalize()} of {counted(len(result.humps))} humps: {word}. "
        spans.append(Span(text=text, tone=tone))
    return tuple(spans)


def notes(result: CrankingResult, _unit: str) -> tuple[str, ...]:
    """Too few humps to compare, noise, and humps that are nobody's."""
    made = []
    if result.reference is None and any(v is not None for _, v in result.sheet.cylinders):
        made.append("At least three humps are needed to compare.")
    trace = result.sheet.trace
    if _only_seen(result):
        made.append("Seen by eye: that tells a hump which lacks a quarter, and no smaller one.")
    if trace is None:
        return tuple(made)
    if not result.humps:
        return (*made, f"Only {counted(len(trace.cycles))} whole cycles: crank a little longer.")
    if any(h.once for h in result.humps):
        made.append("A hump that was low once only is noise: the others of its place are even.")
    if result.uneven:
        made.append("Without a sync nobody knows whose hump it is: a sync tells, or a gauge does.")
    return tuple(made)


def _only_seen(result: CrankingResult) -> bool:
    """Whether somebody looked, and no figure and no trace says more."""
    read = any(v is not None for _, v in result.sheet.cylinders)
    return result.sheet.low_by_eye is not None and not read and not result.humps


def because(finding: Finding, result: CrankingResult, _unit: str) -> str:
    """The hump against the middle one, and in how many cycles it is low."""
    word = state(finding, result) or "not measured"
    if _only_seen(result):
        return f"{word}, seen by eye"
    if finding.value is None or finding.reference is None:
        return word
    hump = next((h for h in result.humps if h.label == finding.injector), None)
    if hump is not None:
        return (
            f"{word}: {rounded(100 * hump.median, 0)} % of the middle hump, "
            f"low in {hump.low_cycles} of {hump.cycles} cycles"
        )
    return f"{word}: {rounded(finding.value / finding.reference, 2)} times the middle hump"
