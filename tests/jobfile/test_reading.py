"""The job file: digits kept, unknown keys refused, every problem with path, rule and value."""

import json
from typing import Any

import jsonschema_rs
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.drivers import DEMO, job_file
from tests.jobs_of_every_kind import job_file as drawn

from plumb.contract import job_schema
from plumb.core.measure.problems import PlumbError
from plumb.jobfile.exact import dumps, loads
from plumb.jobfile.reading import parse
from plumb.jobfile.results import analyse_file


def problems(data: Any) -> list[tuple[str, str]]:
    """(path, code) of everything that does not fit."""
    with pytest.raises(PlumbError) as caught:
        parse(json.dumps(data))
    return [(p.path, p.code) for p in caught.value.problems]


def test_a_whole_file_is_analysed() -> None:
    """The shape of docs/formats.md."""
    found = analyse_file(parse(json.dumps(job_file())))
    assert [f["state"] for f in found["findings"]] == ["in_plumb", "in_plumb", "low"]
    assert found["findings"][0]["unit"] == "sqrt_psi"
    assert found["sheets"][0]["agreeing"] == ["1", "2"]
    assert {r["rule"] for r in found["sheets"][0]["rules"]} >= {"flow_index", "plain_mean"}
    assert found["verdicts"][2]["action"] == "clean_and_repeat"
    # Its own command, a minute: no neighbour is needed for it.
    assert (found["next_step"]["kind"], found["next_step"]["injectors"]) == ("command", ["3"])


def test_an_empty_job_begins_outside_and_comes_to_the_whole_set() -> None:
    """injectors null: all of them."""
    file = {**job_file(), "sheets": []}
    steps = []
    for done in (
        {"kind": "walk_round", "id": "w", "hose": "dry"},
        {
            "kind": "supply_pressure",
            "id": "p",
            "unit": "psi",
            "gauge": {"step": 1},
            "readings": [{"state": "key_on", "value": 50}],
        },
        None,
    ):
        steps.append(analyse_file(parse(json.dumps(file)))["next_step"])
        file["sheets"].append(done)
    assert [s["kind"] for s in steps] == ["walk_round", "supply_pressure", "pressure_drop"]
    assert (steps[2]["injectors"], steps[2]["passes"]) == (None, 1)


@given(st.decimals(min_value=0, max_value=900, places=3, allow_nan=False))
def test_numbers_keep_their_digits(value: Any) -> None:
    """Out as it came in, trailing zeros too."""
    text = f'{{"first": {value}}}'
    assert dumps(loads(text)) == text


def with_sheet(**change: Any) -> dict[str, Any]:
    """A job file whose sheet is changed."""
    return job_file(**change)


def with_reading(**change: Any) -> dict[str, Any]:
    """A job file whose first reading is changed."""
    file = job_file()
    file["sheets"][0]["readings"][0].update(change)
    return file


def with_spells(spells: list[int], total: int) -> dict[str, Any]:
    """A job file with one sheet of return volumes."""
    file = job_file()
    file["sheets"] = [
        {"kind": "return_volume", "id": "s1", "unit": "ml", "gauge": {"step": 1}, "readings": [],
         "state": "cranking", "spells_s": spells, "duration_s": total},
    ]  # fmt: skip
    return file


@pytest.mark.parametrize(
    ("data", "path", "code"),
    [
        ({}, "plumb", "missing"),
        ({**job_file(), "plumb": 2}, "plumb", "literal_error"),
        ({**job_file(), "colour": "red"}, "colour", "unknown_key"),
        ([1], "", "not_an_object"),
        (with_reading(foo=1), "sheets[0].readings[0].foo", "unknown_key"),
        (with_reading(first="50"), "sheets[0].readings[0].first", "value_error"),
        (with_reading(first=True), "sheets[0].readings[0].first", "value_error"),
        (with_reading(first=-1), "sheets[0].readings[0].first", "greater_than_equal"),
        (with_reading(injector="9"), "sheets[0].readings[0].injector", "unknown_injector"),
        (with_reading(injector="2"), "sheets[0].readings[1].pass", "double"),
        (with_reading(second=60), "sheets[0].readings[0].second", "swapped"),
        (with_reading(second=None), "sheets[0].readings[0]", "value_error"),
        (with_reading(note="none"), "sheets[0].readings[0]", "value_error"),
        (with_reading(taken="yesterday"), "sheets[0].readings[0].taken", "value_error"),
        (with_reading(**{"pass": 0}), "sheets[0].readings[0].pass", "greater_than_equal"),
        (with_reading(first=1e5), "sheets[0].readings[0].first", "beyond_any_rail"),
        (with_sheet(unit="furlong"), "sheets[0].unit", "literal_error"),
        (with_sheet(gauge={"step": 0}), "sheets[0].gauge.step", "greater_than"),
        (with_sheet(kind="tea_break"), "sheets[0].kind", "literal_error"),
        (with_sheet(rule={"name": "guess"}), "sheets[0].rule.name", "literal_error"),
        (with_sheet(rule={"suspect": "9"}), "sheets[0].rule.suspect", "unknown_injector"),
        (with_spells([10, 10], 30), "sheets[0]", "value_error"),
    ],
)
def test_what_does_not_fit_is_named_by_path(data: Any, path: str, code: str) -> None:
    """Path and code of the problem are among those reported."""
    assert (path, code) in problems(data)


def test_spells_may_say_the_time_that_they_add_up_to() -> None:
    """Twice ten seconds are twenty."""
    sheet = parse(json.dumps(with_spells([10, 10], 20))).sheets[0]
    assert dumps(sheet.model_dump(include={"duration_s"})) == '{"duration_s": 20}'


def test_everything_wrong_is_told_at_once() -> None:
    """No fixing one error to find the next."""
    file = with_sheet(unit="furlong", gauge={"step": -1})
    file["vehicle"]["fuel_system"] = "coal"
    assert len(problems(file)) == 3


@pytest.mark.parametrize("text", ["", "{", "nonsense", '{"a": NaN}', "[" * 5000, "\x00"])
def test_what_is_no_json_is_no_traceback(text: str) -> None:
    """One problem: not JSON."""
    with pytest.raises(PlumbError) as caught:
        parse(text)
    assert caught.value.problems[0].code in {"not_json", "not_an_object"}


def test_two_injectors_of_one_name_are_refused() -> None:
    """Readings could not be told apart."""
    file = job_file()
    file["vehicle"]["injectors"][1]["id"] = "1"
    assert ("vehicle", "value_error") in problems(file)


@pytest.mark.parametrize("path", sorted(DEMO.glob("*.json")), ids=lambda p: p.stem)
def test_demo_jobs_fit_the_committed_schema(path: Any) -> None:
    """A second reader, jsonschema-rs, accepts what Plumb accepts."""
    data = json.loads(path.read_text())
    parse(path.read_text())
    assert jsonschema_rs.is_valid(job_schema(), data)


def test_the_schema_refuses_what_plumb_refuses() -> None:
    """Unknown keys and words."""
    for bad in (with_reading(foo=1), with_sheet(unit="furlong"), with_reading(first="50")):
        assert not jsonschema_rs.is_valid(job_schema(), bad)
    assert jsonschema_rs.is_valid(job_schema(), with_reading(**{"x-mine": 1}))


def test_the_demo_shows_what_it_should() -> None:
    """In plumb, lean, rich, two lean, dead, split, not settled, and drops that mislead."""
    shown = {}
    for path in DEMO.glob("*.json"):
        result = analyse_file(parse(path.read_text()))
        last = result["sheets"][-1]["sheet"]
        shown[path.stem] = sorted(f["state"] for f in result["findings"] if f["sheet"] == last)
    flat = list(shown.values())
    assert len(shown) >= 8
    assert any(s.count("low") == 1 for s in flat)
    assert any(s.count("low") == 2 for s in flat)
    assert any("high" in s for s in flat)
    assert any("no_response" in s for s in flat)
    assert any(set(s) == {"split"} for s in flat)
    assert any("unsettled" in s for s in flat)
    assert {len(s) for s in flat} >= {3, 4, 6, 8}
    misled = analyse_file(parse((DEMO / "308.json").read_text()))
    plain = next(r for r in misled["sheets"][0]["rules"] if r["rule"] == "plain_mean")
    assert plain["reject"]
    assert set(shown["308"]) == {"in_plumb"}


@pytest.mark.parametrize("seed", range(0, 120, 3))
def test_jobs_of_every_kind_are_told_as_json(seed: int) -> None:
    """Rows that were not read too: each finding has the unit of its sheet, and the result is JSON."""
    file = parse(json.dumps(drawn(seed)))
    found = json.loads(dumps(analyse_file(file)))
    assert {f["sheet"] for f in found["findings"]} <= {s.id for s in file.sheets}
    for finding in found["findings"]:
        if finding["kind"] == "scan":
            assert finding["unit"] == "percent"
    assert found["engine"]["explained"] in {"open", "yes", "partly", "no", "none"}


def test_a_scan_with_rows_that_nobody_read() -> None:
    """One trim of four and one count of four; a bank may be called anything that a vehicle allows."""
    file = drawn(0) | {
        "sheets": [{"kind": "scan", "id": "q", "trims": [{"bank": "A|1", "state": "idle", "long": 14}],
                    "misfires": [{"cylinder": 1, "count": 3}]}],
        "vehicle": {"name": "Torvik Lundy 1.8", "fuel_system": "port", "injectors": [
            {"id": str(n), "cylinder": n, "bank": "A|1" if n < 3 else "bank B"} for n in range(1, 5)]},
    }  # fmt: skip
    found = analyse_file(parse(json.dumps(file)))
    by_row = {f["quantity"]: f for f in found["findings"]}
    assert by_row["A|1 idle, long"]["state"] == "high"
    assert by_row["bank B raised, short"]["value"] is None
    assert by_row["misfires 1"]["value"] == 3
    assert by_row["misfires 2"]["value"] is None
