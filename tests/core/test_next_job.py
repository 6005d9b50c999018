"""The next step of a whole job: order, reasons, and that following it always ends."""

from collections.abc import Callable
from typing import Any

import pytest

from plumb.core.compare.drops.sheet import DropSheet
from plumb.core.measure.readings import Mark, Noted
from plumb.core.measure.step import NextStep
from plumb.core.procedures import Sheet
from plumb.core.weigh.job import Job, analyse_job
from plumb.core.weigh.words_next import REASONS, lean_first, step_words
from tests.core.jobs import coils, command, drop, hold, labels, scan, supply, tips, walk, weigh


def test_outside_first_then_the_pump_then_the_set() -> None:
    """The practitioners' order."""
    steps = [
        weigh(4),
        weigh(4, walk("rough_idle")),
        weigh(4, walk("rough_idle"), supply()),
    ]
    assert [s.next_step.kind for s in steps if s.next_step] == [
        "walk_round", "supply_pressure", "pressure_drop"]  # fmt: skip


def test_cold_work_comes_first_on_a_cold_engine() -> None:
    """Hard to start cold: the coils before the engine is warmed."""
    step = weigh(4, walk("hard_start_cold"), supply()).next_step
    assert step is not None
    assert (step.kind, step.reason) == ("coil_resistance", "cold_first")


def test_what_is_set_aside_is_not_asked_for() -> None:
    """The walk-round and the supply will not be done."""
    step = weigh(4, set_aside=frozenset({"walk_round", "supply_pressure"})).next_step
    assert step is not None
    assert step.kind == "pressure_drop"


def test_all_in_plumb_leaves_nothing_to_do() -> None:
    """Nothing else would change the verdict."""
    assert weigh(4, drop([26, 26.5, 26, 26])).next_step is None


def test_a_complaint_that_lost_pressure_explains_asks_for_the_hold() -> None:
    """Long crank with a good set."""
    step = weigh(4, walk("long_crank"), supply(), drop([26, 26.5, 26, 26])).next_step
    assert step is not None
    assert (step.kind, step.reason) == ("hold", "worth")


def test_a_rail_that_does_not_hold_is_isolated() -> None:
    """The step that tells most for each minute."""
    step = weigh(4, drop([26] * 4), hold([(0, 50), (60, 30)])).next_step
    assert step is not None
    assert (step.kind, step.isolation) == ("hold", "vacuum_hose")


def test_doubts_about_a_weak_one_are_cleared_in_order() -> None:
    """Until nothing is left; neither compression nor the supply makes one weak among others from one pressure."""
    sheets: list[Sheet] = [drop([26, 33, 26.5, 26])]
    made: dict[str, Callable[[], Sheet]] = {
        "command": lambda: command("blinks " * 4),
        "coil_resistance": lambda: coils([12.4] * 4),
    }
    asked = []
    while (step := weigh(4, *sheets).next_step) is not None:
        asked.append(step.kind)
        sheets.append(made.pop(step.kind)())
    assert sorted(asked) == ["coil_resistance", "command"]
    assert dict(weigh(4, *sheets).verdicts)["2"].not_ruled_out == ()


TRUTHS = {
    "all good": {},
    "one clogged": {"ends": [26, 33, 26.5, 26]},
    "one dead, coil open": {"ends": [26, None, 26.5, 26], "ohms": [12.4, None, 12.5, 12.4]},
    "one dead, no command": {"ends": [26, None, 26.5, 26], "lamp": "blinks dark blinks blinks"},
    "one leaks": {"ends": [26, 22, 26.5, 26], "tip": "dry weeps dry dry", "left": 40.0},
    "split": {"ends": [30, 24, 30, 24]},
    "hose wet": {"hose": "wet"},
    "no pump": {"pump": "silent", "key_on": 0.0},
    "stuck open": {"ends": [26, 20, 26, 26], "left": 2.0, "tip": "dry pours dry dry"},
}  # fmt: skip


def measured(step: NextStep, truth: dict[str, object], sheets: list[Sheet]) -> Sheet:
    """What a technician would bring back from the step."""
    ends = truth.get("ends", [26, 26, 26.5, 26])
    left = truth.get("left", 50.0)
    series = [(0.0, 50.0), (10.0, max(left, 45.0) if left > 5 else left), (60.0, left)]  # type: ignore[type-var,operator]
    tried = [s.isolation for s in sheets if hasattr(s, "isolation")]
    outcomes = {"vacuum_hose": "dry", "outside": "dry", "clamp_return": "falls",
                "clamp_supply": "falls", "clamp_both": "falls", "tips": "wet"}  # fmt: skip
    before = tried[-1] if tried else ()
    steps = (*before, (step.isolation, outcomes[step.isolation])) if step.isolation else before
    return {
        "walk_round": lambda: walk("rough_idle", hose=str(truth.get("hose", "dry"))),
        "supply_pressure": lambda: supply(
            float(truth.get("key_on", 50.0)), pump=str(truth.get("pump", "runs"))  # type: ignore[arg-type]
        ),
        "scan": lambda: scan(str(truth.get("misfires", "0 0 0 0"))),
        "hold": lambda: hold(series, *steps),  # type: ignore[arg-type]
        "command": lambda: command(str(truth.get("lamp", "blinks " * 4))),
        "coil_resistance": lambda: coils(truth.get("ohms", [12.4] * 4)),  # type: ignore[arg-type]
        "pressure_drop": lambda: drop(ends, passes=2),  # type: ignore[arg-type]
        "tip_leak": lambda: tips(str(truth.get("tip", "dry " * 4))),
        "flow_bench": lambda: drop(ends, kind="flow_bench"),  # type: ignore[arg-type]
        "coil_voltage_drop": lambda: coils([12.4] * 4, kind="coil_voltage_drop"),
    }[step.kind]()  # fmt: skip


@pytest.mark.parametrize("name", TRUTHS)
def test_following_the_next_step_always_ends_in_the_verdict(name: str) -> None:
    """From an empty job, whatever it asks is brought back, until it asks for nothing."""
    truth, sheets = dict(TRUTHS[name]), list[Sheet]()
    for _ in range(25):
        keyed = tuple((f"s{n}", s) for n, s in enumerate(sheets))
        job = analyse_job(Job(injectors=labels(4), sheets=keyed))
        if job.next_step is None or job.next_step.repairs:
            break
        assert job.next_step.minutes > 0
        words = step_words(job.next_step, None)
        assert words.title
        assert words.text or job.next_step.reason in REASONS
        sheets.append(measured(job.next_step, truth, sheets))  # type: ignore[arg-type]
    assert (job.next_step is None) == (name != "no pump")
    wanted = {
        "all good": "sound", "one clogged": "gives_less", "one dead, coil open": "coil_open",
        "one dead, no command": "no_command", "one leaks": "leaks_at_tip",
        "no pump": "not_the_injector", "stuck open": "stuck_open",
    }  # fmt: skip
    if name in wanted:
        assert dict(job.verdicts)["2"].condition == wanted[name]


def test_marks_alone_leave_the_set_to_be_measured() -> None:
    """A sheet on which nobody could be read says nothing of anybody, and asks for all of them."""
    marks = tuple(
        Noted(injector=x, number=1, first=None, second=None, mark=Mark.NOT_READ) for x in labels(3)
    )
    found = weigh(3, DropSheet(kind="pressure_drop", injectors=labels(3), readings=marks, step=3.4))
    assert found.verdicts == ()
    assert found.next_step is not None
    assert (found.next_step.kind, found.next_step.injectors) == ("pressure_drop", labels(3))


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"boosted": True}, "Boosted, and lean on 2"),
        ({}, None),
        ({"boosted": True, "fuel_system": "common_rail"}, None),
    ],
)
def test_on_a_boosted_engine_the_lean_one_comes_first(
    more: dict[str, Any], said: str | None
) -> None:
    """A lean cylinder under boost melts its piston (common practice); a diesel's does not."""
    found = weigh(4, drop([26, 33, 26, 26]), **more)
    told = [a.title for a in lean_first(found.verdicts, found.setting)]
    assert told == ([said] if said else [])
