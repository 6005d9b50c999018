"""The job from its repair on: what was found, how the engine stands now, and what is left to do.

What was *found* rests on the sheets that were taken before any repair.  How it stands *now* rests on
all of them, without the readings that a repair has made out of date: an injector that was replaced
has not been measured yet, and what is still wrong after that needs another explanation.

>>> finish(Job(injectors=("1", "2"), sheets=()), (), Repaired()).over
False
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Final

from plumb.core.diagnose.explain import GONE, Cause
from plumb.core.measure.step import AFTER_FIX, ASK_AFTER, NextStep
from plumb.core.mend.after import Pair, pairs_of
from plumb.core.mend.goes_with import Thing, goes_with, work_of
from plumb.core.mend.repairs import ENGINE_ONLY, Repair, Repaired, gone, mended
from plumb.core.mend.swap import Swap, swaps_of
from plumb.core.procedures import AnyKind, Result, kind_of
from plumb.core.procedures import route as route_of
from plumb.core.weigh.facts import newest
from plumb.core.weigh.job import Job, JobResult, weigh
from plumb.core.weigh.verdict import at_rest

ANSWERS: Final = {"gone": "gone", "less": "less than before", "still_there": "still there"}
"""What can be said of a complaint after the repair."""


@dataclass(frozen=True, slots=True, kw_only=True)
class AfterSheet:
    """A sheet to take again after the repair: of which kind, on whom, against which sheet."""

    kind: str
    injectors: tuple[str, ...]
    before_sheet: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Finished:
    """A job with its repair.

    ``found`` is what the sheets before it say, ``now`` how the engine stands; the two are one while
    nothing was repaired.  ``due`` are the sheets to take again, ``things`` what goes with the work;
    ``over``: every fault that was worked on is put right and no word of the complaint is left.
    """

    found: JobResult
    now: JobResult
    repairs: tuple[Repair, ...] = ()
    pairs: tuple[Pair, ...] = ()
    swaps: tuple[Swap, ...] = ()
    due: tuple[AfterSheet, ...] = ()
    things: tuple[Thing, ...] = ()
    unasked: tuple[str, ...] = ()
    left: tuple[str, ...] = ()
    next_step: NextStep | None = None
    over: bool = False

    @property
    def still_open(self) -> JobResult:
        """What is still to be put right: as it was found, or what a repair has left."""
        back = bool(self.left) or any(p.word in {"better", "worse"} for p in self.pairs)
        stays = any(p.word == "unchanged" and p.after.shows for p in self.pairs)
        # What was found and explains what is gone now stands: it was right.
        gone = self.now.diagnosis.explained == GONE and self.found.diagnosis.explained != "yes"
        return self.now if back or stays or gone or not self.repairs else self.found


def finish(job: Job, results: tuple[tuple[str, Result], ...], done: Repaired) -> Finished:
    """What was found, what was done about it, and whether it helped."""
    if not done.begun:
        now = weigh(job, results)
        return Finished(found=now, now=now, next_step=now.next_step, unasked=_unasked(now, done))
    found = weigh(job, tuple(x for x in results if not done.is_later(x[0])))
    worked = tuple(_worked_on(_made(job, results, done, found)))
    sightings = tuple(s for s in job.sightings if not mended(s, done.repairs))
    # What is gone needs no cause any more beside what is left; once all of it is, that is what is told.
    left = _left(found, done)
    cured = frozenset(w for w, said in done.asked_after.items() if left and said == "gone")
    outdated = gone(done, {key: r.kind for key, r in results}) | _told_before(worked, done)
    outdated |= _sets_that_are_gone(results, outdated)
    now = weigh(replace(job, gone=outdated, sightings=sightings, no_more=cured), results)
    pairs = pairs_of(results, done.after)
    due = tuple(_due(job, worked, done, results))
    unasked = _unasked(found, done)
    if found.diagnosis.words and not unasked and not left:
        now = replace(now, diagnosis=replace(now.diagnosis, explained=GONE))
    conditions = [(label, v.condition) for label, v in found.verdicts]
    over = _over(due, pairs, done) and not unasked and not left
    if over:
        now = replace(now, verdicts=at_rest(now.verdicts))
    return Finished(
        found=found, now=now, repairs=done.repairs, pairs=pairs, due=due,
        swaps=swaps_of(done.repairs, results, done.after),
        things=() if not done.repairs else goes_with(work_of(done.repairs, conditions, job.fuel_system, found.weighed.case.codes)),
        next_step=_next(due, now, pairs, done, unasked, left),
        over=over,
        unasked=unasked, left=left,
    )  # fmt: skip


def _sets_that_are_gone(
    results: Sequence[tuple[str, Result]], outdated: frozenset[tuple[str, str]]
) -> frozenset[tuple[str, str]]:
    """Sheets of which no reading holds any more, as (sheet, nothing): what they say of the set does not either."""
    read = {key: {f.injector for f in r.findings if f.read and f.injector} for key, r in results}
    return frozenset(
        (key, "")
        for key, labels in read.items()
        if labels and all((key, x) in outdated for x in labels)
    )


Worked = tuple[tuple[Repair, Cause, JobResult], ...]
"""Repairs with what was found that they were made for, and how the job stood then."""


def _made(
    job: Job, results: tuple[tuple[str, Result], ...], done: Repaired, found: JobResult
) -> list[tuple[Repair, JobResult]]:
    """Every repair with how the job stood when it was made: the first found it all, a later one what they left."""
    made: list[tuple[Repair, JobResult]] = []
    stood = {tuple(key for key, _ in found.sheets): found}
    for n, repair in enumerate(done.repairs):
        until = tuple(x for x in results if done.was_before(x[0], repair))
        keys = tuple(key for key, _ in until)
        if keys not in stood:
            earlier = replace(done, repairs=done.repairs[:n])
            outdated = gone(earlier, {key: r.kind for key, r in until})
            outdated |= _told_before(tuple(_worked_on(made)), earlier)
            stood[keys] = weigh(replace(job, gone=outdated), until)
        made.append((repair, stood[keys]))
    return made


def _unasked(found: JobResult, done: Repaired) -> tuple[str, ...]:
    """Words of the complaint that nobody has asked for again."""
    return tuple(w for w in found.diagnosis.words if w not in done.asked_after)


def _left(found: JobResult, done: Repaired) -> tuple[str, ...]:
    """Words of the complaint that are not gone."""
    words = found.diagnosis.words
    return tuple(w for w in words if done.asked_after.get(w) in {"less", "still_there"})


def _due(
    job: Job, worked: Worked, done: Repaired, results: Sequence[tuple[str, Result]]
) -> Iterator[AfterSheet]:
    """The sheets that showed the fault, in the route's order, on those that were worked on."""
    there = newest([x for x in results if any(done.was_before(x[0], r) for r in done.repairs)])
    for kind in route_of(job.fuel_system):
        if kind.code not in there or kind.code in job.set_aside:
            continue
        on_it = _on_the_engine(kind, job, worked, done, results)
        wanted = {x: k for x in job.injectors if (k := _is_due(kind, x, worked, done, results))}
        if on_it or wanted:
            labels = tuple(x for x in job.injectors if x in on_it or x in wanted)
            key = next((wanted[x] for x in labels if x in wanted), there[kind.code][0])
            if labels and kind.together:
                labels = job.injectors
            yield AfterSheet(kind=kind.code, injectors=labels, before_sheet=key)


def _is_due(
    kind: AnyKind, label: str, worked: Worked, done: Repaired, results: Sequence[tuple[str, Result]]
) -> str:
    """The sheet that an injector that was worked on is to be held against on such a sheet; empty where it is not due."""
    mine = [r for r in done.repairs if label in r.places and r.outdates(kind.code)]
    if not mine or kind.of_engine:
        return ""
    last = mine[-1]
    sheets = [(key, r) for key, r in results if r.kind == kind.code]
    before = [(key, f) for key, r in sheets if done.was_before(key, last) for f in r.findings]
    since = [f for key, r in sheets if not done.was_before(key, last) for f in r.findings]
    if any(f.injector == label and f.read for f in since):
        return ""
    own = [(key, f) for key, f in before if f.injector == label and f.read]
    # Who was swapped is watched together with the one that showed the fault.
    watched = last.places if last.done == "swapped" else (label,)
    showed = any(f.injector in watched and f.shows for _, f in before)
    keys = {key for key, _ in before}
    # A whole set that is off as one shows on no row of it.
    here = {c.fault.code for _, c, _ in worked if c.told_by in keys}
    told = any(r is last and c.place == label and c.fault.code in here for r, c, _ in worked)
    new = last.done in {"replaced", "rebuilt"} and kind.compares and any(f.read for _, f in before)
    if not showed and not told and not new:
        return ""
    return own[-1][0] if own else before[-1][0]


def _on_the_engine(
    kind: AnyKind, job: Job, worked: Worked, done: Repaired, results: Sequence[tuple[str, Result]]
) -> set[str]:
    """Whom such a sheet reads again since something on the engine was put right; empty where it had shown nothing of that."""
    wanted: set[str] = set()
    for repair, cause, found in worked:
        since = any(
            r.kind == kind.code and r.begun and not done.was_before(key, repair)
            for key, r in results
        )
        of_it = kind.of_engine or repair.done == ENGINE_ONLY
        if not since and of_it and _told_by(kind, cause, found):
            wanted |= {""} if kind.of_engine else {cause.place} if cause.place else {*job.injectors}
    return wanted


def _worked_on(
    made: Sequence[tuple[Repair, JobResult]],
) -> Iterator[tuple[Repair, Cause, JobResult]]:
    """Repairs with what was found that they were made for."""
    for repair, found in made:
        if repair.done != "nothing":
            yield from ((repair, c, found) for c in found.diagnosis.found if _of(repair, c))


def _told_before(worked: Worked, done: Repaired) -> frozenset[tuple[str, str]]:
    """What told of a fault of the engine that was put right, as (sheet, injector or nothing): it tells that no more."""
    return frozenset(
        (key, label)
        for repair, cause, found in worked
        if repair.done == ENGINE_ONLY
        for key, result in found.sheets
        if done.was_before(key, repair) and _told_by(kind_of(result), cause, found)
        for label in {"", *(f.injector for f in result.findings)}
    )


def _of(repair: Repair, cause: Cause) -> bool:
    """Whether a repair was made because of this cause."""
    if repair.done == ENGINE_ONLY:
        return cause.fault.code == repair.cause
    return cause.place in repair.places


def _told_by(kind: AnyKind, cause: Cause, found: JobResult) -> bool:
    """Whether a kind of sheet told of a cause: it found it, or its row that is out speaks for it."""
    mine = [(key, r) for key, r in found.sheets if r.kind == kind.code]
    if any(key == cause.told_by for key, _ in mine):
        return True
    spoke = {c for codes, _ in cause.speaks_for for c in codes.split("+")} & kind.makes.keys()
    rows = [
        f for _, r in mine for f in r.findings if f.injector in {"", cause.place} or not cause.place
    ]
    return bool(spoke) and any(f.shows for f in rows)


def _next(
    due: tuple[AfterSheet, ...],
    now: JobResult,
    pairs: tuple[Pair, ...],
    done: Repaired,
    unasked: tuple[str, ...],
    left: tuple[str, ...],
) -> NextStep | None:
    """First what stops all measuring, what is to be measured again, the complaint, then what the engine still asks for."""
    if not done.repairs or _stops(now.next_step, done):
        return now.next_step
    if due:
        first = due[0]
        kind = next(k for k in route_of(now.setting.fuel_system) if k.code == first.kind)
        return kind.step(first.injectors, AFTER_FIX, doubt=first.before_sheet)
    repaired = {x for r in done.repairs for x in r.places}
    no_help = [p for p in _last(pairs) if p.injector in repaired and p.after.shows]
    open_ = no_help or left or any(p.word == "not_settled" for p in _last(pairs))
    if open_ and now.next_step is not None:
        return now.next_step
    if unasked:
        return NextStep(kind=ASK_AFTER, injectors=(), passes=0, minutes=0.0, reason=ASK_AFTER)
    return None


def _stops(step: NextStep | None, done: Repaired) -> bool:
    """Whether something must be put right before anything is measured again, and was not yet."""
    mended = {r.cause for r in done.repairs}
    return step is not None and step.repairs and step.cause not in mended


def _last(pairs: Sequence[Pair]) -> list[Pair]:
    """Of each row and kind of sheet the newest pair."""
    return list({(p.row, p.after.quantity): p for p in pairs}.values())


def _over(due: tuple[AfterSheet, ...], pairs: tuple[Pair, ...], done: Repaired) -> bool:
    repaired = {x for r in done.repairs for x in r.places}
    mine = [p for p in _last(pairs) if p.injector in repaired]
    return (
        bool(done.repairs)
        and not due
        and all(p.word in {"put_right", "unchanged"} and p.after.good for p in mine)
    )
