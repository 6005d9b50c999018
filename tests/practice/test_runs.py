"""An exercise worked at its bench and on its sheets, marked, and kept apart from the shop."""

import subprocess
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from tests.drivers import Desk, new_id
from tests.practice.conftest import School

from plumb.practice.exercises import EXERCISES, engine_of
from plumb.practice.virtual import maker_drop
from plumb.store.practice import FIRST_ID

PSI = 6.894757


def test_the_first_from_the_complaint_to_the_marks(school: School) -> None:
    """Four bursts by hand, read off and typed: the lean one shows, and is worth a hundred points."""
    run = school.begin("01")
    assert run.job()["complaint"] == "misfire"
    assert run.seen("s1") == {"complaint": "misfire", "vacuum hose": "dry", "connectors": "good"}
    drops = run.bursts("1", "2", "3", "4")
    lean = min(drops, key=lambda row: drops[row])
    assert lean == school.bad("01")
    others = [d for row, d in drops.items() if row != lean]
    sound = maker_drop("port") / PSI
    assert all(d == pytest.approx(sound, rel=0.1) for d in others)
    before = run.now()
    assert before["points"] is None
    assert before["truth"] == []
    assert before["teaches"] == ""
    done = run.hand_in(injectors={lean: {"condition": "gives_less", "repair": "clean"}})
    assert done["points"] == 100.0
    assert done["ended"]
    assert done["bench"] is None
    assert done["truth"] == [f"{lean}: gives less, clogged or sticking"]


def test_minutes_are_those_of_the_work(school: School) -> None:
    """Walk-round 2, drop sheet 3 + 4 · 1.5 for the set however often it is looked at, 1.5 for a burst again.

    The lamp is paid by the plug: 1, and 0.7 for each that was looked at.
    """
    run = school.begin("01")
    run.seen("s1")
    run.seen("s1")
    assert run.now()["minutes"] == 2.0
    key = run.sheet("pressure_drop")
    assert run.now()["minutes"] == 11.0
    run.seen(key, "1", "2")
    assert run.now()["minutes"] == 11.0
    run.act("start")
    run.act("stop")
    run.seen(key, "1")
    assert run.now()["minutes"] == 12.5
    run.seen(run.sheet("command"), "1", "3")
    now = run.now()
    assert now["minutes"] == pytest.approx(12.5 + 1.0 + 1.4)
    assert now["money"] == pytest.approx(now["minutes"] / 60.0 * 72.0, abs=0.01)
    assert now["incidents"] == []


def test_a_second_burst_without_a_run_between(school: School) -> None:
    """Fuel of the first lies there still: it is said with its minute; after a run of the engine it is not."""
    run = school.begin("01")
    key = run.sheet("pressure_drop")
    run.seen(key, "2")
    run.act("start")
    run.act("stop")
    run.seen(key, "2")
    assert run.now()["incidents"] == []
    told = run.act("look", sheet=key, rows=["2"])["incidents"]
    assert len(told) == 1
    assert "second burst at 2" in told[0]["what"]
    assert told[0]["minute"] == 2 + 9 + 2 * 1.5
    marks = run.hand_in()["marks"]
    assert [m["minute"] for m in marks if m["what"] == "safety"] == [14.0, None]


def test_the_rail_opened_under_pressure(school: School) -> None:
    """With the pump's pressure in it that is dangerous; relieved first it is not; tips are seen with it out."""
    run = school.begin("06")
    run.act("start")
    run.act("stop")
    key = run.sheet("tip_leak")
    answer = run.act("look", 409, sheet=key)
    assert "relieve the rail" in answer["problems"][0]["rule"]
    run.act("relieve")
    assert float(run.now()["bench"]["gauge"]) == pytest.approx(0.0, abs=0.3)
    run.act("lift")
    assert run.now()["incidents"] == []
    words = run.seen(key)
    drips = school.bad("06")
    assert {row for row, word in words.items() if word != "dry"} == {drips}
    assert "put it back" in run.act("start", 409)["problems"][0]["rule"]
    run.act("put_back")
    run.act("start")
    (danger,) = run.act("lift")["incidents"]
    assert "opened with" in danger["what"]


def test_a_starter_without_a_rest(school: School) -> None:
    """Five tries of eight seconds one after the other on an engine without fuel pressure; with rests it may."""
    run = school.begin("07")
    for _ in range(5):
        told = run.act("start")["told"]
        assert "does not start" in told[0]["text"]
        run.act("wait", seconds=90.0)
    assert run.now()["incidents"] == []
    for _ in range(5):
        run.act("start")
    (danger,) = run.now()["incidents"]
    assert "starter" in danger["what"]


def test_what_stops_the_work_is_put_right_on_the_way(school: School) -> None:
    """Without a pump there is no pressure; put right it is there; it is paid, once, and cannot be done twice."""
    run = school.begin("07")
    supply = run.sheet("supply_pressure")
    assert run.seen(supply)["pump"] == "silent"
    run.act("switch", name="pump", on=True)
    run.act("wait", seconds=5.0)
    assert float(run.now()["bench"]["gauge"]) < 1.0
    minutes = run.now()["minutes"]
    run.act("repair", name="pump")
    assert run.now()["minutes"] == minutes + 30.0
    run.act("wait", seconds=5.0)
    assert float(run.now()["bench"]["gauge"]) > 40.0
    run.act("repair", 409, name="pump")
    run.act("repair", 422, name="ignition")
    assert run.now()["minutes"] == minutes + 30.0
    done = run.hand_in(causes=["pump"])
    assert run.points(done)["the engine"] == 0.0, "nothing was noted"


def test_a_guess_earns_nothing(school: School) -> None:
    """Handed in with nothing noted; and with figures of all but the one that is named."""
    bad = school.bad("01")
    said = {bad: {"condition": "gives_less", "repair": "clean"}}
    blind = school.begin("01")
    assert blind.hand_in(injectors=said)["points"] == 10.0, "nobody was in danger, that is all"
    half = school.begin("01")
    half.bursts(*(row for row in "1234" if row != bad))
    points = half.points(half.hand_in(injectors=said))
    assert points[f"injector {bad}"] == 0.0
    assert points["good ones"] == 25.0


def test_hints_cost_and_an_exam_has_none(school: School) -> None:
    """A hint says what stands as the job's next step, and takes 4 points."""
    run = school.begin("03")
    asked = school.client.post(f"{run.at}/hints").json()
    assert asked["hint"].startswith(run.known()["next"]["title"])
    assert asked["hints"] == 1
    assert run.points(run.hand_in())["hints"] == -4.0
    exam = school.begin("03", exam=True)
    assert school.client.post(f"{exam.at}/hints").status_code == 409
    assert exam.now()["hints"] == 0


CONCLUSIONS = ("report.pdf", "report.html", "book.xlsx")


@pytest.mark.parametrize("exam", [False, True])
def test_nothing_tells_what_it_comes_to_before_it_is_handed_in(
    school: School, *, exam: bool
) -> None:
    """Not by any address: no next step, verdict, cause or way; papers and repairs are refused; then all is told."""
    run = school.begin("01", exam=exam)
    lean = school.bad("01")
    run.bursts("1", "2", "3", "4")
    of_job, known = f"/practice/api/jobs/{run.number}", run.known()
    to_clean = {"clean_and_repeat"}
    assert [r["injector"] for r in known["verdict"]["rows"] if r["action"] in to_clean] == [lean]
    changed = {"version": run.job()["version"], "complaint": "misfire when cold"}
    for job in (run.job(), school.client.patch(of_job, json=changed).json()):
        assert (job["next"], job["repeat"], job["verdict"]["rows"]) == (None, None, [])
        assert [c["code"] for c in job["diagnosis"]["causes"] if c["state"] == "found"] == []
        assert job["finishing"]["options"] == []
        assert "next" not in {knot["state"] for knot in job["route"]}
        assert [k["key"] for k in job["route"]] == [k["key"] for k in known["route"]]
    (line,) = school.client.get("/practice/api/jobs").json()
    assert (line["number"], line["next_title"], line["next_sub"]) == (run.number, "", "")
    book = "/practice/api/jobs-book.xlsx?first=2026-01-01&last=2027-01-01"
    looks = [*(f"{of_job}/{name}" for name in CONCLUSIONS), book]
    for path in looks:
        refused = school.client.get(path)
        assert (refused.status_code, refused.json()["problems"][0]["code"]) == (
            409,
            "not_handed_in",
        )
    assert school.client.post(f"{of_job}/closing", json={"by": "Wen L."}).status_code == 409
    run.hand_in()
    assert run.job() == run.known()
    assert [school.client.get(path).status_code for path in looks] == [200] * len(looks)


def test_an_exam_prints(school: School, tmp_path: Path) -> None:
    """On paper: who, points, every line, what was hidden; before it is handed in nothing of that."""
    run = school.begin("", by="Wen L.", exam=True)

    def paper() -> str:
        path = tmp_path / "result.pdf"
        path.write_bytes(school.client.get(f"{run.at}/result.pdf").content)
        done = subprocess.run(
            ["pdftotext", "-layout", str(path), "-"], capture_output=True, check=True, text=True
        )
        return " ".join(done.stdout.split())

    assert "Not handed in yet" in paper()
    assert "What was hidden" not in paper()
    done = run.hand_in()
    words = paper()
    for text in ("Exam", "Wen L.", f"{done['points']:g} of 100 points", "What was hidden"):
        assert text in words
    for mark in done["marks"]:
        assert mark["what"] in words


def test_nothing_of_it_gets_into_the_shop(school: School, desk: Desk) -> None:
    """Not the job, its vehicle, its gauges; the shop's own job of that number is another one; ids never meet."""
    desk.open_job(4)
    before = {
        path: desk.client.get(path).json() for path in ("/api/jobs", "/api/vehicles", "/api/gauges")
    }
    run = school.begin("01")
    run.bursts("1", "2")
    run.hand_in()
    after = {path: desk.client.get(path).json() for path in before}
    assert after == before
    assert [j["number"] for j in school.client.get("/practice/api/jobs").json()] == [run.number]
    assert all(s["id"] >= FIRST_ID for s in run.sheets.values())
    own = before["/api/jobs"][0]["number"]
    assert desk.client.get(f"/api/jobs/{own}").json()["vehicle"] != run.job()["vehicle"]


def test_a_foreign_page_reads_neither(school: School) -> None:
    """What the door keeps from the shop's data it keeps from those of practice."""
    run = school.begin("01")
    for path in (f"/practice/api/jobs/{run.number}", f"/api/practice/runs/{run.number}"):
        headers = {"sec-fetch-site": "cross-site"}
        assert school.client.get(path, headers=headers).status_code == 403
        assert school.client.get(path).headers["cache-control"] == "no-store"


def test_handed_in_is_handed_in(school: School) -> None:
    """Nothing more is done at it; its instruments are gone; the same marks come again."""
    run = school.begin("01")
    key = run.sheet("pressure_drop")
    done = run.hand_in()
    assert run.act("start", 409)["problems"][0]["code"] == "handed_in"
    run.hand_in(409)
    path = f"/practice/api/sheets/{run.sheets[key]['id']}/capture/offer"
    assert school.client.get(path).json()["address"] == ""
    assert run.now() == done


def test_the_same_request_begins_one_run(school: School) -> None:
    """A browser that sends again gets what it began, also when it drew one."""
    body = {"request_id": new_id(), "exercise": "", "by": "Ines K."}
    first, second = (school.client.post("/api/practice/runs", json=body).json() for _ in range(2))
    assert first["number"] == second["number"]
    assert first["exercise"].startswith("drawn-")
    assert len(school.client.get("/api/practice").json()["runs"]) == 1


def test_progress_is_kept_per_person(school: School) -> None:
    """The best of each exercise counts; from 80 points on one of the thirty is solved."""
    bad = school.bad("01")
    right = {bad: {"condition": "gives_less", "repair": "clean"}}
    for said in ({}, right):
        run = school.begin("01")
        run.bursts("1", "2", "3", "4")
        run.hand_in(injectors=said)
    school.begin("02", by="Tomas R.").hand_in()
    view = school.client.get("/api/practice").json()
    assert view["exercises"][0]["best"] == {"Ines K.": 100.0}
    assert view["people"] == [
        {"by": "Ines K.", "handed_in": 2, "solved": 1, "mean_best": 100.0},
        {"by": "Tomas R.", "handed_in": 1, "solved": 0, "mean_best": 10.0},
    ]


def test_feeds_and_systems_are_those_of_the_engine(school: School) -> None:
    """Who shares a feed is seen on the vehicle, as it is on a real one."""
    run = school.begin("16")
    feeds = {i["label"]: i["feed"] for i in run.job()["vehicle"]["injectors"]}
    hidden = engine_of(EXERCISES["16"])
    assert feeds == {str(n): feed for n, feed in enumerate(hidden.feed, 1)}


def test_what_nobody_can_do_is_refused_with_words(school: School) -> None:
    """Each with the place, the rule and the value; nothing of the run has changed."""
    run = school.begin("01")
    before = run.now()
    for status, given in (
        (422, {"what": "look", "sheet": "s9"}),
        (422, {"what": "switch", "name": "radio"}),
        (422, {"what": "try", "name": "kick_it"}),
        (409, {"what": "look", "sheet": "s1", "rows": ["5"]}),
    ):  # fmt: skip
        problem = run.act(given.pop("what"), status, **given)["problems"][0]
        assert problem["rule"]
        assert problem["value"] in {*map(str, given.values()), "5"}
    assert run.now() == before
    for said in (
        {"injectors": {"7": {"condition": "gives_less"}}},
        {"injectors": {"1": {"condition": "sulks"}}},
        {"injectors": {"1": {"repair": "hammer"}}},
        {"causes": ["the_moon"]},
    ):
        run.hand_in(422, **said)
    assert run.now() == before
    assert (
        school.client.post(
            "/api/practice/runs", json={"request_id": new_id(), "exercise": "31"}
        ).status_code
        == 422
    )
    assert school.client.get("/api/practice/runs/9999").status_code == 404


def test_a_shop_without_practice_says_so(
    engine: Engine, tmp_path: Path, client: TestClient
) -> None:
    """An application that was given no store for it."""
    from plumb.api.app import make_app  # noqa: PLC0415
    from plumb.api.settings import Settings  # noqa: PLC0415

    assert client.app is not None
    bare = TestClient(make_app(engine, Settings(), tmp_path), base_url="http://127.0.0.1")
    answer = bare.get("/api/practice")
    assert answer.status_code == 404
    assert "without practice" in answer.text
