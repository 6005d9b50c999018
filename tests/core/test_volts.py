"""What drove an injector belongs to each reading: a dead one on a weak supply is not averaged with a good one.

Below 12 V a tester makes good injectors look stuck: common practice, no source.
"""

from typing import Any

import pytest

from plumb.core.weigh.job import JobResult
from tests.core.job_files import conditions, drops, job, notes, values

GOOD = dict.fromkeys(range(1, 5), 26.0)


def burst(label: int, second: float | None, volts: float, number: int = 1) -> dict[str, Any]:
    """One burst with what the tester had."""
    figures = {"note": "none"} if second is None else {"first": 50, "second": second}
    return {"injector": str(label), "pass": number, "supply_v": volts, **figures}


def read(*rows: dict[str, Any], **more: Any) -> JobResult:
    """Four injectors, these rows in place of theirs."""
    sheet = drops(GOOD, **more)
    named = {r["injector"] for r in rows}
    kept = [{**r, "supply_v": 12.6} for r in sheet["readings"] if r["injector"] not in named]
    return job("port", 4, "misfire", {**sheet, "readings": [*kept, *rows]}).now


def driven(result: JobResult) -> dict[str, str]:
    """What is known of the tester, by injector."""
    return {f.injector: f.code for f in result.facts if f.code.startswith("tester_")}


@pytest.mark.parametrize("first", [None, 40.0])
def test_one_that_was_dead_at_9_8_and_good_at_12_6_is_good(first: float | None) -> None:
    """Silent or weak on a flat battery, even with the others on a good one: in plumb, known by one pass."""
    found = read(burst(3, first, 9.8), burst(3, 26.0, 12.6, 2))
    three = {f.injector: f for f in found.sheets[0][1].findings}["3"]
    assert (three.state.value, three.passes) == ("in_plumb", 1)
    assert conditions(found)["3"] == "sound"
    assert set(driven(found).values()) == {"tester_good"}


def test_the_order_does_not_matter_nor_does_12_volts() -> None:
    """A weak one taken last does not undo the good one; exactly 12 V is no weak supply."""
    found = read(burst(3, 26.0, 12.0), burst(3, None, 9.8, 2))
    assert conditions(found)["3"] == "sound"


def test_one_that_was_only_read_on_a_weak_supply_is_doubted_alone() -> None:
    """Dead at 9.8 V: the supply is doubted for it, and cleared for those that were driven well."""
    found = read(burst(3, None, 9.8))
    assert driven(found) == {
        "1": "tester_good", "2": "tester_good", "3": "tester_weak", "4": "tester_good",
    }  # fmt: skip
    assert conditions(found)["3"] == "not_settled"
    assert "9.8 V at 3: a weak one makes good injectors look stuck" in notes(found, "s1")


def test_a_reading_without_volts_has_the_sheets() -> None:
    """All alike is told once, of the engine."""
    found = job("port", 4, "misfire", drops({**GOOD, 3: None}, supply_v=9.8)).now
    assert driven(found) == {"": "tester_weak"}
    assert "was 9.8 V: a weak one" in notes(found, "s1")
    unknown = job("port", 4, "misfire", drops({**GOOD, 3: None})).now
    assert driven(unknown) == {}


def test_a_reading_that_was_not_taken_counts_for_nothing() -> None:
    """ "Not read" with good volts leaves the weak one standing."""
    skipped = {"injector": "3", "pass": 2, "supply_v": 12.6, "note": "not_read"}
    assert driven(read(burst(3, None, 9.8), skipped))["3"] == "tester_weak"


def dead(driven_by: str, *beside: dict[str, Any], **more: Any) -> JobResult:
    """3 is silent while the others answer."""
    sheet = drops({**GOOD, 3: None}, **more)
    sheet["burst"] = {**sheet["burst"], "driven_by": driven_by}
    return job("port", 4, "misfire", sheet, *beside).now


def test_behind_a_tester_at_its_plug_no_command_is_in_between() -> None:
    """Its coil comes next; what the controller or a fuse does is no question, and is not left open."""
    verdict = dict(dead("tester").verdicts)["3"]
    assert verdict.because.startswith(
        "no drop while its neighbours answer the same tester: its coil"
    )
    assert verdict.not_ruled_out == ("coil", "stuck_shut")
    through = dict(dead("controller").verdicts)["3"]
    assert {"command", "shared_feed"} <= set(through.not_ruled_out)
    assert dict(dead("").verdicts)["3"] == through


def test_with_a_good_coil_it_is_stuck_shut_without_a_look_at_the_command() -> None:
    """The tester opened its neighbours: the coil is all that could still imitate it."""
    coils = values(
        "coil_resistance", "ohm", 0.1, [14.0, 14.1, 13.9, 14.0], window={"low": 12, "high": 16}
    )
    verdict = dict(dead("tester", coils).verdicts)["3"]
    assert (verdict.condition, verdict.action) == ("no_response", "clean_and_repeat")
    assert dict(dead("controller", coils).verdicts)["3"].action == "check_first"
    again = dict(dead("tester", coils, when="after_cleaning").verdicts)["3"]
    assert again.action == "replace"
