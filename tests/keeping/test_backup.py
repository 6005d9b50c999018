"""A shop is kept, and comes back elsewhere row for row, with photos and traces; damaged ones touch nothing."""

import hashlib
import io
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, time, timedelta
from pathlib import Path

import pytest
from PIL import Image
from sqlalchemy import Engine, MetaData, select, text
from tests.api.test_traces import log_csv
from tests.drivers import Desk, free_port, load_demo, new_id

from plumb.exporting import export
from plumb.keeping import make
from plumb.keeping.clock import Clock
from plumb.keeping.dump import IDS_ON, NUMBERS_ON
from plumb.keeping.file import about
from plumb.keeping.restore import restore
from plumb.keeping.swap import MAKING, WHOLE, settle
from plumb.keeping.trouble import KeepingTrouble
from plumb.store.journal import check_all, seal, watch
from plumb.store.server import SHOP, Place, Server
from plumb.store.session import make_engine


@pytest.fixture
def shop(desk: Desk, engine: Engine) -> Desk:
    """The demo's jobs, one more with a photo and a trace, all sealed."""
    load_demo(engine)
    sheet = desk.open_job(4)
    desk.type(sheet, "1", "50 26")
    picture = io.BytesIO()
    Image.new("RGB", (60, 40), "red").save(picture, "PNG")
    photo = f"/api/jobs/{sheet['job_number']}/photos/{new_id()}"
    head = {"content-type": "application/octet-stream"}
    assert desk.client.put(photo, content=picture.getvalue(), headers=head).status_code == 200
    trace = desk.send(f"/api/sheets/{sheet['id']}/trace", log_csv(), request_id=new_id())
    assert trace.status_code == 200
    seal(engine)
    return desk


@pytest.fixture(scope="module")
def there(database: Server) -> Place:
    """Where the tests' database lives."""
    return database.place


@contextmanager
def opened(place: Place) -> Iterator[Engine]:
    """A place that was restored, running."""
    server = Server(place)
    server.start()
    engine = make_engine(place.url())
    try:
        yield engine
    finally:
        engine.dispose()
        server.stop()


def rows(engine: Engine) -> dict[str, str]:
    """A hash of every row of every table, as SQLAlchemy reads it."""
    tables = MetaData()
    tables.reflect(engine)
    made = {}
    with engine.connect() as connection:
        for table in tables.sorted_tables:
            seen = hashlib.sha256()
            for row in connection.execute(select(table).order_by(*table.primary_key)):
                seen.update(repr(tuple(row)).encode())
            made[table.name] = seen.hexdigest()
    return made


def next_ids(engine: Engine) -> list[int]:
    """The ids that the next sheet and the next reading's neighbours get."""
    asked = (
        "SELECT auto_increment FROM information_schema.tables WHERE table_schema = DATABASE() "
        "AND table_name IN ('sheet', 'trace', 'vehicle') ORDER BY table_name"
    )
    with engine.connect() as connection:
        return [int(n) for n in connection.execute(text(asked)).scalars()]


def count(engine: Engine) -> int:
    """The number of the newest job of the shop's own count."""
    with engine.connect() as connection:
        asked = text("SELECT value FROM counter WHERE name = 'job'")
        return int(connection.execute(asked).scalar_one())


def test_a_shop_comes_back_elsewhere(
    shop: Desk, engine: Engine, there: Place, tmp_path: Path
) -> None:
    """Every row of every table, photos and traces too; ids and numbers go on behind; the journal still holds."""
    assert len(shop.client.get("/api/jobs").json()) > 10
    file = make.backup(there, tmp_path / "kept", passphrase="slip anchor")
    said = about(file)
    assert said.rows[f"{SHOP}.photo"] >= 1
    assert said.rows[f"{SHOP}.trace_part"] >= 1
    original = rows(engine)
    place = Place(home=tmp_path / "new", port=free_port())
    with pytest.raises(KeepingTrouble, match="passphrase"):
        restore(place, file, "harbour")
    assert not place.data.exists()
    restore(place, file, "slip anchor")
    counts = {"counter"}
    with opened(place) as again:
        back = rows(again)
        assert {k: v for k, v in back.items() if k not in counts} == {
            k: v for k, v in original.items() if k not in counts
        }
        assert next_ids(again) == [n + IDS_ON for n in next_ids(engine)]
        assert count(again) == count(engine) + NUMBERS_ON
        watch(again)
        seal(again)
        assert check_all(again).wrong == ""


def test_what_is_there_is_put_aside_and_a_damaged_one_touches_nothing(
    shop: Desk, there: Place, tmp_path: Path
) -> None:
    """A used place keeps what it had beside it; refused: a damaged file, and a place where Plumb runs."""
    assert shop.client.get("/api/jobs").status_code == 200
    file = make.backup(there, tmp_path / "kept", check=False)
    with pytest.raises(KeepingTrouble, match="stop it first"):
        restore(there, file)
    place = Place(home=tmp_path / "used", port=free_port())
    place.data.mkdir(parents=True)
    (place.data / "mine").write_text("four years of work")
    whole = file.read_bytes()
    bad = tmp_path / "bad.plumb-backup"
    bad.write_bytes(whole[:3000] + b"\0" + whole[3001:])
    with pytest.raises(KeepingTrouble, match="Nothing was changed"):
        restore(place, bad)
    assert (place.data / "mine").read_text() == "four years of work"
    assert {p.name for p in place.home.iterdir()} == {"data"}
    _said, before = restore(place, file)
    assert before is not None
    assert (before / "mine").read_text() == "four years of work"
    assert (place.data / "mysql").is_dir()
    assert not (place.home / MAKING).exists()


def test_a_power_cut_while_it_is_put_in_its_place(tmp_path: Path) -> None:
    """Whichever of the two moves was done, the next start goes on with what was brought back."""
    for moved in (False, True):
        place = Place(home=tmp_path / str(moved), port=1)
        ready = place.home / MAKING / "data"
        ready.mkdir(parents=True)
        (ready / "new").touch()
        (place.home / WHOLE).touch()
        if not moved:
            place.data.mkdir()
            (place.data / "old").touch()
        settle(place)
        assert [p.name for p in place.data.iterdir()] == ["new"]
        kept = {p.name for folder in place.home.glob("data.before-*") for p in folder.iterdir()}
        assert kept == (set() if moved else {"old"})
        assert not (place.home / WHOLE).exists()
        settle(place)
        assert [p.name for p in place.data.iterdir()] == ["new"]


def test_a_folder_that_takes_none(there: Place, tmp_path: Path) -> None:
    """Where no folder can be: said with its name, also by the clock, which goes on."""
    (tmp_path / "file").touch()
    folder = tmp_path / "file" / "kept"
    with pytest.raises(KeepingTrouble, match=f"no backup could be written to {folder}"):
        make.backup(there, folder)
    clock = Clock(there, folder, time(3, 30))
    assert clock.look(datetime.now(UTC)) is None
    assert "Not a directory" in clock.safe().trouble


def test_people_type_while_it_is_made(shop: Desk, there: Place, tmp_path: Path) -> None:
    """Nobody waits for it to end, and what it holds is one moment: it was restored, and was the same."""
    sheet, stop, typed = shop.open_job(8), threading.Event(), []

    def types() -> None:
        while not stop.is_set():
            shop.type(sheet, str(len(typed) % 8 + 1), "50 26")
            typed.append(True)

    hand = threading.Thread(target=types)
    hand.start()
    try:
        before = len(typed)
        file = make.backup(there, tmp_path)
        during = len(typed) - before
    finally:
        stop.set()
        hand.join()
    assert during > 3
    assert about(file).rows[f"{SHOP}.reading"] > 0


def test_by_the_clock(
    shop: Desk, there: Place, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """One when it is due, none again that day, old ones go, trouble is kept and told, and tried again."""
    assert shop.client
    monkeypatch.setattr("plumb.keeping.clock.backup", quick)
    clock = Clock(there, tmp_path, time(3, 30))
    begin = datetime(2026, 1, 1, 3, 31, tzinfo=UTC)
    assert clock.safe().last is None
    for day in range(60):
        at = begin + DAY * day
        assert clock.look(at) is not None
        assert clock.look(at + DAY / 2) is None
    assert len(make.backups(tmp_path)) == len(list(tmp_path.iterdir())) < 15
    assert clock.safe().last == at.replace(microsecond=0)
    monkeypatch.setattr("plumb.keeping.clock.backup", broken)
    assert clock.look(at + DAY) is None
    assert "disk is full" in clock.safe().trouble
    monkeypatch.setattr("plumb.keeping.clock.backup", quick)
    assert clock.look(at + DAY + DAY / 24) is not None
    assert clock.safe().trouble == ""


DAY = timedelta(days=1)


def quick(place: Place, folder: Path, *, passphrase: str, at: datetime) -> Path:
    """A backup's file without the work."""
    assert place.home.exists()
    assert passphrase == ""
    file = folder / at.astimezone(UTC).strftime("plumb-%Y%m%dT%H%M%SZ.plumb-backup")
    file.touch()
    return file


def broken(*_args: object, **_kwargs: object) -> Path:
    """One that cannot be made."""
    rule = "the disk is full"
    raise KeepingTrouble(rule)


def test_every_job_as_an_open_file(shop: Desk, engine: Engine, tmp_path: Path) -> None:
    """As many as there are, each taken in again by another shop, with its photo."""
    files = list(export(engine, tmp_path / "out"))
    with engine.connect() as connection:
        numbers = connection.execute(text("SELECT number FROM job")).scalars().all()
    assert {f.name for f in files} == {f"{n}.plumb.zip" for n in numbers}
    assert {p.name for p in (tmp_path / "out").iterdir()} == {f.name for f in files}
    newest = files[-1]
    with engine.begin() as connection:
        connection.execute(
            text("DELETE FROM job WHERE number = :n"), {"n": newest.name.split(".")[0]}
        )
    taken = shop.send("/api/job-archives", newest.read_bytes(), "application/octet-stream")
    assert taken.status_code == 200, taken.text
    number = taken.json()["job_number"]
    assert len(shop.client.get(f"/api/jobs/{number}/photos").json()) == 1
