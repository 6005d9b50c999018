"""The verdict: all sheets together, feeds first, gates before a new part, contradictions said."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumb.core.procedures import BY_CODE, KINDS, RUNNING
from plumb.core.weigh.job import analyse_job
from plumb.core.weigh.suspicions import CAUSES, CONTRADICTIONS, NOT_RULED_OUT, SUSPICIONS
from plumb.core.weigh.table import TABLE
from plumb.core.weigh.verdict import judge
from plumb.core.weigh.words_verdict import (
    ACTION_WORDS,
    CONDITION_WORDS,
    assumed,
    ruled_out,
    sentence,
)
from plumb.jobfile.reading import parse
from plumb.jobfile.to_core import core_job
from tests.core.jobs import coils, command, drop, hold, supply, tips, verdicts, walk, weigh
from tests.drivers import DEMO

GOOD = [26.0, 26.0, 26.5, 26.0, 26.5, 26.0]
PAIRS = {"1": "a", "4": "a", "2": "b", "5": "b", "3": "c", "6": "c"}
ALL_FACTS = sorted({f for row in TABLE for g in row.needs for f in g} | {
    f for s in SUSPICIONS.values() for f in s.cleared_by})  # fmt: skip


def codes(found: dict[str, object], *names: str) -> list[tuple[str, str]]:
    """(condition, action) of these injectors."""
    return [(found[n].condition, found[n].action) for n in names]  # type: ignore[attr-defined]


def test_half_of_a_set_dead_on_one_feed_points_at_the_feed() -> None:
    """Not at three injectors."""
    feeds = dict(zip("123456", "xyxyxy", strict=True))
    found = verdicts(6, drop([None, 26, None, 26.5, None, 26], passes=2), feeds=feeds)
    assert codes(found, "1", "3", "5") == [("not_the_injector", "check_first")] * 3
    assert found["1"].not_ruled_out[0] == "shared_feed"
    assert codes(found, "2") == [("sound", "keep")]
    lamp = verdicts(
        6, drop([None, 26, None, 26.5, None, 26], passes=2), command("blinks " * 6), feeds=feeds
    )
    assert found["1"].row != lamp["1"].row
    assert lamp["1"].condition == "no_response"


def test_two_weak_partners_point_at_what_they_share() -> None:
    """Though partners also wear together; a command seen good clears it."""
    low = drop([33, 26, 26.5, 33.5, 26, 26])
    assert codes(verdicts(6, low, feeds=PAIRS), "1", "4") == [("gives_less", "check_first")] * 2
    seen = verdicts(6, low, command("blinks " * 6), feeds=PAIRS)
    assert codes(seen, "1", "4") == [("gives_less", "clean_and_repeat")] * 2


def test_a_sound_partner_is_one_on_the_same_feed() -> None:
    """Half an engine shares a bank: that a bank mate is sound says nothing of a fuse."""
    low = drop([33, 26, 26.5, 26, 26, 26])
    on_feed = weigh(6, low, feeds=PAIRS)
    on_bank = weigh(6, low, banks=PAIRS)
    assert "partner_sound" in {f.code for f in on_feed.facts_about("1")}
    assert "partner_sound" not in {f.code for f in on_bank.facts_about("1")}


def test_hot_coils_are_in_plumb_in_the_verdict_too() -> None:
    """15.3 ohm at 90 degC: nothing is called."""
    hot = coils([15.3] * 4, temperature_c=90.0, window_from_c=10.0, window_to_c=32.0)
    found = verdicts(4, drop([26] * 4), hot)
    assert codes(found, "1", "2", "3", "4") == [("sound", "keep")] * 4


def test_gone_in_three_seconds_and_two_wet_tips() -> None:
    """Stuck open, both, and a tune-up is advised."""
    found = verdicts(4, hold([(0, 48), (3, 2)]), tips("dry drips dry pours"))
    assert codes(found, "2", "4") == [("stuck_open", "replace")] * 2
    assert "tune-up" in found["2"].because
    assert "tune-up" in found["4"].because
    assert codes(found, "1") != [("stuck_open", "replace")]


def test_heat_soak_is_no_leak() -> None:
    """Rising while hot: the rail holds."""
    job = weigh(4, hold([(0, 50), (60, 52)]), drop([26] * 4))
    facts = {f.code for f in job.facts}
    assert {"hold_good", "hold_soaks"} <= facts
    assert not {"hold_lost", "hold_collapsed"} & facts


def test_one_dead_is_cleaned_before_it_is_replaced() -> None:
    """Step by step: prove, check, clean, and only then a new part."""
    dead = drop([26, None, 26.5, 26], passes=2)
    good = (command("blinks " * 4), coils([12.4, 12.5, 12.4, 12.3]))
    assert codes(verdicts(4, dead), "2") == [("no_response", "check_first")]
    assert verdicts(4, dead)["2"].not_ruled_out[:2] == ("command", "coil")
    assert codes(verdicts(4, dead, *good), "2") == [("no_response", "clean_and_repeat")]
    after = drop([26, None, 26.5, 26], passes=2, when="after_cleaning")
    assert codes(verdicts(4, dead, *good, after), "2") == [("no_response", "replace")]
    assert codes(verdicts(4, dead, after), "2") == [("no_response", "check_first")]


def test_a_set_low_everywhere_is_said() -> None:
    """Against what is expected: the supply first; with a good supply, all clogged alike."""
    tired = drop([33, 33.5, 33, 33], expected=24.0)
    assert codes(verdicts(4, tired), "1") == [("off_alike", "check_first")]
    said = "".join(s.text for s in sentence(weigh(4, tired)))
    assert said == "1, 2, 3 and 4 are off alike: check first what is open. "
    assert codes(verdicts(4, tired, supply()), "1") == [("gives_less", "clean_and_repeat")]


def test_no_pump_ends_the_injector_work() -> None:
    """The relay clicks but no motor is heard."""
    job = weigh(4, walk("no_start"), supply(0.0, pump="clicks_only"))
    assert {v.condition for _, v in job.verdicts} == {"not_the_injector"}
    assert job.next_step is not None
    assert (job.next_step.kind, job.next_step.cause) == ("repair", "pump")
    assert "pump" in "".join(s.text for s in sentence(job))


def test_one_low_coil_drags_its_bank() -> None:
    """Partners that give less are not condemned while it is in."""
    banks = dict(zip("123456", "ABABAB", strict=True))
    found = verdicts(
        6,
        coils([4.0, 12.4, 12.5, 12.4, 12.3, 12.5]),
        drop([33, 26, 33, 26, 33.5, 26.5]),
        banks=banks,
    )
    assert codes(found, "1") == [("coil_shorted", "replace")]
    assert codes(found, "3", "5") == [("not_the_injector", "check_first")] * 2


@pytest.mark.parametrize(
    ("sheets", "label"),
    [
        ((coils([12.4, None, 12.5, 12.4]), drop([26, 26.5, 26, 26])), "2"),
        ((hold([(0, 50), (60, 50)]), tips("dry drips dry dry")), "2"),
        ((hold([(0, 50), (60, 40)], ("clamp_return", "holds")), tips("dry pours dry dry")), "2"),
    ],
)
def test_two_sheets_that_contradict_are_said(sheets: tuple[object, ...], label: str) -> None:
    """Nothing is condemned, and one of the two is done again."""
    job = weigh(4, *sheets)  # type: ignore[arg-type]
    verdict = dict(job.verdicts)[label]
    assert verdict.contradictions
    assert (verdict.condition, verdict.action) == ("not_settled", "repeat")
    assert verdict.contradictions[0].text in verdict.because


def test_a_weak_tester_imitates_a_stuck_injector() -> None:
    """Repeat on a battery."""
    found = verdicts(4, drop([26, 33, 26.5, 26], supply_v=10.9))
    assert codes(found, "2") == [("not_settled", "repeat")]
    assert (
        "tester_supply"
        not in verdicts(4, drop([26, 33, 26.5, 26], supply_v=12.5))["2"].not_ruled_out
    )


def test_a_split_set_is_settled_by_its_wet_half() -> None:
    """Two give more and are wet, two are dry: the dry half holds."""
    found = verdicts(4, drop([30, 24, 30, 24]), tips("dry drips dry pours"))
    assert codes(found, "1", "3") == [("sound", "keep")] * 2
    assert found["2"].action == found["4"].action == "replace"


@given(st.sets(st.sampled_from(ALL_FACTS)))
def test_any_facts_give_one_verdict_and_a_new_part_only_behind_its_gates(facts: set[str]) -> None:
    """A part is asked for only where its cause is shown; a dead one only with all proven."""
    verdict = judge(frozenset(facts))
    assert verdict.condition in CONDITION_WORDS
    assert verdict.action in ACTION_WORDS
    assert verdict.fired[0] == verdict.row
    if verdict.action == "replace" and verdict.condition == "no_response":
        assert {"command_good", "after_cleaning", "neighbour_answered"} <= facts
        assert facts & {"coil_good", "volts_good"}
    if verdict.action == "replace":
        # A coil needs no pressure to be out of line.
        assert "no_supply" not in facts or verdict.condition in {"coil_open", "coil_shorted"}
        assert not verdict.contradictions
    if verdict.action == "replace" and verdict.condition == "gives_less":
        assert "after_cleaning" in facts
        assert not facts & {"drop_outside", "running_outside"} or "drop_in_plumb" in facts


def test_every_code_of_the_table_has_plain_words() -> None:
    """Conditions, actions, suspicions; every kind named is a sheet."""
    for row in TABLE:
        assert row.condition in CONDITION_WORDS
        assert row.action in ACTION_WORDS
        assert all(code in NOT_RULED_OUT for code in row.not_ruled_out)
    assert {code for k in KINDS for code in k.clears} <= set(SUSPICIONS)
    assert {c.repeat for c in CONTRADICTIONS} <= set(BY_CODE)
    assert TABLE[-1].needs == ()
    assert len({r.name for r in TABLE}) == len(TABLE)


def test_the_demo_has_a_job_for_every_condition() -> None:
    """Every condition that petrol knows, and every cause is written in words."""
    shown = set()
    for path in DEMO.glob("*.json"):
        job = analyse_job(core_job(parse(path.read_text())))
        shown |= {v.condition for _, v in job.verdicts}
        assert all(words == CAUSES[code] for code, words in job.causes)
    assert shown == set(CONDITION_WORDS)


def test_what_was_ruled_out_and_what_is_only_assumed() -> None:
    """Named with what ruled it out."""
    job = weigh(4, supply(), command("blinks " * 4), coils([12.4] * 4), drop([26, 33, 26, 26]))
    cleared = {a.title: a.text for a in ruled_out(job)}
    assert cleared["the coil"] == "on every injector"
    assert "the supply pressure" in cleared
    # A burst with the engine off knows nothing of compression; a running engine does.
    assert assumed(job) == ()
    running = weigh(4, drop([26, 33, 26, 26], kind=RUNNING.code))
    assert "compression of its cylinder (2)" in assumed(running)


@pytest.mark.parametrize(
    ("facts", "row"),
    [
        ("hold_good hold_small_leak tip_weeps", "leaks at the tip"),
        ("hold_good hold_small_leak tip_drips", "leaks at the tip"),
        ("hold_good hold_tight tip_weeps", "tip weeps"),
        ("hold_good hold_tight tip_drips", "contradiction"),
        ("hold_good tip_drips", "leaks at the tip"),
    ],
)
def test_a_wet_tip_contradicts_only_a_rail_that_is_tight(facts: str, row: str) -> None:
    """A slow leak at a tip lies inside a hold's limit."""
    assert judge(frozenset(facts.split())).row == row
