"""Files in and out: job files and readings CSV, always with a preview first."""

import re
from base64 import b64encode
from contextlib import suppress
from hashlib import sha256
from typing import Annotated
from urllib.parse import quote

from fastapi import Query, Request, Response
from fastapi.responses import HTMLResponse

from plumb.api.deps import HANDED_IN, InTurn, Shop, Store
from plumb.api.door import policy
from plumb.api.intake import CSV_BYTES, JOB_FILE_BYTES, body_of, routes_of, takes
from plumb.service.uses import papers, readings_csv, today
from plumb.service.uses import transfer as service
from plumb.service.views.job import ImportView
from plumb.store.session import StoreBusy

router = routes_of("files")

Preview = Annotated[bool, Query(description="only say what would happen")]


def download(text: str | bytes, name: str, media: str) -> Response:
    """A file to be saved under that name."""
    return Response(
        text,
        media_type=media,
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"},
    )


@router.get("/jobs/{number}/file", response_class=Response)
def export_job(number: str, store: Store) -> Response:
    """A job as a job file."""
    return download(
        service.export_job(store, number), f"job-{number}.plumb.json", "application/json"
    )


@router.post(
    "/job-files",
    openapi_extra=takes("application/json", JOB_FILE_BYTES, {"type": "object"}),
)
async def import_job(
    request: Request, store: Store, shop: Shop, turns: InTurn, *, preview: Preview = False
) -> ImportView:
    """Bring a job file in, whole or not at all."""
    async with turns.queue():
        text = await body_of(request)
        if preview:
            return await turns.run(service.preview_job, store, text)
        made = await turns.run(service.import_job, store, text)
        # Who brings in four hundred jobs waits now, not whoever looks at Today afterwards.
        with suppress(StoreBusy):
            await turns.run(today.say_of, store, made.job_number, shop.thresholds())
        return made


@router.get("/sheets/{sheet_id}/csv", response_class=Response)
def export_csv(sheet_id: int, store: Store) -> Response:
    """A sheet's readings as CSV."""
    return download(readings_csv.export_csv(store, sheet_id), f"sheet-{sheet_id}.csv", "text/csv")


@router.post(
    "/sheets/{sheet_id}/csv",
    openapi_extra=takes("text/csv", CSV_BYTES, {"type": "string"}),
)
async def import_csv(
    sheet_id: int, request: Request, store: Store, turns: InTurn, *, preview: Preview = False
) -> ImportView:
    """Bring readings from CSV onto a sheet, all or nothing."""
    async with turns.queue():
        text = await body_of(request)
        return await turns.run(readings_csv.import_csv, store, sheet_id, text, store_it=not preview)


PDF = "application/pdf"
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
Day = Annotated[str, Query(max_length=10, examples=["2026-05-12"])]


def _shown(data: bytes, name: str) -> Response:
    """A paper that is opened beside the page, not only kept."""
    how = {"Content-Disposition": f"inline; filename*=UTF-8''{quote(name)}"}
    return Response(data, media_type=PDF, headers=how)


@router.get("/jobs/{number}/report.pdf", response_class=Response, dependencies=[HANDED_IN])
def report_pdf(number: str, store: Store, shop: Shop) -> Response:
    """The report of a job, for the customer and for the workshop, its job file attached."""
    return _shown(papers.report_pdf(store, number, shop.thresholds()), f"job-{number}-report.pdf")


@router.get("/jobs/{number}/report.html", response_class=HTMLResponse, dependencies=[HANDED_IN])
def report_html(number: str, store: Store, shop: Shop) -> HTMLResponse:
    """The same report as a page."""
    page = papers.report_html(store, number, shop.thresholds())
    styles = [
        sha256(s.encode()).digest() for s in re.findall(r"<style>(.*?)</style>", page, re.DOTALL)
    ]
    allowed = " ".join(f"'sha256-{b64encode(digest).decode()}'" for digest in styles)
    return HTMLResponse(page, headers={"Content-Security-Policy": policy(allowed)})


@router.get("/jobs/{number}/worksheet.pdf", response_class=Response)
def worksheet_pdf(number: str, request: Request, store: Store, shop: Shop) -> Response:
    """An empty worksheet for what is left to measure."""
    base = str(request.base_url)
    data = papers.worksheet_pdf(store, number, base, shop.thresholds())
    return _shown(data, f"job-{number}-worksheet.pdf")


@router.get("/jobs/{number}/book.xlsx", response_class=Response, dependencies=[HANDED_IN])
def job_book(number: str, store: Store, shop: Shop) -> Response:
    """A job as a workbook: readings, findings, verdicts, repairs."""
    data = papers.job_workbook(store, number, shop.thresholds())
    return download(data, f"job-{number}.xlsx", XLSX)


@router.get("/jobs-book.xlsx", response_class=Response, dependencies=[HANDED_IN])
def period_book(first: Day, last: Day, store: Store, shop: Shop) -> Response:
    """The jobs that were opened in a period, as a workbook."""
    data = papers.period_workbook(store, first, last, shop.thresholds())
    return download(data, f"jobs-{first}-{last}.xlsx", XLSX)
