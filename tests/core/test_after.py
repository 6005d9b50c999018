"""Before and after, swap tests, what goes with a repair, and how a job ends."""

import math
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from plumb.core.measure.decision import State
from plumb.core.measure.finding import SHARE_OF_FLOW, Finding
from plumb.core.mend.after import Pair, changed, pairs_of
from plumb.core.mend.finish import Finished, finish
from plumb.core.mend.goes_with import THINGS, Work, goes_with
from plumb.core.mend.repairs import DONE, Part, Repair, Repaired, gone, outdated_for
from plumb.core.mend.swap import went
from plumb.core.mend.words import pair_words, repair_words, swap_words
from plumb.core.procedures import COIL_RESISTANCE, DROP, SUPPLY, TIPS, Sheet
from plumb.core.weigh.job import Job, analyse_sheet
from tests.core.jobs import coils, drop, labels, supply, tips, walk

GOOD, LESS, MORE = 26.0, 31.5, 20.0
NINE = datetime(2026, 5, 12, 9, tzinfo=UTC)


def job(
    *sheets: Sheet,
    after: dict[str, str] | None = None,
    repairs: tuple[Repair, ...] = (),
    **more: Any,
) -> Finished:
    """Job."""
    keyed = tuple((f"s{n}", s) for n, s in enumerate(sheets, 1))
    results = tuple((key, analyse_sheet(s)) for key, s in keyed)
    asked = more.pop("asked_after", {})
    taken = more.pop("taken", {})
    return finish(
        Job(injectors=labels(more.pop("count", 4)), sheets=keyed, **more),
        results,
        Repaired(repairs=repairs, after=after or {}, asked_after=asked, taken=taken),
    )


def word(before: float | None, after: float | None, passes: int = 1) -> Pair:
    """Injector 4 among good ones, with these second readings before and after."""
    was, now = (drop((GOOD, 26.5, GOOD, x), passes=passes) for x in (before, after))
    results = (("s1", analyse_sheet(was)), ("s2", analyse_sheet(now)))
    return next(p for p in pairs_of(results, {"s2": "s1"}) if p.injector == "4")


def test_the_change_is_the_difference_of_the_two_deviations() -> None:
    """By hand: sqrt(50) - sqrt(31.5) against the mean of the three others, then the same after."""
    pair = word(LESS, 26.5)
    good = [math.sqrt(50) - math.sqrt(x) for x in (26, 26.5, 26)]
    before = (math.sqrt(50) - math.sqrt(31.5)) / (sum(good) / 3) - 1
    # After: the fourth agrees too, and is part of what it is compared with.
    mine = math.sqrt(50) - math.sqrt(26.5)
    after = mine / ((sum(good) + mine) / 4) - 1
    assert pair.change == pytest.approx(after - before)
    assert pair.word == "put_right"
    assert pair.u == pytest.approx(math.hypot(pair.before.u, pair.after.u))


@pytest.mark.parametrize(
    ("before", "after", "wanted"),
    [
        (LESS, LESS, "unchanged"),
        (34.0, 30.0, "better"),
        (30.0, 34.0, "worse"),
        (GOOD, LESS, "worse"),
        (GOOD, 26.5, "unchanged"),
        (None, GOOD, "put_right"),
        (None, LESS, "better"),
        (LESS, None, "worse"),
        (None, None, "unchanged"),
        (LESS, 28.5, "not_settled"),
        (30.0, 18.0, "worse"),
    ],
)
def test_words_of_a_change(before: float | None, after: float | None, wanted: str) -> None:
    """Words of a change."""
    assert word(before, after).word == wanted


def test_a_change_within_twice_its_uncertainty_is_none() -> None:
    """k = 2, JCGM 100:2008, 6.2.1: just within, and just beyond."""

    def finding(deviation: float) -> Finding:
        return Finding(
            injector="4", quantity="flow_index", scale=SHARE_OF_FLOW, state=State.LOW, value=1.0,
            reference=1.0, deviation=deviation, u=0.03, tolerance=0.1, probability_out=1.0,
            passes_to_settle=None, passes=1, agrees=False,
        )  # fmt: skip

    from plumb.core.mend.after import _word  # noqa: PLC0415

    twice = 2 * math.hypot(0.03, 0.03)
    for gain, wanted in ((twice - 1e-9, "unchanged"), (twice + 1e-9, "better")):
        was, now = finding(-0.5), finding(-0.5 + gain)
        assert _word(was, now, *changed(was, now)) == wanted


def test_repairs_say_which_readings_they_outdate() -> None:
    """Repairs say which readings they outdate."""
    assert Repair(injector="4", done="cleaned").outdates(DROP.code)
    assert not Repair(injector="4", done="cleaned").outdates(COIL_RESISTANCE.code)
    assert Repair(injector="4", done="replaced").outdates(COIL_RESISTANCE.code)
    assert Repair(injector="4", done="wired").outdates(COIL_RESISTANCE.code)
    assert not Repair(injector="4", done="nothing").outdates(DROP.code)
    assert not Repair(injector="", done="put_right", cause="pump").outdates(DROP.code)


def test_times_tell_before_from_after_and_without_them_the_sheet_does() -> None:
    """Times tell before from after and without them the sheet does."""
    sheets = {"s1": DROP.code, "s2": DROP.code, "s3": COIL_RESISTANCE.code}
    at = Repair(injector="4", done="cleaned", at=NINE)
    timed = Repaired(
        repairs=(at,),
        taken={"s1": NINE, "s2": NINE + timedelta(seconds=1), "s3": NINE - timedelta(1)},
    )
    assert gone(timed, sheets) == {("s1", "4")}
    assert (timed.is_later("s2"), timed.is_later("s1")) == (True, False)
    same = Repaired(repairs=(at,), after={"s2": "s1"}, taken={"s1": NINE, "s2": NINE})
    assert (same.was_before("s1", at), same.was_before("s2", at)) == (True, False)
    untimed = Repaired(
        repairs=(Repair(injector="4", done="swapped", swapped_with="2"),), after={"s2": "s1"}
    )
    assert gone(untimed, sheets) == {("s1", "4"), ("s1", "2"), ("s3", "4"), ("s3", "2")}
    assert outdated_for("s1", sheets, untimed) == frozenset()
    assert ("s1", "4") in outdated_for("s2", sheets, untimed)


def test_what_showed_the_fault_is_asked_for_again_in_the_routes_order() -> None:
    """What showed the fault is asked for again in the routes order."""
    found = (drop((GOOD, 26.5, GOOD, MORE)), tips("dry dry dry pours"))
    done = job(*found, repairs=(Repair(injector="4", done="replaced"),), said=("rough_idle",))
    assert [(d.kind, d.injectors, d.before_sheet) for d in done.due] == [
        (DROP.code, ("4",), "s1"), (TIPS.code, ("4",), "s2"),
    ]  # fmt: skip
    assert done.next_step.reason == "after_fix"
    assert done.next_step.doubt == "s1"
    assert dict(done.found.verdicts)["4"].condition in {"leaks_at_tip", "stuck_open"}
    # The new one has not been measured: nothing is said of it yet.
    assert dict(done.now.verdicts)["4"].condition == "not_settled"
    assert not done.over
    one = job(
        *found, drop((GOOD, 26.5, GOOD, 26.5)), after={"s3": "s1"},
        repairs=(Repair(injector="4", done="replaced"),), said=("rough_idle",),
    )  # fmt: skip
    assert [d.kind for d in one.due] == [TIPS.code]


def test_a_new_part_is_compared_whatever_showed_the_fault() -> None:
    """A new part is compared whatever showed the fault."""
    dead_coil = (coils((12.1, 12.2, 12.0, None)), drop((GOOD, 26.5, GOOD, 26.5)))
    new = job(*dead_coil, repairs=(Repair(injector="4", done="replaced"),))
    assert [d.kind for d in new.due] == [COIL_RESISTANCE.code, DROP.code]
    wired = job(*dead_coil, repairs=(Repair(injector="4", done="wired"),))
    assert [d.kind for d in wired.due] == [COIL_RESISTANCE.code]
    nothing = job(*dead_coil, repairs=(Repair(injector="4", done="nothing"),))
    assert nothing.due == ()


ENDS = {
    "s1": drop((GOOD, 26.5, GOOD, LESS)),
    "s2": drop((GOOD, 26.5, GOOD, 26.5)),
    "still": drop((GOOD, 26.5, GOOD, LESS)),
}
CLEANED = (Repair(injector="4", done="cleaned"),)


def test_the_complaint_is_asked_for_word_by_word_then_the_job_is_over() -> None:
    """The complaint is asked for word by word then the job is over."""

    def ended(**asked: str) -> Finished:
        return job(
            ENDS["s1"], ENDS["s2"], after={"s2": "s1"}, repairs=CLEANED,
            said=("rough_idle", "misfire"), asked_after=asked,
        )  # fmt: skip

    assert ended().next_step.kind == "ask_after"
    assert ended().unasked == ("rough_idle", "misfire")
    half = ended(rough_idle="gone")
    assert (half.unasked, half.over) == (("misfire",), False)
    over = ended(rough_idle="gone", misfire="gone")
    assert over.over
    assert over.next_step is None
    assert over.still_open is over.found


def test_a_complaint_that_is_still_there_opens_the_diagnosis_again() -> None:
    """The repaired fault explains nothing any more, and another step is proposed."""
    done = job(
        walk("rough_idle", "misfire"), ENDS["s1"], ENDS["s2"], after={"s3": "s2"}, repairs=CLEANED,
        asked_after={"rough_idle": "still_there", "misfire": "still_there"},
    )  # fmt: skip
    assert done.left == ("rough_idle", "misfire")
    assert not done.over
    assert done.still_open is done.now
    assert done.found.diagnosis.explained == "yes"
    assert done.now.diagnosis.explained != "yes"
    before, after = (x.weighed.share_at("4", "gives_less") for x in (done.found, done.now))
    assert before > 0.5
    assert after < 0.05
    assert done.next_step is not None
    assert done.next_step is done.now.next_step


def test_one_that_stays_clogged_is_to_be_put_right_still() -> None:
    """One that stays clogged is to be put right still."""
    done = job(ENDS["s1"], ENDS["still"], after={"s2": "s1"}, repairs=CLEANED, asked_after={})
    assert [p.word for p in done.pairs if p.injector == "4"] == ["unchanged"]
    assert done.still_open is done.now
    assert dict(done.now.verdicts)["4"].condition == "gives_less"
    assert not done.over


def test_what_was_put_right_on_the_engine_is_measured_again() -> None:
    """What was put right on the engine is measured again."""
    weak = supply(key_on=30.0)
    found = job(weak, said=("no_start",)).found
    cause = next(c.fault.code for c in found.diagnosis.found if c.fault.put_right)
    repairs = (Repair(injector="", done="put_right", cause=cause),)
    done = job(weak, repairs=repairs)
    assert [(d.kind, d.injectors) for d in done.due] == [(SUPPLY.code, ())]
    again = job(weak, supply(key_on=50.0), repairs=repairs, after={"s2": "s1"})
    assert again.due == ()
    assert [p.word for p in again.pairs] == ["put_right"]


@pytest.mark.parametrize(
    ("after", "wanted"),
    [
        ((GOOD, LESS, GOOD, 26.5), "with_part"),
        ((GOOD, 26.5, GOOD, LESS), "with_cylinder"),
        ((GOOD, 26.5, GOOD, 26.5), "gone"),
        ((GOOD, 28.5, GOOD, 28.5), "not_settled"),
    ],
)
def test_a_swap_is_judged_both_ways(after: tuple[float, ...], wanted: str) -> None:
    """4, which gave less, changes places with 2."""
    done = job(
        drop((GOOD, 26.5, GOOD, LESS)), drop(after), after={"s2": "s1"},
        repairs=(Repair(injector="2", done="swapped", swapped_with="4"),),
    )  # fmt: skip
    assert [(s.place, s.other, s.word) for s in done.swaps] == [("4", "2", wanted)]
    assert swap_words(done.swaps[0]).startswith("4 and 2 changed places")


def test_two_that_read_out_after_a_swap_are_told_apart_by_how_far() -> None:
    """Two that read out after a swap are told apart by how far."""

    def finding(state: State, deviation: float) -> Finding:
        return Finding(
            injector="", quantity="flow_index", scale=SHARE_OF_FLOW, state=state, value=1.0,
            reference=1.0, deviation=deviation, u=0.015, tolerance=0.1, probability_out=1.0,
            passes_to_settle=None, passes=1, agrees=False,
        )  # fmt: skip

    fault, slight = finding(State.LOW, -0.30), finding(State.LOW, -0.15)
    assert went(fault, slight, fault) == "with_part"
    assert went(fault, fault, slight) == "with_cylinder"
    assert went(fault, slight, slight) == "not_settled"
    assert went(fault, fault, fault) == "not_settled"


def test_what_goes_with_the_work() -> None:
    """What goes with the work."""

    def codes(**work: Any) -> set[str]:
        return {t.code for t in goes_with(Work(**work))}

    assert codes(fuel_system="port") == set()
    plain = codes(fuel_system="port", out=("4",))
    assert plain == {"seals", "torque", "clips", "leak_check", "adaptation"}
    flooded = codes(fuel_system="port", out=("4",), conditions=(("4", "leaks_at_tip"),))
    assert flooded - plain == {"plugs", "oil"}
    clogged = codes(
        fuel_system="port", out=("4",), conditions=(("4", "gives_less"),), codes=("P0304",)
    )
    assert clogged - plain == {"filter", "codes"}
    assert codes(fuel_system="port", wired=("4",)) == {"clips"}
    nozzle = codes(fuel_system="mechanical_diesel", out=("4",))
    assert nozzle == {"seals", "torque", "leak_check", "bled", "filter"}
    assert "coded" in codes(fuel_system="common_rail", out=("4",), new=("4",))
    said = [t.words for t in goes_with(Work(fuel_system="common_rail", out=("1", "2")))]
    assert any("never felt for with a hand" in words for words in said)
    assert set(THINGS) >= plain | flooded | clogged | nozzle


def test_repairs_and_changes_in_words() -> None:
    """Repairs and changes in words."""
    assert repair_words(
        Repair(injector="4", done="replaced", part=Part(make="Torvik", serial="77"))
    ) == ("4 replaced: Torvik, serial 77")
    assert repair_words(Repair(injector="2", done="swapped", swapped_with="4")) == (
        "2 and 4 changed places"
    )
    assert all(repair_words(Repair(injector="1", done=d)) for d in DONE if d != "swapped")
    pair = word(LESS, 26.5)
    text = pair_words(pair, "psi", "gives less", "in plumb")
    assert text.startswith(
        f"{-100 * pair.before.deviation:.0f} % less before, even with the others now"
    )
    assert "put right" in text
    silent = pair_words(word(None, GOOD), "psi", "no response", "in plumb")
    assert silent.startswith("no response before")
