"""From text to a checked job file.

Every thing that does not fit is reported at once: path, rule and value.
"""

from collections.abc import Iterator, Sequence
from decimal import Decimal
from typing import Any

from pydantic import ValidationError

from plumb.core.isolation import board
from plumb.core.problems import PlumbError, Problem
from plumb.core.quantities import MOST_KPA, kpa_per
from plumb.jobfile.diesel import (
    CorrectionPart,
    CrankingPart,
    OpeningPart,
    RailPart,
    ReturnPart,
    SignedPart,
    StrokePart,
)
from plumb.jobfile.exact import loads
from plumb.jobfile.file import KINDS, JobFile, SheetPart
from plumb.jobfile.models import DropReadingPart, DropSheetPart
from plumb.jobfile.sheets import (
    CoilPart,
    CoilVoltagePart,
    CommandPart,
    FlowBenchPart,
    HoldPart,
    RunningPart,
    SeenPart,
    SupplyPart,
    TipPart,
    ValuePart,
    WalkPart,
)

RowsPart = (
    CommandPart
    | CoilPart
    | CoilVoltagePart
    | DropSheetPart
    | RunningPart
    | TipPart
    | FlowBenchPart
    | CorrectionPart
    | ReturnPart
    | OpeningPart
)


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
    # The name of a sheet's kind is how Pydantic found its model; no key of the file is called that.
    for part in (p for p in location if p not in KINDS):
        made += f"[{part}]" if isinstance(part, int) else f".{part}" if made else str(part)
    return made


def problems_of(error: ValidationError, under: str = "") -> list[Problem]:
    """Pydantic's list of errors as problems: path, rule, value."""
    made = []
    for one in error.errors(include_url=False):
        unknown = one.get("ctx", {}).get("key") if one["type"] == "unknown_key" else None
        path = path_of((*one["loc"], *([unknown] if unknown else [])))
        value, rule, code = one.get("input"), str(one["msg"]), str(one["type"])
        if code in {"union_tag_invalid", "union_tag_not_found"}:
            value = value.get("kind", "") if isinstance(value, dict) else value
            rule, code = "the kind of a sheet is one of " + ", ".join(KINDS), "literal_error"
            path = f"{path}.kind"
        joined = f"{under}.{path}" if under and path else under or path
        shown = "" if isinstance(value, dict | list) else str(value)[:80]
        made.append(
            Problem(
                path=joined,
                rule=rule.removeprefix("Value error, "),
                code=code,
                value="" if code == "missing" else shown,
            )
        )
    return made


def _across(file: JobFile) -> Iterator[Problem]:
    """What one part alone cannot know: labels, doubles, pressures that rise."""
    labels = {i.id for i in file.vehicle.injectors}
    cylinders = {i.cylinder for i in file.vehicle.injectors}
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
        yield from sheet_problems(sheet, labels, f"sheets[{n}]", cylinders)


def sheet_problems(
    sheet: SheetPart, labels: set[str], path: str, cylinders: set[int]
) -> Iterator[Problem]:
    """Problems of one sheet against the vehicle's injectors, and within itself."""
    if isinstance(sheet, CrankingPart):
        yield from _crank_problems(sheet, cylinders, path)
        yield from _hump_problems(sheet, cylinders, path)
    elif isinstance(sheet, RailPart):
        yield from _rail_problems(sheet, path)
    elif isinstance(sheet, HoldPart):
        yield from _hold_problems(sheet, path)
    elif isinstance(sheet, SupplyPart):
        yield from _supply_problems(sheet, path)
    elif not isinstance(sheet, WalkPart):
        yield from _row_problems(sheet, labels, path)


def _row_problems(sheet: RowsPart, labels: set[str], path: str) -> Iterator[Problem]:
    """Problems of a sheet that has a row an injector."""
    suspect = sheet.rule.suspect if isinstance(sheet, DropSheetPart) else None
    if suspect is not None and suspect not in labels:
        yield Problem(
            path=f"{path}.rule.suspect",
            rule="the suspect is one of the injectors",
            value=suspect,
            code="unknown_injector",
        )
    seen: set[tuple[str, int]] = set()
    readings: Sequence[DropReadingPart | ValuePart | SeenPart | SignedPart | StrokePart] = (
        sheet.readings
    )
    for m, reading in enumerate(readings):
        here = f"{path}.readings[{m}]"
        if reading.injector not in labels:
            yield Problem(
                path=f"{here}.injector",
                value=reading.injector,
                code="unknown_injector",
                rule="an injector of the vehicle: " + ", ".join(sorted(labels)),
            )
        slot = (reading.injector, getattr(reading, "pass_", 1))
        if slot in seen:
            yield Problem(
                path=f"{here}.pass",
                rule="one reading for each injector and pass",
                value=f"injector {slot[0]} pass {slot[1]}",
                code="double",
            )
        seen.add(slot)
        if isinstance(sheet, DropSheetPart) and isinstance(reading, DropReadingPart):
            yield from _pressure_problems(reading, sheet, here)
        if isinstance(sheet, OpeningPart) and _figure(reading) is not None:
            yield from _too_high(_figure(reading) or Decimal(0), sheet.unit, f"{here}.value")


def _figure(reading: object) -> Decimal | None:
    """The one figure of a reading that has one."""
    return getattr(reading, "value", None)


def _rail_problems(sheet: RailPart, path: str) -> Iterator[Problem]:
    """Time that does not go on, pressures beyond any rail."""
    for m, point in enumerate(sheet.series):
        if m and point.t_s <= sheet.series[m - 1].t_s:
            yield Problem(
                path=f"{path}.series[{m}].t_s", rule="time goes on from moment to moment",
                value=str(point.t_s), code="not_rising",
            )  # fmt: skip
        yield from _too_high(point.wanted, sheet.unit, f"{path}.series[{m}].wanted")
        yield from _too_high(point.actual, sheet.unit, f"{path}.series[{m}].actual")


def _crank_problems(sheet: CrankingPart, cylinders: set[int], path: str) -> Iterator[Problem]:
    """A firing order that is not this engine's, a cycle with another number of humps."""
    order = sheet.firing_order
    if order is not None and (set(order) != cylinders or len(order) != len(cylinders)):
        yield Problem(
            path=f"{path}.firing_order", value=" ".join(map(str, order)), code="not_the_engine",
            rule="every cylinder once: " + ", ".join(map(str, sorted(cylinders))),
        )  # fmt: skip
    for m, cycle in enumerate(sheet.trace.cycles if sheet.trace else []):
        if len(cycle) != len(cylinders):
            yield Problem(
                path=f"{path}.trace.cycles[{m}]", value=str(len(cycle)), code="not_the_engine",
                rule=f"one hump a cylinder, {len(cylinders)} a cycle",
            )  # fmt: skip


def _hump_problems(sheet: CrankingPart, cylinders: set[int], path: str) -> Iterator[Problem]:
    """Cylinders that the engine does not have, or that stand twice."""
    seen: set[int] = set()
    for m, reading in enumerate(sheet.readings):
        known = reading.cylinder in cylinders
        if not known or reading.cylinder in seen:
            yield Problem(
                path=f"{path}.readings[{m}].cylinder",
                rule="one reading for each cylinder"
                if known
                else "a cylinder of the vehicle: " + ", ".join(map(str, sorted(cylinders))),
                value=str(reading.cylinder),
                code="double" if known else "unknown_cylinder",
            )
        seen.add(reading.cylinder)


def _hold_problems(sheet: HoldPart, path: str) -> Iterator[Problem]:
    """Steps that this rail does not have, two readings of one moment, pressures beyond any rail."""
    for m, tried in enumerate(sheet.isolation):
        try:
            board(((tried.step, tried.outcome),), sheet.rail)
        except PlumbError as error:
            for one in error.problems:
                yield Problem(
                    path=f"{path}.isolation[{m}].{one.path}", rule=one.rule, value=one.value,
                    code=one.code,
                )  # fmt: skip
    times = [p.t_s for p in sheet.series]
    for m, point in enumerate(sheet.series):
        if point.t_s in times[:m]:
            yield Problem(
                path=f"{path}.series[{m}].t_s", rule="one reading for each moment",
                value=str(point.t_s), code="double",
            )  # fmt: skip
        yield from _too_high(point.value, sheet.unit, f"{path}.series[{m}].value")


def _supply_problems(sheet: SupplyPart, path: str) -> Iterator[Problem]:
    states = [r.state for r in sheet.readings]
    for m, reading in enumerate(sheet.readings):
        if reading.state in states[:m]:
            yield Problem(
                path=f"{path}.readings[{m}].state", rule="one reading for each state",
                value=reading.state, code="double",
            )  # fmt: skip
        yield from _too_high(reading.value, sheet.unit, f"{path}.readings[{m}].value")


def _too_high(value: Decimal, unit: str, path: str) -> Iterator[Problem]:
    if float(value) * kpa_per(unit) > MOST_KPA:
        yield Problem(
            path=path, rule="no fuel rail holds that much", value=f"{value} {unit}",
            code="beyond_any_rail",
        )  # fmt: skip


def _pressure_problems(
    reading: DropReadingPart, sheet: DropSheetPart, here: str
) -> Iterator[Problem]:
    for field, value in (("first", reading.first), ("second", reading.second)):
        if value is not None:
            yield from _too_high(value, sheet.unit, f"{here}.{field}")
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
