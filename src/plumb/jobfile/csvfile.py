"""Readings of any sheet as tidy CSV: one figure a row; comma or semicolon, decimal point or comma.

Columns, in any order: job, sheet, kind, injector, pass, quantity, value, unit, note, taken.
Only injector, quantity and value must be there.  What was seen or noted beside a figure stands in
rows of its own: its quantity, and the word or number as value.  Every problem is told by line and
column.
"""

import csv
import io
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import Any, Final

from pydantic import BaseModel, ValidationError

from plumb.core.problems import PlumbError, Problem
from plumb.core.quantities import parse_number, plain
from plumb.core.seen import WORDS
from plumb.core.supply import STATES
from plumb.jobfile.diesel import HumpPart, SignedPart, StrokePart
from plumb.jobfile.models import DropReadingPart
from plumb.jobfile.reading import problems_of
from plumb.jobfile.sheets import (
    BenchReadingPart,
    CommandSeenPart,
    PointPart,
    SupplyReadingPart,
    TipSeenPart,
    ValuePart,
)

COLUMNS: Final = (
    "job",
    "sheet",
    "kind",
    "injector",
    "pass",
    "quantity",
    "value",
    "unit",
    "note",
    "taken",
)
REQUIRED: Final = ("injector", "quantity", "value")
MOST_ROWS: Final = 5000
_MARKS: Final = ("none", "not_read", "read_late", "over")

ENTRIES: Final[dict[str, type[BaseModel]]] = {
    "pressure_drop": DropReadingPart,
    "injector_balance_running": ValuePart,
    "flow_bench": BenchReadingPart,
    "coil_resistance": ValuePart,
    "coil_voltage_drop": ValuePart,
    "supply_pressure": SupplyReadingPart,
    "hold": PointPart,
    "command": CommandSeenPart,
    "tip_leak": TipSeenPart,
    "correction": SignedPart,
    "return_volume": ValuePart,
    "cranking_balance": HumpPart,
    "opening_pressure": StrokePart,
}
"""The reading of each kind that has any."""


def _quantities(kind: str) -> tuple[str, ...]:
    """The quantities of a kind, in the order they are written."""
    return {"pressure_drop": ("first", "second"), "hold": ("t_s", "value")}.get(kind, ("value",))


BESIDE: Final[dict[str, dict[str, str]]] = {
    "pressure_drop": {"sound": "word", "fires_at": "as the sheet"},
    "flow_bench": {"spray": "word"},
    "opening_pressure": {"shim_mm": "mm", "seat": "word", "sound": "word", "spray": "word"},
}
"""What can stand beside a figure: its quantity, and its unit, or that it is a word."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Target:
    """The sheet the rows are for; ``cylinders`` by injector, for sheets told by cylinder."""

    job: str
    sheet: str
    unit: str
    injectors: tuple[str, ...]
    kind: str = "pressure_drop"
    cylinders: Mapping[str, int] = field(default_factory=dict)


@dataclass(slots=True)
class _Burst:
    line: int
    figures: dict[str, Decimal] = field(default_factory=dict)
    word: str | None = None
    beside: dict[str, Decimal | str] = field(default_factory=dict)
    lines: dict[str, int] = field(default_factory=dict)
    note: str = ""
    taken: str | None = None


def read_rows(text: str) -> tuple[list[str], list[list[str]]]:
    """Header and rows; the delimiter is what the header uses."""
    lines = text.removeprefix("\ufeff")
    head = lines.splitlines()[0] if lines.strip() else ""
    delimiter = ";" if head.count(";") >= head.count(",") and ";" in head else ","
    rows = list(csv.reader(io.StringIO(lines), delimiter=delimiter, strict=True))
    return [h.strip().lower() for h in rows[0]] if rows else [], rows[1:]


def parse_csv(text: str, target: Target) -> list[BaseModel]:
    """The readings of a CSV for one sheet; :class:`PlumbError` with every problem."""
    try:
        header, rows = read_rows(text)
    except csv.Error as error:
        raise PlumbError(
            Problem(path="", rule=f"the file is CSV ({error})", code="not_csv")
        ) from error
    problems = list(_header_problems(header, rows))
    if problems:
        raise PlumbError(problems)
    bursts: dict[tuple[str, int], _Burst] = {}
    for n, cells in enumerate(rows, 2):
        if any(c.strip() for c in cells):
            problems += _take(n, header, cells, target, bursts)
    readings: list[BaseModel] = []
    for (label, number), burst in bursts.items():
        problems += _finish(label, number, burst, target, readings)
    if problems:
        raise PlumbError(problems)
    return readings


def _header_problems(header: Sequence[str], rows: Sequence[object]) -> Iterator[Problem]:
    for name in REQUIRED:
        if name not in header:
            yield Problem(
                path="line 1",
                rule=f"the header needs the column {name}",
                value=", ".join(header),
                code="missing_column",
            )
    for name in header:
        if name not in COLUMNS:
            yield Problem(
                path="line 1",
                rule="columns are " + ", ".join(COLUMNS),
                value=name,
                code="unknown_column",
            )
    if len(set(header)) != len(header):
        yield Problem(path="line 1", rule="every column stands once", code="double")
    if len(rows) > MOST_ROWS:
        yield Problem(
            path="", rule=f"at most {MOST_ROWS} rows", value=str(len(rows)), code="too_many"
        )


def _take(
    line: int,
    header: Sequence[str],
    cells: Sequence[str],
    target: Target,
    bursts: dict[tuple[str, int], _Burst],
) -> list[Problem]:
    """One row into its burst; the problems it has."""
    if len(cells) > len(header):
        return [
            Problem(
                path=f"line {line}",
                rule="no more cells than columns",
                code="too_wide",
                value=str(len(cells)),
            )
        ]
    row = dict(zip(header, (c.strip() for c in cells), strict=False))
    problems = list(_fits(line, row, target))
    try:
        number = int(row.get("pass") or "1")
    except ValueError:
        number = 0
    if not 1 <= number <= 99:
        problems.append(
            Problem(
                path=f"line {line}, pass",
                rule="a whole number from 1 to 99",
                value=row.get("pass", ""),
                code="not_a_pass",
            )
        )
    note, value = row.get("note", ""), row.get("value", "")
    figure = None
    wordy = BESIDE.get(target.kind, {}).get(row.get("quantity", "")) == "word"
    if (
        not wordy
        and target.kind not in WORDS
        and (value or note not in {"none", "not_read", "over"})
    ):
        try:
            figure = parse_number(value, f"line {line}, value")
        except PlumbError as error:
            problems += error.problems
    if problems:
        return problems
    return _place(line, row, (target.kind, number), figure, bursts)


def _fits(line: int, row: dict[str, str], target: Target) -> Iterator[Problem]:
    unit = BESIDE.get(target.kind, {}).get(row.get("quantity", ""), "as the sheet")
    wanted = (
        ("job", (target.job,)),
        ("sheet", (target.sheet,)),
        ("kind", (target.kind,)),
        ("unit", {"as the sheet": (target.unit,), "word": ("",)}.get(unit, (unit,))),
    )
    for name, allowed in wanted:
        if row.get(name) and row[name] not in allowed:
            yield Problem(
                path=f"line {line}, {name}",
                value=row[name],
                code="other_target",
                rule=f"this sheet's {name} is {allowed[0]}" if allowed[0] else "a word has no unit",
            )
    known = STATES if target.kind == "supply_pressure" else target.injectors
    if target.kind != "hold" and row.get("injector") not in known:
        what = "a state" if known is STATES else "an injector of this engine"
        yield Problem(
            path=f"line {line}, injector",
            value=row.get("injector", ""),
            rule=f"{what}: " + ", ".join(known),
            code="unknown_injector",
        )
    quantities = (*_quantities(target.kind), *BESIDE.get(target.kind, {}))
    if row.get("quantity") not in quantities:
        yield Problem(
            path=f"line {line}, quantity",
            rule=" or ".join(quantities),
            value=row.get("quantity", ""),
            code="unknown_quantity",
        )


def _place(
    line: int,
    row: dict[str, str],
    at: tuple[str, int],
    figure: Decimal | None,
    bursts: dict[tuple[str, int], _Burst],
) -> list[Problem]:
    kind, number = at
    burst = bursts.setdefault((row["injector"], number), _Burst(line))
    beside = row["quantity"] in BESIDE.get(kind, {})
    if row["quantity"] in {*burst.figures, *burst.beside} or (burst.word and not beside):
        return [
            Problem(
                path=f"line {line}, quantity",
                code="double",
                rule="one figure for each injector, pass and quantity",
                value=f"injector {row['injector']} pass {number} {row['quantity']}",
            )
        ]
    burst.lines[row["quantity"]] = line
    if beside:
        burst.beside[row["quantity"]] = row.get("value", "") if figure is None else figure
    elif figure is not None:
        burst.figures[row["quantity"]] = figure
    else:
        burst.word = row.get("value") or None
    note = row.get("note", "")
    if note and (note in _MARKS or not burst.note):
        burst.note = note
    burst.taken = row.get("taken") or burst.taken
    return []


def _finish(
    label: str, number: int, burst: _Burst, target: Target, readings: list[BaseModel]
) -> list[Problem]:
    """One reading of the sheet's kind from its cells."""
    told = str(target.cylinders.get(label, label)) if target.cylinders else label
    try:
        raw = _raw(told, number, burst, target.kind)
        readings.append(ENTRIES[target.kind].model_validate(raw))
    except ValidationError as error:
        return [
            replace(
                problem,
                path=f"line {burst.lines.get(problem.path, burst.line)}"
                + (f", {problem.path}" if problem.path in burst.lines else ""),
                value=problem.value or f"injector {label} pass {number}",
                code="not_whole",
            )
            for problem in problems_of(error)
        ]
    return []


def _raw(label: str, number: int, burst: _Burst, kind: str) -> dict[str, Any]:
    """The reading as the job file would have it."""
    end = {"note": burst.note, "taken": burst.taken}
    if kind == "hold":
        return {"t_s": burst.figures.get("t_s"), "value": burst.figures.get("value"), **end}
    if kind == "supply_pressure":
        return {"state": label, "value": burst.figures.get("value"), **end}
    if kind in WORDS:
        return {"injector": label, "seen": burst.word, **end}
    if kind == "cranking_balance":
        return {"cylinder": int(label), "value": burst.figures.get("value"), **end}
    made = {"injector": label, "pass": number, **burst.beside, **end}
    if kind == "pressure_drop":
        return {
            **made, "first": burst.figures.get("first"), "second": burst.figures.get("second")
        }  # fmt: skip
    return {**made, "value": burst.figures.get("value")}


def write_csv(target: Target, readings: Iterable[BaseModel]) -> str:
    """Readings as tidy CSV, figures as typed; what stands beside a figure follows it."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for n, r in enumerate(readings, 1):
        label = getattr(r, "injector", None) or getattr(r, "state", "")
        if target.cylinders:
            cylinder = getattr(r, "cylinder", 0)
            label = next(k for k, n in target.cylinders.items() if n == cylinder)
        number = n if target.kind == "hold" else getattr(r, "pass_", 1)
        head = (target.job, target.sheet, target.kind, label, number)
        taken = getattr(r, "taken", None) or ""
        for name, value, unit, note in _cells(r, target):
            text = plain(value) if isinstance(value, Decimal) else value or ""
            writer.writerow([*head, name, text, unit, note, taken])
    return out.getvalue()


def _cells(reading: BaseModel, target: Target) -> Iterator[tuple[str, object, str, str]]:
    """Quantity, value, unit and note of each row that a reading takes."""
    names = _quantities(target.kind)
    for name in names:
        value = getattr(reading, "seen" if target.kind in WORDS else name)
        last = name == names[-1]
        if value is not None or (last and getattr(reading, "mark", None)):
            yield name, value, target.unit, getattr(reading, "note", "") if last else ""
    for name, unit in BESIDE.get(target.kind, {}).items():
        value = getattr(reading, name)
        if value is not None:
            yield name, value, {"as the sheet": target.unit, "word": ""}.get(unit, unit), ""
