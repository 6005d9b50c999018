"""Every word that Plumb can say on a fuel system, gathered from the tables it is said from.

What a fuel system's sheets cannot tell is not said there: a row of the verdict is listed where the
facts it needs can be made, a cause where its fact can.

>>> "no command" in glossary("mechanical_diesel").conditions
False
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from plumb.core.procedures import AnyKind, route
from plumb.core.procedures.kind import Setting, Told
from plumb.core.weigh import facts
from plumb.core.weigh.row import Needs, VerdictRow
from plumb.core.weigh.suspicions import CAUSES, CONTRADICTIONS, SUSPICIONS
from plumb.core.weigh.table import TABLE
from plumb.core.weigh.words_next import REASONS
from plumb.core.weigh.words_verdict import ACTION_WORDS, CONDITION_WORDS, care

_FOLLOWS: Final[Mapping[str, Needs]] = {
    "other_half_leaks": (frozenset({"drop_half"}), facts.WET),
    "feed_dead": (facts.DEAD,),
    "feed_weak": (facts.WEAK,),
    "partner_sound": (facts.SOUND,),
    "dragged": (frozenset({"coil_short"}), facts.DEAD | facts.WEAK | {"drop_split"}),
    "contradicted": (frozenset().union(*(g for c in CONTRADICTIONS for g in c.needs)),),
}
"""What must be told before a fact that follows from others can be."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetWords:
    """What is told on one kind of sheet: on an engine that runs, and on one that does not start."""

    kind: AnyKind
    runs: Told
    stalled: Told
    possible_stalled: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Glossary:
    """Every word of one fuel system: its sheets, the rows of its verdict, what comes first."""

    fuel_system: str
    sheets: tuple[SheetWords, ...]
    rows: tuple[VerdictRow, ...]
    causes: tuple[str, ...]
    doubts: tuple[str, ...]
    contradictions: tuple[str, ...]
    reasons: tuple[str, ...]

    @property
    def conditions(self) -> tuple[str, ...]:
        """What an injector can be, in words."""
        return tuple(dict.fromkeys(CONDITION_WORDS[r.condition] for r in self.rows))

    @property
    def actions(self) -> tuple[str, ...]:
        """What can be done with it, in words."""
        return tuple(dict.fromkeys(ACTION_WORDS[r.action] for r in self.rows))

    def all_words(self) -> tuple[str, ...]:
        """Everything, one text after the other."""
        told = (t for s in self.sheets for t in (s.runs, s.stalled))
        return (
            *(s.kind.title for s in self.sheets),
            *(text for t in told for text in (t.how, t.measure, t.care)),
            *(word for s in self.sheets for word in s.kind.says_on(self.fuel_system)),
            care(self.fuel_system), *self.conditions, *self.actions, *(r.because for r in self.rows),
            *(r.alone for r in self.rows if r.alone),
            *self.causes, *self.doubts, *self.contradictions, *self.reasons,
        )  # fmt: skip


def can_be_told(fuel_system: str) -> frozenset[str]:
    """The facts that a fuel system's sheets can make, and those that follow from them."""
    made = frozenset(code for kind in route(fuel_system) for code in kind.makes_on(fuel_system))
    follow = {code for code, needs in _FOLLOWS.items() if all(group & made for group in needs)}
    if fuel_system == "mechanical_diesel":
        follow.add("mechanical_nozzles")
    follow |= {"alone", "never_read", "code_of_its_own", "held_by_nobody"}
    return made | follow


def glossary(fuel_system: str) -> Glossary:
    """Every word of that fuel system, in working order."""
    told = can_be_told(fuel_system)
    rows = tuple(r for r in TABLE if all(group & told for group in r.needs))
    doubts = dict.fromkeys(code for r in rows for code in r.not_ruled_out)
    kinds = route(fuel_system)
    firsts = {k.places[fuel_system].first for k in kinds} | {
        reason for k in kinds for _, reason in k.behind
    }
    return Glossary(
        fuel_system=fuel_system,
        sheets=tuple(
            SheetWords(
                kind=k,
                runs=k.told(Setting(fuel_system=fuel_system)),
                stalled=k.told(stalled := Setting(fuel_system=fuel_system, starts=False)),
                possible_stalled=k.can_be_done(stalled),
            )
            for k in kinds
        ),
        rows=rows,
        causes=tuple(words for code, words in CAUSES.items() if code in told),
        doubts=tuple(
            SUSPICIONS[code].words for code in doubts if fuel_system in SUSPICIONS[code].on
        ),
        contradictions=tuple(
            c.text for c in CONTRADICTIONS if all(group & told for group in c.needs)
        ),
        reasons=tuple(
            f"{title}. {text}" for code, (title, text) in REASONS.items() if code in firsts and text
        ),
    )
