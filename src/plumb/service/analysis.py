"""From a stored sheet to what the core makes of it; kept in memory while its version holds."""

from collections import OrderedDict
from dataclasses import replace
from threading import Lock
from typing import Any, Final

from plumb.core.bursts import Limits
from plumb.core.decision import Thresholds
from plumb.core.drop import KIND, DropReading, DropResult, DropSheet, Expected, analyse_drop
from plumb.core.evidence import Result
from plumb.core.job import Job, JobResult, analyse_sheet, weigh
from plumb.core.opening import OpeningSheet
from plumb.core.quantities import kpa_per
from plumb.core.readings import Mark
from plumb.core.rules import RuleChoice
from plumb.jobfile.to_core import core_sheet as core_of_part
from plumb.service.parts import factor_of, part_of
from plumb.store.records import InjectorRecord, JobRecord, SheetRecord, WholeSheet

_MOST_KEPT: Final = 512
_kept: "OrderedDict[tuple[Any, ...], Result]" = OrderedDict()
_lock = Lock()


def rule_choice(sheet: SheetRecord) -> RuleChoice:
    """The rule of a stored sheet for the core: fractions and the core's unit."""
    stored, factor = sheet.rule_limits, factor_of(sheet.unit)

    def number(name: str, scale: float) -> float | None:
        value = stored.get(name)
        return None if value is None else float(value) * scale

    return RuleChoice(
        name=sheet.rule_name,
        label=stored.get("label", ""),
        source=stored.get("source", ""),
        limits=Limits(
            tolerance=number("tolerance_percent", 0.01),
            limit=number("limit", factor),
            reject=number("reject", factor),
            score=number("score", 1.0),
            alpha=number("alpha", 1.0),
            suspect=stored.get("suspect"),
        ),
    )


def _drop_sheet(whole: WholeSheet) -> DropSheet:
    """A stored drop sheet for the core, without the way over the file: it is typed most often."""
    sheet = whole.sheet
    labels = {i.id: i.label for i in whole.injectors}
    expected = sheet.conditions.get("expected")
    volts = sheet.conditions.get("supply_v")
    factor = kpa_per(sheet.unit)
    return DropSheet(
        injectors=tuple(i.label for i in whole.injectors),
        step=sheet.gauge_step,
        rule=rule_choice(sheet),
        expected=None
        if not expected
        else Expected(
            drop=float(expected["drop"]) * factor, source=expected.get("source") or "this sheet"
        ),
        neighbour_proven=bool(sheet.conditions.get("neighbour_proven")),
        supply_v=None if volts is None else float(volts),
        when=sheet.conditions.get("when", ""),
        readings=tuple(
            DropReading(
                injector=labels[r.injector_id or 0],
                number=r.number,
                first=r.first_kpa,
                second=r.second_kpa,
                mark=Mark(r.mark) if r.mark else None,
                sound=r.sound,
                fires_at=None if r.fires_at_typed is None else float(r.fires_at_typed) * factor,
            )
            for r in whole.readings
        ),
    )


def analysed(whole: WholeSheet, thresholds: Thresholds) -> Result:
    """The core's result of a stored sheet; the same version gives the same result."""
    sheet = whole.sheet
    labels = tuple(i.label for i in whole.injectors)
    key = (
        sheet.id, sheet.version, sheet.taken_at, labels, len(whole.readings), whole.learnt,
        thresholds,
    )  # fmt: skip
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            return _kept[key]
    if sheet.kind == KIND:
        result: Result = analyse_drop(_drop_sheet(whole), thresholds)
    else:
        cylinders = {i.label: i.cylinder for i in whole.injectors}
        core = core_of_part(part_of(whole), labels, cylinders)
        if isinstance(core, OpeningSheet):
            core = replace(core, learnt=(*core.learnt, *whole.learnt))
        result = analyse_sheet(core, thresholds)
    with _lock:
        _kept[key] = result
        while len(_kept) > _MOST_KEPT:
            _kept.popitem(last=False)
    return result


def weighed(
    job: JobRecord,
    fuel_system: str,
    injectors: tuple[InjectorRecord, ...],
    sheets: list[WholeSheet],
    thresholds: Thresholds,
) -> JobResult:
    """Every sheet of a stored job weighed into its verdicts."""
    return weigh(
        Job(
            injectors=tuple(i.label for i in injectors),
            sheets=(),
            fuel_system=fuel_system,
            feeds={i.label: i.feed for i in injectors if i.feed},
            banks={i.label: i.bank for i in injectors if i.bank},
            set_aside=frozenset(s["kind"] for s in job.set_aside or ()),
        ),
        tuple((whole.sheet.key, analysed(whole, thresholds)) for whole in sheets),
    )


def compared(result: Result) -> DropResult | None:
    """The result of a sheet that compares what injectors gave, None for any other."""
    return result if isinstance(result, DropResult) else None
