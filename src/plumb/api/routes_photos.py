"""Photos of a job, and the whole job as one file."""

import io
from collections.abc import Iterator
from typing import Annotated
from urllib.parse import quote

from fastapi import Query, Request, Response
from fastapi.responses import StreamingResponse

from plumb.api.deps import InTurn, Shop, Store
from plumb.api.intake import body_of, routes_of, takes
from plumb.api.schemas import MadeId
from plumb.api.schemas_finishing import By, PhotoIn
from plumb.jobfile.pictures import MOST_BYTES
from plumb.service.uses import archive, today
from plumb.service.uses import photos as service
from plumb.service.uses import shop as shop_service
from plumb.service.views.finishing import ShopView
from plumb.service.views.job import ImportView
from plumb.service.views.photos import PhotoView

router = routes_of("photos")

ANY = "application/octet-stream"
ZIP = "application/zip"
_PIECE = 1 << 20
_BINARY = {"type": "string", "format": "binary"}
Place = Annotated[str, Query(max_length=40)]


@router.get("/jobs/{number}/photos")
def list_photos(number: str, store: Store) -> list[PhotoView]:
    """The photos of a job, oldest first."""
    return service.list_photos(store, number)


@router.put("/jobs/{number}/photos/{photo_id}", openapi_extra=takes(ANY, MOST_BYTES, _BINARY))
async def add_photo(
    number: str,
    photo_id: MadeId,
    request: Request,
    store: Store,
    turns: InTurn,
    sheet: Place = "",
    row: Place = "",
    by: Annotated[By, Query()] = "",
) -> list[PhotoView]:
    """Keep a photo (JPEG, PNG, WebP, HEIC): turned upright, made smaller, without place and device."""
    async with turns.queue():
        raw = await body_of(request)
        taken = service.Taken(id=photo_id, sheet=sheet, row=row, by=by)
        return await turns.run(service.add_photo, store, number, taken, raw)


@router.patch("/jobs/{number}/photos/{photo_id}")
def change_photo(number: str, photo_id: MadeId, wanted: PhotoIn, store: Store) -> list[PhotoView]:
    """Say what is on a photo, or whether it goes into the report."""
    return service.change_photo(store, number, photo_id, wanted.note, in_report=wanted.in_report)


@router.delete("/jobs/{number}/photos/{photo_id}")
def drop_photo(number: str, photo_id: MadeId, store: Store) -> list[PhotoView]:
    """Take a photo away."""
    return service.drop_photo(store, number, photo_id)


@router.get("/photos/{photo_id}", response_class=Response)
def show_picture(photo_id: MadeId, store: Store, *, small: bool = False) -> Response:
    """The picture of a photo, or its small print."""
    data = service.show_picture(store, photo_id, small=small)
    # A photo is never changed under its id.
    return Response(
        data, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=31536000"}
    )


@router.get("/jobs/{number}/archive", response_class=StreamingResponse)
def export_archive(number: str, store: Store) -> StreamingResponse:
    """The whole job as one file: job file, photos, traces."""
    box = archive.export_archive(store, number)

    def pieces() -> Iterator[bytes]:
        with box:
            while data := box.read(_PIECE):
                yield data

    name = quote(f"job-{number}.plumb.zip")
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{name}"}
    return StreamingResponse(pieces(), media_type=ZIP, headers=headers)


@router.post("/job-archives", openapi_extra=takes(ANY, None, _BINARY))
async def import_archive(
    request: Request,
    store: Store,
    shop: Shop,
    turns: InTurn,
    *,
    preview: Annotated[bool, Query(description="only say what would happen")] = False,
) -> ImportView:
    """Bring a whole job in, with its photos and traces: all of it or nothing."""
    async with turns.queue():
        raw = io.BytesIO(await body_of(request))
        made = await turns.run(archive.import_archive, store, raw, store_it=not preview)
        if made.stored:
            await turns.run(today.say_of, store, made.job_number, shop.thresholds())
        return made


@router.put("/shop/logo", openapi_extra=takes(ANY, MOST_BYTES, _BINARY))
async def put_logo(request: Request, store: Store, turns: InTurn) -> ShopView:
    """The shop's mark on its papers: a picture, or nothing to take it away."""
    async with turns.queue():
        raw = await body_of(request)
        return await turns.run(shop_service.put_logo, store, raw)
