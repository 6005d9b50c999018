"""Files in and out: job files and readings CSV, always with a preview first."""

from contextlib import suppress
from typing import Annotated
from urllib.parse import quote

from fastapi import Query, Request, Response

from plumb.api.deps import InTurn, Shop, Store
from plumb.api.intake import CSV_BYTES, JOB_FILE_BYTES, body_of, routes_of, takes
from plumb.service.uses import readings_csv, today
from plumb.service.uses import transfer as service
from plumb.service.views.job import ImportView
from plumb.store.session import StoreBusy

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
