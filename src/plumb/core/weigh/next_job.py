"""The next step of a whole job: what can be expected to change most actions for each minute.

Order: what is cheap and outside (walk-round, supply); what must be put right before more can be
learnt; what the sheet on the bench still asks for; injectors that were left out; one of two sheets
that contradict each other; then, of all that this engine can do as it stands, the procedure that is
worth most for each minute.  Two others come with it.  None: nothing left would change an action.
"""

from collections.abc import Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, replace
from typing import Final

from plumb.core.causes.fault import INJECTOR
from plumb.core.causes.table import FAULTS
from plumb.core.diagnose.explain import Cause
from plumb.core.diagnose.foretell import Foretold, Worth, foretold
from plumb.core.diagnose.sets import Weighed, as_told
from plumb.core.measure.decision import State
from plumb.core.measure.spoken import NO_START
from plumb.core.measure.step import PUT_RIGHT, REPAIR, NextStep
from plumb.core.measure.text import listed
from plumb.core.procedures import AnyKind, Result, kind_of
from plumb.core.procedures.kind import Setting
from plumb.core.weigh.facts import newest
from plumb.core.weigh.suspicions import CLEARED_BY_SHEET
from plumb.core.weigh.verdict import DOES_NOTHING, Verdict
from plumb.core.weigh.words_faults import named

_SETTLED: Final = frozenset(
    {"sound", "coil_open", "coil_shorted", "no_command", "stuck_open", "opens_early", "opens_late"}
)
"""Conditions that no further sheet is asked for."""
READS: Final = frozenset({"answered_late"})
"""Facts that the order of the work hangs on, beside those that the kinds of sheet name."""
_BY_THE_METER: Final = ("coil_open", "check_first")
_BESIDE: Final = frozenset({"neighbour", "beside_new"})
"""Reasons to read one of which everything is known: another is held against it."""
_MOST_SHEETS: Final = 2
"""A procedure that contradicts another is done again once."""
_COLD_WORTH: Final = 1.25
"""Cold work is worth so much more: an engine is cold only once; common practice, no source."""
_A_DOUBT: Final = 0.15
"""Expected changes of actions for each doubt that a procedure clears before somebody is condemned."""
_SAME_AGAIN: Final = 0.25
"""What a procedure is still worth where another has measured the same thing."""
_LEAST: Final = 0.02
_LEAST_A_MINUTE: Final = 0.0015
_LEAST_WHEN_EXPLAINED: Final = 0.02
"""Less than this changes no action; in all, for each minute, and for each minute once the complaint is
explained.  Chosen on the bench of hidden engines (docs/methods.md)."""
_BEFORE_GIVING_UP: Final = 0.3
_SHORT_MIN: Final = 6.0
"""Before "nothing explains it" is said, what takes no longer is done for so much of that; chosen on the same bench."""
_OTHERS: Final = 2
_TOLD: Final = 4
_TWICE: Final = 2
"""One that sticks every other time is missed by a single further pass as often as not."""
_WORTHY: Final = 0.3
_OWN: Final = ("coil", "command")
"""What is in hand on one that is dead, a minute each."""
_NO_QUESTION: Final = frozenset({"tester_weak"})
"""Who was driven by too few volts is driven again first."""
AGAIN_BY: Final = "passes_agree"
"""What tables say that tell of further passes."""


@dataclass(frozen=True, slots=True, kw_only=True)
class JobSoFar:
    """What the next step is chosen from.

    ``codes`` are all facts of the job, ``own`` those of each injector, ``route`` the procedures
    that this engine has, as it stands, and nobody set aside, in working order.  ``causes`` are what
    was found, ``complained`` says that there is a complaint, ``explained`` that this explains every word of it.
    """

    injectors: tuple[str, ...]
    results: Sequence[tuple[str, Result]]
    verdicts: Mapping[str, Verdict]
    codes: AbstractSet[str]
    own: Mapping[str, AbstractSet[str]]
    route: tuple[AnyKind, ...]
    setting: Setting
    weighed: Weighed
    causes: tuple[Cause, ...] = ()
    complained: bool = False
    explained: bool = False

    def there(self) -> dict[str, Result]:
        """The result that speaks, by the name under which it does."""
        return {name: result for name, (_, result) in newest(list(self.results)).items()}


def next_in_job(job: JobSoFar) -> tuple[NextStep, ...]:
    """The next step and up to two others; empty when nothing that is left would change an action."""
    there = job.there()
    first = (
        _repair(job)
        or _to_begin(job, there)
        or _own_first(job, there)
        or _asked(job, there)
        or _left_out(job, there)
        or _contradicted(job)
    )
    if first is not None and first.repairs and FAULTS[first.cause].stops_all:
        return (first,)
    if _found_by_hand(job):
        others = list(_put_right(job)) if first is None else []
    else:
        others = _worth_doing(job, there)
    steps = [first, *others] if first else others
    kinds = dict.fromkeys(s.kind for s in steps)
    return tuple(next(s for s in steps if s.kind == kind) for kind in kinds)[: _OTHERS + 1]


def _repair(job: JobSoFar) -> NextStep | None:
    """What must be put right before more can be learnt, and the sheet that is then repeated."""
    kinds = ((key, result.kind) for key, result in job.results)
    for cause in job.causes:
        if cause.state == "found" and cause.fault.put_right:
            return NextStep(
                kind=REPAIR, injectors=(), passes=0, minutes=0.0, reason=REPAIR,
                cause=cause.fault.code, doubt=dict(kinds).get(cause.told_by, ""),
            )  # fmt: skip
    return None


def _settled(job: JobSoFar, label: str) -> bool:
    """Whether no further sheet is asked for; nothing is where nothing was told."""
    verdict = job.verdicts.get(label)
    return verdict is not None and verdict.condition in _SETTLED


_ELSEWHERE: Final = frozenset({"not_the_injector", "off_alike"})
"""What is at fault is not told by reading the injector again."""


def _left_alone(job: JobSoFar, label: str) -> bool:
    """Whether reading it again changes nothing: it is settled, or what it shares comes first."""
    verdict = job.verdicts.get(label)
    elsewhere = verdict is not None and verdict.condition in _ELSEWHERE
    return elsewhere or _settled(job, label)


def _judged(job: JobSoFar, label: str) -> bool:
    """Whether it is known what to do with an injector that is not sound."""
    verdict = job.verdicts.get(label)
    return verdict is not None and verdict.action not in DOES_NOTHING | {"check_first"}


def _own_first(job: JobSoFar, there: Mapping[str, Result]) -> NextStep | None:
    """The short way: one is dead beside one that answers, so its own coil and command come before the rest of the set."""
    for kind in job.route:
        if not kind.compares or kind.code not in there:
            continue
        findings = there[kind.code].findings
        dead = [f.injector for f in findings if f.state is State.NO_RESPONSE]
        answered = [f.injector for f in findings if f.value is not None]
        unread = any(not f.read for f in findings)
        if len(dead) == 1 and answered and unread and not job.codes & _NO_QUESTION:
            return _of_its_own(job, there, dead[0], answered)
    return None


def _of_its_own(
    job: JobSoFar, there: Mapping[str, Result], dead: str, answered: Sequence[str]
) -> NextStep | None:
    """Its coil beside that of the nearest that answered, then its command; None where both are read."""
    order = job.injectors
    near = min(answered, key=lambda x: abs(order.index(x) - order.index(dead)))
    for doubt in _OWN:
        kind = next((k for k in job.route if doubt in k.clears and not k.of_engine), None)
        if kind is None or _done(kind, dead, there):
            continue
        whom = (dead, near) if kind.effort.beside else (dead,)
        return kind.step(tuple(x for x in order if x in whom), "doubt", doubt=doubt)
    return None


def _asked(job: JobSoFar, there: Mapping[str, Result]) -> NextStep | None:
    """What a begun sheet still asks for, those first that compare the injectors."""
    done = [k for k in job.route if k.code in there]
    for kind in sorted(done, key=lambda k: not k.compares):
        step = kind.asks(kind, there[kind.code], job.codes)
        if step is None:
            continue
        labels = step.injectors
        if step.reason in _BESIDE or not (labels and all(_left_alone(job, x) for x in labels)):
            return step
    return None


def _found_by_hand(job: JobSoFar) -> bool:
    """Whether a person has found what explains all of it: then nothing has to be looked for."""
    return job.explained and any(c.sighted for c in job.causes)


def _put_right(job: JobSoFar) -> Iterator[NextStep]:
    """What a person found that is no injector's: of an injector its verdict says what is to be done."""
    found = [c for c in job.causes if c.sighted and c.fault.of != INJECTOR]
    if found:
        words = listed([named(c.fault, (c.place,) if c.place else ()) for c in found])
        yield NextStep(
            kind=PUT_RIGHT, injectors=(), passes=0, minutes=0.0, reason=PUT_RIGHT, doubt=words
        )


def _to_begin(job: JobSoFar, there: Mapping[str, Result]) -> NextStep | None:
    """Before anything else is measured: what is seen from outside, then the pump.

    Nothing has to be looked for where a person has found what explains it.
    """
    if _found_by_hand(job) or any(k.compares and k.code in there for k in job.route):
        return None
    for kind in job.route:
        place = kind.places[job.setting.fuel_system]
        stalled = place.when == NO_START and not job.setting.starts
        due = not place.when or stalled or place.when in job.codes
        if place.first and kind.code not in there and due:
            return kind.step(() if kind.of_engine else job.injectors, place.first)
    return None


def _left_out(job: JobSoFar, there: Mapping[str, Result]) -> NextStep | None:
    """Injectors that no sheet has read where others were compared: those of another set, say."""
    read = {f.injector for _, r in job.results for f in r.findings if f.read}
    missing = tuple(i for i in job.injectors if i not in read)
    kind = next((k for k in job.route if k.compares and k.code in there), None)
    return kind.step(missing, "left_out") if missing and kind else None


def _contradicted(job: JobSoFar) -> NextStep | None:
    """One of two sheets that contradict each other, done again once."""
    by_code = {k.code: k for k in job.route}
    times: dict[str, int] = {}
    for _, result in job.results:
        times[result.kind] = times.get(result.kind, 0) + result.begun
    for label in job.injectors:
        verdict = job.verdicts.get(label)
        for against in verdict.contradictions if verdict else ():
            kind = by_code.get(against.repeat)
            if kind is not None and times.get(kind.code, 0) < _MOST_SHEETS:
                return kind.step(_wanted(kind, job, (label,)), "contradiction", doubt=against.text)
    return None


def _wanted(kind: AnyKind, job: JobSoFar, labels: tuple[str, ...]) -> tuple[str, ...]:
    """Whom a procedure is done on: nobody by name, everybody, or those that are in doubt."""
    if kind.of_engine:
        return ()
    return job.injectors if kind.effort.whole_set else labels


def _worth_doing(job: JobSoFar, there: Mapping[str, Result]) -> list[NextStep]:
    """The procedures that are worth their minutes, the best first; before giving up, the short ones that might tell."""
    steps = _worth(job, there, 1.0)
    if steps or job.explained or not job.complained:
        return steps
    return [s for s in _worth(job, there, _BEFORE_GIVING_UP) if s.minutes <= _SHORT_MIN]


def _worth(job: JobSoFar, there: Mapping[str, Result], share: float) -> list[NextStep]:
    """The procedures that are worth so much of what is usually asked of them, the best first."""
    doubts = _doubts(job, there)
    told = foretold(job.weighed, frozenset(x for x in job.injectors if _judged(job, x)))
    scored: list[tuple[float, NextStep]] = []
    compared = any(k.compares and k.code in there for k in job.route)
    for kind in job.route:
        looked_for = job.complained or (kind.compares and not compared)
        if not looked_for and not doubts.get(kind.code):
            # Nobody complains: the set is compared, and there is nothing else to look for.
            continue
        missing = tuple(x for x in job.injectors if not _done(kind, x, there))
        if not (kind.code not in there if kind.of_engine else missing):
            continue
        step, gain = _step(job, told.worth(kind, missing), doubts.get(kind.code, []), there)
        a_minute = gain / step.minutes * (_COLD_WORTH if kind.effort.cold else 1.0)
        least = share * _LEAST_A_MINUTE
        if job.explained and not doubts.get(kind.code):
            least = _LEAST_WHEN_EXPLAINED
        if gain >= share * _LEAST and a_minute >= least:
            scored.append((a_minute, step))
    if job.complained and not job.explained:
        scored += (
            (gain / step.minutes, step)
            for step, gain in _once_more(job, told, there)
            if gain >= share * _LEAST and gain / step.minutes >= share * _LEAST_A_MINUTE
        )
    scored.sort(key=lambda x: -x[0])
    steps = [step for _, step in scored]
    return _behind(job, steps, there)


def _once_more(
    job: JobSoFar, told: Foretold, there: Mapping[str, Result]
) -> Iterator[tuple[NextStep, float]]:
    """Further passes of a set that was read once: what sticks now and then shows only in those."""
    for kind in job.route:
        result = there.get(kind.code)
        again = [t for t in kind.shows if AGAIN_BY in t.facts[0]]
        if result is None or not again:
            continue
        once = tuple(
            f.injector for f in result.findings if f.passes == 1 and f.state is State.IN_PLUMB
        )
        gains = told.gains_at(again, once)
        # Where something points at one cylinder, the others need not be read again.
        once = tuple(x for x in once if gains[x] >= _WORTHY * max(gains.values()))
        if once:
            worth = told.worth_of(again, kind, once)
            step = kind.step(once, "once_more", passes=_TWICE, moves=_moves(job.weighed, worth))
            yield replace(step, minutes=kind.effort.each * _TWICE * len(once)), worth.gain


def _behind(job: JobSoFar, steps: list[NextStep], there: Mapping[str, Result]) -> list[NextStep]:
    """What comes before the best step by the order of the work, cheap before dear."""
    best = next((k for k in job.route if steps and k.code == steps[0].kind), None)
    for doubt, reason in best.behind if best else ():
        for kind in job.route:
            if doubt in kind.clears and kind.code not in there:
                return [kind.step(_wanted(kind, job, job.injectors), reason), *steps]
    return steps


def _step(
    job: JobSoFar, worth: Worth, doubted: list[tuple[str, str]], there: Mapping[str, Result]
) -> tuple[NextStep, float]:
    """The step on a kind of sheet, and what it is worth with the doubts that it clears."""
    kind = worth.kind
    labels = dict.fromkeys((*worth.injectors, *(label for label, _ in doubted)))
    if doubted and kind.effort.spot:
        labels = _suspects(job, kind, [label for label, _ in doubted])
    wanted = () if kind.of_engine else tuple(x for x in job.injectors if x in labels)
    gain = worth.gain * (_SAME_AGAIN if _measured_else(kind, there) else 1.0)
    step = kind.step(
        wanted, "doubt" if doubted else "worth", doubt=doubted[0][1] if doubted else "",
        moves=_moves(job.weighed, worth),
    )  # fmt: skip
    return step, gain + _A_DOUBT * len(doubted)


def _suspects(job: JobSoFar, kind: AnyKind, labels: Sequence[str]) -> dict[str, None]:
    """Those in doubt, with the nearest that is sound where they need somebody to be held against."""
    made = dict.fromkeys(labels)
    order = job.injectors
    sound = [x for x in order if x not in made and _is_sound(job, x)]
    if kind.effort.beside and sound:
        at = order.index(labels[0])
        made[min(sound, key=lambda x: abs(order.index(x) - at))] = None
    return made


def _is_sound(job: JobSoFar, label: str) -> bool:
    verdict = job.verdicts.get(label)
    return verdict is not None and verdict.condition == "sound"


def _moves(weighed: Weighed, worth: Worth) -> tuple[tuple[str, str, float], ...]:
    """The faults that it would tell most of, with their shares."""
    told = as_told(weighed)
    return tuple((c, p, _share(told, c, p)) for c, p in worth.moves[:_TOLD])


def _share(weighed: Weighed, code: str, place: str) -> float:
    """The share of a fault, at an injector, a feed, or of the engine."""
    for shared in weighed.shared:
        if shared.fault.code == code and shared.name == place:
            return weighed.share_of(shared)
    return weighed.share_at(place, code)


def _measured_else(kind: AnyKind, there: Mapping[str, Result]) -> bool:
    """Whether another kind of sheet has measured the same thing."""
    mine = {t.measures for t in kind.shows} - {""}
    return any(
        mine & {t.measures for t in kind_of(r).shows} for r in there.values() if r.kind != kind.code
    )


def _doubts(job: JobSoFar, there: Mapping[str, Result]) -> dict[str, list[tuple[str, str]]]:
    """By kind of sheet: which doubt about whom it would clear, of injectors that are not sound."""
    wanted: dict[str, list[tuple[str, str]]] = {}
    by_code = {k.code: k for k in job.route}
    for label in job.injectors:
        verdict = job.verdicts.get(label)
        if verdict is None:
            continue
        # One whose coil reads open by a meter that nobody has proved is not settled by that alone.
        sure = _settled(job, label) and (verdict.condition, verdict.action) != _BY_THE_METER
        if sure and "answered_late" not in job.own[label]:
            continue
        for code in verdict.not_ruled_out:
            kind = by_code.get(CLEARED_BY_SHEET.get(code, ""))
            if kind is not None and not _done(kind, label, there):
                wanted.setdefault(kind.code, []).append((label, code))
    return wanted


def _done(kind: AnyKind, label: str, there: Mapping[str, Result]) -> bool:
    """Whether nothing more is to be had from a sheet of that kind about an injector."""
    result = there.get(kind.code)
    if result is None or kind.of_engine or kind.effort.whole_set:
        return result is not None
    return any(f.injector == label and (f.passes or f.state is State.OPEN) for f in result.findings)
