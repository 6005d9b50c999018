"""A job on the screen: its vehicle, its route, its next step, its verdict."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

from plumb.core.causes.common import Learnt
from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.finding import Finding
from plumb.core.measure.step import AFTER_FIX
from plumb.core.measure.text import listed
from plumb.core.mend.finish import Finished
from plumb.core.mend.told import sentence_of
from plumb.core.mend.words import ordered_words
from plumb.core.procedures import AnyKind, Result, kind_of
from plumb.core.procedures import route as route_of
from plumb.core.weigh.facts import heard, newest
from plumb.core.weigh.job import JobResult
from plumb.core.weigh.suspicions import NOT_RULED_OUT
from plumb.core.weigh.verdict import Verdict
from plumb.core.weigh.words_codes import about_codes
from plumb.core.weigh.words_next import before_condemning, lean_first
from plumb.core.weigh.words_verdict import (
    ACTION_WORDS,
    CONDITION_WORDS,
    TONE,
    assumed,
    care,
    one_or_all,
    ruled_out,
)
from plumb.jobfile.kinds import FILE_KINDS
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.kinds.kind import CORRIDOR, At
from plumb.service.screens.diagnosis import diagnosis_view
from plumb.service.screens.finishing import (
    Charged,
    distance_shown,
    finishing_view,
)
from plumb.service.screens.sheet import again_of
from plumb.service.stored.analysis import weighed
from plumb.service.stored.finishing import after_of
from plumb.service.stored.parts import under
from plumb.service.views.job import (
    InjectorView,
    JobView,
    KnotView,
    OrderedView,
    RepeatView,
    VehicleView,
    VerdictRowView,
    VerdictView,
)
from plumb.service.views.next import next_view
from plumb.service.views.sheet import AdviceView, SpanView
from plumb.store.finishing import Kept
from plumb.store.records import InjectorRecord, JobRecord, VehicleRecord, WholeSheet

_HOT_C: Final = 60.0
"""Above this an engine is no longer cold; common practice, no source."""


def vehicle_view(vehicle: VehicleRecord, injectors: Sequence[InjectorRecord]) -> VehicleView:
    """A vehicle for a screen."""
    return VehicleView(
        id=vehicle.id,
        name=vehicle.name,
        registration=vehicle.registration,
        fuel_system=vehicle.fuel_system,
        injectors=[
            InjectorView(
                label=i.label, cylinder=i.cylinder, bank=i.bank, feed=i.feed, set_name=i.set_name
            )
            for i in injectors
        ],
        cylinders=vehicle.cylinders or len({i.cylinder for i in injectors if i.cylinder}) or 1,
        firing_order=list(vehicle.firing_order or ()),
        boosted=vehicle.boosted,
        distance_unit=vehicle.distance_unit,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Around:
    """What a job is shown with beside its sheets.

    ``common`` is how common faults are here, ``kept`` what was noted from the verdict on, ``charged``
    what the shop charges.
    """

    common: Mapping[str, Learnt]
    kept: Kept
    charged: Charged


def job_view(
    job: JobRecord,
    vehicle: VehicleRecord,
    injectors: tuple[InjectorRecord, ...],
    sheets: list[WholeSheet],
    thresholds: Thresholds,
    around: Around,
) -> JobView:
    """A job with its vehicle, its route, what comes next and what it all says."""
    common = around.common
    done = weighed(job, vehicle, injectors, sheets, thresholds, common, around.kept)
    result, step = done.now, done.next_step
    there = newest(result.sheets)
    on = there[step.kind][1] if step and step.kind in there else None
    return JobView(
        number=job.number,
        opened=job.opened_typed,
        dated_because=job.dated_because or "",
        ordered=ordered_view(job),
        by=str(under(job.extras, "job").get("x-by", "")),
        closed=job.closed_at is not None,
        complaint=job.complaint,
        codes=list(job.codes),
        version=job.version,
        distance_km=job.distance_typed,
        distance=_distance(job, vehicle),
        vehicle=vehicle_view(vehicle, injectors),
        route=route(job, vehicle, sheets, done),
        next=next_view(
            step, on, result.setting, result.alternatives if step is result.next_step else ()
        ),
        diagnosis=diagnosis_view(done.still_open, common),
        repeat=_repeat(vehicle, result),
        verdict=verdict_view(injectors, sheets, done),
        finishing=finishing_view(done, around.kept, around.charged, (vehicle, injectors), sheets),
    )


def ordered_view(job: JobRecord) -> OrderedView | None:
    """The parts that an open job waits for; None where it waits for none."""
    if not job.ordered or job.closed_at is not None:
        return None
    what, due = str(job.ordered["what"]), str(job.ordered.get("due") or "")
    return OrderedView(what=what, due=due, words=ordered_words(what, due))


def untold(whole: JobView, bare: JobView) -> JobView:
    """What a learner sees of a job: all that was done; what it says only as of the ``bare`` one, nothing measured."""
    return replace(
        whole,
        route=[replace(k, state="open", sub="") if k.state == "next" else k for k in whole.route],
        next=None,
        diagnosis=bare.diagnosis,
        repeat=None,
        verdict=bare.verdict,
        finishing=bare.finishing,
    )


def _distance(job: JobRecord, vehicle: VehicleRecord) -> str:
    """The distance in the vehicle's unit, without its unit; empty where none was noted."""
    return distance_shown(job.distance_typed, vehicle.distance_unit)


def _repeat(vehicle: VehicleRecord, result: JobResult) -> RepeatView | None:
    """The sheet to do again after the fix: the one that compared the injectors.

    Where some are to be cleaned it is the first that shows them off, and it is one after cleaning.
    """
    there = newest(result.sheets)
    done = [k for k in route_of(vehicle.fuel_system) if k.compares and k.code in there]
    if not done:
        return None
    dirty = [label for label, v in result.verdicts if v.action == "clean_and_repeat"]
    off = {k.code: {f.injector for f in there[k.code][1].findings if not f.good} for k in done}
    kind = next((k for k in done if set(dirty) & off[k.code]), done[0])
    after = "after_cleaning" if dirty and "when" in FILE_KINDS[kind.code].model.model_fields else ""
    reason = f"after cleaning {listed(dirty)}" if dirty else "after the fix"
    return RepeatView(
        kind=kind.code,
        after=there[kind.code][0],
        injectors=dirty,
        when=after,
        reason=reason,
        title=f"Repeat {reason}",
    )


def route(
    job: JobRecord, vehicle: VehicleRecord, sheets: list[WholeSheet], done: Finished
) -> list[KnotView]:
    """The knots in working order: sheets that are there, and those that could be begun.

    What nobody needs yet is left out: the flow bench and the loaded coil test until they are asked
    for or begun; once the supply has failed, nothing behind it is offered as next.
    """
    aside = {s["kind"]: str(s["reason"]) for s in job.set_aside or ()}
    result, step = done.now, done.next_step
    by_key = dict(result.sheets)
    wanted = step.kind if step else ""
    knots: list[KnotView] = []
    for kind in route_of(vehicle.fuel_system):
        code = kind.code
        mine = [w for w in sheets if w.sheet.kind == code]
        knots += [_there(w, by_key[w.sheet.key], done, aside) for w in mine]
        if not mine and (not kind.optional or code == wanted or code in aside):
            state = "aside" if code in aside else "next" if code == wanted else "open"
            sub = aside.get(code, _why_cold(kind, result) if state == "open" else "next")
            knots.append(
                KnotView(sheet_id=0, key="", kind=code, title=kind.title, sub=sub, state=state)
            )
    return knots


def _why_cold(kind: AnyKind, result: JobResult) -> str:
    """A word on a knot that waits: what this engine cannot do, cold work on a hot engine."""
    if not kind.can_be_done(result.setting):
        return "needs an engine that idles"
    if not kind.effort.cold:
        return ""
    noted = [SCREEN_KINDS[r.kind].engine_c(r) for _, r in result.sheets]
    hot = any(c is not None and c > _HOT_C for c in noted)
    return "engine hot: corrected, or tomorrow" if hot else "cold engine"


def _there(
    whole: WholeSheet,
    sheet: Result,
    done: Finished,
    aside: Mapping[str, str],
) -> KnotView:
    """A sheet that is there; one that was opened and set aside before anything was noted is aside."""
    step, result = done.next_step, done.now
    # What an older sheet still asked for is settled by the one that repeats it.
    speaks = whole.sheet.key in result.speaking().values()
    # After a repair a sheet of its own is asked for, and the one before it is done.
    anew = step is not None and step.doubt == whole.sheet.key and step.reason == AFTER_FIX
    asked = speaks and step is not None and step.kind == whole.sheet.kind and not anew
    # After a repair only those are read that were worked on.
    waits = speaks and not after_of(whole) and SCREEN_KINDS[sheet.kind].waits(sheet)
    state = "now" if not sheet.begun or waits or asked else "done"
    if not sheet.begun and sheet.kind in aside:
        state = "aside"
    return KnotView(
        sheet_id=whole.sheet.id,
        key=whole.sheet.key,
        kind=whole.sheet.kind,
        title=kind_of(sheet).title,
        sub=aside[sheet.kind] if state == "aside" else knot_words(whole, sheet),
        state=state,
        again=again_of(whole),
        empty=not whole.readings and not sheet.begun,
    )


def knot_words(whole: WholeSheet, sheet: Result) -> str:
    """A line under a knot: how far it is, or what it says."""
    if not sheet.begun:
        return "nothing noted yet"
    if not SCREEN_KINDS[sheet.kind].flows:
        spans = kind_of(sheet).headline(sheet, whole.sheet.unit)
        text = "".join(s.text for s in spans).rstrip(".")
        return text.split(":")[0] if len(text) > 44 else text
    measured = sum(1 for f in sheet.findings if f.read)
    unsettled = sum(1 for f in sheet.findings if f.state is State.UNSETTLED)
    out = {State.LOW, State.HIGH, State.NO_RESPONSE, State.SPLIT}
    leaning = sum(1 for f in sheet.findings if f.state in out)
    text = f"{measured} of {len(whole.injectors)}"
    if unsettled:
        text += f", {unsettled} to repeat"
    return text + (f", {leaning} out" if leaning else "")


def verdict_view(
    injectors: tuple[InjectorRecord, ...],
    sheets: list[WholeSheet],
    done: Finished,
) -> VerdictView:
    """The verdict screen: sentence, matrix, ruled out, assumed."""
    result = done.now
    there = newest(result.sheets)
    kinds = [k for k, s in SCREEN_KINDS.items() if not s.kind.of_engine and k in there]
    flow = next((k for k in kinds if SCREEN_KINDS[k].flows), None)
    verdicts = dict(result.verdicts)
    told = _Told(result, {w.sheet.key: w.sheet.unit for w in sheets})
    return VerdictView(
        sentence=[SpanView(text=s.text, tone=s.tone) for s in sentence_of(done)],
        sub=_sub(sheets, done),
        columns=[SCREEN_KINDS[k].kind.head or SCREEN_KINDS[k].kind.title for k in kinds],
        chart=kinds.index(flow) if flow else None,
        corridor_percent=SCREEN_KINDS[flow].corridor(there[flow][1]) if flow else CORRIDOR,
        rows=[
            _verdict_row(i, verdicts[i.label], told, (kinds, flow))
            for i in injectors
            if i.label in verdicts
        ],
        causes=[words for _, words in result.causes],
        ruled_out=[AdviceView(title=a.title, text=a.text) for a in ruled_out(result)],
        assumed=list(assumed(result)),
        advice=_advice(result, done.found),
        care=care(result.setting.fuel_system),
    )


class _Told:
    """What the sheets tell of one injector: of each kind the newest on which it was read."""

    def __init__(self, result: JobResult, units: Mapping[str, str]) -> None:
        self.result = result
        self._units = units
        self._there = newest(result.sheets)
        self._heard = heard(result.sheets)
        self._by_key = dict(result.sheets)

    def _on(self, kind: str, label: str) -> tuple[str, Result, Finding | None]:
        key = self._heard.get((kind, label), self._there[kind][0])
        sheet = self._by_key[key]
        return key, sheet, next((f for f in sheet.findings if f.injector == label), None)

    def cell(self, kind: str, label: str) -> str:
        """What a kind of sheet shows of an injector, in a word or a figure."""
        _, sheet, finding = self._on(kind, label)
        return "" if finding is None else SCREEN_KINDS[kind].cell(finding, sheet)

    def hangs(self, kind: str, label: str) -> At:
        """Where its bob hangs, and how well that is known."""
        key, sheet, finding = self._on(kind, label)
        if finding is None:
            return None, None
        return SCREEN_KINDS[kind].hangs(finding, sheet, self._units[key])


def _advice(result: JobResult, found: JobResult) -> list[AdviceView]:
    """What stands before condemning, and whether one goes or the set."""
    said = (
        *lean_first(result.verdicts, result.setting),
        *before_condemning(result.verdicts, result.setting.fuel_system),
    )
    made = [AdviceView(title=a.title, text=a.text) for a in said]
    # A code was set by what was there before the repair, whatever is left now.
    made += [AdviceView(title=a.title, text=a.text) for a in about_codes(found)]
    text = one_or_all(result.verdicts)
    return [*made, AdviceView(title="One or the set", text=text)] if text else made


def _sub(sheets: list[WholeSheet], done: Finished) -> str:
    result = done.now
    count = sum(len(w.readings) for w in sheets)
    conditions = [v.condition for _, v in result.verdicts]
    open_, unread = conditions.count("not_settled"), conditions.count("not_measured")
    begun = sum(1 for _, r in result.sheets if r.begun)
    # A repeat that a sheet still asks for is not done either, though nobody hangs in doubt.
    after = {w.sheet.key for w in sheets if after_of(w)}
    more = (done.next_step and done.next_step.measures) or any(
        SCREEN_KINDS[r.kind].waits(r)
        for key, r in newest(result.sheets).values()
        if key not in after
    )
    rest = "more to measure" if more else "nothing left unsettled"
    counts = [f"{open_} not settled"] * (open_ > 0) + [f"{unread} not measured"] * (unread > 0)
    left = ", ".join(counts) or rest
    sheets_ = f"{begun} sheet{'s' * (begun != 1)}"
    return f"{sheets_}, {count} reading{'s' * (count != 1)}, {left}"


def _verdict_row(
    injector: InjectorRecord,
    verdict: Verdict,
    told: _Told,
    shown: tuple[Sequence[str], str | None],
) -> VerdictRowView:
    """One injector across the sheets; ``shown`` are the kinds of the columns, and the one drawn."""
    label, (kinds, flow) = injector.label, shown
    at, u_at = told.hangs(flow, label) if flow else (None, None)
    return VerdictRowView(
        injector=label,
        bank=injector.bank,
        feed=injector.feed,
        cells=[told.cell(kind, label) for kind in kinds],
        at=at,
        u_at=u_at,
        tone=TONE.get(verdict.condition, ""),
        condition=verdict.condition,
        condition_words=CONDITION_WORDS[verdict.condition],
        action=verdict.action,
        action_words=ACTION_WORDS[verdict.action],
        because=verdict.because,
        evidence=[f.text for f in told.result.facts_about(label)],
        not_ruled_out=[NOT_RULED_OUT[c] for c in verdict.not_ruled_out],
        ruled_out=[NOT_RULED_OUT[c] for c in verdict.ruled_out],
        rows=list(verdict.fired),
        contradictions=[c.text for c in verdict.contradictions],
        can_be_accepted=verdict.can_be_accepted,
        accepted=verdict.accepted,
    )
