"""Files in and out: job files and readings CSV, always with a preview first."""

from typing import Annotated
from urllib.parse import quote

from fastapi import Query, Request, Response

from plumb.api.deps import InTurn, Store
from plumb.api.intake import CSV_BYTES, JOB_FILE_BYTES, body_of, routes_of, takes
from plumb.service.uses import readings_csv
from plumb.service.uses import transfer as service
from plumb.service.views.job import ImportView

router = routes_of("files")

Preview = Annotated[bool, Query(description="only say what would happen")]


def _download(text: str, name: str, media: str) -> Response:
    return Response(
        text,
        media_type=media,
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"},
    )


@router.get("/jobs/{number}/file", response_class=Response)
def export_job(number: str, store: Store) -> Response:
    """A job as a job file."""
    return _download(
        service.export_job(store, number), f"job-{number}.plumb.json", "application/json"
    )


@router.post(
    "/job-files",
    openapi_extra=takes("application/json", JOB_FILE_BYTES, {"type": "object"}),
)
async def import_job(
    request: Request, store: Store, turns: InTurn, *, preview: Preview = False
) -> ImportView:
    """Bring a job file in, whole or not at all."""
    async with turns.queue():
        text = await body_of(request)
        work = service.preview_job if preview else service.import_job
        return await turns.run(work, store, text)


@router.get("/sheets/{sheet_id}/csv", response_class=Response)
def export_csv(sheet_id: int, store: Store) -> Response:
    """A sheet's readings as CSV."""
    return _download(readings_csv.export_csv(store, sheet_id), f"sheet-{sheet_id}.csv", "text/csv")


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
