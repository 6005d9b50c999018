"""Files in and out: job files and readings CSV, always with a preview first."""

from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Query, Request, Response

from plumb.api.deps import Shop, Store
from plumb.api.problems import RESPONSES
from plumb.core.problems import PlumbError, Problem
from plumb.service import readings_csv
from plumb.service import transfer as service
from plumb.service.job_views import ImportView

router = APIRouter(tags=["files"], responses=RESPONSES)

Preview = Annotated[bool, Query(description="only say what would happen")]


def _download(text: str, name: str, media: str) -> Response:
    return Response(
        text,
        media_type=media,
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"},
    )


async def _body(request: Request, limit_mb: int) -> bytes:
    """The request's body, refused as soon as it is larger than allowed."""
    data = bytearray()
    async for chunk in request.stream():
        data += chunk
        if len(data) > limit_mb * 2**20:
            raise PlumbError(
                Problem(path="file", rule=f"a file has at most {limit_mb} MB", code="too_large")
            )
    return bytes(data)


@router.get("/jobs/{number}/file", response_class=Response)
def export_job(number: str, store: Store) -> Response:
    """A job as a job file."""
    return _download(
        service.export_job(store, number), f"job-{number}.plumb.json", "application/json"
    )


@router.post(
    "/job-files",
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/json": {"schema": {"type": "object"}}},
        }
    },
)
async def import_job(
    request: Request, store: Store, shop: Shop, *, preview: Preview = False
) -> ImportView:
    """Bring a job file in, whole or not at all."""
    text = await _body(request, shop.upload_limit_mb)
    return service.preview_job(store, text) if preview else service.import_job(store, text)


@router.get("/sheets/{sheet_id}/csv", response_class=Response)
def export_csv(sheet_id: int, store: Store) -> Response:
    """A sheet's readings as CSV."""
    return _download(readings_csv.export_csv(store, sheet_id), f"sheet-{sheet_id}.csv", "text/csv")


@router.post(
    "/sheets/{sheet_id}/csv",
    openapi_extra={
        "requestBody": {"required": True, "content": {"text/csv": {"schema": {"type": "string"}}}}
    },
)
async def import_csv(
    sheet_id: int, request: Request, store: Store, shop: Shop, *, preview: Preview = False
) -> ImportView:
    """Bring readings from CSV onto a sheet, all or nothing."""
    text = await _body(request, shop.upload_limit_mb)
    return readings_csv.import_csv(store, sheet_id, text, store_it=not preview)
