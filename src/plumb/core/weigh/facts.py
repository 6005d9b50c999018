"""From the results of all sheets to facts: short codes that the verdict's table is written in.

A fact belongs to one injector, or to the whole engine (injector empty).  Each carries the sentence
that a person reads, and the sheet it comes from.  Of several sheets of one kind the newest with
readings speaks.  What follows from several sheets, or from who shares what, is told here.
"""

from collections.abc import Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet
from typing import Final

from plumb.core.causes.codes import code_words, of_cylinders, read_code
from plumb.core.compare.alone import alone_without_reference
from plumb.core.measure.decision import State
from plumb.core.measure.fact import Fact, Shares
from plumb.core.procedures import Result, kind_of

MAKES: Final = {
    "mechanical_nozzles": "the engine has mechanical nozzles",
    "other_half_leaks": "the set is split, and the other half is wet at its tips",
    "feed_dead": "all on one feed or bank are dead, and the others are not",
    "feed_weak": "all on one feed or bank are weak, and the others are not",
    "partner_sound": "a partner on the same feed is sound",
    "dragged": "a coil far too low shares its feed or bank",
    "alone": "the engine's only injector was read, and nothing says what it should give",
    "held_by_nobody": "it was worked on, and read with nothing beside it that stayed as it was",
    "code_of_its_own": "a fault code names its cylinder",
    "never_read": "no sheet has read it",
    "contradicted": "two procedures contradict each other",
}
"""Facts that no single sheet makes, and when."""


def newest(sheets: Sequence[tuple[str, Result]]) -> dict[str, tuple[str, Result]]:
    """The newest sheet with readings of each kind, by the name under which it speaks."""
    return {
        kind_of(result).speaks_as(result): (key, result) for key, result in sheets if result.begun
    }


def still_telling(sheets: Sequence[tuple[str, Result]]) -> tuple[tuple[str, Result], ...]:
    """The sheets without those that were taken under a fault which has been put right since."""
    return tuple(x for n, x in enumerate(sheets) if not _spoilt(n, sheets))


def _spoilt(at: int, sheets: Sequence[tuple[str, Result]]) -> bool:
    """Whether the sheet nearest to it that can tell showed such a fault, and the newest no more does."""
    by = kind_of(sheets[at][1]).spoilt_by
    if not by:
        return False
    shown = [
        (n, any(f.code in by for f in kind_of(r).facts(key, r)))
        for n, (key, r) in enumerate(sheets)
        if r.begun and by & kind_of(r).makes.keys()
    ]
    if not shown or shown[-1][1]:
        return False
    before = [bad for n, bad in shown if n < at]
    return before[-1] if before else shown[0][1]


def heard(sheets: Sequence[tuple[str, Result]]) -> dict[tuple[str, str], str]:
    """Which sheet speaks for an injector, by (the name its kind speaks under, injector).

    It is the newest on which it was read itself: who repeats one injector has not read the others.  Where a
    set was split, a later sheet that says which half is right speaks for both.
    """
    on: dict[tuple[str, str], str] = {}
    split: set[tuple[str, str]] = set()
    for key, result in sheets:
        name = kind_of(result).speaks_as(result)
        for f in result.findings:
            at = (name, f.injector)
            told_now = at in split and f.state not in {State.SPLIT, State.NOT_JUDGED}
            if f.injector and (f.read or (f.carried and told_now)):
                on[at] = key
                (split.add if f.state is State.SPLIT else split.discard)(at)
    return on


def facts_of(
    sheets: Sequence[tuple[str, Result]],
    shares: Shares,
    fuel_system: str = "",
    gone: AbstractSet[tuple[str, str]] = frozenset(),
) -> tuple[Fact, ...]:
    """Every fact of a job, sheet by sheet, then those that follow from several or from the engine.

    Of the engine the newest sheet of a kind speaks, of an injector the newest that read it; what a
    repair has made out of date (``gone``, as sheet and injector) is told no more.
    """
    speaking = {key for key, _ in newest(sheets).values()}
    on = heard(sheets)
    telling = speaking | set(on.values())
    made: list[Fact] = []
    for key, result in sheets:
        if key in telling:
            name = kind_of(result).speaks_as(result)
            made += (
                fact
                for fact in kind_of(result).facts(key, result)
                if (on.get((name, fact.injector), key) == key if fact.injector else key in speaking)
                and (key, fact.injector) not in gone
            )
            made += (
                Fact(code="held_by_nobody", injector=f.injector, sheet=key)
                for f in result.findings
                if f.renewed and f.passes and f.state is State.NOT_JUDGED
            )
        if key in speaking and kind_of(result).compares:
            alone = alone_without_reference(result.findings)
            made += (Fact(code="alone", injector=label, sheet=key) for label in alone)
    made += _halves(made)
    made += _all_dry(made, sheets)
    made += _shared(made, shares)
    if fuel_system == "mechanical_diesel" and any(f.weighs for f in made):
        made.append(Fact(code="mechanical_nozzles", injector="", sheet=""))
    return tuple(made)


def of_codes(codes: Sequence[str], cylinders: Mapping[str, int]) -> Iterator[Fact]:
    """A fact for each injector whose cylinder a code names."""
    at = of_cylinders(cylinders)
    for code in codes:
        read = read_code(code)
        if read is not None and read.cylinder in at:
            yield Fact(
                code="code_of_its_own", injector=at[read.cylinder], sheet="",
                text=f"{code}: {code_words(code)}", weighs=False,
            )  # fmt: skip


WET: Final = frozenset({"tip_weeps", "tip_drips", "tip_pours"})


def _halves(facts: Sequence[Fact]) -> Iterator[Fact]:
    """A split set whose one half is wet at its tips while the other stays dry: the dry one holds."""
    halves = [f for f in facts if f.code == "drop_half"]
    wet = {f.injector for f in facts if f.code in WET}
    dry = {f.injector for f in facts if f.code == "tip_dry"}
    for camp in dict.fromkeys(f.camp for f in halves):
        mine = [f for f in halves if f.camp == camp]
        others = {f.injector for f in halves if f.camp != camp}
        if {f.injector for f in mine} <= dry and others <= wet:
            for half in mine:
                yield Fact(
                    code="other_half_leaks", injector=half.injector, sheet=half.sheet,
                    text="the other half of the set leaks at its tips",
                )  # fmt: skip


def _all_dry(facts: Sequence[Fact], sheets: Sequence[tuple[str, Result]]) -> Iterator[Fact]:
    """Every tip stays dry, though no single sheet looked at all of them."""
    told = {f.code: f for f in facts if not f.injector}
    if "tips_looked_at" in told and "all_tips_dry" not in told:
        key = told["tips_looked_at"].sheet
        labels = {f.injector for k, result in sheets if k == key for f in result.findings}
        if labels == {f.injector for f in facts if f.code == "tip_dry"}:
            yield Fact(code="all_tips_dry", injector="", sheet=key)


DEAD: Final = frozenset({"drop_none", "command_dark"})
WEAK: Final = frozenset({"drop_low", "running_low", "command_weak"})
SOUND: Final = frozenset({"drop_in_plumb", "running_in_plumb"})


READS: Final = WET | DEAD | WEAK | SOUND | {"tip_dry", "drop_half", "drop_split", "coil_short"}
"""Facts that others follow from."""


def _shared(facts: Sequence[Fact], shares: Shares) -> Iterator[Fact]:
    """Partners that are bad together, partners that are sound, and a coil that drags others."""
    codes: dict[str, set[str]] = {}
    for fact in facts:
        if fact.injector:
            codes.setdefault(fact.injector, set()).add(fact.code)
    for name, groups in (("feed", shares.feeds), ("bank", shares.banks)):
        for label in codes:
            group = groups.get(label, "")
            partners = [p for p in codes if p != label and group and groups.get(p) == group]
            if partners:
                yield from _alike(label, partners, codes, (name, group))


def _alike(
    label: str, partners: list[str], codes: dict[str, set[str]], shared: tuple[str, str]
) -> Iterator[Fact]:
    name, group = shared
    others = [c for c in codes if c != label and c not in partners]
    mine = codes[label]
    for word, bad in (("dead", DEAD), ("weak", WEAK)):
        together = mine & bad and all(codes[p] & bad for p in partners)
        apart = others and not any(codes[o] & bad for o in others)
        # A bank is half an engine: it shares a driver only where the feed says nothing else.
        if together and apart:
            yield Fact(
                code=f"feed_{word}", injector=label, sheet="",
                text=f"all on {name} {group} read alike: what they share comes first",
            )  # fmt: skip
    if name == "feed" and any(codes[p] & SOUND for p in partners):
        yield Fact(code="partner_sound", injector=label, sheet="", text="its partner is sound")
    low = [p for p in partners if "coil_short" in codes[p]]
    if low and "coil_short" not in mine and mine & (DEAD | WEAK | {"drop_split"}):
        yield Fact(
            code="dragged", injector=label, sheet="",
            text=f"the coil of {', '.join(low)} is far too low and can pull {name} {group} down",
        )  # fmt: skip
