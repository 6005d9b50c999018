"""What a person does with photos: take one, say what is on it, let it into the report, take it away."""

from dataclasses import dataclass

from sqlalchemy import Connection, Engine

from plumb.core.measure.problems import NotThere, PlumbError, Problem
from plumb.jobfile.pictures import picture_of
from plumb.service.stored.known import known_job, still_open
from plumb.service.stored.parts import instant, now_typed
from plumb.service.views.photos import PhotoView
from plumb.store import photos as store
from plumb.store import sheets as sheet_store
from plumb.store.actor import signed
from plumb.store.photos import PhotoRecord
from plumb.store.records import JobRecord
from plumb.store.session import retried, transaction


@dataclass(frozen=True, slots=True, kw_only=True)
class Taken:
    """A photo that is brought in: its id made by the browser, where it belongs, what is on it."""

    id: str
    sheet: str = ""
    row: str = ""
    note: str = ""
    by: str = ""
    in_report: bool = False


def _views(connection: Connection, job: JobRecord) -> list[PhotoView]:
    keys = {w.sheet.id: w.sheet.key for w in sheet_store.sheets_of(connection, job.id)}
    return [_view(p, keys) for p in store.photos_of(connection, job.id)]


def _view(photo: PhotoRecord, keys: dict[int, str]) -> PhotoView:
    return PhotoView(
        id=photo.id, sheet=keys.get(photo.sheet_id or 0, ""), row=photo.place, note=photo.note,
        in_report=bool(photo.in_report), by=photo.by_whom, taken=photo.taken_typed,
        width=photo.width, height=photo.height,
    )  # fmt: skip


@retried
def list_photos(engine: Engine, number: str) -> list[PhotoView]:
    """The photos of a job, oldest first."""
    with transaction(engine) as connection:
        job, _ = known_job(connection, number)
        return _views(connection, job)


def add_photo(engine: Engine, number: str, taken: Taken, raw: bytes) -> list[PhotoView]:
    """Keep a photo: upright, smaller, without place and device; the same id twice is once."""
    return _keep(engine, number, taken, raw)


@retried
def _keep(engine: Engine, number: str, taken: Taken, raw: bytes) -> list[PhotoView]:
    picture = picture_of(raw)
    with transaction(engine) as connection:
        job, _ = known_job(connection, number, lock=True)
        if store.photo_by_id(connection, taken.id) is None:
            still_open(closed=job.closed_at is not None, number=number)
            at = now_typed("milliseconds")
            store.add_photo(
                connection,
                {
                    "id": taken.id, "job_id": job.id, "sheet_id": _sheet(connection, job, taken.sheet),
                    "place": taken.row, "note": taken.note, "in_report": taken.in_report,
                    "by_whom": signed(taken.by), "taken_at": instant(at), "taken_typed": at,
                    "width": picture.width, "height": picture.height, "data": picture.data,
                    "small": picture.small,
                },
            )  # fmt: skip
        return _views(connection, job)


def _sheet(connection: Connection, job: JobRecord, key: str) -> int | None:
    if not key:
        return None
    for whole in sheet_store.sheets_of(connection, job.id):
        if whole.sheet.key == key:
            return whole.sheet.id
    raise PlumbError(
        Problem(path="sheet", rule="a sheet of this job", value=key, code="no_such_sheet")
    )


def _known(connection: Connection, number: str, photo_id: str) -> JobRecord:
    job, _ = known_job(connection, number, lock=True)
    photo = store.photo_by_id(connection, photo_id)
    if photo is None or photo.job_id != job.id:
        raise no_such_photo(photo_id)
    return job


def no_such_photo(photo_id: str) -> NotThere:
    """The error for a photo that is not there."""
    return NotThere(
        Problem(path="photo", rule="there is no such photo", value=photo_id, code="no_such_photo")
    )


@retried
def change_photo(
    engine: Engine, number: str, photo_id: str, note: str | None, *, in_report: bool | None
) -> list[PhotoView]:
    """Say what is on a photo, or whether it goes into the report."""
    with transaction(engine) as connection:
        job = _known(connection, number, photo_id)
        values = {"note": note, "in_report": in_report}
        changed = {k: v for k, v in values.items() if v is not None}
        if changed:
            store.change_photo(connection, photo_id, changed)
        return _views(connection, job)


@retried
def drop_photo(engine: Engine, number: str, photo_id: str) -> list[PhotoView]:
    """Take a photo away."""
    with transaction(engine) as connection:
        job = _known(connection, number, photo_id)
        still_open(closed=job.closed_at is not None, number=number)
        store.drop_photo(connection, photo_id)
        return _views(connection, job)


@retried
def show_picture(engine: Engine, photo_id: str, *, small: bool) -> bytes:
    """The picture of a photo, or its small print."""
    with transaction(engine) as connection:
        data = store.picture(connection, photo_id, small=small)
    if data is None:
        raise no_such_photo(photo_id)
    return data
