"""What a set says where every row has a word of its own: state, headline, and the lines of each row."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import Final

from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.fact import Fact
from plumb.core.measure.finding import Finding
from plumb.core.measure.lines import Line, Working, called_line
from plumb.core.measure.quantities import KPA_PER, rounded
from plumb.core.measure.text import (
    CODE_WORDS,
    NOTHING_YET,
    Span,
    be,
    by_word,
    counted,
    everyone,
    listed,
)
from plumb.core.measure.uncertainty import KNOWN_TO, reach

_COMMON: Final = {State.IN_PLUMB: "in plumb", State.UNSETTLED: "not settled"}


SAYS: Final = (*_COMMON.values(), "nothing to compare")
"""What any sheet of this sort can say beside its own words."""


def state_in(words: Mapping[State, str], finding: Finding) -> str:
    """The state of one row in the sheet's own words, else in the common ones."""
    if finding.state is State.NOT_JUDGED:
        return "nothing to compare" if finding.passes else ""
    return words.get(finding.state) or _COMMON.get(finding.state, finding.state.value)


_HALF: Final = 0.4
"""How likely one of a set that is split is of the bad half; common practice, no source."""


def leaning(prefix: str, finding: Finding) -> tuple[tuple[str, float], ...]:
    """What a row that is not settled may be, and how likely; nothing where it is settled."""
    if finding.state is State.SPLIT or finding.graded:
        out = _HALF
    elif finding.state is State.UNSETTLED and finding.probability_out is not None:
        out = finding.probability_out
    else:
        return ()
    side = "low" if (finding.deviation or 0.0) < 0.0 else "high"
    return ((f"{prefix}_in_plumb", 1.0 - out), (f"{prefix}_{side}", out))


def facts_of_states(
    prefix: str, said: Mapping[str, str], key: str, findings: Iterable[Finding]
) -> Iterator[Fact]:
    """A fact for each row that is decided or open: ``prefix`` and the state's code, said in words."""
    for f in findings:
        word = CODE_WORDS.get(f.state)
        if word is not None:
            yield Fact(
                code=f"{prefix}_{word}", injector=f.injector, sheet=key, text=said.get(word, ""),
                leans=leaning(prefix, f),
            )  # fmt: skip


def headline_by_word(
    findings: Iterable[Finding], word_of: Callable[[Finding], str]
) -> tuple[Span, ...]:
    """Who reads out of the common, else how many are in plumb and how many are to go."""
    rows = tuple(findings)
    named = by_word((f.injector, word_of(f)) for f in rows)
    if not named:
        return NOTHING_YET
    odd = [
        (w, labels) for w, labels in named.items() if w not in {"in plumb", "nothing to compare"}
    ]
    if odd:
        said = "; ".join(f"{listed(labels)}: {word}" for word, labels in odd)
        settled = any(word != "not settled" for word, _ in odd)
        return (Span(text=f"{said}.", tone="high" if settled else "open"),)
    good = len(named.get("in plumb", []))
    left = sum(1 for f in rows if not f.passes)
    if not good:
        return (Span(text="Too few to compare."),)
    if left:
        text = f"The {counted(good)} read so far {be(good)} in plumb; {counted(left)} to go."
        return (Span(text=text),)
    return (Span(text=f"{everyone(good)} in plumb."),)


def working_of_rows(
    shared: Iterable[Line],
    findings: Iterable[Finding],
    thresholds: Thresholds,
    lines_of: Callable[[Finding], tuple[Line, ...]],
) -> Working:
    """The lines of the set, and for each row that was read its own and how likely it is outside."""
    return Working(
        shared=tuple(shared),
        injectors=tuple(
            (f.injector, (*lines_of(f), called_line(thresholds, f.probability_out)))
            for f in findings
            if f.value is not None
        ),
    )


def away_lines(finding: Finding, figures: tuple[str, str], unit: str) -> tuple[Line, ...]:
    """How far a row lies from what it is compared with, and how well that is known."""
    if finding.deviation is None or finding.u is None:
        return ()
    return (
        Line(
            label="from the reference", figure=f"{figures[0]} ± {figures[1]}", unit=unit,
            formula=f"{KNOWN_TO}; 1.96 u of the figure and of the reference",
        ),
    )  # fmt: skip


def class_note(findings: Iterable[Finding], u_class: float, unit: str) -> tuple[str, ...]:
    """What is said where the class of the gauge may be what keeps a figure near its limit open."""
    if not u_class or not any(f.state is State.UNSETTLED for f in findings):
        return ()
    known = rounded(reach(u_class / KPA_PER[unit]), 1)
    text = (
        f"The gauge's class leaves a figure near its limit open: \u00b1{known} {unit} ({KNOWN_TO}). One that was "
        "proven against a better one tells."
    )
    return (text,)
