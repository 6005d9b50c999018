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
from plumb.core.measure.decision import State
from plumb.core.measure.step import AFTER_FIX, ASK_AFTER, NextStep
from plumb.core.mend.after import Pair, pairs_of
from plumb.core.mend.goes_with import Thing, goes_with, work_of
from plumb.core.mend.repairs import ENGINE_ONLY, Repair, Repaired, gone, mended
from plumb.core.mend.swap import Swap, swaps_of
from plumb.core.procedures import AnyKind, Result
from plumb.core.procedures import route as route_of
from plumb.core.weigh.facts import heard, newest
from plumb.core.weigh.job import Job, JobResult, weigh

ANSWERS: Final = {"gone": "gone", "less": "less than before", "still_there": "still there"}
"""What can be said of a complaint after the repair."""
_SHOWED: Final = frozenset(
    {State.LOW, State.HIGH, State.NO_RESPONSE, State.OPEN, State.INTERMITTENT, State.SPLIT}
)


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
        stays = any(p.word == "unchanged" and p.after.state in _SHOWED for p in self.pairs)
        # What was found and explains what is gone now stands: it was right.
        gone = self.now.diagnosis.explained == GONE and self.found.diagnosis.explained != "yes"
        return self.now if back or stays or gone or not self.repairs else self.found


def finish(job: Job, results: tuple[tuple[str, Result], ...], done: Repaired) -> Finished:
    """What was found, what was done about it, and whether it helped."""
    if not done.begun:
        now = weigh(job, results)
        return Finished(found=now, now=now, next_step=now.next_step, unasked=_unasked(now, done))
    found = weigh(job, tuple(x for x in results if not done.is_later(x[0])))
    outdated = gone(done, {key: r.kind for key, r in results})
    sightings = tuple(s for s in job.sightings if not mended(s, done.repairs))
    now = weigh(replace(job, gone=outdated, sightings=sightings), results)
    pairs = pairs_of(results, done.after)
    due = tuple(_due(job, found, done, results))
    unasked, left = _unasked(found, done), _left(found, done)
    if found.diagnosis.words and not unasked and not left:
        now = replace(now, diagnosis=replace(now.diagnosis, explained=GONE))
    conditions = [(label, v.condition) for label, v in found.verdicts]
    return Finished(
        found=found, now=now, repairs=done.repairs, pairs=pairs, due=due,
        swaps=swaps_of(done.repairs, results, done.after),
        things=() if not done.repairs else goes_with(work_of(done.repairs, conditions, job.fuel_system, found.weighed.case.codes)),
        next_step=_next(due, now, pairs, done, unasked, left),
        over=_over(due, pairs, done) and not unasked and not left,
        unasked=unasked, left=left,
    )  # fmt: skip


def _unasked(found: JobResult, done: Repaired) -> tuple[str, ...]:
    """Words of the complaint that nobody has asked for again."""
    return tuple(w for w in found.diagnosis.words if w not in done.asked_after)


def _left(found: JobResult, done: Repaired) -> tuple[str, ...]:
    """Words of the complaint that are not gone."""
    words = found.diagnosis.words
    return tuple(w for w in words if done.asked_after.get(w) in {"less", "still_there"})


def _due(
    job: Job, found: JobResult, done: Repaired, results: Sequence[tuple[str, Result]]
) -> Iterator[AfterSheet]:
    """The sheets that showed the fault, in the route's order, on those that were worked on."""
    there = newest(found.sheets)
    on = heard(found.sheets)
    for kind in route_of(job.fuel_system):
        if kind.code not in there or kind.code in job.set_aside:
            continue
        wanted = tuple(x for x in job.injectors if _is_due(kind, x, found, done, results)) or (
            ("",) if kind.of_engine and _of_engine(kind, found, done, results) else ()
        )
        if wanted:
            labels = tuple(x for x in wanted if x)
            if labels and kind.together:
                labels = job.injectors
            key = next(
                (on[kind.code, x] for x in labels if (kind.code, x) in on), there[kind.code][0]
            )
            yield AfterSheet(kind=kind.code, injectors=labels, before_sheet=key)


def _is_due(
    kind: AnyKind,
    label: str,
    found: JobResult,
    done: Repaired,
    results: Sequence[tuple[str, Result]],
) -> bool:
    """Whether an injector that was worked on is to be measured again on such a sheet."""
    mine = [r for r in done.repairs if label in r.places and r.outdates(kind.code)]
    if not mine or kind.of_engine:
        return False
    last = mine[-1]
    since = [
        r for key, r in results
        if r.kind == kind.code and not done.was_before(key, last)
    ]  # fmt: skip
    if any(f.injector == label and f.read for r in since for f in r.findings):
        return False
    before = [f for _, r in found.sheets if r.kind == kind.code for f in r.findings]
    showed = any(f.injector == label and f.state in _SHOWED for f in before)
    # Who was swapped is watched together with the one that showed the fault.
    partner = last.done == "swapped" and any(
        f.injector in last.places and f.state in _SHOWED for f in before
    )
    new = last.done in {"replaced", "rebuilt"} and kind.compares and any(f.read for f in before)
    return showed or partner or new


def _of_engine(
    kind: AnyKind, found: JobResult, done: Repaired, results: Sequence[tuple[str, Result]]
) -> bool:
    """Whether a fault that was worked on had shown on such a sheet of the engine."""
    for repair in done.repairs:
        if repair.done != "nothing":
            told = any(_told_by(kind, c, found) for c in found.diagnosis.found if _of(repair, c))
            since = any(
                r.kind == kind.code and r.begun
                and not done.was_before(key, repair)
                for key, r in results
            )  # fmt: skip
            if told and not since:
                return True
    return False


def _of(repair: Repair, cause: Cause) -> bool:
    """Whether a repair was made because of this cause."""
    if repair.done == ENGINE_ONLY:
        return cause.fault.code == repair.cause and not cause.place
    return cause.place in repair.places


def _told_by(kind: AnyKind, cause: Cause, found: JobResult) -> bool:
    """Whether a kind of sheet told of a cause: it found it, or its row that is out speaks for it."""
    mine = [(key, r) for key, r in found.sheets if r.kind == kind.code]
    if any(key == cause.told_by for key, _ in mine):
        return True
    spoke = {c for codes, _ in cause.speaks_for for c in codes.split("+")} & kind.makes.keys()
    return bool(spoke) and any(f.state in _SHOWED for _, r in mine for f in r.findings)


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
    no_help = [p for p in _last(pairs) if p.injector in repaired and p.after.state in _SHOWED]
    if no_help or left or any(p.word == "not_settled" for p in _last(pairs)):
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
        and all(
            p.word in {"put_right", "unchanged"} and p.after.state is State.IN_PLUMB for p in mine
        )
    )
