"""A job, or the jobs of a period, as a workbook: what was noted and what it came to, a page each."""

import re
from collections.abc import Container, Iterable, Sequence
from decimal import Decimal
from io import BytesIO
from typing import Any, Final

from openpyxl import Workbook
from openpyxl.styles import Alignment, Font
from openpyxl.utils import get_column_letter
from openpyxl.worksheet.worksheet import Worksheet as Page

from plumb.core.causes.table import FAULTS
from plumb.core.mend.after import CHANGES
from plumb.core.mend.repairs import DONE
from plumb.core.procedures import BY_CODE
from plumb.core.weigh.verdict import NOT_RULED_OUT
from plumb.core.weigh.words_verdict import ACTION_WORDS, CONDITION_WORDS
from plumb.jobfile.file import JobFile
from plumb.jobfile.finishing import RepairPart
from plumb.jobfile.to_core import entries_of

_WIDEST: Final = 60
Row = Sequence[Any]


def _fill(page: Page, head: Row, rows: Iterable[Row]) -> None:
    """A page with a head; text stays text, whatever it begins with."""
    for n, row in enumerate([head, *rows], 1):
        for m, value in enumerate(row, 1):
            cell = page.cell(row=n, column=m)
            if isinstance(value, int | float | Decimal) and not isinstance(value, bool):
                cell.value = value
            elif value not in (None, ""):
                cell.value = str(value)
                # Else a note that begins with an equals sign would run as a formula.
                cell.data_type = "s"
            cell.alignment = Alignment(vertical="top", wrap_text=True)
            if n == 1:
                cell.font = Font(bold=True)
    page.freeze_panes = "A2"
    for m in range(1, len(head) + 1):
        longest = max((len(str(c.value or "")) for c in page[get_column_letter(m)]), default=8)
        page.column_dimensions[get_column_letter(m)].width = min(_WIDEST, longest + 2)


def _bytes(book: Workbook) -> bytes:
    out = BytesIO()
    book.save(out)
    return out.getvalue()


def _page(book: Workbook, title: str) -> Page:
    page: Page = book.create_sheet(title)
    return page


def job_book(file: JobFile, result: dict[str, Any]) -> bytes:
    """A job as a workbook: the job, what was read on each kind of sheet, findings, verdicts, repairs.

    Figures are numbers, their unit stands in the head of their column; words are those of the screen.
    """
    book = Workbook()
    book.remove(book.worksheets[0])
    _fill(_page(book, "Job"), ("What", "Value"), _about(file, result))
    for title, (head, rows) in _readings(file).items():
        _fill(_page(book, title), head, rows)
    _fill(_page(book, "Findings"), *_findings(result))
    _fill(
        _page(book, "Verdicts"),
        ("injector", "reads as", "to do", "because", "not ruled out"),
        [
            (v["injector"], CONDITION_WORDS[v["condition"]], ACTION_WORDS[v["action"]],
             "; ".join(v["because"]), ", ".join(NOT_RULED_OUT[c] for c in v["not_ruled_out"]))
            for v in result["verdicts"]
        ],
    )  # fmt: skip
    _fill(
        _page(book, "Repair"),
        ("injector", "done", "with", "at", "by", "part", "note"),
        [
            (r.injector or _engine(r), DONE[r.done], r.with_, r.at, r.by,
             r.part.core().words if r.part else "", r.note)
            for r in file.repairs
        ],
    )  # fmt: skip
    _fill(_page(book, "Before and after"), *_after(result))
    return _bytes(book)


def _engine(repair: RepairPart) -> str:
    """What was put right on the engine."""
    return FAULTS[repair.cause].words


def _about(file: JobFile, result: dict[str, Any]) -> list[Row]:
    vehicle = file.vehicle
    return [
        ("job", file.job.number), ("vehicle", vehicle.name), ("plate", vehicle.registration),
        ("distance, km", vehicle.distance_km), ("fuel system", vehicle.fuel_system),
        ("opened", file.job.opened), ("closed", file.job.closed),
        ("complaint", file.job.complaint), ("codes", ", ".join(file.job.codes)),
        ("says", result["says"]),
    ]  # fmt: skip


def _findings(result: dict[str, Any]) -> tuple[Row, list[Row]]:
    """What each row came to: its figure in the column of its unit."""
    units = list(dict.fromkeys(f["unit"] for f in result["findings"]))
    head: Row = (
        "sheet", "kind", "row", *(_in("value", u) for u in units), *(_in("reference", u) for u in units),
        "deviation, %", "uncertainty, %", "reads as", "because",
    )  # fmt: skip
    rows: list[Row] = [
        (
            f["sheet"], BY_CODE[f["kind"]].title, f["injector"] or f["quantity"].replace("_", " "),
            *(f["value"] if f["unit"] == u else None for u in units),
            *(f["reference"] if f["unit"] == u else None for u in units),
            f["deviation_percent"], f["uncertainty_percent"], f["words"], f["because"],
        )
        for f in result["findings"]
    ]  # fmt: skip
    return head, rows


def _after(result: dict[str, Any]) -> tuple[Row, list[Row]]:
    units = list(dict.fromkeys(p["unit"] for p in result["after"] if p["unit"]))
    head: Row = (
        "row", "sheet", "before", "change, %", "uncertainty, %", *(_in("change", u) for u in units), "word",
    )  # fmt: skip
    rows: list[Row] = [
        (
            p["injector"] or p.get("row", ""), p["sheet"], p["before"], p["change_percent"],
            p["uncertainty_percent"], *(p["change"] if p["unit"] == u else None for u in units),
            CHANGES[p["word"]],
        )
        for p in result["after"]
    ]  # fmt: skip
    return head, rows


def _in(name: str, unit: str) -> str:
    """The head of a column: its figure, and the unit it is in."""
    shown = unit.replace("sqrt_", "\u221a").replace("percent", "%")
    return f"{name}, {shown}" if shown else name


def _readings(file: JobFile) -> dict[str, tuple[Row, list[Row]]]:
    """Every reading as it was noted, a page for each kind of sheet and unit, a column for each figure."""
    pages: dict[tuple[str, str], list[tuple[str, dict[str, Any]]]] = {}
    for sheet in file.sheets:
        unit = str(getattr(sheet, "unit", ""))
        for entry in entries_of(sheet):
            data = entry.model_dump(exclude_none=True, by_alias=True)
            pages.setdefault((sheet.kind, unit), []).append((sheet.id, data))
    made: dict[str, tuple[Row, list[Row]]] = {}
    for (kind, unit), rows in pages.items():
        names = list(dict.fromkeys(n for _, data in rows for n in data if n not in _LAST))
        head = ("sheet", *(_headed(n, unit) for n in names), *_LAST)
        title = _titled(BY_CODE[kind].title, unit, made)
        made[title] = (
            head,
            [(key, *(data.get(n) for n in (*names, *_LAST))) for key, data in rows],
        )
    return made


_LAST: Final = ("note", "taken")
_IN_UNIT: Final = frozenset({"first", "second", "value", "fires_at", "wanted", "actual"})
_OWN_UNIT: Final = {"t_s": "time, s", "shim_mm": "shims, mm", "supply_v": "tester, V"}


def _headed(name: str, unit: str) -> str:
    if name in _IN_UNIT:
        return _in(name.replace("_", " "), unit)
    return _OWN_UNIT.get(name, name.replace("_", " "))


def _titled(title: str, unit: str, there: Container[str]) -> str:
    """The name of a page: at most 31 letters, none that a workbook forbids, each once."""
    name = re.sub(r"[\[\]:*?/\\]", " ", title)[:31]
    return name if name not in there else f"{name[:20]}, {unit}"[:31]


def period_book(jobs: Iterable[Row]) -> bytes:
    """The jobs of a period, one a line: number, days, vehicle, what was found, what was done."""
    book = Workbook()
    book.remove(book.worksheets[0])
    head: Row = (
        "job",
        "opened",
        "closed",
        "vehicle",
        "plate",
        "complaint",
        "says",
        "repairs",
        "signed by",
    )
    _fill(_page(book, "Jobs"), head, jobs)
    return _bytes(book)
