"""Readings of any sheet as tidy CSV: one figure a row; comma or semicolon, decimal point or comma.

Columns, in any order: job, sheet, kind, injector, pass, quantity, value, unit, note, taken.
Only injector, quantity and value must be there.  What was seen or noted beside a figure stands in
rows of its own: its quantity, and the word or number as value.  Every problem is told by line and
column.
"""

import csv
import io
from collections.abc import Iterable, Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import Any, Final

from pydantic import BaseModel, ValidationError

from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.measure.quantities import parse_number, plain
from plumb.core.procedures import BY_CODE
from plumb.jobfile.kinds import FILE_KINDS, AnyFileKind
from plumb.jobfile.kinds.kind import AS_THE_SHEET, WORD
from plumb.jobfile.plaincells import meant, plain_cell
from plumb.jobfile.reading import problems_of

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


def entry_model(kind: str) -> type[BaseModel] | None:
    """The reading that a row of CSV becomes; None for a kind that has no readings."""
    return next(iter(FILE_KINDS[kind].entries.values()), None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Target:
    """The sheet the rows are for; ``cylinders`` by what a row is called, for sheets told by cylinder.

    ``slots`` are the rows that hang on the engine.
    """

    job: str
    sheet: str
    unit: str
    injectors: tuple[str, ...]
    kind: str
    cylinders: Mapping[str, int] = field(default_factory=dict)
    slots: tuple[str, ...] = ()

    @property
    def file_kind(self) -> AnyFileKind:
        """What the formats say of this kind of sheet."""
        return FILE_KINDS[self.kind]

    @property
    def fields(self) -> AbstractSet[str]:
        """What its readings have."""
        model = entry_model(self.kind)
        return model.model_fields.keys() if model else frozenset()

    @property
    def of_words(self) -> bool:
        """Whether a word stands where others have a figure."""
        return "seen" in self.fields

    @property
    def rows(self) -> tuple[str, ...]:
        """What may stand as injector; empty where rows are moments."""
        if "t_s" in self.fields:
            return ()
        if "cylinder" in self.fields:
            return tuple(self.cylinders)
        own = self.slots if "injector" not in self.fields else ()
        return own or BY_CODE[self.kind].entry.slots or self.injectors


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
    if len(header) > len(COLUMNS):
        yield Problem(
            path="line 1", rule=f"at most {len(COLUMNS)} columns", value=str(len(header)),
            code="too_wide",
        )  # fmt: skip
        return
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
    row = dict(zip(header, (meant(c.strip()) for c in cells), strict=False))
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
    wordy = target.file_kind.beside.get(row.get("quantity", "")) == WORD
    if not wordy and not target.of_words and (value or note not in {"none", "not_read", "over"}):
        try:
            figure = parse_number(value, f"line {line}, value")
        except PlumbError as error:
            problems += error.problems
    if problems:
        return problems
    return _place(line, row, (target.file_kind, number), figure, bursts)


def _fits(line: int, row: dict[str, str], target: Target) -> Iterator[Problem]:
    beside = target.file_kind.beside
    unit = beside.get(row.get("quantity", ""), AS_THE_SHEET)
    wanted = (
        ("job", (target.job,)),
        ("sheet", (target.sheet,)),
        ("kind", (target.kind,)),
        ("unit", {AS_THE_SHEET: (target.unit,), WORD: ("",)}.get(unit, (unit,))),
    )
    for name, allowed in wanted:
        if row.get(name) and row[name] not in allowed:
            yield Problem(
                path=f"line {line}, {name}",
                value=row[name],
                code="other_target",
                rule=f"this sheet's {name} is {allowed[0]}" if allowed[0] else "a word has no unit",
            )
    known = target.rows
    if known and row.get("injector") not in known:
        what = "an injector of this engine" if known == target.injectors else "a state"
        yield Problem(
            path=f"line {line}, injector",
            value=row.get("injector", ""),
            rule=f"{what}: " + ", ".join(known),
            code="unknown_injector",
        )
    quantities = (*target.file_kind.quantities, *beside)
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
    at: tuple[AnyFileKind, int],
    figure: Decimal | None,
    bursts: dict[tuple[str, int], _Burst],
) -> list[Problem]:
    kind, number = at
    burst = bursts.setdefault((row["injector"], number), _Burst(line))
    beside = row["quantity"] in kind.beside
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
    model = entry_model(target.kind)
    if model is None:
        return []
    try:
        readings.append(model.model_validate(_raw(label, number, burst, target)))
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


def _raw(label: str, number: int, burst: _Burst, target: Target) -> dict[str, Any]:
    """The reading as the job file would have it: what its model has, and no more."""
    made: dict[str, Any] = {
        "injector": label, "state": label, "cylinder": target.cylinders.get(label),
        "pass": number, "seen": burst.word, "note": burst.note, "taken": burst.taken,
        **{name: burst.figures.get(name) for name in target.file_kind.quantities}, **burst.beside,
    }  # fmt: skip
    model = entry_model(target.kind)
    names = {f.alias or n for n, f in model.model_fields.items()} if model else set()
    return {name: value for name, value in made.items() if name in names}


def write_csv(target: Target, readings: Iterable[BaseModel]) -> str:
    """Readings as tidy CSV, figures as typed; what stands beside a figure follows it."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for n, r in enumerate(readings, 1):
        label = getattr(r, "injector", None) or getattr(r, "state", "")
        if "cylinder" in target.fields:
            label = next(k for k, c in target.cylinders.items() if c == getattr(r, "cylinder", 0))
        number = getattr(r, "pass_", 1) if target.rows else n
        head = (target.job, target.sheet, target.kind, label, number)
        taken = getattr(r, "taken", None) or ""
        for name, value, unit, note in _cells(r, target):
            text = plain(value) if isinstance(value, Decimal) else value or ""
            writer.writerow([plain_cell(str(c)) for c in (*head, name, text, unit, note, taken)])
    return out.getvalue()


def _cells(reading: BaseModel, target: Target) -> Iterator[tuple[str, object, str, str]]:
    """Quantity, value, unit and note of each row that a reading takes."""
    names = target.file_kind.quantities
    for name in names:
        value = getattr(reading, "seen" if target.of_words else name)
        last = name == names[-1]
        if value is not None or (last and getattr(reading, "mark", None)):
            yield name, value, target.unit, getattr(reading, "note", "") if last else ""
    for name, unit in target.file_kind.beside.items():
        value = getattr(reading, name)
        if value is not None:
            yield name, value, {AS_THE_SHEET: target.unit, WORD: ""}.get(unit, unit), ""
