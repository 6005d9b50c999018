"""Readings as tidy CSV: one figure a row; comma or semicolon, decimal point or comma.

Columns, in any order: job, sheet, kind, injector, pass, quantity, value, unit, note, taken.
Only injector, quantity and value must be there.  Every problem is told by line and column.
"""

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Final

from plumb.core.problems import PlumbError, Problem
from plumb.core.quantities import parse_number, plain
from plumb.jobfile.models import DropReadingPart

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
_WORDS: Final = ("none", "not_read", "read_late")


@dataclass(frozen=True, slots=True, kw_only=True)
class Target:
    """The sheet the rows are for."""

    job: str
    sheet: str
    unit: str
    injectors: tuple[str, ...]


@dataclass(slots=True)
class _Burst:
    line: int
    figures: dict[str, Decimal] = field(default_factory=dict)
    note: str = ""
    taken: str | None = None


def read_rows(text: str) -> tuple[list[str], list[list[str]]]:
    """Header and rows; the delimiter is what the header uses."""
    lines = text.removeprefix("\ufeff")
    head = lines.splitlines()[0] if lines.strip() else ""
    delimiter = ";" if head.count(";") >= head.count(",") and ";" in head else ","
    rows = list(csv.reader(io.StringIO(lines), delimiter=delimiter, strict=True))
    return [h.strip().lower() for h in rows[0]] if rows else [], rows[1:]


def parse_csv(text: str, target: Target) -> list[DropReadingPart]:
    """The readings of a CSV for one drop sheet; :class:`PlumbError` with every problem."""
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
    readings: list[DropReadingPart] = []
    for (label, number), burst in bursts.items():
        problems += _finish(label, number, burst, readings)
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
    if value or note not in {"none", "not_read"}:
        try:
            figure = parse_number(value, f"line {line}, value")
        except PlumbError as error:
            problems += error.problems
    if problems:
        return problems
    return _place(line, row, number, figure, bursts)


def _fits(line: int, row: dict[str, str], target: Target) -> Iterator[Problem]:
    wanted = (
        ("job", (target.job,)),
        ("sheet", (target.sheet,)),
        ("kind", ("pressure_drop",)),
        ("unit", (target.unit,)),
    )
    for name, allowed in wanted:
        if row.get(name) and row[name] not in allowed:
            yield Problem(
                path=f"line {line}, {name}",
                value=row[name],
                code="other_target",
                rule=f"this sheet's {name} is {allowed[0]}",
            )
    if row.get("injector") not in target.injectors:
        yield Problem(
            path=f"line {line}, injector",
            value=row.get("injector", ""),
            rule="an injector of this engine: " + ", ".join(target.injectors),
            code="unknown_injector",
        )
    if row.get("quantity") not in {"first", "second"}:
        yield Problem(
            path=f"line {line}, quantity",
            rule="first or second",
            value=row.get("quantity", ""),
            code="unknown_quantity",
        )


def _place(
    line: int,
    row: dict[str, str],
    number: int,
    figure: Decimal | None,
    bursts: dict[tuple[str, int], _Burst],
) -> list[Problem]:
    burst = bursts.setdefault((row["injector"], number), _Burst(line))
    if row["quantity"] in burst.figures:
        return [
            Problem(
                path=f"line {line}, quantity",
                code="double",
                rule="one figure for each injector, pass and quantity",
                value=f"injector {row['injector']} pass {number} {row['quantity']}",
            )
        ]
    if figure is not None:
        burst.figures[row["quantity"]] = figure
    note = row.get("note", "")
    if note and (note in _WORDS or not burst.note):
        burst.note = note
    burst.taken = row.get("taken") or burst.taken
    return []


def _finish(
    label: str, number: int, burst: _Burst, readings: list[DropReadingPart]
) -> list[Problem]:
    first, second = burst.figures.get("first"), burst.figures.get("second")
    try:
        readings.append(
            DropReadingPart.model_validate(
                {
                    "injector": label,
                    "pass": number,
                    "first": first,
                    "second": second,
                    "note": burst.note,
                    "taken": burst.taken,
                }
            )
        )
    except ValueError as error:
        text = str(error).splitlines()[2].strip() if str(error).count("\n") > 1 else str(error)
        rule = text.removeprefix("Value error, ").partition(" [type=")[0]
        return [
            Problem(
                path=f"line {burst.line}",
                rule=rule,
                code="not_whole",
                value=f"injector {label} pass {number}",
            )
        ]
    return []


def write_csv(target: Target, readings: Iterable[DropReadingPart]) -> str:
    """Readings as tidy CSV, figures as typed."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for r in readings:
        for name, value in (("first", r.first), ("second", r.second)):
            if value is None and not (name == "second" and r.mark):
                continue
            writer.writerow(
                [
                    target.job,
                    target.sheet,
                    "pressure_drop",
                    r.injector,
                    r.pass_,
                    name,
                    "" if value is None else plain(value),
                    target.unit,
                    r.note if name == "second" else "",
                    r.taken or "",
                ]
            )
    return out.getvalue()
