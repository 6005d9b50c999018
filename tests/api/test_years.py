"""A vehicle over the years: history, slopes, parts that move, old figures, windows learnt, last time."""

from typing import Any

import pytest
from tests.drivers import Desk, job_file, new_id

from plumb.core.years.tolerance import two_sided_factor

PLATE = "SM-61"


def visit(desk: Desk, number: str, day: str, ends: tuple[float, ...], **more: Any) -> None:
    """A visit of the same van on a day, with second readings from 50 psi."""
    file = job_file(tuple((50, e) for e in ends))
    file["job"] = {"number": number, "opened": f"{day}T08:00:00+00:00"}
    file["vehicle"] |= {"registration": PLATE, "distance_km": more.pop("km", None)}
    file["sheets"][0] |= {"taken": f"{day}T09:00:00+00:00"}
    file |= more
    if file["vehicle"]["distance_km"] is None:
        del file["vehicle"]["distance_km"]
    answer = desk.bring_in(file)
    assert answer.status_code == 200, answer.text


def years(desk: Desk) -> dict[str, Any]:
    """The van's page."""
    vehicle = desk.client.get("/api/vehicles", params={"find": PLATE}).json()[0]["id"]
    answer = desk.client.get(f"/api/vehicles/{vehicle}/years")
    assert answer.status_code == 200, answer.text
    made: dict[str, Any] = answer.json()
    return made


def place(page: dict[str, Any], label: str, of: str = "places") -> dict[str, Any]:
    """One line of the flow."""
    flow = next(q for q in page["quantities"] if q["kind"] == "pressure_drop")
    return next(s for s in flow[of] if s["name"] == label)


SLIDES = (26.0, 26.4, 26.8, 27.2, 27.6)


def test_one_that_slides_is_said_to_with_when_it_leaves(desk: Desk) -> None:
    """Every year a little less, the neighbours stay: a slope, and when it reaches -10 %."""
    for n, end in enumerate(SLIDES):
        visit(desk, f"7{n}", f"202{n + 2}-05-10", (26, 26, 26, end), km=60_000 + 15_000 * n)
    page = years(desk)
    assert [v["number"] for v in page["visits"]] == ["74", "73", "72", "71", "70"]
    four = place(page, "4")
    values = [p["value"] for p in four["points"]]
    assert values == sorted(values, reverse=True)
    assert four["sliding"]
    assert (four["low"], four["high"]) == (-10.0, 10.0)
    a_year = (values[-1] - values[0]) / 4
    assert four["by_date"]["slope"] == pytest.approx(a_year, rel=0.05)
    assert four["by_distance"]["slope"] == pytest.approx(a_year / 15, rel=0.05)
    months = (10 + values[-1]) / abs(four["by_date"]["slope"]) * 12
    told = four["by_date"]["leaves"]
    assert told.startswith("at this slope it leaves its band in about ")
    assert float(told.split("about ")[1].split(" ")[0]) == pytest.approx(months, rel=0.06)
    assert not place(page, "1")["sliding"]
    assert place(page, "1")["by_date"]["leaves"] == ""


def test_coming_back_after_a_year_the_last_figures_are_there(desk: Desk) -> None:
    """A new job on the van: each row says where it hung, on which job; its own readings do not count."""
    visit(desk, "70", "2025-05-10", (26, 26.5, 26, 28))
    vehicle = desk.client.get("/api/vehicles", params={"find": PLATE}).json()[0]["id"]
    sheet = desk.open_job(vehicle_id=vehicle)
    last = desk.client.get(f"/api/sheets/{sheet['id']}/last-time").json()
    assert [(x["row"], x["job"]) for x in last] == [(n, "70") for n in "1234"]
    first = next(s for s in desk.client.get("/api/jobs/70").json()["route"] if s["key"] == "s1")
    rows = desk.client.get(f"/api/sheets/{first['sheet_id']}").json()["rows"]
    assert {x["row"]: x["at"] for x in last} == {r["injector"]: r["at"] for r in rows}
    desk.type(sheet, "4", "50 20")
    assert desk.client.get(f"/api/sheets/{sheet['id']}/last-time").json() == last
    # The first visit had none before it.
    assert desk.client.get(f"/api/sheets/{first['sheet_id']}/last-time").json() == []


def test_the_history_follows_the_part(desk: Desk) -> None:
    """2 and 4 change places, then 4 is replaced: three parts, each with its own figures."""
    visit(desk, "70", "2024-05-10", (26, 26, 26, 30),
          repairs=[{"injector": "2", "done": "swapped", "with": "4", "at": "2024-05-10T12:00:00+00:00"}])  # fmt: skip
    visit(desk, "71", "2025-05-10", (26, 30, 26, 26),
          repairs=[{"injector": "2", "done": "replaced", "at": "2025-05-10T12:00:00+00:00",
                    "part": {"make": "Brannock", "serial": "12"}}])  # fmt: skip
    visit(desk, "72", "2026-05-10", (26, 26, 26, 26))
    page = years(desk)
    moved = place(page, "first in 4", "parts")
    assert [round(p["value"]) < -10 for p in moved["points"]] == [True, True]
    assert moved["place"] == ""
    new = place(page, "Brannock, serial 12", "parts")
    assert (len(new["points"]), new["place"]) == (1, "2")
    stayed = place(page, "first in 2", "parts")
    assert (len(stayed["points"]), stayed["place"]) == (3, "4")
    two = place(page, "2")
    assert [k["words"] for k in two["repairs"]] == [
        "2 and 4 changed places", "2 replaced: Brannock, serial 12",
    ]  # fmt: skip
    # A slope goes over no repair: one figure since is none.
    assert (two["by_date"], two["change"]) == (None, None)
    seats = {s["place"]: s["part"]["serial"] for s in page["seats"]}
    assert seats == {"1": "", "2": "12", "3": "", "4": ""}


def test_what_is_known_of_a_part_is_noted_where_it_sits(desk: Desk) -> None:
    """Of one that was there from the beginning, of one that was moved, of one that was put in."""
    visit(desk, "70", "2024-05-10", (26, 26, 26, 30),
          repairs=[{"injector": "2", "done": "swapped", "with": "4", "at": "2024-05-10T12:00:00+00:00"}])  # fmt: skip
    vehicle = years(desk)["vehicle"]["id"]

    def note(label: str, serial: str) -> dict[str, Any]:
        path = f"/api/vehicles/{vehicle}/parts/{label}"
        answer = desk.client.put(path, json={"make": "Torvik", "serial": serial})
        assert answer.status_code == 200, answer.text
        return {s["place"]: s["part"]["serial"] for s in answer.json()["seats"]}

    assert note("1", "A1") == {"1": "A1", "2": "", "3": "", "4": ""}
    # What sits in 4 now came from 2.
    note("4", "B2")
    assert place(years(desk), "Torvik, serial B2", "parts")["place"] == "4"
    assert note("4", "B3")["4"] == "B3"
    assert desk.client.put(f"/api/vehicles/{vehicle}/parts/9", json={}).status_code == 422
    out = desk.client.get("/api/jobs/70/file").json()
    parts = {i["id"]: i.get("part", {}).get("serial") for i in out["vehicle"]["injectors"]}
    # The file tells what sat there before its repairs.
    assert parts == {"1": "A1", "2": "B3", "3": None, "4": None}


def test_old_figures_come_in_with_their_own_dates(desk: Desk) -> None:
    """By comma or semicolon; the line of a place goes back to them; sent twice they are there once."""
    visit(desk, "70", "2026-05-10", (26, 26, 26, 28), km=90_000)
    vehicle = years(desk)["vehicle"]["id"]
    path = f"/api/vehicles/{vehicle}/old-figures"
    text = (
        "date;distance;injector;sheet;value;source\n"
        "2021-03-01;30000;4;Drop per injector;-0,5;grey book\n"
        "2023-03-01;55000;4;pressure_drop;-2.5;grey book\n"
        "2023-03-01;55000;1;Coils;13.2;grey book\n"
    )
    preview = desk.send(path, text, preview=True).json()
    assert (preview["fits"], preview["stored"], preview["readings"]) == (True, False, 3)
    assert len(place(years(desk), "4")["points"]) == 1
    for _ in range(2):
        assert desk.send(path, text).status_code == 200
    page = years(desk)
    four = place(page, "4")
    assert [(p["value"], p["source"]) for p in four["points"]][:2] == [
        (-0.5, "grey book"), (-2.5, "grey book"),
    ]  # fmt: skip
    assert four["by_date"]["slope"] < 0
    coils = next(q for q in page["quantities"] if q["kind"] == "coil_resistance")
    assert (coils["unit"], coils["share"]) == ("ohm", False)


def test_one_line_has_one_unit_whatever_the_sheets_and_the_paper_had(desk: Desk) -> None:
    """Bar one year, psi the next, psi on paper: 1 bar is 14.5038 psi (NIST SP 811, table B.8)."""
    for number, day, unit, value, window in (
        ("70", "2024-05-10", "bar", 120.0, {"low": 115, "high": 125}),
        ("71", "2025-05-10", "psi", 1740.5, {"low": 1668, "high": 1813}),
    ):
        file = job_file(((50, 26),) * 4)
        file["job"] = {"number": number, "opened": f"{day}T08:00:00+00:00"}
        file["vehicle"] |= {"registration": PLATE, "fuel_system": "mechanical_diesel"}
        file["sheets"] = [
            {
                "kind": "opening_pressure", "id": "o", "unit": unit, "gauge": {"step": 0.5},
                "taken": f"{day}T09:00:00+00:00", "window": window, "strokes": 3,
                "readings": [
                    {"injector": str(n), "pass": p, "value": value} for n in range(1, 5) for p in (1, 2, 3)
                ],
            }
        ]  # fmt: skip
        answer = desk.bring_in(file)
        assert answer.status_code == 200, answer.text
    vehicle = years(desk)["vehicle"]["id"]
    text = "date,injector,sheet,value,unit\n2023-05-10,1,opening_pressure,1740.5,psi\n"
    assert desk.send(f"/api/vehicles/{vehicle}/old-figures", text).status_code == 200
    (line,) = years(desk)["quantities"]
    one = next(s for s in line["places"] if s["name"] == "1")
    assert line["unit"] == "psi"
    assert [p["value"] for p in one["points"]] == pytest.approx([1740.5] * 3, rel=2e-4)
    # The paper's last digit is 0.1 psi, whatever the line is shown in.
    assert one["points"][0]["u"] == pytest.approx(0.1 / 12**0.5, abs=1e-4)
    assert (one["low"], one["high"]) == (pytest.approx(1668), pytest.approx(1813))
    assert not one["sliding"]


def test_figures_of_units_that_do_not_convert_are_lines_of_their_own(desk: Desk) -> None:
    """A correction in per cent and one in mm3 share no axis."""
    for number, day, unit in (("70", "2024-05-10", "percent"), ("71", "2025-05-10", "mm3")):
        file = job_file(((50, 26),) * 4)
        file["job"] = {"number": number, "opened": f"{day}T08:00:00+00:00"}
        file["vehicle"] |= {"registration": PLATE, "fuel_system": "common_rail"}
        file["sheets"] = [
            {
                "kind": "correction",
                "id": "c",
                "unit": unit,
                "gauge": {"step": 0.1},
                "taken": f"{day}T09:00:00+00:00",
                "readings": [{"injector": str(n), "value": 0.1 * n} for n in range(1, 5)],
            }
        ]
        answer = desk.bring_in(file)
        assert answer.status_code == 200, answer.text
    lines = years(desk)["quantities"]
    assert [q["unit"] for q in lines] == ["percent", "mm3"]
    assert len({q["title"] for q in lines}) == 2
    assert all(len(s["points"]) == 1 for q in lines for s in q["places"])


def test_a_return_that_shrinks_leaves_no_band(desk: Desk) -> None:
    """Too much is a fault, little is none: one that grows has a limit ahead, one that shrinks none."""
    for n, (grows, shrinks) in enumerate(((14, 14), (17, 13), (20, 12))):
        file = job_file(((50, 26),) * 6)
        day = f"202{n + 3}-05-10"
        file["job"] = {"number": f"7{n}", "opened": f"{day}T08:00:00+00:00"}
        file["vehicle"] |= {"registration": PLATE, "fuel_system": "common_rail"}
        volumes = (14, 14, 14, 14, grows, shrinks)
        file["sheets"] = [
            {
                "kind": "return_volume", "id": "r", "unit": "ml", "gauge": {"step": 0.5},
                "taken": f"{day}T09:00:00+00:00", "state": "idle", "duration_s": 60,
                "readings": [{"injector": str(i), "value": v} for i, v in enumerate(volumes, 1)],
            }
        ]  # fmt: skip
        answer = desk.bring_in(file)
        assert answer.status_code == 200, answer.text
    (line,) = years(desk)["quantities"]
    lines = {s["name"]: s for s in line["places"]}
    assert {s["low"] for s in lines.values()} == {None}
    assert all(s["high"] > 14 for s in lines.values())
    assert lines["6"]["by_date"]["slope"] < 0 < lines["5"]["by_date"]["slope"]
    assert lines["6"]["by_date"]["leaves"] == ""
    assert "leaves its band in about" in lines["5"]["by_date"]["leaves"]


def test_distances_from_paper_are_in_the_vehicles_unit(desk: Desk) -> None:
    """A van counted in miles: what is typed as 30 000 comes back as 30 000."""
    sheet = desk.open_job(registration=PLATE, distance_unit="mi", distance="50000")
    desk.type(sheet, "4", "50 26")
    page = years(desk)
    assert page["visits"][0]["distance"] == "50000"
    text = "date,distance,injector,sheet,value\n2021-03-01,30000,4,pressure_drop,-0.5\n"
    path = f"/api/vehicles/{page['vehicle']['id']}/old-figures"
    assert desk.send(path, text).status_code == 200
    assert place(years(desk), "4")["points"][0]["distance"] == pytest.approx(30_000)
    wrong = desk.send(path, text.replace("30000", "-1"), preview=True).json()
    assert (wrong["fits"], "line 2, distance" in wrong["problems"][0]) == (False, True)


@pytest.mark.parametrize(
    ("line", "where"),
    [
        ("2021-13-01,4,Coils,13", "line 2, date"),
        ("2021-03-01,9,Coils,13", "line 2, injector"),
        ("2021-03-01,4,Tea,13", "line 2, sheet"),
        ("2021-03-01,4,Coils,many", "line 2, value"),
    ],
)
def test_old_figures_that_do_not_fit_are_told_by_line(desk: Desk, line: str, where: str) -> None:
    """And none of them is kept."""
    visit(desk, "70", "2026-05-10", (26, 26, 26, 28))
    vehicle = years(desk)["vehicle"]["id"]
    text = f"date,injector,sheet,value\n{line}\n2022-03-01,4,Coils,13.1\n"
    answer = desk.send(f"/api/vehicles/{vehicle}/old-figures", text)
    assert answer.status_code == 422
    assert answer.json()["problems"][0]["path"] == where
    assert [q["kind"] for q in years(desk)["quantities"]] == ["pressure_drop"]
    bad = desk.send(f"/api/vehicles/{vehicle}/old-figures", "day,what\n1,2\n", preview=True).json()
    assert not bad["fits"]


def coil_job(number: str, plate: str, ohms: tuple[float, ...]) -> dict[str, Any]:
    """A van of the same name with these coils, at 20 °C."""
    file = job_file(())
    file["job"] = {"number": number}
    file["vehicle"] |= {
        "registration": plate,
        "injectors": [{"id": str(n), "cylinder": n} for n in range(1, len(ohms) + 1)],
    }
    file["sheets"] = [
        {
            "kind": "coil_resistance", "id": "c", "unit": "ohm", "gauge": {"step": 0.01},
            "temperature_c": 20,
            "readings": [{"injector": str(n), "value": v} for n, v in enumerate(ohms, 1)],
        }
    ]  # fmt: skip
    return file


def test_a_window_is_learnt_from_the_shops_own_sound_parts(desk: Desk) -> None:
    """Mean and exact k standard deviations of what was sound; one that is open does not count."""
    sets = ((12.1, 12.3, 12.2, 12.0), (12.4, 12.2, 12.1, 12.3), (12.3, 12.2, 12.0, 12.2))
    for n, ohms in enumerate(sets):
        assert desk.bring_in(coil_job(f"8{n}", f"SM-7{n}", ohms)).status_code == 200
    sheet = desk.open_job(vehicle_name="Torvik Lundy 1.8", begin_with="coil_resistance")
    path = f"/api/sheets/{sheet['id']}"
    learnt = desk.client.get(f"{path}/learnt-window").json()
    values = [v for ohms in sets for v in ohms]
    mean = sum(values) / 12
    deviation = (sum((v - mean) ** 2 for v in values) / 11) ** 0.5
    assert learnt["count"] == 12
    assert (learnt["low"] + learnt["high"]) / 2 == pytest.approx(mean, rel=2e-3)
    # Three vans say less than twelve parts of twelve vans would.
    assert learnt["high"] - learnt["low"] > 2 * two_sided_factor(12) * deviation
    assert "12 sound ones of your own on 3 vehicles" in learnt["words"]
    now = desk.client.get(path).json()["version"]
    taken = desk.client.patch(path, json={"version": now, "put": learnt["put"]})
    assert taken.status_code == 200, taken.text
    other = desk.open_job(vehicle_name="Brannock sweeper", begin_with="coil_resistance")
    assert desk.client.get(f"/api/sheets/{other['id']}/learnt-window").json() is None
    drop = desk.open_job(vehicle_name="Torvik Lundy 1.8")
    assert desk.client.get(f"/api/sheets/{drop['id']}/learnt-window").json() is None


def test_the_same_van_after_an_after_sheet(desk: Desk) -> None:
    """What was measured after the repair is a figure of its own, after the knot."""
    visit(desk, "70", "2026-05-10", (26, 26, 26, 31))
    desk.client.put(f"/api/jobs/70/repairs/{new_id()}", json={"injector": "4", "done": "cleaned"})
    sheet = desk.client.post(
        "/api/jobs/70/sheets", json={"request_id": new_id(), "kind": "pressure_drop", "after": "s1"}
    ).json()
    desk.type(sheet, "4", "50 26")
    four = place(years(desk), "4")
    assert [p["value"] < -10 for p in four["points"]] == [True, False]
    assert len(four["repairs"]) == 1


def offers(desk: Desk, sheet: dict[str, Any]) -> list[dict[str, Any]]:
    """Which earlier sets can be taken as what is expected."""
    answer = desk.client.get(f"/api/sheets/{sheet['id']}/baselines")
    assert answer.status_code == 200, answer.text
    made: list[dict[str, Any]] = answer.json()
    return made


def test_a_sound_set_of_years_ago_is_what_is_expected(desk: Desk) -> None:
    """Taken by one press: then beside now, and all have faded alike; a set with a bad one is no measure."""
    visit(desk, "70", "2023-05-12", (26, 26.5, 26, 26))
    visit(desk, "71", "2024-05-12", (26, 26, 26, 36))
    vehicle = desk.client.get("/api/vehicles", params={"find": PLATE}).json()[0]["id"]
    sheet = desk.open_job(vehicle_id=vehicle)
    (offer,) = offers(desk, sheet)
    assert offer["words"] == "12 May 2023, job 70: 23.88 psi"
    assert (offer["own"], offer["used"]) == (True, False)
    assert [t["figures"] for t in offer["then"]] == ["50 26", "50 26.5", "50 26", "50 26"]
    sheet = desk.put(sheet, **offer["put"])
    for n in "1234":
        sheet = desk.type(sheet, n, "50 31").json()
    assert any("All have faded alike since 12 May 2023" in note for note in sheet["notes"])
    (used,) = offers(desk, sheet)
    assert used["used"]
    # From a higher rail the same injectors drop more.
    for n in "1234":
        sheet = desk.type(sheet, n, "60 40").json()
    (again,) = offers(desk, sheet)
    assert float(again["put"]["expected.drop"]) > float(offer["put"]["expected.drop"])
    gone = desk.put(sheet, **{"expected.drop": ""})
    assert not offers(desk, gone)[0]["used"]


def test_others_of_its_name_and_another_burst(desk: Desk) -> None:
    """A van that is new here is held against another of its type, without that it has faded since; bursts must be the same."""
    visit(desk, "70", "2023-05-12", (26, 26.5, 26, 26))
    name = desk.client.get("/api/vehicles", params={"find": PLATE}).json()[0]["name"]
    sheet = desk.open_job(vehicle_name=name)
    (offer,) = offers(desk, sheet)
    assert offer["words"].startswith(f"12 May 2023, another {name}, job 70: ")
    assert (offer["own"], offer["then"], offer["put"]["expected.since"]) == (False, [], "")
    sheet = desk.put(sheet, **{"burst.pulses": "20"})
    assert offers(desk, sheet) == []


def test_a_day_of_then_that_is_none_is_refused(desk: Desk) -> None:
    """Typed by hand it is a day like 2026-05-12."""
    sheet = desk.open_job()
    put = {"expected.drop": "24", "expected.since": "last spring"}
    body = {"version": sheet["version"], "put": put}
    answer = desk.client.patch(f"/api/sheets/{sheet['id']}", json=body)
    assert answer.status_code == 422
    assert "2026-05-12" in answer.text
