"""Searching by an index: what is found, in which order, and that the index always knows the newest words."""

import pytest
from sqlalchemy import Engine, select, text
from sqlalchemy.dialects import mysql
from tests.drivers import DEMO, Desk, load_demo, new_id

from plumb.core.causes.common import Counts
from plumb.service.uses import today
from plumb.store import causes, taught, words
from plumb.store.jobs import job_by_number
from plumb.store.session import transaction


@pytest.mark.parametrize(
    ("stored", "typed", "found"),
    [
        ("SM-14 K", "sm14", True),
        ("SM14K", "SM-14", True),
        ("SM 777 B", "777", True),
        ("SM 777 B", "77b", True),
        ("SM 777 B", "776", False),
        ("Štěpán 3", "stepan", True),
        ("Straße", "STRASSE", True),
        ("P0301", "301", True),
    ],
)
def test_a_plate_is_found_by_any_part_of_it(stored: str, typed: str, found: bool) -> None:  # noqa: FBT001
    """Blanks, dashes, capitals and accents make no difference."""
    (word,) = words.asked(typed)
    assert (word in words.beginnings(stored, anywhere=True)) is found


def test_a_name_is_found_by_the_beginnings_of_its_words() -> None:
    """Each word from its beginning on, digits behind letters too; not from the middle of a word."""
    made = words.beginnings("Torvik mf1 tractor")
    assert {"t", "torvik", "mf1", "1", "tractor", "torvikmf1t"} <= made
    assert not {"orvik", "ractor", "f1"} & made
    assert max(map(len, made)) == words.LONGEST


def test_a_search_is_cut_into_words() -> None:
    """Each once; signs alone are no word, and nobody's query has more than a dozen."""
    assert words.asked("SM-14  Torvik sm14 - ?") == ["sm14", "torvik"]
    assert len(words.asked(" ".join("abcdefghijklmnopqrstuvw"))) == words.MOST_WORDS


def _rows(engine: Engine) -> set[words.Row]:
    with transaction(engine) as connection:
        return {words.Row(*row) for row in connection.execute(select(words.FOUND))}


def test_whatever_is_changed_is_found_by_its_new_words(desk: Desk, engine: Engine) -> None:
    """After each change the table is what it would be if it were made anew."""
    load_demo(engine)
    sheet = desk.open_job(4, vehicle_name="Torvik crane", registration="SM-901")
    number, client = sheet["job_number"], desk.client
    job = f"/api/jobs/{number}"
    vehicle = client.get(job).json()["vehicle"]
    walk = client.post(f"{job}/sheets", json={"request_id": new_id(), "kind": "walk_round"}).json()
    injectors = [
        {"was": str(n), "label": str(n), "cylinder": n, "bank": "", "feed": "", "set_name": ""}
        for n in range(1, 5)
    ]
    renamed = {
        "name": "Brannock lifter", "registration": "SM-902", "distance_unit": "km", "cylinders": 4,
        "firing_order": [], "injectors": injectors, "seen": list("1234"),
    }  # fmt: skip
    changes = [
        ("patch", job, {"version": 1, "complaint": "stalls at the quay"}),
        ("patch", job, {"version": 2, "codes": ["P0303"]}),
        ("patch", f"/api/sheets/{walk['id']}", {"version": None, "put": {"codes": "P0304"}}),
        ("put", f"/api/vehicles/{vehicle['id']}/engine", renamed),
        ("post", f"{job}/closing", {"by": "Ines K.", "reason": "enough"}),
        ("patch", job, {"closed": False}),
    ]
    for method, path, body in changes:
        if body.get("version", 0) is None:
            body["version"] = client.get(path).json()["version"]
        before = _rows(engine)
        answer = client.request(method, path, json=body)
        assert answer.status_code == 200, (path, answer.text)
        now = _rows(engine)
        assert now != before, path
        with transaction(engine) as connection:
            words.fill(connection)
        assert _rows(engine) == now, path
    empty = desk.open_job(4, vehicle_name="Torvik by mistake")
    assert client.delete(f"/api/jobs/{empty['job_number']}").status_code == 204
    assert _rows(engine) == now


def test_the_newest_come_first_open_or_closed_and_counting_stops(
    desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Pages go on past what was counted, in one order, none twice."""
    for module in (words, today):
        monkeypatch.setattr(module, "MOST_COUNTED", 5)
    monkeypatch.setattr(today, "ON_A_PAGE", 4)
    numbers = [desk.open_job(4, vehicle_name=f"Torvik x{n}")["job_number"] for n in range(11)]
    for number in numbers[::2]:
        path = f"/api/jobs/{number}/closing"
        desk.client.post(path, json={"by": "Ines K.", "reason": "enough"}).raise_for_status()
    for asked in ({"find": "torv x"}, {}):
        pages = [
            desk.client.get("/api/jobs", params={**asked, "closed": True, "skip": skip})
            for skip in (0, 4, 8, 12)
        ]
        assert {p.headers["x-total-count"] for p in pages} == {"5+"}
        assert [j["number"] for p in pages for j in p.json()] == numbers[::-1]
        still = desk.client.get("/api/jobs", params=asked)
        assert still.headers["x-total-count"] == "5"
        assert [j["number"] for j in still.json()] == numbers[-2::-2][:4]


def test_a_search_sorts_nothing(desk: Desk, engine: Engine) -> None:
    """The database walks the index in the order that is asked for, for one word and for two."""
    load_demo(engine)
    desk.open_job(4, vehicle_name="Torvik crane")
    for asked in (["torvik"], ["crane", "torvik"]):
        query = words._hits(asked, words.OPEN_JOB).limit(60)
        shown = str(query.compile(dialect=mysql.dialect(), compile_kwargs={"literal_binds": True}))
        with transaction(engine) as connection:
            plan = connection.execute(text("EXPLAIN " + shown)).mappings().all()
        assert [row["key"] for row in plan] == ["PRIMARY"] * len(asked)
        assert not [row for row in plan if "filesort" in (row["Extra"] or "")]


def test_what_jobs_teach_is_counted_once_for_each_state(
    engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Counted anew after a job was closed, and not before; only the newest count."""
    load_demo(engine)
    counted: list[str] = []
    count = causes._count

    def watched(connection: object, fuel_system: str) -> Counts:
        counted.append(fuel_system)
        return count(connection, fuel_system)  # type: ignore[arg-type]

    monkeypatch.setattr(causes, "_count", watched)
    closed = [p.stem for p in DEMO.glob("*.json") if '"closed"' in p.read_text()]
    with transaction(engine) as connection:
        for number in closed:
            found = job_by_number(connection, number)
            assert found is not None
            causes.confirm(connection, found[0].id, "regulator_diaphragm")
    for _ in range(3):
        with transaction(engine) as connection:
            counts = causes.counts_on(connection, "port")
    assert counts.faults["regulator_diaphragm"] == len(closed)
    assert counted == ["port"]
    monkeypatch.setattr(causes, "MOST_TAUGHT", 2)
    with transaction(engine) as connection:
        taught.changed(connection)
    with transaction(engine) as connection:
        assert causes.counts_on(connection, "port").jobs == 2
    assert counted == ["port", "port"]
