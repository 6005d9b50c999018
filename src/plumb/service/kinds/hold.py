"""The hold on the screen: pressure against time, the clock, the isolation board."""

import math
from decimal import Decimal
from typing import Any

from sqlalchemy import Connection

from plumb.core.capture.holding import HoldWatch
from plumb.core.capture.watch import Event, Moment, Watch
from plumb.core.measure.decision import State
from plumb.core.measure.quantities import rounded
from plumb.core.procedures.hold.analysis import DUE, KIND, HoldResult
from plumb.core.procedures.hold.isolation import SOURCES, STEPS, board
from plumb.core.procedures.kind import Setting
from plumb.jobfile.kinds.kind import factor_of
from plumb.service.kinds.capturing import Captured, Capturing
from plumb.service.kinds.entry import Figures, NewReading, point, word_of
from plumb.service.kinds.kind import ScreenKind
from plumb.service.kinds.knobs import ENGINE, SOURCE, Field, Get, Knob
from plumb.service.kinds.shown import as_noted, show
from plumb.service.views.hold import ForetoldView, HoldView, PlaceView, PointView, TryView
from plumb.store.records import WholeSheet


def _limits(get: Get) -> str:
    made = []
    if get("window.lost_at_most"):
        made.append(
            f"{get('window.lost_at_most')} {{unit}} lost in {_time(get('window.within_s'))}"
        )
    if get("window.left_at_least"):
        made.append(
            f"{get('window.left_at_least')} {{unit}} left after "
            f"{_time(get('window.after_s') or get('window.within_s'))}"
        )
    return ", ".join(made) or "unknown"


def _time(typed: str) -> str:
    seconds = Decimal(typed or 0)
    return f"{(seconds / 60).normalize():f} min" if seconds >= 120 else f"{typed} s"


def read(reading: NewReading, whole: WholeSheet) -> Figures:
    """A moment, or what came of a step of the isolation board."""
    if reading.word is None:
        return point(reading, whole)
    board(((reading.injector, reading.word),), whole.sheet.conditions.get("rail", "low"))
    return word_of(reading, [reading.word])


def begins_with(_connection: Connection, setting: Setting) -> dict[str, Any]:
    """A common rail is held on its high side."""
    return {"rail": "high"} if setting.fuel_system == "common_rail" else {}


def watch(whole: WholeSheet) -> Watch:
    """Everything that is due and was not read yet."""
    result_due = DUE[str(whole.sheet.conditions.get("rail", "low"))]
    limits = whole.sheet.conditions.get("window") or {}
    more_due = {float(limits[k]) for k in ("within_s", "after_s") if limits.get(k)}
    read_at = {r.at_s for r in whole.readings if r.shape == "point"}
    due = sorted(t for t in {*result_due, *more_due} if t not in read_at)
    return HoldWatch(step=whole.sheet.gauge_step, due=tuple(due))


def reads(event: Event, whole: WholeSheet) -> Captured | None:
    """A moment of the hold."""
    if not isinstance(event, Moment):
        return None
    figures = {"at_s": f"{event.at_s:g}", "value": as_noted(event.value, whole)}
    return Captured(figures=figures, begin=event.at_s, end=event.at_s)


def more(whole: WholeSheet, result: HoldResult, unit: str) -> dict[str, Any]:
    """The hold itself."""
    return {"hold": _hold_view(whole, result, unit), "measured": len(result.sheet.series)}


def _hold_view(whole: WholeSheet, result: HoldResult, unit: str) -> HoldView:
    factor = factor_of(unit)
    step = whole.sheet.gauge_step
    points = sorted((r for r in whole.readings if r.shape == "point"), key=lambda r: r.at_s or 0.0)
    begun = next((r for r in points if not r.at_s), None)
    last = points[-1].at_s if points else None
    return HoldView(
        points=[
            PointView(
                id=r.id, t_s=r.at_s or 0.0, value=(r.value or 0.0) / factor,
                shown=show(r.value or 0.0, unit, step), note=r.note,
            )
            for r in points
        ],
        limits=[
            ForetoldView(
                name=j.name, at_s=j.at_s, least_left=j.least_left / factor,
                value=j.then.value / factor, low=j.then.low / factor, high=j.then.high / factor,
                read=j.then.read, state=j.state.value, shown=show(j.then.value, unit, step),
            )
            for j in result.judged
        ],
        state=result.state.value,
        begun_at=begun.taken_at.isoformat() + "Z" if begun else "",
        due_s=result.due_after(last if last is not None else -1.0),
        line=_leak_words(result, unit),
        settled_early=result.early,
        tries=_tries(whole, result),
        places=_places(result),
        contradiction=result.board.contradiction,
    )  # fmt: skip


def _leak_words(result: HoldResult, unit: str) -> str:
    line = result.leak_line
    if line is None or result.rising:
        return ""
    k = line.k * 60.0 / math.sqrt(factor_of(unit))
    return f"Loses {rounded(k, 3)} √{unit} a minute, by {line.points} readings."


def _tries(whole: WholeSheet, result: HoldResult) -> list[TryView]:
    kept = {r.slot: r for r in whole.readings if r.shape == "word"}
    outcomes = dict(result.board.tried)
    proposal = result.board.next_step
    return [
        TryView(
            step=s.code,
            title=s.title,
            outcomes=list(s.leaves),
            outcome=outcomes.get(s.code, ""),
            reading_id=kept[s.code].id if s.code in kept else "",
            proposed=proposal is not None and proposal.step == s.code,
            minutes=s.minutes,
        )
        for s in STEPS[result.sheet.rail]
    ]


def _places(result: HoldResult) -> list[PlaceView]:
    struck = {s.source: s.because for s in result.board.struck}
    return [
        PlaceView(source=code, name=name, struck=code in struck, because=struck.get(code, ""))
        for code, name in SOURCES[result.sheet.rail].items()
    ]


HOLD = ScreenKind(
    code=KIND,
    begins_with=begins_with,
    knobs=(
        Knob(
            "Limit",
            (
                Field("window.lost_at_most", "Lost at most, {unit}"),
                Field("window.within_s", "within so many seconds"),
                Field("window.left_at_least", "Left at least, {unit}"),
                Field("window.after_s", "after so many seconds"),
                SOURCE,
            ),
            _limits,
            "Either limit, or both.",
            window=True,
        ),
        Knob(
            "Rail",
            (
                Field(
                    "rail", "Side", "choice", (("low", "low pressure"), ("high", "high pressure"))
                ),
            ),
            lambda get: (get("rail") or "low") + " pressure",
        ),
        ENGINE,
    ),
    read=read,
    capture=Capturing(
        words="Let the pump fill the rail, shut it off, hands off: each reading is taken when it is due.",
        watch=watch,
        reads=reads,
        kick="The pump is off now",
        rows=False,
    ),
    more=more,
    waits=lambda result: result.state is State.UNSETTLED,
    engine_c=lambda result: result.sheet.engine_c,
)
