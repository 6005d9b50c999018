"""Which causes were found, which are only suspected, and whether they explain the complaint.

What was found is what a sheet shows; a share, however high, finds nothing.
"""

import math
from collections.abc import Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, replace
from typing import Final

from plumb.core.causes.beyond import STARTS, beyond
from plumb.core.causes.fault import FEED, INJECTOR, OFTEN, SOMETIMES, Fault
from plumb.core.causes.sighting import OWN_WORDS, Sighting
from plumb.core.causes.table import FAULTS
from plumb.core.diagnose.case import Case, Seen, Shared
from plumb.core.diagnose.sets import Weighed, as_told
from plumb.core.measure.fact import Fact
from plumb.core.measure.spoken import DESCRIBES

SUSPECTED: Final = 0.2
GONE: Final = "gone"
"""How a complaint stands that was asked for after the repair, word by word, and is there no more."""
POSSIBLE: Final = 0.02
"""From these shares on a cause that no sheet shows is suspected, or possible."""
RANK: Final = {"found": 0, "suspected": 1, "possible": 1, "cleared": 2}
"""In which order causes are told; those of one rank by their share."""
_COMMAND: Final = FAULTS["command"].code
_DEAD: Final = "no_response"
"""Who gives nothing may be dead by its own coil: which of both it is, a minute tells."""
_ALIKE: Final = "set_opens_alike"
_SET_BY_A_DIAL: Final = frozenset({"opens_early", "opens_late"})
_SPEAKS: Final = 1.5
"""So many times likelier with a fault, or without it, speaks for it or against it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Cause:
    """One cause: which fault, at which injector or feed (``""``: of the engine), and how it stands.

    ``state`` is found, suspected, possible or cleared; ``share`` how likely it is.  ``because`` is the
    fact that found it, ``told_by`` the id of its sheet, ``speaks_for`` and
    ``speaks_against`` what was seen, as (codes of facts, how many times likelier); ``sighted``: a person
    found it, no sheet.
    """

    fault: Fault
    place: str
    state: str
    share: float
    outside: bool
    because: str = ""
    told_by: str = ""
    speaks_for: tuple[tuple[str, float], ...] = ()
    speaks_against: tuple[tuple[str, float], ...] = ()
    sighted: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Diagnosis:
    """What the complaint is, whether it is explained and by what, every cause, what lies outside.

    ``explained`` is open, yes, partly, no, none, or after the repair gone; ``by_word`` are the causes found that bring each
    word about, ``outweighed`` the words that something else may as well bring about, ``doubted`` those
    whose cause rests on an instrument that nobody has proved, ``waiting`` those of injectors where something
    else comes first; ``beyond`` is where else to look for the words
    that nothing explains, ``fuel_is_there``: the rail held over the stop, and that is what they ask; ``outside`` are codes of faults that Plumb measures nothing of, the likeliest first.
    """

    words: tuple[str, ...]
    explained: str
    by_word: tuple[tuple[str, tuple[Cause, ...]], ...]
    causes: tuple[Cause, ...]
    outside: tuple[str, ...]
    outweighed: frozenset[str] = frozenset()
    doubted: frozenset[str] = frozenset()
    waiting: frozenset[str] = frozenset()
    beyond: str = ""
    fuel_is_there: bool = False

    def stands(self, word: str) -> str:
        """How one word stands: explained, open, or found but not sure.

        That is maybe (something else is as likely), doubted, or waits (something there comes first).
        """
        by = dict(self.by_word).get(word, ())
        if not by:
            return "open"
        if self.explained == "yes":
            return "explained"
        if word in self.doubted:
            return "doubted"
        if self.explained == "partly":
            return "explained"
        if word in self.outweighed:
            return "maybe"
        return "waits" if word in self.waiting else "explained"

    @property
    def found(self) -> tuple[Cause, ...]:
        """The causes that a sheet shows."""
        return tuple(c for c in self.causes if c.state == "found")


def causes_of(weighed: Weighed, conditions: Mapping[str, tuple[str, str]]) -> tuple[Cause, ...]:
    """Every cause that was found or may be there, the likeliest first.

    ``conditions`` are those of the verdict, by injector, each with its reason: what it says an injector
    is, it is.  Shares are those that can be told (:func:`plumb.core.diagnose.sets.as_told`).
    """
    weighed = as_told(weighed)
    case, seen = weighed.case, weighed.case.seen()
    own: dict[str, list[Fact]] = {}
    for fact in case.facts:
        own.setdefault(fact.injector, []).append(fact)
    made = [c for s in weighed.shared if (c := _of_shared(weighed, s, seen, own))]
    made += (c for f in weighed.states if (c := _somewhere(weighed, f, own.get("", ()))))
    of_engine = [s for s in seen if not s.place]
    made += _in_own_words(weighed)
    for k, label in enumerate(case.injectors):
        facts = own.get(label, [])
        of_feed = any(_of_feed(f) for f in facts)
        mine = [*(s for s in seen if s.place == label), *of_engine]
        condition, because = conditions.get(label, ("", ""))
        for n, fault in enumerate(weighed.states, 1):
            by: tuple[Fact, ...] = ()
            sightings = _sightings(case, fault, frozenset({label}))
            if fault.of != INJECTOR:
                # A lamp that is dark together with all on its feed is the feed's.
                by = () if of_feed and fault.code == _COMMAND else _found(fault, facts)
            elif condition == fault.code:
                by = (_speaking_most(fault, facts, mine, label)._replace(text=because),)
            share = float(weighed.places[k, n])
            if by or sightings or share >= POSSIBLE:
                cause = _cause(case, fault, label, share, by, _speaking(fault, mine))
                made.append(_by_hand(cause, sightings))
    return tuple(sorted(made, key=lambda c: (RANK[c.state], -c.share)))


def _of_shared(
    weighed: Weighed, shared: Shared, seen: Sequence[Seen], own: Mapping[str, Sequence[Fact]]
) -> Cause | None:
    """A cause of the engine or of a feed; None where nothing speaks of it and it is not likely."""
    case, fault, share = weighed.case, shared.fault, weighed.share_of(shared)
    places = shared.places
    if fault.code == OWN_WORDS and any(s.own for s in case.sightings):
        return None
    sightings = _sightings(case, fault, places)
    by = _found(fault, [f for place in places or ("",) for f in own.get(place, ())])
    speaks = _speaking(fault, [s for s in seen if places is None or s.place in {"", *places}])
    told = by or sightings or any(x[1] < 1.0 / _SPEAKS for x in speaks)
    if share < POSSIBLE and not told:
        return None
    return _by_hand(_cause(case, fault, shared.name, share, by, speaks), sightings)


def _sightings(case: Case, fault: Fault, places: frozenset[str] | None) -> tuple[Sighting, ...]:
    """What persons found of a fault, at these places (None: on the engine); words of one's own apart."""
    return tuple(
        s
        for s in case.sightings
        if s.fault == fault.code and not s.own and s.place in (places or {""})
    )


def _by_hand(cause: Cause, sightings: Sequence[Sighting]) -> Cause:
    """A cause that persons found as well, or alone: with all that they say it explains."""
    if not sightings:
        return cause
    fault = cause.fault
    for sighting in sightings:
        fault = sighting.over(fault)
    return replace(
        cause, fault=fault, state="found",
        because=sightings[0].told(), told_by="", sighted=True,
    )  # fmt: skip


def _in_own_words(weighed: Weighed) -> list[Cause]:
    """What a person found that the table has no name for, each by itself."""
    case = weighed.case
    shares = {s.fault.code: weighed.share_of(s) for s in weighed.shared}
    return [
        Cause(
            fault=s.as_fault(), place=s.place, state="found", share=shares.get(s.fault, 1.0),
            outside=False, because=s.how or "found by a person", sighted=True,
        )
        for s in case.sightings
        if s.own
    ]  # fmt: skip


def _somewhere(weighed: Weighed, fault: Fault, facts: Sequence[Fact]) -> Cause | None:
    """A cause at one of the places, where what shows it does not say at which."""
    by = tuple(f for f in facts if f.code in fault.found_somewhere)[:1]
    if not by:
        return None
    at = weighed.places[:, weighed.states.index(fault) + 1]
    return _cause(weighed.case, fault, "", float(1.0 - (1.0 - at).prod()), by, [])


def _speaking(fault: Fault, seen: Sequence[Seen]) -> list[tuple[str, float]]:
    """What was seen that speaks for a fault or against it, the strongest first."""
    mine = [s for s in seen if s.facts and fault.code in s.table.rows]
    speaks = [("+".join(s.facts), s.speaks_for(fault.code)) for s in mine]
    return sorted(speaks, key=lambda x: -abs(math.log(x[1])))


def _speaking_most(fault: Fault, facts: Sequence[Fact], seen: Sequence[Seen], label: str) -> Fact:
    """Of what was seen at an injector, what speaks most for a fault."""
    mine = [s for s in seen if s.place == label and fault.code in s.table.rows]
    order = sorted(mine, key=lambda s: -s.speaks_for(fault.code))
    known = {f.code: f for f in facts if f.text}
    return next((known[c] for s in order for c in s.facts if c in known), Fact("", label, ""))


def _of_feed(fact: Fact) -> bool:
    """A lamp that is dark together with all on its feed is the feed's."""
    return any(fact.code in group for f in FAULTS.values() if f.of == FEED for group in f.found_by)


def _found(fault: Fault, facts: Sequence[Fact]) -> tuple[Fact, ...]:
    """The facts that show it, one of each group that is needed; none where one is missing."""
    by = tuple(next((f for f in facts if f.code in g), None) for g in fault.found_by)
    return tuple(f for f in by if f) if by and all(by) else ()


def _cause(
    case: Case,
    fault: Fault,
    place: str,
    share: float,
    by: tuple[Fact, ...],
    speaks: Sequence[tuple[str, float]],
) -> Cause:
    """How a cause stands: found by a fact, else by its share."""
    if by:
        state = "found"
    elif share >= SUSPECTED:
        state = "suspected"
    else:
        state = "possible" if share >= POSSIBLE else "cleared"
    return Cause(
        fault=fault, place=place, state=state, share=share,
        outside=case.fuel_system in fault.outside,
        because=by[0].text if by else "", told_by=by[0].sheet if by else "",
        speaks_for=tuple(x for x in speaks if x[1] > _SPEAKS),
        speaks_against=tuple(x for x in speaks if x[1] < 1.0 / _SPEAKS),
    )  # fmt: skip


def diagnosis_of(
    weighed: Weighed,
    conditions: Mapping[str, tuple[str, str]],
    first: AbstractSet[str] = frozenset(),
) -> Diagnosis:
    """The diagnosis as it stands while something is left to measure; ``first``: where something else comes first."""
    spoken = _spoken_of(weighed) - DESCRIBES
    words = tuple(w for w in weighed.case.words or () if w in spoken)
    causes = causes_of(weighed, conditions)
    found = [c for c in causes if c.state == "found"]
    # A set that is off as one, by a dial that nobody has proved, explains no complaint.
    alike = any(f.code == _ALIKE for f in weighed.case.facts)
    by_word = tuple((w, tuple(c for c in found if w in c.fault.brings)) for w in words)
    doubted = frozenset(
        w for w, by in by_word if alike and all(c.fault.code in _SET_BY_A_DIAL for c in by)
    )
    outweighed = frozenset(w for w, by in by_word if not _outweighs(weighed, w, by))
    waiting = frozenset(
        w
        for w, by in by_word
        if by and all(c.fault.of == INJECTOR and c.place in first and not c.sighted for c in by)
    )
    unexplained = tuple(w for w, by in by_word if w in outweighed or not _sure(w, by))
    return Diagnosis(
        words=words,
        explained=_explained(
            by_word,
            any_found=bool(found),
            more_to_do=True,
            open_=outweighed | doubted | waiting,
        ),
        by_word=by_word,
        causes=causes,
        outside=_outside(weighed, unexplained or words),
        outweighed=outweighed,
        doubted=doubted,
        waiting=waiting,
        beyond=beyond(unexplained, weighed.case.fuel_system),
        fuel_is_there=_fuel_is_there(weighed.case, unexplained),
    )


def _fuel_is_there(case: Case, words: Sequence[str]) -> bool:
    """Whether a rail that held its pressure answers all that is still asked."""
    codes = {f.code for f in case.facts}
    good = "hold_good" in codes and not codes & {"supply_low", "no_supply"}
    return good and bool(words) and set(words) <= STARTS


def at_the_end(diagnosis: Diagnosis) -> Diagnosis:
    """The same once nothing is left to measure: what is open then is not explained."""
    explained = _explained(
        diagnosis.by_word, any_found=bool(diagnosis.found), more_to_do=False,
        open_=diagnosis.outweighed, doubted=diagnosis.doubted,
    )  # fmt: skip
    return replace(diagnosis, explained=explained)


def _spoken_of(weighed: Weighed) -> frozenset[str]:
    """Every word that a fault of this engine brings about."""
    faults = (*weighed.states, *(s.fault for s in weighed.shared))
    return frozenset(word for f in faults for word in f.brings)


def _sure(word: str, by: Sequence[Cause]) -> bool:
    return any(c.fault.brings[word] >= OFTEN for c in by)


def _outweighs(weighed: Weighed, word: str, by: Sequence[Cause]) -> bool:
    """Whether what was found brings a word about more likely than everything else together.

    An injector that was found is not outweighed by what else may be wrong with that same one.  What a
    person found, and says that it does, needs no share.
    """
    if any(c.sighted and c.fault.brings[word] >= OFTEN for c in by):
        return True
    mine = sum(_likely(weighed, c) * c.fault.brings[word] for c in by)
    them = {c.place for c in by if c.fault.of == INJECTOR and c.fault.code != _DEAD}
    told = {(c.place, c.fault.code) for c in by}
    others = sum(weighed.share_of(s) * s.fault.brings.get(word, 0.0) for s in weighed.shared
                 if (s.name, s.fault.code) not in told)  # fmt: skip
    for n, fault in enumerate(weighed.states, 1):
        for k, label in enumerate(weighed.case.injectors):
            same = fault.of == INJECTOR and label in them
            if not same and (label, fault.code) not in told:
                others += float(weighed.places[k, n]) * fault.brings.get(word, 0.0)
    return mine > others


def _likely(weighed: Weighed, cause: Cause) -> float:
    """How likely a cause is by the best odds there are; its own share is what can be told."""
    for shared in weighed.shared:
        if (shared.fault.code, shared.name) == (cause.fault.code, cause.place):
            return weighed.share_of(shared)
    if cause.place in weighed.case.injectors:
        return weighed.share_at(cause.place, cause.fault.code)
    return cause.share


def _explained(
    by_word: Sequence[tuple[str, tuple[Cause, ...]]],
    *,
    any_found: bool,
    more_to_do: bool,
    open_: AbstractSet[str] = frozenset(),
    doubted: AbstractSet[str] = frozenset(),
) -> str:
    """How the complaint stands.

    ``open_`` are words that something else may as well bring about: open while there is more to do; ``doubted``
    those whose cause rests on an instrument that nobody has proved.
    """
    if not by_word and not any_found:
        return "open" if more_to_do else "none"
    found = not doubted and all(
        _sure(w, by) or (_alone(w, by) and w not in open_) for w, by in by_word
    )
    if found and not (more_to_do and open_):
        return "yes"
    if more_to_do:
        return "open"
    some = any(c.fault.brings[word] >= SOMETIMES for word, by in by_word for c in by)
    return "partly" if some else "no"


def _alone(word: str, by: Sequence[Cause]) -> bool:
    """Found, and it brings the word about now and then: with nothing else that is as likely it is the reason."""
    return any(c.fault.brings[word] >= SOMETIMES for c in by)


def _outside(weighed: Weighed, words: Sequence[str]) -> tuple[str, ...]:
    """What lies outside and could bring such a word about, of any cylinder, the likeliest first."""
    weighed = as_told(weighed)
    shares = {s.fault.code: weighed.share_of(s) for s in weighed.shared if s.places is None}
    shares |= {f.code: float(weighed.places[:, n].sum()) for n, f in enumerate(weighed.states, 1)}
    mine = [
        code
        for code, share in shares.items()
        if share >= POSSIBLE
        and weighed.case.fuel_system in FAULTS[code].outside
        and any(w in FAULTS[code].brings for w in words)
    ]
    return tuple(sorted(mine, key=lambda code: -shares[code]))
