"""A job, or the jobs of a period, as a workbook: what was noted and what it came to, a page each."""

from collections.abc import Iterable, Sequence
from decimal import Decimal
from io import BytesIO
from typing import Any, Final

from openpyxl import Workbook
from openpyxl.styles import Alignment, Font
from openpyxl.utils import get_column_letter
from openpyxl.worksheet.worksheet import Worksheet as Page

from plumb.jobfile.file import JobFile
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
    """A job as a workbook: the job, its readings, its findings, verdicts, repairs, each on a page."""
    book = Workbook()
    book.remove(book.worksheets[0])
    _fill(_page(book, "Job"), ("What", "Value"), _about(file, result))
    _fill(_page(book, "Readings"), _READING, _readings(file))
    _fill(_page(book, "Findings"), *_findings(result))
    _fill(
        _page(book, "Verdicts"),
        ("injector", "condition", "action", "because", "not ruled out"),
        [
            (v["injector"], v["condition"], v["action"], "; ".join(v["because"]),
             ", ".join(v["not_ruled_out"]))
            for v in result["verdicts"]
        ],
    )  # fmt: skip
    _fill(
        _page(book, "Repair"),
        ("injector", "done", "with", "at", "by", "part", "note"),
        [
            (r.injector, r.done, r.with_, r.at, r.by, r.part.core().words if r.part else "", r.note)
            for r in file.repairs
        ],
    )
    _fill(_page(book, "Before and after"), *_after(result))
    return _bytes(book)


def _about(file: JobFile, result: dict[str, Any]) -> list[Row]:
    vehicle = file.vehicle
    return [
        ("job", file.job.number), ("vehicle", vehicle.name), ("plate", vehicle.registration),
        ("distance, km", vehicle.distance_km), ("fuel system", vehicle.fuel_system),
        ("opened", file.job.opened), ("closed", file.job.closed),
        ("complaint", file.job.complaint), ("codes", ", ".join(file.job.codes)),
        ("says", result["engine"]["says"]),
    ]  # fmt: skip


def _findings(result: dict[str, Any]) -> tuple[Row, list[Row]]:
    names = (
        "sheet", "kind", "injector", "value", "unit", "reference", "deviation_percent",
        "uncertainty_percent", "state", "words", "because",
    )  # fmt: skip
    return _heads(names), [tuple(f[n] for n in names) for f in result["findings"]]


def _after(result: dict[str, Any]) -> tuple[Row, list[Row]]:
    names = (
        "injector", "sheet", "before", "change_percent", "uncertainty_percent", "change", "unit",
        "word",
    )  # fmt: skip
    return _heads(names), [tuple(p[n] for n in names) for p in result["after"]]


def _heads(names: Row) -> Row:
    return [n.replace("_percent", ", %") for n in names]


_READING: Final = (
    "sheet", "kind", "injector", "pass", "unit", "figures", "note", "taken",
)  # fmt: skip


def _readings(file: JobFile) -> Iterable[Row]:
    """Every reading as it was noted, figures with the digits they were typed with."""
    for sheet in file.sheets:
        unit = getattr(sheet, "unit", "")
        for entry in entries_of(sheet):
            data = entry.model_dump(exclude_none=True, by_alias=True)
            figures = {
                k: v for k, v in data.items() if k not in {"injector", "pass", "note", "taken"}
            }
            yield (
                sheet.id, sheet.kind, data.get("injector", ""), data.get("pass", ""), unit,
                ", ".join(f"{k} {v}" for k, v in figures.items()), data.get("note", ""),
                data.get("taken", ""),
            )  # fmt: skip


def period_book(jobs: Iterable[Row]) -> bytes:
    """The jobs of a period, one a line: number, days, vehicle, what was found, what was done."""
    book = Workbook()
    book.remove(book.worksheets[0])
    head = (
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
