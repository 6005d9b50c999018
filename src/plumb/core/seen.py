"""Sheets on which one word an injector is noted: command at the plug, and the tip under pressure.

>>> sheet = SeenSheet(kind=COMMAND, injectors=("1", "2"), readings=(Seen(injector="1", word="dark"),))
>>> [f.state.value for f in analyse_seen(sheet).findings]
['no_response', 'not_judged']
"""

from dataclasses import dataclass
from typing import Final

from plumb.core.decision import State
from plumb.core.finding import Finding
from plumb.core.readings import Seen

COMMAND: Final = "command"
TIP_LEAK: Final = "tip_leak"

WORDS: Final[dict[str, dict[str, State]]] = {
    COMMAND: {
        "blinks": State.IN_PLUMB,
        "weak": State.LOW,
        "dark": State.NO_RESPONSE,
        "steady": State.HIGH,
    },
    TIP_LEAK: {
        "dry": State.IN_PLUMB,
        "weeps": State.HIGH,
        "drips": State.HIGH,
        "pours": State.HIGH,
    },
}
"""The words of each sheet and what an injector reads as with them; common practice, no source."""


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
    def passed(self) -> bool:
        """Every injector was looked at and nothing was seen."""
        return bool(self.findings) and all(f.state is State.IN_PLUMB for f in self.findings)


def analyse_seen(sheet: SeenSheet) -> SeenResult:
    """What was seen at each injector; an injector without a word is not judged."""
    words = {r.injector: r.word for r in sheet.readings}
    return SeenResult(
        sheet=sheet,
        words=tuple((label, words.get(label, "")) for label in sheet.injectors),
        findings=tuple(
            Finding(
                injector=label,
                quantity="seen",
                state=WORDS[sheet.kind].get(words.get(label, ""), State.NOT_JUDGED),
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
