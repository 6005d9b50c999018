"""A repeat sheet: who was read anew, who is carried over, and what stays settled."""

import json
from typing import Any

import pytest

from plumb.core.measure.decision import State
from plumb.core.weigh.job import JobResult, analyse_job
from plumb.jobfile.reading import parse
from plumb.jobfile.results import analyse_file
from plumb.jobfile.to_core import core_job

ENDS = {"1": 26.0, "2": 26.5, "3": 26.0, "4": 32.0, "5": 26.5, "6": 26.0, "7": 26.5, "8": 26.0}
"""The second pressure of each of eight, from 50 psi: 4 gives less."""


def sheet(key: str, taken: str, ends: dict[str, float], **more: Any) -> dict[str, Any]:
    """A drop sheet from 50 psi, each injector read twice."""
    return {
        "kind": "pressure_drop", "id": key, "taken": taken, "unit": "psi", "gauge": {"step": 0.5},
        "burst": {"pulses": 50, "on_ms": 10},
        "readings": [
            {"injector": x, "pass": n, "first": 50, "second": end}
            for x, end in ends.items()
            for n in (1, 2)
        ],
        **more,
    }  # fmt: skip


def job(*sheets: dict[str, Any], fuel_system: str = "port") -> dict[str, Any]:
    """A job of eight injectors with these sheets; what comes before a sheet is set aside."""
    aside = ("walk_round", "supply_pressure", "cranking_balance", "return_volume")
    here = {"port": aside[:2], "mechanical_diesel": (aside[0], *aside[2:])}[fuel_system]
    return {
        "plumb": 1,
        "vehicle": {
            "name": "Torvik 8", "fuel_system": fuel_system,
            "injectors": [{"id": x, "cylinder": int(x)} for x in ENDS],
        },
        "job": {"number": "9", "opened": "2026-05-12T08:00:00+02:00",
                "set_aside": [{"kind": k, "reason": "done before"} for k in here]},
        "sheets": list(sheets),
    }  # fmt: skip


def weighed(*sheets: dict[str, Any]) -> JobResult:
    """Their verdict."""
    return analyse_job(core_job(parse(json.dumps(job(*sheets)))))


FIRST = sheet("s1", "2026-05-12T09:00:00+02:00", ENDS)
LATER = "2026-05-12T11:10:00+02:00"


@pytest.mark.parametrize(
    ("end", "condition", "action"),
    [(26.0, "sound", "keep"), (31.5, "gives_less", "replace"), (17.5, "gives_more", "bench_test")],
)
def test_one_that_was_cleaned_is_judged_against_the_others_last_figures(
    end: float, condition: str, action: str
) -> None:
    """4 alone is read again: seven neighbours are carried over, and keep what they were."""
    again = sheet("s2", LATER, {"4": end}, when="after_cleaning")
    result = weighed(FIRST, again)
    verdicts = dict(result.verdicts)
    assert (verdicts["4"].condition, verdicts["4"].action) == (condition, action)
    assert {v.condition for label, v in verdicts.items() if label != "4"} == {"sound"}
    found = {f.injector: f for f in dict(result.sheets)["s2"].findings}
    assert found["4"].carried == ""
    assert found["1"].carried == "from s1, 2 h before"
    assert [label for label, f in found.items() if f.read] == ["4"]


def test_nobody_but_who_was_cleaned_is_said_to_be_cleaned() -> None:
    """One that gave less before and was not read since stays as it was: to be cleaned."""
    two = {**ENDS, "6": 32.5}
    before = sheet("s1", "2026-05-12T09:00:00+02:00", two)
    result = weighed(before, sheet("s2", LATER, {"4": 32.0}, when="after_cleaning"))
    verdicts = dict(result.verdicts)
    assert verdicts["4"].row == "gives less, still after cleaning"
    assert verdicts["6"].row == "gives less"


def test_a_repeat_never_asks_for_those_that_are_settled() -> None:
    """Neither by the job nor by the sheet: no "repeat 1 to 8"."""
    result = weighed(FIRST, sheet("s2", LATER, {"4": 26.0}, when="after_cleaning"))
    step = result.next_step
    assert step is None or step.kind != "pressure_drop"


def test_taken_in_another_way_one_neighbour_is_asked_for() -> None:
    """Another burst: nothing is carried over; one neighbour is enough, the others stay settled."""
    other = {"burst": {"pulses": 80, "on_ms": 10}, "when": "after_cleaning"}
    lone = weighed(FIRST, sheet("s2", LATER, {"4": 17.0}, **other))
    assert dict(lone.sheets)["s2"].findings[0].state is State.NOT_JUDGED
    assert lone.next_step is not None
    assert (lone.next_step.reason, lone.next_step.injectors) == ("neighbour", ("1",))
    assert (lone.next_step.passes, lone.next_step.minutes) == (1, 1.5)
    assert {v.condition for x, v in lone.verdicts if x != "4"} == {"sound"}
    pair = weighed(FIRST, sheet("s2", LATER, {"4": 17.0, "3": 17.5}, **other))
    assert {v.condition for _, v in pair.verdicts} == {"sound"}
    assert pair.next_step is None or pair.next_step.kind != "pressure_drop"


def test_an_empty_repeat_changes_nothing() -> None:
    """A sheet that was begun and holds nothing yet speaks of nobody."""
    assert weighed(FIRST, sheet("s2", LATER, {})).verdicts == weighed(FIRST).verdicts


def test_the_result_names_what_was_carried_over() -> None:
    """In the JSON of the command line too."""
    told = analyse_file(parse(json.dumps(job(FIRST, sheet("s2", LATER, {"4": 26.0})))))
    of_second = {f["injector"]: f["because"] for f in told["findings"] if f["sheet"] == "s2"}
    assert "carried over from s1, 2 h before" in of_second["1"]
    assert "carried over" not in of_second["4"]


def test_a_nozzle_alone_is_held_against_those_before_it() -> None:
    """Without a window the set says what is usual; the seven others are carried over."""

    def strokes(key: str, bars: dict[str, float]) -> dict[str, Any]:
        return {
            "kind": "opening_pressure", "id": key, "taken": LATER, "unit": "bar",
            "gauge": {"step": 0.5},
            "readings": [
                {"injector": x, "pass": n, "value": bar} for x, bar in bars.items() for n in (1, 2, 3)
            ],
        }  # fmt: skip

    first = strokes("s1", {**dict.fromkeys(ENDS, 127.0), "4": 105.0})
    file = job(first, strokes("s2", {"4": 127.5}), fuel_system="mechanical_diesel")
    result = analyse_job(core_job(parse(json.dumps(file))))
    second = dict(result.sheets)["s2"]
    assert {f.injector: f.state for f in second.findings}["4"] is State.IN_PLUMB
    assert [f.injector for f in second.findings if f.read] == ["4"]
