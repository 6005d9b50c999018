"""The report as plain data: everything that its pages say, and nothing left to be worked out there."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Final

from plumb.core.causes.fault import INJECTOR
from plumb.core.measure.decision import State
from plumb.core.measure.quantities import KM_PER_MILE, rounded
from plumb.core.measure.spoken import COMPLAINTS
from plumb.core.measure.text import Advice, listed, percent
from plumb.core.mend.after import Pair
from plumb.core.mend.bill import BillLine, bill
from plumb.core.mend.finish import ANSWERS, Finished
from plumb.core.mend.options import Prices
from plumb.core.mend.repairs import Repair
from plumb.core.mend.words import off_words, pair_words, swap_words
from plumb.core.procedures import Result, kind_of
from plumb.core.weigh.facts import newest
from plumb.core.weigh.job import JobResult
from plumb.core.weigh.words_diagnosis import lines
from plumb.core.weigh.words_faults import named
from plumb.core.weigh.words_verdict import ACTION_WORDS, CONDITION_WORDS, assumed, care, ruled_out
from plumb.jobfile.file import JobFile
from plumb.jobfile.finishing import SignedPart
from plumb.jobfile.models import SheetPart
from plumb.jobfile.results import unit_of
from plumb.report.charts import Chart, Hung, plumb_chart
from plumb.report.plain import done_to, sentence_for

_HALF: Final = 3.5
"""So many half-widths of the band a chart is wide to each side."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Shop:
    """Who hands it over: name, lines of the address, a logo as a data address."""

    name: str = ""
    address: tuple[str, ...] = ()
    logo: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Photo:
    """A photo as a data address, and what is on it."""

    src: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetPage:
    """One sheet: its name, when, how it was taken, what it says, its rows drawn and in words."""

    title: str
    key: str
    taken: str
    conditions: str
    headline: str
    chart: Chart | None
    rows: tuple[tuple[str, str, str], ...]
    notes: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Bill:
    """What it costs: lines as (what, amount), and the sum; both as they are printed."""

    lines: tuple[tuple[str, str], ...] = ()
    total: str = ""
    currency: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Report:
    """The whole report."""

    title: str
    shop: Shop
    vehicle: str
    plate: str
    distance: str
    complaint: str
    number: str
    day: str
    wrong: tuple[str, ...]
    done: tuple[str, ...]
    before_after: Chart | None
    answers: tuple[str, ...]
    watch: tuple[str, ...]
    bill: Bill
    care: str
    signed_by: str
    hand: str
    verdicts: tuple[tuple[str, str, str, str], ...]
    causes: tuple[tuple[str, str, str], ...]
    ruled_out: tuple[Advice, ...]
    assumed: tuple[str, ...]
    pairs: tuple[tuple[str, str], ...]
    swaps: tuple[str, ...]
    sheets: tuple[SheetPage, ...]
    photos: tuple[Photo, ...] = ()
    program: str = ""


def report_of(
    file: JobFile,
    done: Finished,
    shop: Shop,
    *,
    program: str,
    photos: Sequence[Photo] = (),
) -> Report:
    """The report of a job from its file and what was made of it."""
    found = done.found
    signed = file.signed[-1] if file.signed else None
    vehicle = file.vehicle
    return Report(
        title=_title(done),
        shop=shop,
        vehicle=vehicle.name,
        plate=vehicle.registration,
        distance=_distance(file),
        complaint=file.job.complaint,
        number=file.job.number,
        day=_day(signed, file),
        wrong=tuple(_wrong(found)),
        done=tuple(_done(file, done)),
        before_after=_before_after(file, done),
        answers=tuple(
            f"{COMPLAINTS[w]}: {ANSWERS[a]}" for w, a in file.asked_after.items() if w in COMPLAINTS
        ),
        watch=tuple(_watch(file, done)),
        bill=_bill(done.repairs, file.prices.core() if file.prices else Prices()),
        care=care(vehicle.fuel_system),
        signed_by=signed.by if signed else "",
        hand=signed.hand if signed else "",
        verdicts=_verdicts(done),
        causes=tuple((c.words, c.state, c.note) for c in lines(found)),
        ruled_out=ruled_out(found),
        assumed=assumed(found),
        pairs=_pairs(file, done),
        swaps=tuple(swap_words(s) for s in done.swaps),
        sheets=tuple(_sheets(file, done.now)),
        photos=tuple(photos),
        program=program,
    )


def _title(done: Finished) -> str:
    """What the customer reads first."""
    words = listed([COMPLAINTS[w] for w in done.found.diagnosis.words])
    if done.over and words:
        return f"{words[0].upper()}{words[1:]}: gone"
    if done.over:
        return "Put right"
    return "What was found, and what was done" if done.repairs else "What was found"


def _distance(file: JobFile) -> str:
    km = file.vehicle.distance_km
    if km is None:
        return ""
    unit = file.vehicle.distance_unit
    shown = float(km) if unit == "km" else float(km) / float(KM_PER_MILE)
    return f"{shown:,.0f} {unit}".replace(",", "\u2009")


def _day(signed: SignedPart | None, file: JobFile) -> str:
    at = signed.at if signed else file.job.opened
    return f"{datetime.fromisoformat(at):%-d %b %Y}" if at else ""


def _share(result: JobResult, label: str) -> float | None:
    """How much less or more an injector gave, where a sheet compared what they gave."""
    for kind in (k for k in newest(result.sheets).values() if kind_of(k[1]).compares):
        for finding in kind[1].findings:
            if finding.injector == label and finding.deviation is not None:
                return abs(finding.deviation) if finding.scale.relative else None
    return None


def _wrong(found: JobResult) -> Iterator[str]:
    """What was wrong, in plain words: the injectors, then the engine, then what that explains."""
    groups: dict[str, list[str]] = {}
    for label, verdict in found.verdicts:
        if verdict.condition != "sound":
            groups.setdefault(verdict.condition, []).append(label)
    for condition, labels in groups.items():
        share = _share(found, labels[0]) if len(labels) == 1 else None
        yield sentence_for(condition, labels, share)
    for cause in found.diagnosis.found:
        if not cause.place:
            yield f"Found on the engine: {named(cause.fault, ())}."
        elif cause.sighted and cause.fault.of != INJECTOR:
            yield f"Found: {named(cause.fault, (cause.place,))}."
    explained = [COMPLAINTS[w] for w, by in found.diagnosis.by_word if by]
    left = [COMPLAINTS[w] for w, by in found.diagnosis.by_word if not by]
    if explained:
        yield f"That explains the {listed(explained)}."
    if left:
        yield f"Not explained by what was found: {listed(left)}."
    if not groups and not found.diagnosis.found and found.verdicts:
        yield "The injectors were measured, and nothing is wrong with them."


def _done(file: JobFile, done: Finished) -> Iterator[str]:
    """What was done, what went with it, and what measuring again says."""
    if done.repairs:
        yield done_to(done.repairs)
    ticked = {t.what for t in file.things if t.done}
    with_it = [t.words for t in done.things if t.code in ticked]
    if with_it:
        yield f"With it: {'; '.join(with_it)}."
    again = [p for p in done.pairs if p.injector]
    right = [p for p in again if p.after.state is State.IN_PLUMB]
    if again and len(right) == len(again):
        spread = _apart(again)
        told = f", within {percent(spread, 1)} % of each other" if spread is not None else ""
        yield f"Measured again afterwards: all that were read are as they should be{told}."
    elif again:
        off = listed(list(dict.fromkeys(p.injector for p in again if p not in right)))
        yield f"Measured again afterwards: {off} not yet as it should be."


def _apart(pairs: Sequence[Pair]) -> float | None:
    """How far apart those are that were compared by share afterwards."""
    shares = [p.after.deviation for p in pairs if p.relative and p.after.deviation is not None]
    return max(shares) - min(shares) if len(shares) > 1 else None


def _before_after(file: JobFile, done: Finished) -> Chart | None:
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
        words = kind_of(there[kind][1]).state(kept, there[kind][1])
        mine = [r for r in done.repairs if label in r.places]
        moved = now is not None and bool(mine)
        told = f"{off_words(was, unit)}, {mine[-1].done}: {words}" if moved else words
        rows.append(
            Hung(
                row=label, before=was.in_band if moved else None, after=kept.in_band, words=told,
                settled=kept.state is not State.UNSETTLED,
            )
        )  # fmt: skip
    return plumb_chart(rows, _HALF) if rows else None


def _same(pair: Pair, done: Finished, kind: str) -> bool:
    return dict(done.now.sheets)[pair.sheet].kind == kind


def _watch(file: JobFile, done: Finished) -> Iterator[str]:
    """What to look after later: what was seen, what was left, what was set aside."""
    for _, result in newest(done.now.sheets).values():
        yield from kind_of(result).later(result)
    for choice in file.choices:
        if choice.option == "wait" and choice.look_again is not None:
            again = choice.look_again
            when = [f"by {again.on}"] if again.on else []
            when += [f"at {again.distance_km} km"] if again.distance_km else []
            yield f"Left as it is for now ({listed(choice.injectors)}): look again {' or '.join(when)}."
    for thing in file.things:
        words = {t.code: t.words for t in done.things}.get(thing.what)
        if not thing.done and words:
            yield f"Not done: {words} ({thing.reason})."


def _bill(repairs: Sequence[Repair], prices: Prices) -> Bill:
    rows = bill(repairs, prices)
    known = [r.amount for r in rows if r.amount is not None]
    if not rows or not known:
        return Bill()
    return Bill(
        lines=tuple(
            (_counted(r), "not said" if r.amount is None else f"{r.amount:.2f}") for r in rows
        ),
        total=f"{sum(known):.2f}" if len(known) == len(rows) else "",
        currency=prices.currency,
    )


def _counted(line: BillLine) -> str:
    return (
        f"{line.what}, {rounded(line.count, 1)} h" if line.hours else f"{line.what}, {line.count:g}"
    )


def _verdicts(done: Finished) -> tuple[tuple[str, str, str, str], ...]:
    """Injector, what it was found to be, what to do, and how it is now."""
    now = dict(done.now.verdicts)
    return tuple(
        (
            label, CONDITION_WORDS[v.condition], ACTION_WORDS[v.action],
            CONDITION_WORDS[now[label].condition] if done.repairs and label in now else "",
        )
        for label, v in done.found.verdicts
    )  # fmt: skip


def _pairs(file: JobFile, done: Finished) -> tuple[tuple[str, str], ...]:
    units = {s.id: unit_of(s) for s in file.sheets}
    results = dict(done.now.sheets)
    made = []
    for pair in done.pairs:
        kind = kind_of(results[pair.sheet])
        was = kind.state(pair.before, results[pair.before_sheet])
        now = kind.state(pair.after, results[pair.sheet])
        name = f"{kind.title}, {pair.row}" if pair.row else kind.title
        made.append((name, pair_words(pair, units[pair.sheet], was, now)))
    return tuple(made)


def _sheets(file: JobFile, result: JobResult) -> Iterator[SheetPage]:
    parts = {s.id: s for s in file.sheets}
    for key, one in result.sheets:
        if one.begun:
            yield _sheet(parts[key], one)


def _sheet(part: SheetPart, result: Result) -> SheetPage:
    kind, unit = kind_of(result), unit_of(part)
    told = [f for f in result.findings if f.told]
    hung = [
        Hung(
            row=f.row or kind.title, before=None, after=f.in_band, words=kind.state(f, result),
            u=(f.u or 0.0) / f.tolerance if f.tolerance and f.tolerance > 0.0 else None,
            settled=f.state is not State.UNSETTLED,
        )
        for f in told
        if f.in_band is not None
    ]  # fmt: skip
    return SheetPage(
        title=kind.title,
        key=part.id,
        taken=f"{datetime.fromisoformat(part.taken):%-d %b %Y, %H:%M}" if part.taken else "",
        conditions=conditions_of(part),
        headline="".join(s.text for s in kind.headline(result, unit)),
        chart=plumb_chart(hung, _HALF) if hung else None,
        rows=tuple(
            (f.row or kind.title, kind.state(f, result), kind.because(f, result, unit))
            for f in told
        ),
        notes=kind.notes(result, unit),
    )


_TOLD: Final[Mapping[str, str]] = {
    "gauge": "gauge", "rule": "rule", "burst": "burst", "engine": "engine", "window": "window",
    "windows": "windows", "expected": "expected", "temperature_c": "temperature, °C",
    "current_a": "current, A", "mode": "mode", "duration_s": "duration, s", "nozzle": "nozzle",
    "after": "after",
}  # fmt: skip


def conditions_of(part: SheetPart) -> str:
    """How a sheet was taken, as its file says it: gauge, rule, burst, engine, limits."""
    data = part.model_dump(exclude_none=True, exclude_defaults=True, mode="json")
    said = [f"in {unit_of(part)}"] if unit_of(part) else []
    said += [f"{words} {_flat(data[name])}" for name, words in _TOLD.items() if data.get(name)]
    return "; ".join(said)


def _flat(value: object) -> str:
    """A part of the file in one line."""
    if isinstance(value, dict):
        return ", ".join(f"{k.replace('_', ' ')} {_flat(v)}" for k, v in value.items())
    if isinstance(value, list):
        return ", ".join(_flat(v) for v in value)
    return str(value).replace("_", " ")
