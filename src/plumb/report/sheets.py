"""The pages of the workshop: each sheet with how it was taken, what was read, and what that says."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Final

from pydantic import BaseModel

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import KPA_PER, plain
from plumb.core.measure.text import percent
from plumb.core.procedures import AnyKind, Result, kind_of
from plumb.core.weigh.job import JobResult
from plumb.jobfile.file import JobFile
from plumb.jobfile.models import SheetPart
from plumb.jobfile.results import unit_of
from plumb.jobfile.to_core import entries_of
from plumb.report.charts import Chart, Hung, plumb_chart
from plumb.report.curves import Curve, Curves, Recorded, curves
from plumb.report.written import moment


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetPage:
    """One sheet: its name, when, how it was taken, what it says, its rows drawn and in words.

    ``columns`` head the cells of each row: figures as they were read, then what they read as, and why.
    """

    title: str
    key: str
    taken: str
    conditions: str
    headline: str
    chart: Chart | None
    curves: Curves | None
    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    notes: tuple[str, ...]


def sheet_pages(
    file: JobFile, result: JobResult, recorded: Mapping[str, Sequence[Recorded]]
) -> Iterator[SheetPage]:
    """A page of every sheet that was begun; ``recorded`` are the traces that its figures were taken from, by sheet."""
    parts = {s.id: s for s in file.sheets}
    for key, one in result.sheets:
        if one.begun:
            yield _page(parts[key], one, parts, recorded.get(key, ()))


def _page(
    part: SheetPart,
    result: Result,
    parts: Mapping[str, SheetPart],
    recorded: Sequence[Recorded] = (),
) -> SheetPage:
    kind, unit = kind_of(result), unit_of(part)
    told = [f for f in result.findings if f.told]
    hung = [
        Hung(
            row=_named(f, kind), before=None, after=f.in_band, words=kind.state(f, result),
            u=(f.u or 0.0) / f.tolerance if f.tolerance and f.tolerance > 0.0 else None,
            settled=f.state is not State.UNSETTLED,
        )
        for f in told
        if f.in_band is not None
    ]  # fmt: skip
    figures = _figures(part, told, unit)
    heads = next(iter(figures.values()), {})
    return SheetPage(
        title=kind.title,
        key=part.id,
        taken=moment(part.taken or ""),
        conditions=conditions_of(part),
        headline="".join(s.text for s in kind.headline(result, unit)),
        chart=plumb_chart(hung) if hung else None,
        curves=curves([*_before(part, parts), *_over_time(part)], unit)
        or _of_a_trace(recorded, unit),
        columns=("Row", *heads, "Reads as", "Why"),
        rows=tuple(
            (
                _named(f, kind),
                *figures.get(f.row, dict.fromkeys(heads, "")).values(),
                kind.state(f, result),
                _why(kind, f, result, unit),
            )
            for f in told
        ),
        notes=kind.notes(result, unit),
    )


def _of_a_trace(recorded: Sequence[Recorded], unit: str) -> Curves | None:
    """The channels of a trace that are told in one unit: a log of bursts in the sheet's, the starter's current in its own."""
    if not recorded:
        return None
    own = recorded[0].unit
    told = unit if own in KPA_PER and unit in KPA_PER else own
    factor = KPA_PER.get(own, 1.0) / KPA_PER.get(told, 1.0) if told != own else 1.0
    return curves([r.curve(factor) for r in recorded if r.unit == own], told)


def _over_time(part: SheetPart) -> Iterator[Curve]:
    """What a sheet followed over time, line by line; nothing on most."""
    series = getattr(part, "series", ())
    for name, words in (("wanted", "wanted"), ("actual", "actual"), ("value", "read")):
        points = [(float(p.t_s), float(getattr(p, name))) for p in series if hasattr(p, name)]
        if points:
            yield Curve(name=words, points=points, back=name == "wanted")


def _before(part: SheetPart, parts: Mapping[str, SheetPart]) -> Iterator[Curve]:
    """Beneath a sheet that was taken again: the same before the repair, where both are in one unit."""
    earlier = parts.get(part.after)
    if earlier is None or unit_of(earlier) != unit_of(part):
        return
    told = {"read": "before", "actual": "actual before"}
    for curve in _over_time(earlier):
        if curve.name in told:
            yield replace(curve, name=told[curve.name], back=True)


def _named(finding: Finding, kind: AnyKind) -> str:
    """What a row is called: an injector by its label, a state of the engine in words."""
    if finding.injector or not finding.row:
        return finding.row or kind.title
    return finding.row.replace("_", " ").capitalize()


def _why(kind: AnyKind, finding: Finding, result: Result, unit: str) -> str:
    """Why it reads so, without saying once more how it reads."""
    state, why = kind.state(finding, result), kind.because(finding, result, unit)
    return "" if why == state else why.removeprefix(f"{state}: ")


def _figures(part: SheetPart, told: list[Finding], unit: str) -> dict[str, dict[str, str]]:
    """What was read of each row, by the head of its column; empty where a sheet has no such figures."""
    by_row: dict[str, list[BaseModel]] = {}
    for entry in entries_of(part):
        by_row.setdefault(str(getattr(entry, "injector", "") or ""), []).append(entry)
    rows = {f.row: by_row.get(f.injector, []) for f in told if f.injector}
    read = [e for entries in rows.values() for e in entries]
    made: dict[str, dict[str, str]] = {row: {} for row in rows}
    if any(_figure(e, "first") is not None for e in read):
        for row, entries in rows.items():
            made[row][f"First, {unit}"] = _listed(_figure(e, "first") for e in entries)
            made[row][f"Second, {unit}"] = _listed(_figure(e, "second") for e in entries)
            made[row][f"Drop, {unit}"] = _listed(_drop(e) for e in entries)
    elif any(_figure(e, "value") is not None for e in read):
        head = f"Read, {unit}" if unit else "Read"
        for row, entries in rows.items():
            made[row][head] = _listed(_figure(e, "value") for e in entries)
    if any(f.injector and f.scale.relative and f.deviation is not None for f in told):
        for f in told:
            if f.row in made:
                made[f.row]["From those that agree"] = _from_others(f)
    return {row: cells for row, cells in made.items() if cells}


def _figure(entry: BaseModel, name: str) -> Decimal | None:
    figure = getattr(entry, name, None)
    return figure if isinstance(figure, Decimal) else None


def _drop(entry: BaseModel) -> Decimal | None:
    first, second = _figure(entry, "first"), _figure(entry, "second")
    return None if first is None or second is None else first - second


def _listed(figures: Iterator[Decimal | None]) -> str:
    """All passes of one row, in their order; a dash where one has no figure."""
    return "; ".join("\u2013" if f is None else plain(f) for f in figures)


def _from_others(finding: Finding) -> str:
    deviation = finding.deviation if finding.scale.relative else None
    if deviation is None:
        return ""
    size = percent(abs(deviation), 1)
    sign = "" if float(size) == 0.0 else "\u2212" if deviation < 0.0 else "+"
    return f"{sign}{size} %"


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


def limits_of(part: SheetPart) -> str:
    """The limits that a sheet has, in its unit, with who says so; empty where it has none."""
    data = part.model_dump(exclude_none=True, exclude_defaults=True, mode="json")
    told = [_flat(data[name]) for name in ("window", "windows", "expected") if data.get(name)]
    return f"{'; '.join(told)}, in {unit_of(part)}" if told and unit_of(part) else "; ".join(told)


def _flat(value: object) -> str:
    """A part of the file in one line."""
    if isinstance(value, dict):
        return ", ".join(f"{k.replace('_', ' ')} {_flat(v)}" for k, v in value.items())
    if isinstance(value, list):
        return ", ".join(_flat(v) for v in value)
    return str(value).replace("_", " ")
