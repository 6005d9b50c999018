"""One repair after another: what each makes due, what it makes out of date, and when the complaint is asked for.

Figures are of the trade, common practice, no source.
"""

from typing import Any

import pytest

from plumb.core.mend.finish import Finished
from plumb.core.mend.words import pair_words
from plumb.core.procedures import kind_of
from tests.core.job_files import Sheet, done, drops, hold, job, values, words

WINDOW = {"low": 1950, "high": 2050}


def at(minute: int) -> str:
    """A time of one morning."""
    return f"2026-03-02T08:{minute:02d}:00+00:00"


def nozzles(minute: int, seats: dict[int, str], count: int = 4, **more: Any) -> Sheet:
    """Three strokes each, all at 2000 psi; the seats as they were seen."""
    rows = [
        {"injector": str(n), "pass": p, "value": 2000, "seat": seats.get(n, "dry"),
         "sound": "chatters", "spray": "even"}
        for n in (range(1, count + 1) if "after" not in more else seats)
        for p in (1, 2, 3)
    ]  # fmt: skip
    return {
        "kind": "opening_pressure", "unit": "psi", "gauge": {"step": 20}, "window": WINDOW,
        "readings": rows, "taken": at(minute), **more,
    }  # fmt: skip


def humps(minute: int, *heights: float, **more: Any) -> Sheet:
    """Starter humps of each cylinder, in per cent."""
    rows = [{"cylinder": n, "value": h} for n, h in enumerate(heights, 1)]
    return {
        "kind": "cranking_balance", "unit": "percent", "gauge": {"step": 1}, "readings": rows,
        "taken": at(minute), **more,
    }  # fmt: skip


def due(of: Finished) -> list[tuple[str, tuple[str, ...]]]:
    """What is to be measured again, on whom."""
    return [(d.kind, d.injectors) for d in of.due]


@pytest.mark.parametrize(
    ("seat", "word", "action", "over"),
    [("dry", "put_right", "keep", True), ("wet", "unchanged", "replace", False)],
)
def test_a_wet_seat_is_held_again_after_cleaning(
    seat: str, word: str, action: str, *, over: bool
) -> None:
    """Its opening pressure was right all along: what ailed it is what is looked at again."""
    first = nozzles(0, {3: "wet"})
    work: dict[str, Any] = {"repairs": [{"injector": "3", "done": "cleaned", "at": at(10)}]}
    waits = job("mechanical_diesel", 4, "black smoke", first, **work)
    assert due(waits) == [("opening_pressure", ("3",))]
    assert not waits.over
    again = nozzles(20, {3: seat}, after="s1")
    told = job(
        "mechanical_diesel", 4, "black smoke", first, again, asked_after={"smoke_black": "gone"},
        **work,
    )  # fmt: skip
    assert words(told) == {"3": word}
    assert dict(told.now.verdicts)["3"].action == action
    assert told.over is over
    (pair,) = told.pairs
    sheet = dict(told.now.sheets)["s2"]
    said = pair_words(
        pair, "psi", *(kind_of(sheet).state(f, r) for f, r in (
            (pair.before, dict(told.now.sheets)["s1"]), (pair.after, sheet)))
    )  # fmt: skip
    assert said.startswith("2000 psi, seat leaks before, 2000 psi")
    assert said.endswith("now: put right" if over else "seat leaks now: unchanged")


def test_what_was_put_right_on_the_engine_is_measured_again_and_told_no_more() -> None:
    """A weak cylinder that was mended: cranked again, then its own nozzle is looked for, cleaned, held again."""
    weak = humps(0, 100, 60, 99, 101)
    mended = {"done": "put_right", "cause": "compression", "at": at(10)}
    first = job("mechanical_diesel", 4, "rough idle", weak, repairs=[mended])
    assert due(first) == [("cranking_balance", tuple("1234"))]
    assert [c.fault.code for c in first.now.diagnosis.found] == []
    even = humps(20, 100, 99, 99, 101, after="s1")
    left: dict[str, Any] = {
        "asked_after": {"rough_idle": "still_there"},
        "set_aside": [{"kind": "walk_round", "reason": "done before"}],
    }
    second = job("mechanical_diesel", 4, "rough idle", weak, even, repairs=[mended], **left)
    assert second.next_step is not None
    assert second.next_step.kind == "opening_pressure"
    wet = nozzles(30, {4: "wet"})
    cleaned = {"injector": "4", "done": "cleaned", "at": at(40)}
    third = job("mechanical_diesel", 4, "rough idle", weak, even, wet, repairs=[mended, cleaned])
    assert due(third) == [("opening_pressure", ("4",))]
    dry = nozzles(50, {4: "dry"}, after="s3")
    last = job(
        "mechanical_diesel", 4, "rough idle", weak, even, wet, dry, repairs=[mended, cleaned],
        asked_after={"rough_idle": "gone"},
    )  # fmt: skip
    assert last.due == ()
    assert last.over


def test_a_whole_set_that_was_cleaned_is_read_again_as_a_whole() -> None:
    """All gave a quarter less than expected and agreed: no row showed it, every row is due."""
    low = drops([31, 31.5, 31, 31], expected={"drop": 24, "source": "the maker"})
    pump = {
        "kind": "supply_pressure", "unit": "psi", "gauge": {"step": 1}, "pump": "runs",
        "windows": {"key_on": {"low": 45, "high": 55}}, "readings": [{"state": "key_on", "value": 50}],
    }  # fmt: skip
    sheets = (pump, low)
    told = job("port", 4, "bogs", *sheets)
    assert {v.action for _, v in told.now.verdicts} == {"clean_and_repeat"}
    work = done("cleaned", *"1234")
    assert ("pressure_drop", tuple("1234")) in due(job("port", 4, "bogs", *sheets, repairs=work))
    good = low | drops([26, 26.5, 26, 26]) | {"after": "s2"}
    right = job("port", 4, "bogs", *sheets, good, repairs=work)
    assert right.due == ()
    assert {v.condition for _, v in right.now.verdicts} == {"sound"}


def test_the_other_half_of_a_split_set_is_judged_anew() -> None:
    """One of two gave far more and was renewed: the other is held against what is expected, and against the new one."""
    expected = {"expected": {"drop": 24, "source": "the maker"}}
    both = drops([32.5, 14.5], **expected)
    found = job("throttle_body", 2, "rough idle", both)
    assert [v.condition for _, v in found.now.verdicts] == ["gives_less", "gives_more"]
    assert "held against that" in " ".join(
        kind_of(dict(found.now.sheets)["s1"]).notes(dict(found.now.sheets)["s1"], "psi")
    )
    split = drops([32.5, 14.5])
    assert {v.condition for _, v in job("throttle_body", 2, "rough idle", split).now.verdicts} == {
        "not_settled"
    }
    renewed = job(
        "throttle_body", 2, "rough idle", split, drops({2: 26.0}, after="s1", **expected),
        repairs=done("replaced", "2"),
    )  # fmt: skip
    assert dict(renewed.now.verdicts)["1"].condition == "gives_less"


def test_only_what_is_left_of_the_complaint_is_asked_of_the_engine() -> None:
    """The misfire is gone with the weak one, the long crank is not: the hold is next, and nothing says misfire any more."""
    sheets = (drops([26, 26.5, 26, 31.5]), drops({4: 26}, after="s1"))
    work = done("cleaned", "4")
    some = job(
        "port", 4, "misfire, long crank", *sheets, repairs=work,
        asked_after={"misfire": "gone", "long_crank": "still_there"},
    )  # fmt: skip
    assert some.left == ("long_crank",)
    assert some.now.diagnosis.words == ("long_crank",)
    assert not some.over
    assert some.next_step is not None
    assert some.next_step.measures
    none = job(
        "port", 4, "misfire, long crank", *sheets, repairs=work,
        asked_after={"misfire": "gone", "long_crank": "gone"},
    )  # fmt: skip
    assert none.over
    assert none.now.diagnosis.words == ("misfire", "long_crank")


def test_a_rail_that_still_falls_after_a_leaking_tip_is_looked_at_by_the_board_again() -> None:
    """The tips are dry now: what loses it lies elsewhere, and the board goes on."""
    tips = {
        "kind": "tip_leak",
        "readings": [{"injector": x, "seen": "drips" if x == "2" else "dry"} for x in "1234"],
    }
    falls = {"lost_at_most": 5, "within_s": 60}
    sheets = (
        hold({0: 50, 60: 20}, **falls), tips,
        hold({0: 50, 60: 35}, **falls) | {"after": "s1"},
        {"kind": "tip_leak", "readings": [{"injector": "2", "seen": "dry"}], "after": "s2"},
    )  # fmt: skip
    told = job(
        "port", 4, "long crank", *sheets, repairs=done("replaced", "2"),
        asked_after={"long_crank": "still_there"},
        set_aside=[{"kind": k, "reason": "done before"} for k in ("walk_round", "supply_pressure")],
    )  # fmt: skip
    assert told.next_step is not None
    assert (told.next_step.kind, told.next_step.reason) == ("hold", "isolate")


def test_the_complaint_is_asked_for_where_nothing_more_can_be_measured() -> None:
    """A repair that is not settled, and nothing left that would tell: at the end stands the question, not nothing."""
    told = job(
        "port", 4, "misfire", drops([26, 26.5, 26, 31.5]), drops({4: 27.6}, after="s1"),
        repairs=done("cleaned", "4"),
        set_aside=[
            {"kind": k, "reason": "no access"}
            for k in ("walk_round", "supply_pressure", "hold", "command", "coil_resistance", "tip_leak",
                      "scan", "flow_bench", "pressure_drop", "coil_voltage_drop", "injector_balance_running")
        ],
    )  # fmt: skip
    assert told.next_step is not None
    assert told.next_step.kind == "ask_after"


def test_figures_of_a_sheet_of_corrections_are_all_due_together() -> None:
    """Whoever was renewed is read beside everybody: they share one engine."""
    first = values("correction", "mm3", 0.1, [8.0, -2.5, -3.0, -2.5])
    assert due(job("common_rail", 4, "rough idle", first, repairs=done("replaced", "1"))) == [
        ("correction", tuple("1234"))
    ]
