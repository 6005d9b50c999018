"""A whole job as one file, out and in: its job file, its photos, its traces.

A ``*.plumb.zip`` holds ``job.plumb.json``, ``photos.json`` with ``photos/``, and ``traces.json`` with
``traces/``: everything that belongs to the job, and nothing of anything else.
"""

import io
import json
import struct
import tempfile
import uuid
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from datetime import datetime
from typing import IO, Any, BinaryIO, Final, cast

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import IntegrityError

from plumb.core.measure.problems import Conflict, PlumbError, Problem
from plumb.jobfile.exact import dumps
from plumb.jobfile.file import JobFile
from plumb.jobfile.pictures import picture_of
from plumb.jobfile.reading import check, parse
from plumb.service.stored.known import known_job
from plumb.service.stored.parts import instant, now_typed, utc_text
from plumb.service.uses.transfer import (
    free_number,
    import_job,
    import_view,
    job_json,
    preview_job,
    store_job,
)
from plumb.service.views.job import ImportView
from plumb.store import photos as photo_store
from plumb.store import sheets as sheet_store
from plumb.store import traces as trace_store
from plumb.store.records import WholeSheet
from plumb.store.session import retried, transaction

JOB: Final = "job.plumb.json"
PHOTOS: Final = "photos.json"
TRACES: Final = "traces.json"
MOST_PARTS: Final = 400
MOST_UNPACKED: Final = 400 * 2**20
_PIECE: Final = 4 << 20
_DAMAGED: Final = (
    zipfile.BadZipFile, zlib.error, struct.error, EOFError, NotImplementedError, RuntimeError, ValueError,
)  # fmt: skip
"""What Python's own reader of zips raises over one that is damaged, locked, or packed in another way."""
_IN_MEMORY: Final = 8 << 20


def export_archive(engine: Engine, number: str) -> IO[bytes]:
    """A job with its photos and traces as a zip; the caller closes it."""
    out = cast("IO[bytes]", tempfile.SpooledTemporaryFile(max_size=_IN_MEMORY))  # noqa: SIM115  handed on
    try:
        _write(engine, number, out)
    except BaseException:
        out.close()
        raise
    out.seek(0)
    return out


@retried
def _write(engine: Engine, number: str, out: IO[bytes]) -> None:
    # Done again as a whole it begins anew.
    out.seek(0)
    out.truncate()
    with transaction(engine) as connection, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as box:
        job, vehicle = known_job(connection, number)
        data = job_json(connection, job, vehicle)
        check(data)
        box.writestr(JOB, dumps(data, indent=1) + "\n")
        sheets = sheet_store.sheets_of(connection, job.id)
        _write_photos(connection, box, job.id, sheets)
        _write_traces(connection, box, sheets)


def _write_photos(
    connection: Connection, box: zipfile.ZipFile, job_id: int, sheets: list[WholeSheet]
) -> None:
    keys = {w.sheet.id: w.sheet.key for w in sheets}
    told: list[dict[str, Any]] = []
    for photo in photo_store.photos_of(connection, job_id):
        name = f"photos/{photo.id}.jpg"
        box.writestr(name, photo_store.picture(connection, photo.id, small=False) or b"")
        told.append(
            {
                "file": name, "id": photo.id, "sheet": keys.get(photo.sheet_id or 0, ""),
                "row": photo.place, "note": photo.note, "in_report": bool(photo.in_report),
                "by": photo.by_whom, "taken": photo.taken_typed,
            }
        )  # fmt: skip
    if told:
        box.writestr(PHOTOS, json.dumps(told, indent=1, ensure_ascii=False))


def _write_traces(connection: Connection, box: zipfile.ZipFile, sheets: list[WholeSheet]) -> None:
    told: list[dict[str, Any]] = []
    for whole in sheets:
        for trace_id, _ in reversed(trace_store.trace_names(connection, whole.sheet.id)):
            trace = trace_store.trace_by_id(connection, trace_id)
            if trace is None:
                continue
            name = f"traces/{len(told) + 1}.csv"
            unpack = zlib.decompressobj()
            with box.open(name, "w", force_zip64=True) as file:
                for piece in trace_store.parts_of(connection, trace_id):
                    file.write(unpack.decompress(piece))
                file.write(unpack.flush())
            told.append(
                {
                    "file": name, "sheet": whole.sheet.key, "name": trace.name,
                    "samples": trace.samples, "body": trace.body,
                    "taken": utc_text(trace.taken_at),
                }
            )  # fmt: skip
    if told:
        box.writestr(TRACES, dumps(told, indent=1))


def import_archive(engine: Engine, raw: IO[bytes], *, store_it: bool) -> ImportView:
    """Bring a whole job in, or say what that would do; :class:`PlumbError` with every problem.

    A report that was printed as PDF carries its job file, and is taken too.
    """
    if raw.read(5) == b"%PDF-":
        return _from_paper(engine, raw, store_it=store_it)
    raw.seek(0)
    with opened(raw) as box:
        return _bring_in(engine, box, store_it=store_it)


@contextmanager
def opened(raw: IO[bytes]) -> Iterator[zipfile.ZipFile]:
    """A whole job's zip, looked over before anything is unpacked; :class:`PlumbError` for one that is none."""
    try:
        with zipfile.ZipFile(raw) as box:
            _within_bounds(box)
            yield box
    except PlumbError:
        raise
    except _DAMAGED as error:
        raise PlumbError(
            _problem("a whole job is a *.plumb.zip that was not cut off", str(error))
        ) from error


def _from_paper(engine: Engine, raw: IO[bytes], *, store_it: bool) -> ImportView:
    """The job file that is attached to a report."""
    import pikepdf  # noqa: PLC0415  a start must not wait for it

    raw.seek(0)
    try:
        with pikepdf.open(cast("BinaryIO", raw)) as pdf:
            names = [n for n in pdf.attachments if n.endswith(".plumb.json")]
            text = pdf.attachments[names[0]].get_file().read_bytes() if names else b""
    except (pikepdf.PdfError, ValueError) as error:
        raise PlumbError(_problem("a report that was not cut off", str(error))) from error
    if not text:
        raise PlumbError(_problem("a report with its job file attached", ""))
    return import_job(engine, text) if store_it else preview_job(engine, text)


def _within_bounds(box: zipfile.ZipFile) -> None:
    """Refuse what no job needs before any of it is unpacked."""
    entries = box.infolist()
    known = {JOB, PHOTOS, TRACES}
    for entry in entries:
        inside = entry.filename.startswith(("photos/", "traces/")) and ".." not in entry.filename
        if entry.filename not in known and not inside:
            raise PlumbError(
                _problem("nothing but a job with its photos and traces", entry.filename)
            )
    if len(entries) > MOST_PARTS or sum(e.file_size for e in entries) > MOST_UNPACKED:
        raise PlumbError(
            _problem(f"at most {MOST_PARTS} parts and {MOST_UNPACKED >> 20} MB unpacked", "")
        )
    if JOB not in {e.filename for e in entries}:
        raise PlumbError(_problem(f"{JOB} is in it", ""))


def _problem(rule: str, value: str) -> Problem:
    return Problem(path="", rule=rule, value=value[:80], code="no_archive")


def put_archive(connection: Connection, box: zipfile.ZipFile, *, store_it: bool) -> ImportView:
    """The same within a transaction that takes in more than one."""
    file = parse(box.read(JOB))
    photos, traces = _listed(box, PHOTOS), _listed(box, TRACES)
    number = free_number(connection, file, take=store_it)
    if store_it:
        job_id = store_job(connection, file, number)
        sheets = {w.sheet.key: w.sheet.id for w in sheet_store.sheets_of(connection, job_id)}
        for photo in photos:
            _store_photo(connection, box, photo, job_id, sheets)
        for n, trace in enumerate(traces):
            _store_trace(connection, box, trace, n, sheets)
    return _view(file, number, len(photos), len(traces), stored=store_it)


@retried
def _bring_in(engine: Engine, box: zipfile.ZipFile, *, store_it: bool) -> ImportView:
    try:
        with transaction(engine) as connection:
            return put_archive(connection, box, store_it=store_it)
    except IntegrityError as error:
        raise Conflict(
            Problem(
                path="job", rule="this job, or one of its photos, is here already",
                code="number_taken",
            )
        ) from error  # fmt: skip


def _view(file: JobFile, number: str, photos: int, traces: int, *, stored: bool) -> ImportView:
    view = import_view(file, number, stored=stored)
    more = f"{view.summary.rstrip('.')}, {photos} photos, {traces} traces."
    return ImportView(
        fits=view.fits, stored=view.stored, summary=more, job_number=view.job_number,
        readings=view.readings, problems=[],
    )  # fmt: skip


def _listed(box: zipfile.ZipFile, name: str) -> list[Mapping[str, Any]]:
    if name not in box.namelist():
        return []
    try:
        data = json.loads(box.read(name))
    except ValueError as error:
        raise PlumbError(_problem(f"{name} is JSON", str(error))) from error
    there = set(box.namelist())
    if not isinstance(data, list) or not all(isinstance(x, dict) for x in data):
        raise PlumbError(_problem(f"{name} is a list", ""))
    for one in data:
        if one.get("file") not in there:
            raise PlumbError(_problem(f"what {name} names is in it", str(one.get("file"))))
    return data


def _store_photo(
    connection: Connection,
    box: zipfile.ZipFile,
    photo: Mapping[str, Any],
    job_id: int,
    sheets: Mapping[str, int],
) -> None:
    picture = picture_of(box.read(photo["file"]))
    taken = str(photo.get("taken") or now_typed())
    # A photo that is here already, on another job, is brought in beside it.
    here = photo_store.photo_by_id(connection, str(photo.get("id", ""))) is not None
    photo_store.add_photo(
        connection,
        {
            "id": _made_id() if here or not photo.get("id") else str(photo["id"])[:36],
            "job_id": job_id, "sheet_id": sheets.get(str(photo.get("sheet", ""))),
            "place": str(photo.get("row", ""))[:40], "note": str(photo.get("note", ""))[:200],
            "in_report": bool(photo.get("in_report")), "by_whom": str(photo.get("by", ""))[:40],
            "taken_typed": taken[:40], "taken_at": _moment(taken), "width": picture.width,
            "height": picture.height, "data": picture.data, "small": picture.small,
        },
    )  # fmt: skip


def _made_id() -> str:
    return str(uuid.uuid4())


def _moment(text: str) -> datetime:
    try:
        return instant(text)
    except (ValueError, TypeError) as error:
        raise PlumbError(_problem("times like 2026-05-12T09:10:00+02:00", text)) from error


def _store_trace(
    connection: Connection,
    box: zipfile.ZipFile,
    trace: Mapping[str, Any],
    place: int,
    sheets: Mapping[str, int],
) -> None:
    sheet_id = sheets.get(str(trace.get("sheet", "")))
    if sheet_id is None or not isinstance(trace.get("body"), dict):
        raise PlumbError(
            _problem(
                f"a trace belongs to a sheet of the job (traces[{place}])", str(trace.get("sheet"))
            )
        )
    taken = str(trace.get("taken") or now_typed())
    trace_store.add_trace(
        connection,
        {
            "sheet_id": sheet_id, "request_id": _made_id(), "name": str(trace.get("name", ""))[:120],
            "samples": int(trace.get("samples") or 0), "taken_at": _moment(taken),
            "body": dict(trace["body"]),
        },
        list(_packed(box, trace["file"])),
    )  # fmt: skip


def _packed(box: zipfile.ZipFile, name: str) -> Iterator[bytes]:
    """A trace's text packed as the store keeps it, in pieces."""
    pack, kept = zlib.compressobj(1), io.BytesIO()
    with box.open(name) as file:
        while data := file.read(_PIECE):
            kept.write(pack.compress(data))
    kept.write(pack.flush())
    whole = kept.getvalue()
    for start in range(0, len(whole), _PIECE):
        yield whole[start : start + _PIECE]
