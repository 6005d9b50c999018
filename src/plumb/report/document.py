"""The report as plain data: everything that its pages say, and nothing left to be worked out there."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from plumb.core.measure.quantities import rounded
from plumb.core.measure.spoken import COMPLAINTS
from plumb.core.measure.text import Advice, listed
from plumb.core.mend.bill import BillLine, bill
from plumb.core.mend.finish import ANSWERS, Finished
from plumb.core.mend.options import Prices
from plumb.core.mend.repairs import Repair
from plumb.core.mend.words import pair_words, swap_words
from plumb.core.procedures import kind_of
from plumb.core.weigh.words_diagnosis import lines
from plumb.core.weigh.words_verdict import ACTION_WORDS, CONDITION_WORDS, assumed, care, ruled_out
from plumb.jobfile.file import JobFile
from plumb.jobfile.finishing import SignedPart
from plumb.jobfile.results import unit_of
from plumb.report.charts import Chart
from plumb.report.curves import Recorded
from plumb.report.customer import before_after, to_watch, what_was_done, what_was_wrong
from plumb.report.sheets import SheetPage, sheet_pages
from plumb.report.written import day, distance


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
    recorded: Mapping[str, Sequence[Recorded]] | None = None,
) -> Report:
    """The report of a job from its file and what was made of it; ``recorded`` are traces by the sheet they were read to."""
    found, vehicle = done.found, file.vehicle
    signed = file.signed[-1] if file.signed else None
    return Report(
        title=_title(done),
        shop=shop,
        vehicle=vehicle.name,
        plate=vehicle.registration,
        distance=""
        if vehicle.distance_km is None
        else distance(vehicle.distance_km, vehicle.distance_unit),
        complaint=file.job.complaint,
        number=file.job.number,
        day=_day(signed, file),
        wrong=tuple(what_was_wrong(found)),
        done=tuple(what_was_done(file, done)),
        before_after=before_after(file, done),
        answers=tuple(
            f"{COMPLAINTS[w]}: {ANSWERS[a]}" for w, a in file.asked_after.items() if w in COMPLAINTS
        ),
        watch=tuple(to_watch(file, done)),
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
        sheets=tuple(sheet_pages(file, done.now, recorded or {})),
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


def _day(signed: SignedPart | None, file: JobFile) -> str:
    at = signed.at if signed and not file.job.dated_because else file.job.opened
    return day(at or "")


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


def _now(label: str, condition: str, done: Finished) -> str:
    """How an injector is now; who was worked on and not read since is told as that."""
    worked_on = any(label in r.places for r in done.repairs)
    if worked_on and not any(p.injector == label for p in done.pairs):
        return "not measured since"
    return CONDITION_WORDS[condition]


def _verdicts(done: Finished) -> tuple[tuple[str, str, str, str], ...]:
    """Injector, what it was found to be, what to do, and how it is now."""
    now = dict(done.now.verdicts)
    return tuple(
        (
            label, CONDITION_WORDS[v.condition], ACTION_WORDS[v.action],
            _now(label, now[label].condition, done) if done.repairs and label in now else "",
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
