"""The report read as its reader does: the customer's page first, then the workshop's tables."""

import json
from pathlib import Path
from typing import Any

import pytest
from tests.core.job_files import drops

import plumb.demo
from plumb.core.procedures import KINDS
from plumb.jobfile.reading import parse
from plumb.jobfile.to_core import finished
from plumb.report.document import Report, Shop, report_of
from plumb.report.paper import html_of
from plumb.report.worksheet import Block, worksheet_of

DEMO = Path(plumb.demo.__file__).parent


def report(*sheets: dict[str, Any], complaint: str = "rough idle", **more: Any) -> Report:
    """The report of a petrol four."""
    file = {
        "plumb": 1,
        "vehicle": {
            "name": "Torvik Lundy", "fuel_system": "port", "injectors": [{"id": str(n), "cylinder": n} for n in range(1, 5)],
            "distance_km": 16093.44, "distance_unit": "mi",
        },
        "job": {"complaint": complaint, "opened": "2026-05-12T08:00:00+02:00"},
        "sheets": [{**s, "id": f"s{n}"} for n, s in enumerate(sheets, 1)],
        **more,
    }  # fmt: skip
    checked = parse(json.dumps(file))
    return report_of(checked, finished(checked), Shop(), program="Plumb")


def demo(number: str) -> Report:
    """The report of a made-up job."""
    file = parse((DEMO / f"{number}.json").read_bytes())
    return report_of(file, finished(file), Shop(), program="Plumb")


def test_figures_stand_in_the_workshops_table() -> None:
    """First, second, drop, and how far from those that agree: 4 by root 50 less root 33 over root 50 less root 26."""
    sheet = drops((26, 26, 26, 33), taken="2026-05-12T09:05:00+02:00")
    twice = [*sheet["readings"], {"injector": "4", "pass": 2, "first": 50, "second": 33.5}]
    [page] = report({**sheet, "readings": twice}).sheets
    assert page.columns == (
        "Row", "First, psi", "Second, psi", "Drop, psi", "From those that agree", "Reads as", "Why",
    )  # fmt: skip
    assert page.rows[0][:5] == ("1", "50", "26", "24", "0.0 %")
    four = page.rows[3]
    assert four[:4] == ("4", "50; 50", "33; 33.5", "17; 16.5")
    mean = (2 * 50**0.5 - 33**0.5 - 33.5**0.5) / 2
    assert four[4] == f"−{100 * (1 - mean / (50**0.5 - 26**0.5)):.1f} %"
    # What it reads as is not said once more.
    assert not any(row[-1].startswith(row[-2]) for row in page.rows)
    assert page.taken == "12 May 2026, 09:05"


def test_a_silent_burst_has_a_dash() -> None:
    """No figure is no nought."""
    [page] = report(drops((26, 26, 26, None))).sheets
    assert page.rows[3][1:4] == ("–", "–", "–")


def test_states_of_the_engine_are_called_by_their_names() -> None:
    """Key on, and no code of the file."""
    supply = next(s for s in demo("341").sheets if s.title == "Supply pressure")
    assert [row[0] for row in supply.rows] == ["Key on", "Running", "Hose off"]


def test_the_customer_reads_no_word_of_the_trade() -> None:
    """Beside each mark: as it should be, does not close; nothing of plumb, splits and before where nothing was done."""
    chart = demo("312").before_after
    assert chart is not None
    assert [r.words for r in chart.rows] == [
        "as it should be", "does not close", "as it should be", "does not close",
    ]  # fmt: skip
    assert "Outlined: before" not in html_of("report.html.j2", r=demo("312"))
    assert "Outlined: before" in html_of("report.html.j2", r=demo("341"))


def test_what_is_behind_a_weak_cylinder_is_said() -> None:
    """Compression found: the customer is not told that something shared was at fault."""
    wrong = demo("328").wrong
    assert wrong[:2] == ("Injector 3 was not at fault itself.", "Found: compression, 3.")


def test_choices_notes_and_what_was_done_along_are_told() -> None:
    """4 gave less; 2 was sound and is cleaned along; the note of a repair stands beside it."""
    made = report(
        drops((26, 26, 26, 33)),
        choices=[
            {"option": "clean_then_replace", "injectors": ["4"], "reason": "cheapest first"},
            {"option": "wait", "injectors": ["3"], "look_again": {"on": "2026-08-01", "distance_km": 32186.88}},
        ],
        repairs=[
            {"injector": "4", "done": "cleaned", "note": "basket was full of rust"},
            {"injector": "2", "done": "cleaned"},
        ],
    )  # fmt: skip
    assert made.done[:3] == (
        "Chosen: Clean, then replace what stays: 4 (cheapest first).",
        "Injector 4 was cleaned (basket was full of rust), injector 2 was cleaned.",
        "Done along with the others: nothing wrong was found with 2.",
    )
    assert "Left as it is for now (3): look again by 1 Aug 2026 or at 20\u2009000 mi." in made.watch
    assert made.distance == "10\u2009000 mi"
    assert made.day == "12 May 2026"


def test_who_was_worked_on_twice_is_told_as_the_last_time_left_it() -> None:
    """Cleaned in vain, then replaced: it is as it should be, and the report does not say otherwise."""
    made = report(
        drops((26, 26, 26, 33), taken="2026-05-12T09:00:00+02:00"),
        drops({1: 26, 4: 32.5}, after="s1", taken="2026-05-12T11:00:00+02:00"),
        drops({1: 26, 4: 26}, after="s1", taken="2026-05-12T13:00:00+02:00"),
        repairs=[
            {"injector": "4", "done": "cleaned", "at": "2026-05-12T10:00:00+02:00"},
            {"injector": "4", "done": "replaced", "at": "2026-05-12T12:00:00+02:00"},
        ],
    )  # fmt: skip
    assert any(t.startswith("Measured again afterwards: all that were read are") for t in made.done)
    assert not any("not yet" in t for t in made.done)


def worksheet(file: dict[str, Any]) -> dict[str, Block]:
    """The blocks of a worksheet by their titles."""
    checked = parse(json.dumps(file))
    made = worksheet_of(checked, finished(checked), base="http://plumb")
    return {b.title: b for b in made.blocks}


def begun(fuel: str, *sheets: dict[str, Any]) -> dict[str, Any]:
    """A job with nothing measured yet."""
    injectors = [{"id": str(n), "cylinder": n} for n in range(1, 5)]
    vehicle = {"name": "Torvik Lundy", "fuel_system": fuel, "injectors": injectors}
    return {
        "plumb": 1,
        "vehicle": vehicle,
        "sheets": [{**s, "id": f"s{n}"} for n, s in enumerate(sheets)],
    }


def test_the_worksheet_prints_the_limits_of_this_job_only() -> None:
    """Of a sheet that was begun with a window; else a blank line, whatever the shelf holds."""
    coils = {
        "kind": "coil_resistance", "unit": "ohm", "gauge": {"step": 0.1}, "readings": [],
        "window": {"low": 12, "high": 15, "source": "card 3"},
    }  # fmt: skip
    blocks = worksheet(begun("port", coils))
    assert blocks["Coils"].limits == "low 12, high 15, source card 3, in ohm"
    assert blocks["Hold"].limits == ""
    assert blocks["Hold"].takes_limits


@pytest.mark.parametrize("fuel", ["common_rail", "mechanical_diesel", "direct"])
def test_no_vacuum_hose_is_looked_for_where_there_is_none(fuel: str) -> None:
    """Steps and rows are those of this rail; nothing on a high-pressure rail is clamped."""
    for title, block in worksheet(begun(fuel)).items():
        told = " ".join((*block.steps, *block.slips))
        assert "hose off a regulator" not in told, title
        assert "regulator’s hose" not in told or fuel == "direct", title
        if fuel == "common_rail":
            assert "clamp the supply" not in told, title
    outside = worksheet(begun(fuel))["Walk-round"]
    assert ("hose" in outside.rows) is (fuel == "direct")
    assert ("codes" in outside.rows) is (fuel != "mechanical_diesel")


def test_a_petrol_rail_keeps_its_steps() -> None:
    """The hose is looked into, the regulator read without it, the return clamped."""
    told = " ".join(s for b in worksheet(begun("port")).values() for s in b.steps)
    for step in (
        "look into it",
        "Take the hose off a regulator",
        "clamp the supply right at shut-off",
    ):
        assert step in told


def test_every_line_that_is_told_otherwise_stands_on_its_card() -> None:
    """A line that was changed on the card would silently come back."""
    for kind in KINDS:
        guide = kind.guide
        lines = {
            guide.shows,
            guide.hides,
            guide.enough,
            *guide.needs,
            *guide.connect,
            *guide.steps,
            *guide.look,
            *guide.slips,
        }
        for told in guide.instead.values():
            assert set(told) <= lines, kind.code
