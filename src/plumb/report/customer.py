"""What the customer reads: what was wrong, what was done, how it hangs now, what to watch."""

from collections.abc import Iterator, Sequence

from plumb.core.causes.fault import CYLINDER, INJECTOR
from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.spoken import as_things
from plumb.core.measure.text import listed, percent
from plumb.core.mend.after import Pair
from plumb.core.mend.finish import Finished
from plumb.core.mend.repairs import DONE, TAKEN_OUT
from plumb.core.mend.words import chosen_words, off_words, ordered_words
from plumb.core.procedures import kind_of
from plumb.core.weigh.facts import newest
from plumb.core.weigh.job import JobResult
from plumb.core.weigh.suspicions import NOT_RULED_OUT
from plumb.core.weigh.verdict import Verdict
from plumb.core.weigh.words_codes import about_codes
from plumb.core.weigh.words_faults import named
from plumb.core.weigh.words_verdict import COMES_AFTER, NO_PRESSURE
from plumb.jobfile.file import JobFile
from plumb.jobfile.results import unit_of
from plumb.report.charts import Chart, Hung, plumb_chart
from plumb.report.plain import done_to, not_at_fault, not_judged, sentence_for, stands
from plumb.report.written import day, distance


def _share(result: JobResult, label: str) -> float | None:
    """How much less or more an injector gave, where a sheet compared what they gave."""
    for kind in (k for k in newest(result.sheets).values() if kind_of(k[1]).compares):
        for finding in kind[1].findings:
            if finding.injector == label and finding.deviation is not None:
                return abs(finding.deviation) if finding.scale.relative else None
    return None


def what_was_wrong(found: JobResult) -> Iterator[str]:
    """What was wrong, in plain words: the injectors, then the engine, then what that explains."""
    groups: dict[str, list[str]] = {}
    unjudged: list[str] = []
    for label, verdict in found.verdicts:
        if verdict.row == NO_PRESSURE:
            unjudged.append(label)
        elif verdict.condition != "sound":
            groups.setdefault(verdict.condition, []).append(label)
    told = {c.place for c in found.diagnosis.found if c.fault.of == CYLINDER}
    verdicts = dict(found.verdicts)
    for condition, labels in groups.items():
        share = _share(found, labels[0]) if len(labels) == 1 else None
        # What is told of its cylinder needs no "what it shares" beside it.
        own = condition == "not_the_injector" and set(labels) <= told
        sure = _sure(verdicts[labels[0]])
        yield (not_at_fault(labels) if own else sentence_for(condition, labels, share)) + sure
    if unjudged:
        yield not_judged(unjudged)
    yield from _beside_injectors(found)
    yield from _explained(found)
    if not groups and not unjudged and not found.diagnosis.found and found.verdicts:
        yield "The injectors were measured, and nothing is wrong with them."


def _sure(verdict: Verdict) -> str:
    """What has to be looked at before that is sure; empty where nothing comes first."""
    if verdict.action != "check_first" or verdict.condition in COMES_AFTER:
        return ""
    if not verdict.not_ruled_out:
        return ""
    first = listed([NOT_RULED_OUT[code] for code in verdict.not_ruled_out])
    return f" That is not sure yet; not ruled out: {first}."


def _beside_injectors(found: JobResult) -> Iterator[str]:
    """What was found on the engine, at a cylinder or at what some share."""
    switched = {label for label, v in found.verdicts if v.condition == "no_command"}
    for cause in found.diagnosis.found:
        if not cause.place:
            yield f"Found on the engine: {named(cause.fault, ())}."
        elif cause.fault.of != INJECTOR and cause.place not in switched:
            yield f"Found: {named(cause.fault, (cause.place,))}."


def _explained(found: JobResult) -> Iterator[str]:
    """Which words of the complaint that explains, and which codes it does not."""
    explained, maybe, left = (
        as_things([w for w in found.diagnosis.words if found.diagnosis.stands(w) in how])
        for how in (("explained",), ("maybe", "doubted", "waits"), ("open",))
    )
    if explained:
        yield f"That explains the {listed(explained)}."
    if maybe:
        yield f"It may be behind the {listed(maybe)}; that is not certain yet."
    if found.diagnosis.fuel_is_there:
        yield "The fuel is there when it is started: the rail holds its pressure."
    if left:
        where = f" Where else to look: {found.diagnosis.beyond}." if found.diagnosis.beyond else ""
        yield f"Not explained by what was found: {listed(left)}.{where}"
    for about in about_codes(found):
        yield f"{about.title}: {about.text[0].lower()}{about.text[1:]}"


def what_was_done(file: JobFile, done: Finished) -> Iterator[str]:
    """What was done, what went with it, and what measuring again says."""
    for choice in file.choices:
        if choice.option != "wait":
            why = f" ({choice.reason})" if choice.reason else ""
            yield f"Chosen: {chosen_words(choice.option, choice.injectors)}{why}."
    if done.repairs:
        yield done_to(done.repairs)
        yield from _along(file, done)
    ticked = {t.what for t in file.things if t.done}
    with_it = [t.words for t in done.things if t.code in ticked]
    if with_it:
        yield f"With it: {'; '.join(with_it)}."
    # Who was worked on twice is told as the last time left it.
    again = list({(p.row, p.after.quantity): p for p in done.pairs if p.injector}.values())
    right = [p for p in again if p.after.good]
    if again and len(right) == len(again):
        spread = _apart(again)
        told = f", within {percent(spread, 1)} % of each other" if spread is not None else ""
        yield f"Measured again afterwards: all that were read are as they should be{told}."
    elif again:
        off = listed(list(dict.fromkeys(p.injector for p in again if p not in right)))
        yield f"Measured again afterwards: {off} not yet as it should be."
    if file.job.ordered is not None and file.job.closed is None:
        yield f"{ordered_words(file.job.ordered.what, file.job.ordered.due or '')}."


def _along(file: JobFile, done: Finished) -> Iterator[str]:
    """Who was taken out though nothing was found wrong with it, and nobody chose it: it is said."""
    chosen = {label for c in file.choices for label in c.injectors}
    found = {label: v.condition for label, v in done.found.verdicts}
    out = [p for r in done.repairs if r.done in TAKEN_OUT for p in r.places if p not in chosen]
    for condition, told in (
        ("sound", "nothing wrong was found with {}"),
        ("not_measured", "{} had not been measured before"),
    ):
        mine = list(dict.fromkeys(p for p in out if found.get(p) == condition))
        if mine:
            yield f"Done along with the others: {told.format(listed(mine))}."


def _apart(pairs: Sequence[Pair]) -> float | None:
    """How far apart those are that were compared by share afterwards."""
    shares = [p.after.deviation for p in pairs if p.relative and p.after.deviation is not None]
    return max(shares) - min(shares) if len(shares) > 1 else None


def before_after(file: JobFile, done: Finished) -> Chart | None:
    """Every injector of the sheet that compares them: before, and after where it was measured again.

    Of several that compare, the one that was taken again.
    """
    there = newest(done.found.sheets)
    compares = [k for k, (_, r) in there.items() if kind_of(r).compares]
    again = [k for k in compares if any(_same(p, done, k) for p in done.pairs)]
    kind = next(iter(again or compares), None)
    if kind is None:
        return None
    unit = next(unit_of(s) for s in file.sheets if s.id == there[kind][0])
    before = {f.injector: f for f in there[kind][1].findings}
    after = {
        p.injector: p.after for p in done.pairs if p.injector in before and _same(p, done, kind)
    }
    rows = []
    for label, was in before.items():
        now = after.get(label)
        kept = was if now is None else now
        mine = [r for r in done.repairs if label in r.places]
        moved = now is not None and bool(mine)
        words = _stands(done, label, kept, moved=moved)
        if moved:
            words = f"{off_words(was, unit)}, {DONE[mine[-1].done]}: {words}"
        rows.append(
            Hung(
                row=label, before=was.in_band if moved else None, after=kept.in_band, words=words,
                settled=kept.state is not State.UNSETTLED,
            )
        )  # fmt: skip
    return plumb_chart(rows) if rows else None


def _stands(done: Finished, label: str, finding: Finding, *, moved: bool) -> str:
    """How one stands, in the customer's words: as it was found, or as it is since it was worked on."""
    if moved and finding.good:
        return stands("sound")
    verdicts = dict(done.now.verdicts if moved else done.found.verdicts)
    return stands(verdicts[label].condition) if label in verdicts else ""


def _same(pair: Pair, done: Finished, kind: str) -> bool:
    return dict(done.now.sheets)[pair.sheet].kind == kind


def to_watch(file: JobFile, done: Finished) -> Iterator[str]:
    """What to look after later: what was seen, what was left, what was set aside."""
    for _, result in newest(done.now.sheets).values():
        yield from kind_of(result).later(result)
    for choice in file.choices:
        if choice.option == "wait" and choice.look_again is not None:
            again = choice.look_again
            when = [f"by {day(again.on)}"] if again.on else []
            if again.distance_km:
                when.append(f"at {distance(again.distance_km, file.vehicle.distance_unit)}")
            yield f"Left as it is for now ({listed(choice.injectors)}): look again {' or '.join(when)}."
    for thing in file.things:
        words = {t.code: t.words for t in done.things}.get(thing.what)
        if not thing.done and words:
            yield f"Not done: {words} ({thing.reason})."
