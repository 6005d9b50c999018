"""Typed on the sheet, kept in its file, and told beside the rows: what stands next to the first figures."""

from typing import Any

from sqlalchemy import Engine
from tests.api.test_every_sheet import begin, put
from tests.drivers import Desk, load_demo


def sheet_of(desk: Desk, number: str, kind: str) -> Any:
    """The newest sheet of a kind on a demo job."""
    job = desk.client.get(f"/api/jobs/{number}").json()
    found = [s["sheet_id"] for s in job["route"] if s["kind"] == kind]
    return desk.client.get(f"/api/sheets/{found[-1]}").json()


def kept(desk: Desk, number: str, kind: str) -> Any:
    """The same in the job's file."""
    sheets = desk.client.get(f"/api/jobs/{number}/file").json()["sheets"]
    return [s for s in sheets if s["kind"] == kind][-1]


def test_second_figures_are_typed_in_one_line_and_stand_in_the_rows(
    desk: Desk, engine: Engine
) -> None:
    """Eight on-times beside eight quantities; one too many is refused and nothing is lost."""
    load_demo(engine)
    sheet = sheet_of(desk, "329", "correction")
    figures = "1.12 0.61 0.60 0.62 0.60 0.61 0.60 0.62"
    made = put(desk, sheet, beside__values=figures).json()
    assert [r["under"] for r in made["rows"]] == [f"{f} ms beside it" for f in figures.split()]
    assert any("by on-time beside it 1 is weak" in n for n in made["notes"])
    assert [
        f"{v:.2f}" for v in kept(desk, "329", "correction")["beside"]["values"]
    ] == figures.split()
    refused = put(desk, made, beside__values=f"{figures} 0.60")
    assert refused.status_code == 422
    assert "8 cylinders" in refused.text
    assert desk.client.get(f"/api/sheets/{sheet['id']}").json()["version"] == made["version"]


def test_what_each_nozzle_lost_and_what_a_rail_went_between(desk: Desk, engine: Engine) -> None:
    """By their maker's limit one loses too much; a rail without a trace surges by what somebody saw."""
    load_demo(engine)
    nozzles = sheet_of(desk, "330", "opening_pressure")
    made = put(desk, nozzles, held__lost="9 1 1", held__at_most="4").json()
    assert any(n.startswith("Held 10 s, lost in bar: 1 9.0, 2 1.0, 3 1.0") for n in made["notes"])
    assert made["rows"][0]["words"] == "loses pressure"
    new = begin(desk, "rail_pressure", {"job_number": "334"})
    made = put(desk, new, swing__low="260", swing__high="345").json()
    assert "as it was seen" in made["headline"][0]["text"]
    assert kept(desk, "334", "rail_pressure")["swing"] == {"low": 260, "high": 345}
    refused = put(desk, made, swing__low="400", swing__high="345")
    assert refused.status_code == 422
    assert "not above the highest" in refused.text


def test_the_logs_of_bursts_and_the_starters_current_are_drawn_on_paper(
    desk: Desk, engine: Engine
) -> None:
    """Beneath the sheet that was read from each; a sheet that was typed has no drawing over time."""
    load_demo(engine)
    paper = {n: desk.client.get(f"/api/jobs/{n}/report.html").text for n in ("335", "334", "301")}
    assert "Drop per injector over time, psi" in paper["335"]
    # Bursts from 50 psi: the log came in kPa and is drawn in the unit of its sheet.
    assert ">51<" in paper["335"]
    assert "Cranking balance over time, A" in paper["334"]
    assert " over time, " not in paper["301"]
