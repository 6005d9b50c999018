"""From text to a checked job file, and from there to what the core analyses.

Every thing that does not fit is reported at once: path, rule and value.
"""

from collections.abc import Iterator
from decimal import Decimal
from typing import Any

from pydantic import ValidationError

from plumb.core.bursts import Limits
from plumb.core.drop import DropReading, DropSheet, Expected, Mark
from plumb.core.job import Job
from plumb.core.problems import PlumbError, Problem
from plumb.core.quantities import MOST_KPA, kpa_per
from plumb.core.rules import RuleChoice
from plumb.jobfile.exact import loads
from plumb.jobfile.models import DropReadingPart, DropSheetPart, JobFile, RulePart


def parse(text: str | bytes) -> JobFile:
    """A checked job file from JSON text; :class:`PlumbError` with every problem otherwise."""
    try:
        data = loads(text)
    except (ValueError, RecursionError) as error:
        raise PlumbError(
            Problem(path="", rule=f"the file is JSON ({error})", code="not_json")
        ) from error
    return check(data)


def check(data: Any) -> JobFile:  # noqa: ANN401  JSON is any shape until it is validated
    """A checked job file from parsed JSON."""
    if not isinstance(data, dict):
        raise PlumbError(
            Problem(
                path="",
                rule="a job file is one JSON object",
                value=type(data).__name__,
                code="not_an_object",
            )
        )
    try:
        file = JobFile.model_validate(data)
    except ValidationError as error:
        raise PlumbError(problems_of(error)) from error
    if found := list(_across(file)):
        raise PlumbError(found)
    return file


def path_of(location: tuple[int | str, ...]) -> str:
    """``('sheets', 0, 'unit')`` → ``sheets[0].unit``."""
    made = ""
    for part in location:
        made += f"[{part}]" if isinstance(part, int) else f".{part}" if made else str(part)
    return made


def problems_of(error: ValidationError, under: str = "") -> list[Problem]:
    """Pydantic's list of errors as problems: path, rule, value."""
    made = []
    for one in error.errors(include_url=False):
        unknown = one.get("ctx", {}).get("key") if one["type"] == "unknown_key" else None
        path = path_of((*one["loc"], *([unknown] if unknown else [])))
        joined = f"{under}.{path}" if under and path else under or path
        value = one.get("input")
        shown = "" if isinstance(value, dict | list) else str(value)[:80]
        rule = str(one["msg"]).removeprefix("Value error, ")
        made.append(
            Problem(
                path=joined,
                rule=rule,
                code=str(one["type"]),
                value="" if one["type"] == "missing" else shown,
            )
        )
    return made


def _across(file: JobFile) -> Iterator[Problem]:
    """What one part alone cannot know: labels, doubles, pressures that rise."""
    labels = {i.id for i in file.vehicle.injectors}
    keys: set[str] = set()
    for n, sheet in enumerate(file.sheets):
        if sheet.id in keys:
            yield Problem(
                path=f"sheets[{n}].id",
                rule="every sheet has an id of its own",
                value=sheet.id,
                code="double",
            )
        keys.add(sheet.id)
        yield from sheet_problems(sheet, labels, f"sheets[{n}]")


def sheet_problems(sheet: DropSheetPart, labels: set[str], path: str) -> Iterator[Problem]:
    """Problems of one sheet against the vehicle's injectors."""
    seen: set[tuple[str, int]] = set()
    if sheet.rule.suspect is not None and sheet.rule.suspect not in labels:
        yield Problem(
            path=f"{path}.rule.suspect",
            rule="the suspect is one of the injectors",
            value=sheet.rule.suspect,
            code="unknown_injector",
        )
    for m, reading in enumerate(sheet.readings):
        here = f"{path}.readings[{m}]"
        if reading.injector not in labels:
            yield Problem(
                path=f"{here}.injector",
                value=reading.injector,
                code="unknown_injector",
                rule="an injector of the vehicle: " + ", ".join(sorted(labels)),
            )
        slot = (reading.injector, reading.pass_)
        if slot in seen:
            yield Problem(
                path=f"{here}.pass",
                rule="one reading for each injector and pass",
                value=f"injector {slot[0]} pass {slot[1]}",
                code="double",
            )
        seen.add(slot)
        yield from _pressure_problems(reading, sheet, here)


def _pressure_problems(
    reading: DropReadingPart, sheet: DropSheetPart, here: str
) -> Iterator[Problem]:
    factor = kpa_per(sheet.unit)
    for field, value in (("first", reading.first), ("second", reading.second)):
        if value is not None and float(value) * factor > MOST_KPA:
            yield Problem(
                path=f"{here}.{field}",
                rule="no fuel rail holds that much",
                value=f"{value} {sheet.unit}",
                code="beyond_any_rail",
            )
    if (
        reading.first is not None
        and reading.second is not None
        and reading.second - reading.first > 2 * sheet.gauge.step
    ):
        yield Problem(
            path=f"{here}.second",
            value=f"{reading.first} to {reading.second}",
            rule="the pressure cannot rise in a burst: second is at most first",
            code="swapped",
        )


def _kpa(value: Decimal | None, factor: float) -> float | None:
    return None if value is None else float(value) * factor


def rule_choice(rule: RulePart, unit: str) -> RuleChoice:
    """The rule of a sheet for the core: fractions and kPa."""
    factor = kpa_per(unit)
    return RuleChoice(
        name=rule.name,
        label=rule.label,
        source=rule.source,
        limits=Limits(
            tolerance=None
            if rule.tolerance_percent is None
            else float(rule.tolerance_percent) / 100.0,
            limit=_kpa(rule.limit, factor),
            reject=_kpa(rule.reject, factor),
            score=None if rule.score is None else float(rule.score),
            alpha=None if rule.alpha is None else float(rule.alpha),
            suspect=rule.suspect,
        ),
    )


def drop_sheet(sheet: DropSheetPart, injectors: tuple[str, ...]) -> DropSheet:
    """A sheet of the file for the core."""
    factor = kpa_per(sheet.unit)
    expected = sheet.expected
    return DropSheet(
        injectors=injectors,
        step=float(sheet.gauge.step) * factor,
        rule=rule_choice(sheet.rule, sheet.unit),
        expected=None
        if expected is None
        else Expected(drop=float(expected.drop) * factor, source=expected.source or "job file"),
        neighbour_proven=bool(sheet.neighbour_proven),
        readings=tuple(
            DropReading(
                injector=r.injector,
                number=r.pass_,
                first=_kpa(r.first, factor),
                second=_kpa(r.second, factor),
                mark=Mark(r.mark) if r.mark else None,
            )
            for r in sheet.readings
        ),
    )


def core_job(file: JobFile) -> Job:
    """The whole job for the core."""
    labels = tuple(i.id for i in file.vehicle.injectors)
    return Job(injectors=labels, sheets=tuple((s.id, drop_sheet(s, labels)) for s in file.sheets))
