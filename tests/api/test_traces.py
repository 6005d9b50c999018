"""Traces over HTTP: looked at, taken in whole or not at all, kept as they came, read by hand."""

from concurrent.futures import ThreadPoolExecutor
from threading import Semaphore
from typing import Any

import numpy as np
import pytest
from httpx2 import Response
from sqlalchemy import Engine, select
from tests.drivers import DEAD_S, Desk, new_id

from plumb.bench.traces import Crank, Log, crank_trace, pressure_log
from plumb.service.uses import bursts
from plumb.store.sheets import SHEET

BURSTS = ((340.0, 178.0), (345.0, 181.0), (341.0, 207.0), (338.0, 176.0))


def log_csv(**more: Any) -> bytes:
    """Four bursts on a rail, in kPa."""
    t, p, _ = pressure_log(Log(bursts=BURSTS, **more))
    rows = "".join(f"{x:.3f},{y:.2f}\n" for x, y in zip(t, p, strict=True))
    return f"time (s),rail (kPa)\n{rows}".encode()


def crank_csv(*, sync: bool = True) -> bytes:
    """Four cylinders, the third of the firing order a fifth low; decimal commas."""
    t, a, s = crank_trace(Crank(heights=(1, 1, 0.78, 1)))
    head = "t [ms];clamp [A]" + (";sync [V]\n" if sync else "\n")
    rows = "".join(
        f"{1000 * x:.1f};{y:.1f}{f';{z:.2f}' if sync else ''}\n".replace(".", ",")
        for x, y, z in zip(t, a, s, strict=True)
    )
    return (head + rows).encode()


def sheet_of(desk: Desk, kind: str, fuel_system: str) -> dict[str, Any]:
    """An empty sheet of a kind on a job of its own."""
    made: dict[str, Any] = desk.open_job(fuel_system=fuel_system, begin_with=kind)
    return made


def send(desk: Desk, sheet: dict[str, Any], text: bytes, **query: str) -> Response:
    """Bring a trace onto a sheet."""
    params = {"request_id": new_id(), "name": "a.csv", **query}
    return desk.send(f"/api/sheets/{sheet['id']}/trace", text, **params)


def test_a_log_gives_its_bursts_to_the_rows_in_the_order_of_reach(desk: Desk) -> None:
    """Readings with where they came from; the third gives less."""
    sheet = sheet_of(desk, "pressure_drop", "port")
    text = log_csv()
    head = desk.send("/api/trace-columns", text[:5000], kind="pressure_drop").json()
    assert [(r["code"], r["column"]) for r in head["roles"]] == [
        ("time", "time"),
        ("pressure", "rail"),
    ]
    trace = send(desk, sheet, text).json()
    assert [b["injector"] for b in trace["bursts"]] == ["1", "2", "3", "4"]
    wanted = {"take": [{"number": b["number"], "injector": b["injector"]} for b in trace["bursts"]]}
    path = f"/api/traces/{trace['id']}/readings"
    taken = desk.client.post(path, json=wanted).json()
    assert [r["words"] for r in taken["rows"]] == ["in plumb", "in plumb", "gives less", "in plumb"]
    for row, (first, second) in zip(taken["rows"], BURSTS, strict=True):
        reading = row["readings"][0]
        assert float(reading["first_typed"]) == pytest.approx(first / 6.894757, abs=0.3)
        assert float(reading["second_typed"]) == pytest.approx(second / 6.894757, abs=0.3)
        assert reading["note"].startswith("from a.csv, ")
    again = desk.client.post(path, json=wanted)
    assert (again.status_code, again.json()["problems"][0]["code"]) == (409, "taken")
    assert desk.client.get(f"/api/traces/{trace['id']}/csv").content == text


def test_two_people_cannot_take_one_burst(
    desk: Desk, engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Both have begun while a third one holds the sheet; then one is answered and one is told."""
    sheet = sheet_of(desk, "pressure_drop", "port")
    trace = send(desk, sheet, log_csv()).json()
    take = {"take": [{"number": 1, "injector": "2"}]}
    begun = Semaphore(0)
    known_trace = bursts.known_trace

    def begins(*args: Any, **more: Any) -> Any:
        begun.release()
        return known_trace(*args, **more)

    monkeypatch.setattr(bursts, "known_trace", begins)

    def taken(_: int) -> int:
        path = f"/api/traces/{trace['id']}/readings"
        return desk.client.post(path, json=take).status_code

    with ThreadPoolExecutor(2) as people:
        with engine.begin() as third:
            third.execute(select(SHEET.c.id).where(SHEET.c.id == sheet["id"]).with_for_update())
            answers = [people.submit(taken, n) for n in range(2)]
            assert all(begun.acquire(timeout=DEAD_S) for _ in range(2))
            assert not any(a.done() for a in answers)
        assert sorted(a.result() for a in answers) == [200, 409]
    row = desk.client.get(f"/api/sheets/{sheet['id']}").json()["rows"][1]
    assert len(row["readings"]) == 1


def test_taking_is_all_or_nothing(desk: Desk) -> None:
    """One burst that is not there keeps the other from being taken."""
    sheet = sheet_of(desk, "pressure_drop", "port")
    trace = send(desk, sheet, log_csv()).json()
    take = [{"number": 0, "injector": "1"}, {"number": 9, "injector": "2"}]
    answer = desk.client.post(f"/api/traces/{trace['id']}/readings", json={"take": take})
    assert answer.status_code == 404
    rows = desk.client.get(f"/api/sheets/{sheet['id']}").json()["rows"]
    assert all(not r["readings"] for r in rows)
    assert all(not b["reading_id"] for b in shown(desk, sheet)["bursts"])


def shown(desk: Desk, sheet: dict[str, Any]) -> dict[str, Any]:
    """The trace of a sheet as it is drawn."""
    made: dict[str, Any] = desk.client.get(f"/api/sheets/{sheet['id']}/trace").json()
    return made


def test_a_mark_moved_by_hand_corrects_the_reading_taken_from_it(desk: Desk) -> None:
    """Half-way down the burst is less first pressure; taken back, the burst is free again."""
    sheet = sheet_of(desk, "pressure_drop", "port")
    trace = send(desk, sheet, log_csv()).json()
    take = {"take": [{"number": 1, "injector": "2"}]}
    before = desk.client.post(f"/api/traces/{trace['id']}/readings", json=take).json()
    kept = before["rows"][1]["readings"][0]
    burst = trace["bursts"][1]
    path = f"/api/traces/{trace['id']}/bursts/1"
    span = {"start_s": burst["start_s"] - 0.5, "end_s": burst["end_s"] + 1.0}
    moved = desk.client.put(path, json=span).json()["bursts"][1]
    assert moved["moved"]
    row = desk.client.get(f"/api/sheets/{sheet['id']}").json()["rows"][1]
    assert [r["id"] for r in row["readings"]] == [moved["reading_id"]]
    assert row["readings"][0]["pass_number"] == kept["pass_number"]
    assert float(row["readings"][0]["second_typed"]) > float(kept["second_typed"])
    backwards = desk.client.put(path, json={"start_s": 9, "end_s": 8})
    assert backwards.status_code == 422
    desk.client.delete(f"/api/sheets/{sheet['id']}/readings/{moved['reading_id']}")
    assert shown(desk, sheet)["bursts"][1]["reading_id"] == ""


def test_a_burst_that_was_not_found_is_read_between_marks_set_by_hand(desk: Desk) -> None:
    """A tired drop in the noise is read by hand and taken; marks over another burst are refused."""
    sheet = sheet_of(desk, "pressure_drop", "port")
    t, p, _ = pressure_log(Log(bursts=BURSTS))
    slow = np.interp(t, (2.0, 2.8), (0.0, 8.0))
    assert t[0] < 2.0
    rows = "".join(f"{x:.3f},{y:.2f}\n" for x, y in zip(t, p + 8.0 - slow, strict=True))
    trace = send(desk, sheet, f"time (s),rail (kPa)\n{rows}".encode()).json()
    found = trace["bursts"]
    assert all(b["start_s"] > 2.9 for b in found)
    path = f"/api/traces/{trace['id']}/bursts"
    over = {"start_s": found[1]["start_s"] + 0.01, "end_s": found[1]["end_s"] + 0.5}
    refused = desk.client.post(path, json=over)
    assert (refused.status_code, refused.json()["problems"][0]["code"]) == (
        422,
        "lies_over_another",
    )
    added = desk.client.post(path, json={"start_s": 2.0, "end_s": 2.8}).json()["bursts"]
    assert [b["moved"] for b in added] == [False] * len(found) + [True]
    mine = added[-1]
    drop_psi = float(mine["first"]) - float(mine["second"])
    assert drop_psi == pytest.approx(8.0 / 6.894757, abs=0.25)
    take = {"take": [{"number": mine["number"], "injector": "4"}]}
    taken = desk.client.post(f"/api/traces/{trace['id']}/readings", json=take).json()
    assert taken["rows"][3]["readings"][0]["first_typed"] == mine["first"]


def test_a_drop_sheet_keeps_each_log_that_was_brought(desk: Desk) -> None:
    """The newest is drawn, the others on asking; a log of another sheet is not here."""
    sheet = sheet_of(desk, "pressure_drop", "port")
    first = send(desk, sheet, log_csv(), name="one.csv").json()
    second = send(desk, sheet, log_csv(), name="two.csv").json()
    both = [{"id": second["id"], "name": "two.csv"}, {"id": first["id"], "name": "one.csv"}]
    assert second["all"] == both
    assert shown(desk, sheet)["name"] == "two.csv"
    path = f"/api/sheets/{sheet['id']}/trace?trace_id={first['id']}"
    assert desk.client.get(path).json()["name"] == "one.csv"
    other = sheet_of(desk, "pressure_drop", "port")
    strange = desk.client.get(f"/api/sheets/{other['id']}/trace?trace_id={first['id']}")
    assert strange.status_code == 404


def test_a_clamp_has_no_bursts(desk: Desk) -> None:
    """Asked for by hand or closely, it says so."""
    sheet = sheet_of(desk, "cranking_balance", "common_rail")
    trace = send(desk, sheet, crank_csv()).json()
    for answer in (
        desk.client.post(f"/api/traces/{trace['id']}/bursts", json={"start_s": 1, "end_s": 2}),
        desk.client.get(f"/api/traces/{trace['id']}/part?from_s=1&to_s=2"),
    ):
        assert (answer.status_code, answer.json()["problems"][0]["code"]) == (422, "no_log")


def test_a_stretch_of_a_log_is_drawn_as_finely_as_it_was_sampled(desk: Desk) -> None:
    """One second at 200 a second: 201 runs, within what the whole shows."""
    sheet = sheet_of(desk, "pressure_drop", "port")
    trace = send(desk, sheet, log_csv()).json()
    part = desk.client.get(f"/api/traces/{trace['id']}/part?from_s=3&to_s=4").json()
    assert len(part["low"]) == 201
    assert part["low"] == part["high"]
    assert max(part["high"]) <= max(trace["channels"][0]["high"])


def test_a_clamp_with_a_sync_names_the_cylinder(desk: Desk) -> None:
    """The third of 1 3 4 2 is cylinder 4; another firing order, another cylinder."""
    sheet = sheet_of(desk, "cranking_balance", "common_rail")
    trace = send(desk, sheet, crank_csv()).json()
    assert trace["synced"]
    weak = [h["injector"] for h in trace["humps"] if h["state"] == "low"]
    assert weak == ["4"]
    now = desk.client.get(f"/api/sheets/{sheet['id']}").json()
    assert now["rows"][3]["words"] == "weak hump"
    put = {"version": now["version"], "put": {"firing_order": "1 2 3 4"}}
    turned = desk.client.patch(f"/api/sheets/{sheet['id']}", json=put).json()
    assert turned["rows"][2]["words"] == "weak hump"
    wrong = {"version": turned["version"], "put": {"firing_order": "1 2 3 9"}}
    assert desk.client.patch(f"/api/sheets/{sheet['id']}", json=wrong).status_code == 422
    file = desk.client.get(f"/api/jobs/{sheet['job_number']}/file").content
    copy = file.replace(f'"number": "{sheet["job_number"]}"'.encode(), b'"number": "copy"')
    again = desk.send("/api/job-files", copy, "application/json", preview=True).json()
    assert again["fits"], again["problems"]


def test_without_a_sync_nobody_is_named(desk: Desk) -> None:
    """The place is known, the cylinder is not."""
    sheet = sheet_of(desk, "cranking_balance", "common_rail")
    trace = send(desk, sheet, crank_csv(sync=False)).json()
    assert (trace["synced"], {h["injector"] for h in trace["humps"]}) == (False, {""})
    now = desk.client.get(f"/api/sheets/{sheet['id']}").json()
    assert {r["words"] for r in now["rows"]} == {"whose is not known"}


def test_a_rail_that_surges_is_drawn_and_kept_in_its_unit(desk: Desk) -> None:
    """In MPa as the header says; the job file carries the moments."""
    t = np.arange(0.0, 20.0, 0.05)
    rows = "".join(
        f"{x:.2f},30,{30 + 4.2 * np.sin(2 * np.pi * 1.1 * x):.3f}\n" for x in t
    )  # fmt: skip
    text = ("t [s],desired [MPa],measured [MPa]\n" + rows).encode()
    sheet = sheet_of(desk, "rail_pressure", "common_rail")
    trace = send(desk, sheet, text).json()
    assert [c["unit"] for c in trace["channels"]] == ["MPa", "MPa"]
    now = desk.client.get(f"/api/sheets/{sheet['id']}").json()
    assert (now["unit"], now["headline"][0]["text"][:16]) == ("MPa", "The rail surges ")
    file = desk.client.get(f"/api/jobs/{sheet['job_number']}/file").json()
    series = file["sheets"][0]["series"]
    assert (len(series), series[0]["wanted"]) == (len(t), 30)


def test_corrections_of_the_same_trace_are_told_beside_the_rail(desk: Desk) -> None:
    """Three go with its surge, a little behind it; the fourth moves by itself: its cylinder is named, the others are not."""
    t = np.arange(0.0, 20.0, 0.05)
    swing = np.sin(2 * np.pi * 0.7 * t)
    late = np.sin(2 * np.pi * 0.7 * (t - 0.3))
    own = np.sin(2 * np.pi * 0.23 * t)
    rows = "".join(
        f"{x:.2f},300,{300 + 60 * a:.2f},{3 * b:.3f},{-4 * b:.3f},{2.5 * b:.3f},{5 * c:.3f}\n"
        for x, a, b, c in zip(t, swing, late, own, strict=True)
    )
    head = "t [s],wanted [bar],actual [bar]," + ",".join(
        f"Correction {n} [mm3]" for n in range(1, 5)
    )
    sheet = sheet_of(desk, "rail_pressure", "common_rail")
    trace = send(desk, sheet, f"{head}\n{rows}".encode()).json()
    assert [c["name"] for c in trace["channels"]] == ["wanted", "actual"]
    now = desk.client.get(f"/api/sheets/{sheet['id']}").json()
    notes = " ".join(now["notes"])
    assert "The corrections of 1, 2 and 3 go to and fro with the rail" in notes
    assert "The correction of 4 moves by itself" in notes
    file = desk.client.get(f"/api/jobs/{sheet['job_number']}/file").json()
    kept = {x["injector"]: x for x in file["sheets"][0]["together"]}
    # The middle 90 % of a sine of amplitude a is 2a sin(0.45 pi) = 1.975 a wide.
    assert [kept[x]["swing"] for x in "1234"] == pytest.approx([5.93, 7.90, 4.94, 9.88], abs=0.1)
    assert min(kept[x]["with_rail"] for x in "123") > 0.95
    assert kept["4"]["with_rail"] < 0.3
    # The next trace of this sheet has none: nothing of the old one stays.
    again = "t [s],wanted [bar],actual [bar]\n" + "".join(f"{k},300,30{k % 5}\n" for k in range(60))
    send(desk, sheet, again.encode())
    file = desk.client.get(f"/api/jobs/{sheet['job_number']}/file").json()
    assert not file["sheets"][0].get("together")


@pytest.mark.parametrize(
    ("text", "query", "path"),
    [
        (b"t [s],p [kPa]\n0,1\n1,x\n", {}, "line 3, p"),
        (b"t [s],p [kPa]\n" + b"0,345\n" * 5, {}, "time"),
        (b"t [s],p\n" + b"".join(b"%d,345\n" % k for k in range(40)), {}, "line 1, p"),
        (log_csv(), {"pressure": "boost"}, "pressure"),
        (
            b"t [s],p [kPa]\n" + b"".join(b"%d,345.%d\n" % (k, k % 3) for k in range(90)),
            {},
            "trace",
        ),
    ],
    ids=["a word", "too short", "no unit", "no such column", "no burst"],
)
def test_what_does_not_fit_is_named_and_nothing_is_stored(
    desk: Desk, text: bytes, query: dict[str, str], path: str
) -> None:
    """By line and column, or by what was looked for."""
    sheet = sheet_of(desk, "pressure_drop", "port")
    answer = send(desk, sheet, text, **query)
    assert answer.status_code == 422
    assert answer.json()["problems"][0]["path"] == path
    assert shown(desk, sheet) is None
    assert desk.client.get(f"/api/sheets/{sheet['id']}").json()["version"] == sheet["version"]


def test_the_same_request_again_changes_nothing(desk: Desk) -> None:
    """An answer that got lost is asked for again without harm."""
    sheet = sheet_of(desk, "rail_pressure", "common_rail")
    text = b"t [s],wanted [bar],actual [bar]\n" + b"".join(
        b"%d,300,30%d\n" % (k, k % 5) for k in range(60)
    )
    first = send(desk, sheet, text, request_id="7f0c1c0e-52a0-4a53-9d7e-3f6f0b6e2a99").json()
    again = send(desk, sheet, text, request_id="7f0c1c0e-52a0-4a53-9d7e-3f6f0b6e2a99").json()
    assert first == again


def test_sheets_that_take_no_trace_say_so(desk: Desk) -> None:
    """With those that do."""
    sheet = sheet_of(desk, "walk_round", "port")
    answer = send(desk, sheet, log_csv())
    assert answer.status_code == 422
    assert "pressure_drop" in answer.json()["problems"][0]["rule"]


def test_the_demo_brings_its_traces_in(desk: Desk) -> None:
    """A surging rail, a weak hump with its cylinder, a log half taken."""
    from plumb.demo import load  # noqa: PLC0415

    load.once(desk.client.app.state.engine)  # type: ignore[attr-defined]
    job = desk.client.get("/api/jobs/333").json()
    assert any("surges" in c for c in job["verdict"]["causes"])
    weak = desk.client.get("/api/jobs/334").json()["verdict"]["rows"]
    assert [r["injector"] for r in weak if r["condition"] == "not_the_injector"] == ["3"]
    knot = next(k for k in desk.client.get("/api/jobs/335").json()["route"] if k["key"] == "s2")
    bursts = desk.client.get(f"/api/sheets/{knot['sheet_id']}/trace").json()["bursts"]
    assert [bool(b["reading_id"]) for b in bursts] == [True] * 4 + [False] * 2
