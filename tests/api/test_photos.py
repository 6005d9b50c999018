"""Photos and the whole job as one file: what is kept, what is stripped, what comes back."""

import io
import json
import zipfile
from typing import Any

import pytest
from PIL import Image
from pillow_heif import from_pillow
from sqlalchemy import Engine, text
from tests.drivers import Desk, job_file, load_demo, new_id

from plumb.jobfile.pictures import LONGEST, PRINT, picture_of
from plumb.store.session import transaction

ANY = "application/octet-stream"


def shot(
    form: str = "JPEG", size: tuple[int, int] = (2400, 1200), *, turned: bool = False
) -> bytes:
    """A photo, red on its left half, with a place and a device in it."""
    image = Image.new("RGB", size, "blue")
    image.paste("red", (0, 0, size[0] // 2, size[1]))
    exif = Image.Exif()
    exif[0x010F] = "Brannock camera"
    exif.get_ifd(0x8825)[2] = (51.0, 30.0, 0.0)
    if turned:
        exif[0x0112] = 6  # the camera stood upright: turn by 90 degrees to see it so
    out = io.BytesIO()
    if form == "HEIF":
        from_pillow(image).save(out, quality=80)
    else:
        image.save(out, form, exif=exif)
    return out.getvalue()


def put(desk: Desk, number: str, raw: bytes, **where: str) -> Any:
    """Send a photo as the page does."""
    photo = where.pop("id", new_id())
    return desk.client.put(
        f"/api/jobs/{number}/photos/{photo}", content=raw, params=where,
        headers={"content-type": "application/octet-stream"},
    )  # fmt: skip


@pytest.mark.parametrize("form", ["JPEG", "PNG", "WEBP", "HEIF"])
def test_every_form_is_kept_as_a_smaller_jpeg(form: str) -> None:
    """And read back by another program's eyes: the left half is red."""
    made = picture_of(shot(form))
    assert (made.width, made.height) == (LONGEST, LONGEST // 2)
    kept = Image.open(io.BytesIO(made.data))
    assert kept.format == "JPEG"
    red, _, blue = kept.getpixel((10, 10))
    assert red > 200
    assert blue < 60
    assert max(Image.open(io.BytesIO(made.small)).size) == PRINT


def test_it_is_turned_upright_and_tells_no_place_and_no_device() -> None:
    """Exif orientation 6 is applied (CIPA DC-008, 4.6.5); nothing of Exif is left."""
    made = picture_of(shot(turned=True, size=(1200, 600)))
    assert (made.width, made.height) == (600, 1200)
    kept = Image.open(io.BytesIO(made.data))
    # What was on the left is at the top now.
    red, _, blue = kept.getpixel((300, 10))
    assert red > 200
    assert blue < 60
    assert not kept.getexif()
    assert b"Brannock" not in made.data
    assert b"Exif" not in made.data


def test_a_photo_on_a_reading_of_a_sheet(desk: Desk) -> None:
    """Sent twice it is there once; noted, ticked for the report, taken away."""
    desk.bring_in(job_file())
    same = new_id()
    for _ in range(2):
        answer = put(desk, "900", shot(), id=same, sheet="s1", row="3", by="Wen L.")
        assert answer.status_code == 200, answer.text
    (one,) = answer.json()
    assert (one["sheet"], one["row"], one["by"], one["in_report"]) == ("s1", "3", "Wen L.", False)
    path = f"/api/jobs/900/photos/{same}"
    noted = desk.client.patch(path, json={"note": "split seal", "in_report": True}).json()
    assert (noted[0]["note"], noted[0]["in_report"]) == ("split seal", True)
    picture = desk.client.get(f"/api/photos/{same}", params={"small": True})
    assert picture.headers["content-type"] == "image/jpeg"
    assert max(Image.open(io.BytesIO(picture.content)).size) == PRINT
    page = desk.client.get("/api/jobs/900/report.html").text
    assert "split seal" in page
    assert "data:image/jpeg;base64," in page
    other = desk.open_job()["job_number"]
    assert desk.client.delete(f"/api/jobs/{other}/photos/{same}").status_code == 404
    assert desk.client.delete(path).json() == []
    assert desk.client.get(f"/api/photos/{same}").status_code == 404


@pytest.mark.parametrize(
    ("raw", "code"),
    [(b"no photo at all", "no_photo"), (shot()[:2000], "no_photo"), (b"", "no_photo")],
)
def test_what_is_no_photo_is_refused(desk: Desk, raw: bytes, code: str) -> None:
    """With words; nothing is kept."""
    desk.bring_in(job_file())
    answer = put(desk, "900", raw)
    assert answer.status_code == 422
    assert answer.json()["problems"][0]["code"] == code
    assert desk.client.get("/api/jobs/900/photos").json() == []


def test_a_photo_for_a_sheet_that_is_not_there_or_a_closed_job(desk: Desk) -> None:
    """Both are told."""
    desk.bring_in(job_file())
    assert put(desk, "900", shot(), sheet="s9").status_code == 422
    assert desk.close("900").status_code == 200
    assert put(desk, "900", shot()).status_code == 409


def test_the_whole_job_goes_out_and_comes_back(desk: Desk, engine: Engine) -> None:
    """Job file, photos on their rows, traces with what was found in them; on an empty shop the same."""
    load_demo(engine)
    with transaction(engine) as connection:
        query = "SELECT j.number FROM job j JOIN sheet s ON s.job_id = j.id JOIN trace t ON t.sheet_id = s.id"
        number = str(connection.scalar(text(query)))
    first = next(k for k in desk.client.get(f"/api/jobs/{number}").json()["route"] if k["sheet_id"])
    assert put(desk, number, shot(size=(400, 300)), sheet=first["key"], row="1").status_code == 200
    out = desk.client.get(f"/api/jobs/{number}/archive")
    assert out.headers["content-type"] == "application/zip"
    with zipfile.ZipFile(io.BytesIO(out.content)) as box:
        names = set(box.namelist())
        assert {"job.plumb.json", "photos.json", "traces.json"} <= names
        trace = json.loads(box.read("traces.json"))[0]
        assert box.read(trace["file"]).startswith(b"t")
        renamed = io.BytesIO()
        job = json.loads(box.read("job.plumb.json"))
        job["job"]["number"] = "again"
        with zipfile.ZipFile(renamed, "w") as other:
            for name in names:
                other.writestr(
                    name, json.dumps(job) if name == "job.plumb.json" else box.read(name)
                )
    preview = desk.send("/api/job-archives", renamed.getvalue(), ANY, preview=True)
    assert preview.json()["summary"].endswith("1 photos, 1 traces.")
    assert desk.client.get("/api/jobs/again").status_code == 404
    made = desk.send("/api/job-archives", renamed.getvalue(), ANY)
    assert made.status_code == 200, made.text
    (photo,) = desk.client.get("/api/jobs/again/photos").json()
    assert (photo["sheet"], photo["row"]) == (first["key"], "1")
    again = desk.client.get("/api/jobs/again/archive")
    with zipfile.ZipFile(io.BytesIO(again.content)) as box, zipfile.ZipFile(renamed) as was:
        assert box.read(trace["file"]) == was.read(trace["file"])
        assert json.loads(box.read("traces.json"))[0]["body"] == trace["body"]
    twice = desk.send("/api/job-archives", renamed.getvalue(), ANY)
    assert twice.status_code == 409


def archive(**parts: str) -> bytes:
    """A zip of these parts."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as box:
        for name, body in parts.items():
            box.writestr(name.replace("__", "/").replace("_json", ".json"), body)
    return out.getvalue()


@pytest.mark.parametrize(
    "raw",
    [
        b"no zip",
        archive(**{"../evil.txt": "x", "job.plumb_json": "{}"}),
        archive(photos_json="[]"),
        archive(
            **{
                "job.plumb_json": json.dumps(job_file()),
                "photos_json": '[{"file": "photos/1.jpg"}]',
            }
        ),
        archive(**{"job.plumb_json": json.dumps(job_file()), "traces_json": "{}"}),
        archive(**{"job.plumb_json": "{}"}),
        # Its beginning is gone: Python's reader looks before the file for what its list names.
        archive(**{"job.plumb_json": json.dumps(job_file())})[515:],
    ],
)
def test_a_whole_job_that_is_none_is_refused_and_nothing_is_kept(desk: Desk, raw: bytes) -> None:
    """Cut off, with a path out of it, without its job, with what is named and not there."""
    answer = desk.send("/api/job-archives", raw, ANY)
    assert answer.status_code == 422, answer.text
    assert desk.client.get("/api/jobs", params={"closed": True}).json() == []


def test_a_printed_report_can_be_brought_in_again(desk: Desk) -> None:
    """It carries its job file; another PDF, or one that was cut off, is told."""
    desk.bring_in(job_file())
    pdf = desk.client.get("/api/jobs/900/report.pdf").content
    taken = desk.send("/api/job-archives", pdf, ANY)
    assert taken.status_code == 409
    assert taken.json()["problems"][0]["code"] == "number_taken"
    sheet = desk.client.get("/api/jobs/900").json()["route"]
    assert [k["key"] for k in sheet if k["sheet_id"]] == ["s1"]
    seen = desk.send("/api/job-archives", pdf[:900], ANY)
    assert seen.status_code == 422


def test_the_shops_mark_stands_on_its_papers(desk: Desk) -> None:
    """Put there as any picture, taken away with nothing."""
    desk.bring_in(job_file())
    desk.client.put("/api/shop", json={"name": "Harbour workshop"})
    headers = {"content-type": ANY}
    put_there = desk.client.put("/api/shop/logo", content=shot(size=(60, 40)), headers=headers)
    assert put_there.json() == {
        "name": "Harbour workshop", "address": "", "currency": "", "logo": True,
    }  # fmt: skip
    page = desk.client.get("/api/jobs/900/report.html").text
    assert 'alt="Harbour workshop"' in page
    assert desk.client.put("/api/shop/logo", content=b"x", headers=headers).status_code == 422
    # The name is changed without losing the mark.
    assert desk.client.put("/api/shop", json={"name": "Quay"}).json()["logo"]
    assert not desk.client.put("/api/shop/logo", content=b"", headers=headers).json()["logo"]
