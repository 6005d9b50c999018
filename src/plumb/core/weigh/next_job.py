"""The next step of a whole job: the procedure that settles most for each minute, cold work first.

Order: what is cheap and outside (walk-round, supply); the set measured once; what the sheet on the
bench still asks for; where a rail that does not hold loses it; what two contradicting procedures
leave open; then, for every injector that is not sound, whatever could still imitate its fault, by
how many such doubts a procedure clears for each minute.  None: nothing left would change a verdict.
"""

from collections.abc import Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.step import NextStep
from plumb.core.procedures import KINDS, AnyKind, Result
from plumb.core.procedures.kind import Setting
from plumb.core.weigh.facts import newest
from plumb.core.weigh.suspicions import CLEARED_BY_SHEET
from plumb.core.weigh.verdict import Verdict

_SETTLED: Final = frozenset(
    {"sound", "coil_open", "coil_shorted", "no_command", "stuck_open", "opens_early", "opens_late"}
)
"""Conditions that no further sheet is asked for."""
READS: Final = frozenset({"no_supply", "answered_late"})
"""Facts that the order of the work hangs on, beside those that the kinds of sheet name."""
_MOST_SHEETS: Final = 2
"""A procedure that contradicts another is done again once."""
_COLD_WORTH: Final = 1.25
"""Cold work is worth so much more: an engine is cold only once; common practice, no source."""


@dataclass(frozen=True, slots=True, kw_only=True)
class JobSoFar:
    """What the next step is chosen from.

    ``codes`` are all facts of the job, ``own`` those of each injector, ``route`` the procedures
    that this engine has, as it stands, and nobody set aside, in working order.
    """

    injectors: tuple[str, ...]
    results: Sequence[tuple[str, Result]]
    verdicts: Mapping[str, Verdict]
    codes: AbstractSet[str]
    own: Mapping[str, AbstractSet[str]]
    route: tuple[AnyKind, ...]
    setting: Setting

    def there(self) -> dict[str, Result]:
        """The result that speaks, by the name under which it does."""
        return {name: result for name, (_, result) in newest(list(self.results)).items()}


def next_in_job(job: JobSoFar) -> NextStep | None:
    """The next step, None when nothing that is left to do would change a verdict."""
    if "no_supply" in job.codes:
        return None
    there = job.there()
    must = [k for k in job.route if k.must]
    done = [k for k in (*must, *(k for k in job.route if not k.must)) if k.code in there]
    compared = any(k.compares for k in KINDS if k.code in there)
    if not compared or any(k.code not in there for k in must):
        return _to_begin(job, there)
    asking = sorted(done, key=lambda k: not k.compares)
    for kind in asking:
        step = kind.asks(kind, there[kind.code], job.codes)
        if step and (step.reason == "neighbour" or not _all_settled(job, step.injectors)):
            return step
    return (
        _left_out(job, done)
        or _contradicted(job)
        or _doubts(job, there)
        or next(
            (
                k.step((), "complaint")
                for k in job.route
                if k.called_by & job.codes and k.code not in there
            ),
            None,
        )
    )


def _settled(job: JobSoFar, label: str) -> bool:
    """Whether no further sheet is asked for; nothing is where nothing was told."""
    verdict = job.verdicts.get(label)
    return verdict is not None and verdict.condition in _SETTLED


def _all_settled(job: JobSoFar, labels: Sequence[str]) -> bool:
    return bool(labels) and all(_settled(job, label) for label in labels)


def _to_begin(job: JobSoFar, there: Mapping[str, Result]) -> NextStep | None:
    """Before the set was measured once: outside first, then the pump, then the set."""
    for kind in job.route:
        place = kind.places[job.setting.fuel_system]
        if place.first and kind.code not in there and (not place.when or place.when in job.codes):
            return kind.step(() if kind.of_engine else job.injectors, place.first)
    begin = next((k for k in sorted(job.route, key=lambda k: not k.must) if k.compares), None)
    if begin is None or not job.injectors:
        return None
    for doubt, reason in begin.behind:
        for kind in job.route:
            if doubt in kind.clears and kind.code not in there:
                return kind.step(job.injectors, reason)
    return begin.step(job.injectors, "not_measured")


def _left_out(job: JobSoFar, done: Sequence[AnyKind]) -> NextStep | None:
    """Injectors that no sheet has read where others were compared: those of another set, say."""
    read = {f.injector for _, r in job.results for f in r.findings if f.read}
    missing = tuple(i for i in job.injectors if i not in read)
    kind = next((k for k in done if k.compares), None)
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


def _doubts(job: JobSoFar, there: Mapping[str, Result]) -> NextStep | None:
    """The procedure that clears most doubts about injectors that are not sound, for each minute."""
    wanted: dict[str, list[str]] = {}
    doubts: dict[str, str] = {}
    by_code = {k.code: k for k in job.route}
    for label in job.injectors:
        verdict = job.verdicts.get(label)
        if verdict is None or (_settled(job, label) and "answered_late" not in job.own[label]):
            continue
        for code in verdict.not_ruled_out:
            kind = by_code.get(CLEARED_BY_SHEET.get(code, ""))
            if kind is not None and not _done(kind, label, there):
                wanted.setdefault(kind.code, []).append(label)
                doubts.setdefault(kind.code, code)
    best: tuple[float, AnyKind] | None = None
    for kind in job.route:
        if kind.code not in wanted:
            continue
        count = len(job.injectors if kind.effort.whole_set else dict.fromkeys(wanted[kind.code]))
        worth = _COLD_WORTH if kind.effort.cold else 1.0
        score = len(wanted[kind.code]) / kind.effort.minutes(count) * worth
        if best is None or score > best[0] + 1e-12:
            best = (score, kind)
    if best is None:
        return None
    kind = best[1]
    labels = _wanted(kind, job, tuple(dict.fromkeys(wanted[kind.code])))
    return kind.step(labels, "doubt", doubt=doubts[kind.code])


def _done(kind: AnyKind, label: str, there: Mapping[str, Result]) -> bool:
    """Whether nothing more is to be had from a sheet of that kind about an injector."""
    result = there.get(kind.code)
    if result is None or kind.of_engine or kind.effort.whole_set:
        return result is not None
    return any(f.injector == label and (f.passes or f.state is State.OPEN) for f in result.findings)
