"""Sheets on which one word an injector is noted: what it reads as, what is said of it.

>>> sheet = SeenSheet(kind="any", injectors=("1", "2"), readings=(Seen(injector="1", word="dark"),))
>>> found = analyse_seen(sheet, {"blinks": State.IN_PLUMB, "dark": State.NO_RESPONSE})
>>> [f.state.value for f in found.findings]
['no_response', 'not_judged']
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from plumb.core.measure.decision import State
from plumb.core.measure.fact import Fact
from plumb.core.measure.finding import SHARE, Finding, all_in_plumb
from plumb.core.measure.lines import Line, Working
from plumb.core.measure.readings import Seen
from plumb.core.measure.text import Span, be, by_word, counted, listed


@dataclass(frozen=True, slots=True, kw_only=True)
class SeenSheet:
    """What is put in: one word an injector; the last one counts.

    ``place`` is on_car or off_car, ``duration_s`` how long a tip was watched under pressure.
    """

    kind: str
    injectors: tuple[str, ...]
    readings: tuple[Seen, ...]
    place: str = ""
    duration_s: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SeenResult:
    """The last word of each injector, and its state."""

    sheet: SeenSheet
    words: tuple[tuple[str, str], ...]
    findings: tuple[Finding, ...]

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return self.sheet.kind

    @property
    def begun(self) -> bool:
        """Whether anything was looked at."""
        return bool(self.sheet.readings)

    @property
    def passed(self) -> bool:
        """Every injector was looked at and nothing was seen."""
        return all_in_plumb(self.findings)


def analyse_seen(sheet: SeenSheet, states: Mapping[str, State]) -> SeenResult:
    """What was seen at each injector, by the states of the words; without a word it is not judged."""
    words = {r.injector: r.word for r in sheet.readings}
    return SeenResult(
        sheet=sheet,
        words=tuple((label, words.get(label, "")) for label in sheet.injectors),
        findings=tuple(
            Finding(
                injector=label,
                quantity="seen",
                scale=SHARE,
                state=states.get(words.get(label, ""), State.NOT_JUDGED),
                value=None,
                reference=None,
                deviation=None,
                u=None,
                tolerance=None,
                probability_out=None,
                passes_to_settle=None,
                passes=1 if label in words else 0,
                agrees=False,
            )
            for label in sheet.injectors
        ),
    )


def of_seen(prefix: str, good: str, key: str, result: SeenResult) -> Iterator[Fact]:
    """A fact for each word that was noted; the ``good`` one's code ends in good or is itself."""
    for label, word in result.words:
        if word:
            code = "good" if word == good else word
            yield Fact(code=f"{prefix}_{code}", injector=label, sheet=key, text=f"{prefix} {word}")


def odd_ones(result: SeenResult, good: str) -> dict[str, list[str]]:
    """Labels by every word that is not the good one."""
    return by_word((label, word) for label, word in result.words if word != good)


def unremarkable(result: SeenResult, all_good: str) -> tuple[Span, ...]:
    """The headline while nothing odd was seen."""
    named = [word for _, word in result.words if word]
    if not named:
        return (Span(text="Nothing looked at yet."),)
    left = len(result.words) - len(named)
    if left:
        so_far = f"{counted(len(named))} looked at so far {be(len(named))}"
        text = f"The {so_far} good; {counted(left)} to go."
        return (Span(text=text),)
    return (Span(text=all_good),)


def said(odd: Mapping[str, list[str]], verbs: Mapping[str, str]) -> str:
    """Who shows which word: ``2 is dark; 3 and 4 stay on``."""
    return "; ".join(f"{listed(labels)} {verbs.get(w, w)}" for w, labels in odd.items())


def state(finding: Finding, result: SeenResult) -> str:
    """The word itself."""
    return dict(result.words).get(finding.injector, "")


def because(finding: Finding, result: SeenResult, _unit: str) -> str:
    """The word is the reason."""
    return state(finding, result) or "not measured"


def working(result: SeenResult, _unit: str) -> Working:
    """Sheets of words have the word only."""
    return Working(
        injectors=tuple(
            (label, (Line(label="seen", figure=word),)) for label, word in result.words if word
        )
    )
