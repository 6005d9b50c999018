"""A job on the screen from its verdict on: ways, repairs, before and after, answers, signatures."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any, Final

from plumb.core.causes.fault import ENGINE, FEED, INJECTOR
from plumb.core.causes.sighting import OWN_WORDS
from plumb.core.causes.table import faults_on
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import KM_PER_MILE, plain
from plumb.core.measure.spoken import COMPLAINTS
from plumb.core.mend.after import CHANGES, Pair
from plumb.core.mend.cured import Cured
from plumb.core.mend.finish import Finished
from plumb.core.mend.options import Option, options_for
from plumb.core.mend.repairs import DONE, ENGINE_ONLY
from plumb.core.mend.words import (
    bob_words,
    chance_words,
    chosen_words,
    pair_words,
    repair_words,
    swap_words,
    way_words,
)
from plumb.core.procedures import BY_CODE, Result
from plumb.core.weigh.job import JobResult
from plumb.core.weigh.verdict import DOES_NOTHING
from plumb.core.weigh.words_faults import named
from plumb.core.weigh.words_verdict import ACTION_WORDS, CONDITION_WORDS
from plumb.jobfile.exact import loads
from plumb.service.kinds.kind import CORRIDOR
from plumb.service.stored.finishing import part_of_record, prices_of, repair_of, sightings_of
from plumb.service.views.finishing import (
    AnswerView,
    CanBeFoundView,
    ChoiceView,
    DoneView,
    DueView,
    FinishingView,
    PairView,
    PartView,
    RepairView,
    SightingView,
    SignatureView,
    ThingView,
    WayView,
)
from plumb.store.finishing import ChoiceRecord, Kept, SignatureRecord
from plumb.store.records import InjectorRecord, VehicleRecord, WholeSheet

_NOT_ON: Final = {"reshimmed": {"port", "throttle_body", "direct", "common_rail"}}
"""What cannot be done on a fuel system."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Charged:
    """What the shop charges for a job (as typed), and how likely cleaning is to cure."""

    prices: Mapping[str, Any] = field(default_factory=dict)
    chances: Mapping[str, Cured] = field(default_factory=dict)


def finishing_view(
    done: Finished,
    kept: Kept,
    charged: Charged,
    engine: tuple[VehicleRecord, Sequence[InjectorRecord]],
    sheets: Sequence[WholeSheet],
) -> FinishingView:
    """Everything that a job's screens show of it from the verdict on; ``engine`` is whose it is."""
    vehicle, injectors = engine
    prices = prices_of(charged.prices)
    units = {w.sheet.key: w.sheet.unit for w in sheets}
    results = dict(done.now.sheets)
    labels = {i.id: i.label for i in injectors}
    return FinishingView(
        currency=prices.currency,
        prices={k: v if k == "currency" else plain(v) for k, v in charged.prices.items()},
        missing=list(prices.missing()),
        options=[_way(o) for o in options_for(done.still_open, prices, charged.chances)],
        choices=[_choice(c, vehicle.distance_unit) for c in kept.choices],
        can_be_done=_can_be_done(done.found.setting.fuel_system),
        engine=_of_the_engine(done.found),
        sightings=_sightings(kept, labels),
        can_be_found=_can_be_found(done.found),
        repairs=_repairs(kept, labels),
        pairs=[_pair(p, units[p.sheet], results) for p in done.pairs],
        swaps=[swap_words(s) for s in done.swaps],
        due=_due(done, sheets),
        things=_things(done, kept),
        answers=_answers(done.found, kept),
        over=done.over,
        reason_for=reason_for(done, kept),
        signatures=[_signature(s, done) for s in kept.signatures],
    )


def distance_shown(km: str | None, unit: str) -> str:
    """A distance that is kept in km in the vehicle's unit, without its name; empty for none."""
    if km is None:
        return ""
    kept = Decimal(km)
    return plain(kept if unit != "mi" else round(kept / KM_PER_MILE, 1).normalize() + 0)


def _way(option: Option) -> WayView:
    cost = option.cost
    return WayView(
        option=option.option,
        title=way_words(option),
        injectors=list(option.injectors),
        cost=None if cost is None else round(cost.expected, 2),
        cost_low=None if cost is None else round(cost.low, 2),
        cost_high=None if cost is None else round(cost.high, 2),
        hours=round(option.hours, 2),
        hours_low=round(option.hours_low, 2),
        hours_high=round(option.hours_high, 2),
        second_visit=round(100.0 * option.second_visit, 1),
        chance=chance_words(option.chance) if option.chance else "",
        because=option.because,
        risk=option.risk,
    )


def _choice(choice: ChoiceRecord, unit: str) -> ChoiceView:
    return ChoiceView(
        title=chosen_words(choice.way, choice.injectors),
        option=choice.way,
        reason=choice.reason,
        by=choice.by_whom,
        at=choice.at_typed,
        look_on=choice.look_on.isoformat() if choice.look_on else "",
        look_at=distance_shown(choice.look_km_typed, unit),
    )


def _can_be_done(fuel_system: str) -> list[DoneView]:
    return [
        DoneView(code=code, words=words)
        for code, words in DONE.items()
        if code != ENGINE_ONLY and fuel_system not in _NOT_ON.get(code, ())
    ]


def _of_the_engine(found: JobResult) -> list[DoneView]:
    """Faults of the engine that can be noted as put right: those that were found first.

    Those of a cylinder are among them where one was found.
    """
    mine = {
        c.fault.code: named(c.fault, (c.place,) if c.place else ())
        for c in found.diagnosis.found
        if c.fault.of != INJECTOR
    }
    rest = {
        f.code: f.words
        for f in faults_on(found.setting.fuel_system)
        if f.of in {ENGINE, FEED} and f.code not in mine
    }
    return [DoneView(code=code, words=words) for code, words in {**mine, **rest}.items()]


def _sightings(kept: Kept, labels: Mapping[int, str]) -> list[SightingView]:
    found = zip(kept.sightings, sightings_of(kept, labels), strict=True)
    return [
        SightingView(
            id=record.id, injector=s.place, how=s.how, by=record.by_whom, at=record.at_typed,
            words=named(s.as_fault(), (s.place,) if s.place else ()),
        )
        for record, s in found
    ]  # fmt: skip


def _can_be_found(found: JobResult) -> list[CanBeFoundView]:
    """Every fault of this engine that a person can find; words of one's own come last."""
    shared = {s.fault.code: s.fault for s in found.weighed.shared}
    faults = (*shared.values(), *found.weighed.states)
    return [
        CanBeFoundView(
            code=f.code, words="in my own words" if f.code == OWN_WORDS else f.words,
            at_one=f.of != ENGINE,
        )
        for f in sorted(faults, key=lambda f: f.code == OWN_WORDS)
    ]  # fmt: skip


def _repairs(kept: Kept, labels: Mapping[int, str]) -> list[RepairView]:
    parts = {p.repair_id: p for p in kept.parts}
    made = []
    for record in kept.repairs:
        repair = repair_of(record, labels, parts)
        part = parts.get(record.id)
        made.append(
            RepairView(
                id=record.id, injector=repair.injector, done=record.done, words=repair_words(repair),
                by=record.by_whom, at=record.at_typed, note=record.note,
                part=part_view(part_of_record(part)) if part else None,
            )
        )  # fmt: skip
    return made


def part_view(part: Any) -> PartView:  # noqa: ANN401  a part of the core
    """A part for a screen."""
    return PartView(
        make=part.make, number=part.number, serial=part.serial, mark=part.mark, note=part.note,
        code=part.code,
    )  # fmt: skip


def _pair(pair: Pair, unit: str, results: Mapping[str, Result]) -> PairView:
    kind = BY_CODE[results[pair.sheet].kind]
    was = kind.state(pair.before, results[pair.before_sheet])
    now = kind.state(pair.after, results[pair.sheet])
    before_at, before_u = _hangs(pair.before)
    after_at, after_u = _hangs(pair.after)
    return PairView(
        row=pair.row or "engine",
        kind=kind.code,
        title=kind.title,
        before_sheet=pair.before_sheet,
        sheet=pair.sheet,
        before_at=before_at,
        before_u=before_u,
        after_at=after_at,
        after_u=after_u,
        before_words=bob_words(pair.before, unit) or was,
        after_words=bob_words(pair.after, unit) or now,
        word=pair.word,
        word_text=CHANGES[pair.word],
        text=pair_words(pair, unit, was, now),
    )


def _hangs(finding: Finding) -> tuple[float | None, float | None]:
    """Where its bob hangs, in tenths of its own corridor, whatever the sheet measures."""
    at = finding.in_band
    if at is None or not finding.tolerance:
        return None, None
    return round(CORRIDOR * at, 2), round(CORRIDOR * (finding.u or 0.0) / finding.tolerance, 2)


def _due(done: Finished, sheets: Sequence[WholeSheet]) -> list[DueView]:
    begun = {(w.sheet.kind, str(w.sheet.conditions.get("after", ""))): w.sheet.key for w in sheets}
    return [
        DueView(
            kind=d.kind, title=BY_CODE[d.kind].title, injectors=list(d.injectors),
            after=d.before_sheet, key=begun.get((d.kind, d.before_sheet), ""),
        )
        for d in done.due
    ]  # fmt: skip


def _things(done: Finished, kept: Kept) -> list[ThingView]:
    noted = {t.what: t for t in kept.things}
    made = []
    for thing in done.things:
        mine = noted.get(thing.code)
        state = "" if mine is None else "done" if mine.done else "aside"
        made.append(
            ThingView(
                what=thing.code, words=thing.words, state=state,
                reason=mine.reason if mine else "", by=mine.by_whom if mine else "",
            )
        )  # fmt: skip
    return made


def _answers(found: JobResult, kept: Kept) -> list[AnswerView]:
    answers = {a.word: a.answer for a in kept.answers}
    return [
        AnswerView(word=w, words=COMPLAINTS[w], answer=answers.get(w, ""))
        for w in found.diagnosis.words
    ]


def reason_for(done: Finished, kept: Kept) -> str:
    """Why closing asks for a reason: what is not as it should be at the end of a job."""
    if done.due:
        titles = ", ".join(dict.fromkeys(BY_CODE[d.kind].title for d in done.due))
        return f"not measured again after the repair: {titles}"
    if done.left:
        return f"still there: {', '.join(COMPLAINTS[w] for w in done.left)}"
    waiting = any(c.way == "wait" for c in kept.choices)
    flagged = [x for x, v in done.now.verdicts if v.action not in DOES_NOTHING]
    if flagged and not waiting and not done.over:
        return f"nothing was done about {', '.join(flagged)}"
    open_ = [t.words for t in done.things if t.code not in {n.what for n in kept.things}]
    return f"not ticked: {'; '.join(open_)}" if open_ else ""


def _signature(record: SignatureRecord, done: Finished) -> SignatureView:
    decided = loads(record.result) if record.result else {}
    return SignatureView(
        by=record.by_whom,
        at=record.at_typed,
        reason=record.reason,
        hand=record.hand or "",
        version=record.version,
        says=str(decided.get("says", "")),
        differs=differs(decided, done),
    )


def differs(decided: Mapping[str, Any], done: Finished) -> str:
    """What this version would decide otherwise than was signed, in words; empty where it agrees."""
    signed = {v["injector"]: (v["condition"], v["action"]) for v in decided.get("verdicts", ())}
    now = {label: (v.condition, v.action) for label, v in done.now.verdicts}
    told = [
        f"{label}: {_decision(signed[label])} then, {_decision(now[label])} today"
        for label in signed
        if label in now and signed[label] != now[label]
    ]
    return "; ".join(told)


def _decision(of: tuple[str, str]) -> str:
    condition, action = of
    return f"{CONDITION_WORDS.get(condition, condition)}, {ACTION_WORDS.get(action, action)}"
