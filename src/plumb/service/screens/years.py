"""A vehicle over the years on the screen: each place and each part as a line, with slopes in words."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Final

from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import KM_PER_MILE, KPA_PER
from plumb.core.measure.readings import Window
from plumb.core.measure.uncertainty import KNOWN_TO
from plumb.core.mend.places import Stay
from plumb.core.mend.repairs import Repair
from plumb.core.mend.words import repair_words
from plumb.core.procedures import BY_CODE, AnyKind, Result
from plumb.core.years.drift import Drift, Point, drift
from plumb.jobfile.kinds.kind import factor_of
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.views.years import KnotOnLineView, PointView, QuantityView, SeriesView, SlopeView

_YEAR_S: Final = 365.25 * 86_400.0
_THOUSAND: Final = 1000.0
_MONTHS: Final = 12.0
_PERCENT: Final = 100.0
_CORE_UNIT: Final = "kPa"
_FAR_OFF: Final = 120.0
"""Beyond so many months, or thousands of km, nobody foretells anything; our own choice."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """One figure of a place: when and at which distance; value, u and window in the core's unit.

    ``unit`` is what it was measured in: figures of one quantity are shown in one unit, whatever theirs.
    """

    place: str
    unit: str
    at: datetime
    distance: float | None
    value: float
    u: float
    low: float | None
    high: float | None
    job: str
    source: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """A sheet of some job as the years see it."""

    job: str
    at: datetime
    distance: float | None
    unit: str
    result: Result


def unit_of(kind: AnyKind, unit: str) -> str:
    """The unit that a quantity is shown in: per cent where shares are followed."""
    return "%" if kind.tracks == "share" else unit


def told_of(kind: AnyKind, sheet: Measured, finding: Finding) -> Told | None:
    """What a finding adds to the line of its place; None where it has no figure."""
    if not finding.injector or not finding.read or finding.deviation is None:
        return None
    share = kind.tracks == "share"
    reference = finding.reference or 0.0
    # The corridor of the sheet's own screen: the window where one was typed, and its open side.
    corridor = SCREEN_KINDS[kind.code].scale(sheet.result, _CORE_UNIT)
    low, high = corridor.low, corridor.high
    if corridor.relative and not share:
        low, high = (None if x is None else reference * (1.0 + x / _PERCENT) for x in (low, high))
    if share:
        value, u = _PERCENT * finding.deviation, _PERCENT * (finding.u or 0.0)
    else:
        per = abs(reference) if finding.scale.relative else 1.0
        value = finding.value or 0.0
        u = (finding.u or 0.0) * per if finding.u_value is None else finding.u_value * per
    return Told(
        place=finding.injector, unit=unit_of(kind, sheet.unit), at=sheet.at, distance=sheet.distance,
        value=value, u=u, low=low, high=high, job=sheet.job,
    )  # fmt: skip


def quantities(
    sheets: Sequence[Measured],
    from_paper: Mapping[str, Sequence[Told]],
    sat: Sequence[Stay],
    names: Mapping[str, str],
    repairs: Sequence[Repair],
    distance_unit: str,
) -> list[QuantityView]:
    """Every quantity that was measured more than never, in the order of the work."""
    made = []
    for kind in sorted(BY_CODE.values(), key=lambda k: not k.compares):
        mine = [s for s in sheets if s.result.kind == kind.code]
        told = [t for s in mine for f in s.result.findings if (t := told_of(kind, s, f))]
        told += from_paper.get(kind.code, ())
        if not kind.tracks:
            continue
        told.sort(key=lambda t: t.at)
        title = kind.head or kind.title
        lines = list(_by_measure(told))
        for alike in lines:
            # As the newest sheet has it; a line that is all from paper as the newest of these.
            unit = next((t for t in reversed(alike) if t.job), alike[-1]).unit
            shown = [_in_unit(t, unit) for t in alike]
            made.append(
                QuantityView(
                    kind=kind.code, unit=unit, title=title if len(lines) == 1 else f"{title}, {unit}",
                    share=kind.tracks == "share",
                    places=list(_by_place(shown, repairs, distance_unit)),
                    parts=list(_by_part(shown, sat, names, distance_unit)),
                )
            )  # fmt: skip
    return made


def _by_measure(told: Iterable[Told]) -> Iterator[list[Told]]:
    """What one line may join: pressures whatever their unit, else only what has the same unit."""
    made: dict[str, list[Told]] = {}
    for one in told:
        made.setdefault("pressure" if one.unit in KPA_PER else one.unit, []).append(one)
    yield from made.values()


def _in_unit(told: Told, unit: str) -> Told:
    per = factor_of(unit)
    return replace(
        told, unit=unit, value=told.value / per, u=told.u / per,
        low=None if told.low is None else told.low / per,
        high=None if told.high is None else told.high / per,
    )  # fmt: skip


def _by_place(
    told: Sequence[Told], repairs: Sequence[Repair], distance_unit: str
) -> Iterator[SeriesView]:
    for place in dict.fromkeys(t.place for t in told):
        knots = [
            KnotOnLineView(at=r.at.isoformat(), words=repair_words(r))
            for r in repairs
            if place in r.places and r.at is not None and r.done != "nothing"
        ]
        mine = [t for t in told if t.place == place]
        # What was changed begins anew: a slope goes over no repair.
        last = max((r.at for r in repairs if place in r.places and r.at), default=None)
        since = [t for t in mine if last is None or t.at > last]
        yield _series(place, place, mine, since, knots, distance_unit)


def _by_part(
    told: Sequence[Told], sat: Sequence[Stay], names: Mapping[str, str], distance_unit: str
) -> Iterator[SeriesView]:
    """The history follows the part: its figures from every place that it sat in."""
    mine: dict[str, list[Told]] = {}
    for one in told:
        stay = next((s for s in sat if s.place == one.place and s.there(one.at)), None)
        if stay is not None:
            mine.setdefault(stay.part, []).append(one)
    for part, figures in mine.items():
        place = next((s.place for s in sat if s.part == part and s.until is None), "")
        yield _series(names.get(part, part), place, figures, figures, [], distance_unit)


def _series(
    name: str,
    place: str,
    told: Sequence[Told],
    since: Sequence[Told],
    knots: list[KnotOnLineView],
    distance_unit: str,
) -> SeriesView:
    last = told[-1]
    window = Window(low=last.low, high=last.high)
    by_date = drift([Point(at=_years(t.at), value=t.value, u=t.u) for t in since], window)
    far = [t for t in since if t.distance is not None]
    by_distance = drift(
        [Point(at=(t.distance or 0.0) / _THOUSAND, value=t.value, u=t.u) for t in far], window
    )
    return SeriesView(
        name=name,
        place=place,
        points=[
            PointView(
                at=t.at.isoformat(), distance=t.distance, value=round(t.value, 4), u=round(t.u, 4),
                job=t.job, source=t.source,
            )
            for t in told
        ],
        repairs=knots,
        low=last.low,
        high=last.high,
        change=round(by_date.change, 4) if by_date else None,
        change_u=round(by_date.u, 4) if by_date else None,
        sliding=bool(by_date and by_date.sliding),
        by_date=_slope(by_date, _MONTHS, "months"),
        by_distance=_slope(by_distance, _THOUSAND, distance_unit),
    )  # fmt: skip


def _years(at: datetime) -> float:
    return at.replace(tzinfo=at.tzinfo or UTC).timestamp() / _YEAR_S


def _slope(made: Drift | None, scale: float, unit: str) -> SlopeView | None:
    """A slope with when it leaves the window, counted in months, or in the vehicle's distance."""
    if made is None or made.slope is None or made.slope_low is None or made.slope_high is None:
        return None
    return SlopeView(
        slope=round(made.slope, 4), low=round(made.slope_low, 4), high=round(made.slope_high, 4),
        leaves=_leaves(made, scale, unit),
    )  # fmt: skip


def _leaves(made: Drift, scale: float, unit: str) -> str:
    if made.leaves_in is None or not made.sliding:
        return ""
    expected, soonest, latest = made.leaves_in
    if expected * scale > _FAR_OFF * (1.0 if unit == "months" else _THOUSAND):
        return ""
    most = "or never" if latest is None else f"to {_round(latest * scale)}"
    return (
        f"at this slope it leaves its band in about {_round(expected * scale)} {unit} "
        f"({_round(soonest * scale)} {most}, {KNOWN_TO})"
    )


def _round(value: float) -> str:
    """To two digits: nobody knows it better."""
    return f"{float(f'{value:.2g}'):,.0f}".replace(",", "\u2009")


def distance_of(typed: str | None, unit: str) -> float | None:
    """A distance that is kept in km as the vehicle counts it."""
    if typed is None:
        return None
    return float(typed) / (float(KM_PER_MILE) if unit == "mi" else 1.0)
