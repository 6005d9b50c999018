"""Figures that can be worked out on paper, one place of the core after the other."""

import math
from dataclasses import replace
from statistics import median

import numpy as np
import pytest
from scipy.stats import theilslopes

from plumb.core.compare.flow_rule import intermittent, judge_by_flow
from plumb.core.compare.said import leaning
from plumb.core.diagnose.foretell import _surer
from plumb.core.measure.decision import State
from plumb.core.measure.quantities import KPA_PER, decimals_shown, show_pressure
from plumb.core.measure.readings import Value
from plumb.core.measure.text import listed, ordinal
from plumb.core.measure.uncertainty import sample_sd
from plumb.core.mend.finish import finish
from plumb.core.mend.options import Prices, options_for
from plumb.core.mend.repairs import Repair, Repaired
from plumb.core.procedures import BY_CODE
from plumb.core.procedures.correction.analysis import (
    ON_TIME_SHARE,
    POINTS_WANDER,
    CorrectionSheet,
    analyse_corrections,
)
from plumb.core.procedures.cranking.analysis import CrankingSheet, CrankTrace, analyse_cranking
from plumb.core.procedures.hold.analysis import HoldSheet, analyse_hold, theil_sen
from plumb.core.procedures.hold.isolation import STEPS
from plumb.core.procedures.opening.analysis import OpeningSheet, Stroke, analyse_opening
from plumb.core.procedures.opening.facts import facts
from plumb.core.weigh.job import Job, analyse_sheet
from tests.core.jobs import coils, drop, labels, weigh
from tests.core.sets import bursts

PSI = KPA_PER["psi"]


def test_labels_are_listed_as_people_list_them() -> None:
    """One, two, three and four of them."""
    assert [listed(list("1234")[:n]) for n in range(5)] == [
        "", "1", "1 and 2", "1, 2 and 3", "1, 2, 3 and 4",
    ]  # fmt: skip
    assert [ordinal(n) for n in (10, 12, 13, 14, 21, 23, 101, 111)] == [
        "10th", "12th", "13th", "14th", "21st", "23rd", "101st", "111th",
    ]  # fmt: skip


def test_a_spread_whose_mean_cannot_be_written_down() -> None:
    """Doubles at 1e16 lie two apart: the mean of 1e16 and 1e16 + 6 is rounded by one; s stays 6/sqrt(2)."""
    assert sample_sd([1e16, 1e16 + 6.0]) == pytest.approx(6.0 / math.sqrt(2.0), rel=1e-12)


@pytest.mark.parametrize(
    ("unit", "step_psi", "decimals"),
    [("psi", 0.5, 1), ("psi", 2.0, 0), ("psi", 0.25, 2), ("kPa", 0.5, 0), ("kPa", 0.1, 1), ("bar", 1.0, 2),
     ("bar", 0.1, 3), ("MPa", 1.0, 3)],
)  # fmt: skip
def test_another_unit_has_the_digits_that_tell_two_steps_apart(
    unit: str, step_psi: float, decimals: int
) -> None:
    """A step of 1 psi is 0.069 bar: two decimals tell 3.45 from 3.52, one would not."""
    assert decimals_shown(unit, step_psi * PSI) == decimals
    one, next_ = (show_pressure(k * step_psi * PSI, unit, step_psi * PSI) for k in (50, 51))
    assert one != next_


def test_where_most_disagree_it_is_the_method_and_nobody_is_singled_out() -> None:
    """Of three that were read twice two disagree: all three who were read once count for nothing in that."""
    twice, apart = [(50, 26), (50, 26)], [(50, 26), (50, 34)]
    once = [(50, 26)] * 3
    assert intermittent(bursts([twice, apart, apart, *once]), 0.10) == frozenset()
    assert intermittent(bursts([twice, twice, apart, *once]), 0.10) == {"3"}
    states = [v.state for v in judge_by_flow(bursts([twice, twice, apart, *once]), 0.10).views]
    assert [s is State.INTERMITTENT for s in states] == [False, False, True, False, False, False]


def test_a_correction_read_twice_is_the_mean_of_both() -> None:
    """4 and 6 are 5; its step and how it wanders weigh as 1/sqrt(2) of one reading's (JCGM 100:2008, 4.2.3)."""
    read = [("1", 4.0), ("1", 6.0), ("2", -1.6), ("3", -1.7), ("4", -1.7)]
    sheet = CorrectionSheet(
        injectors=labels(4), unit="mm3", step=0.1,
        readings=tuple(
            Value(injector=x, number=n, value=v) for n, (x, v) in enumerate(read, 1)
        ),
    )  # fmt: skip
    first, second, *_ = analyse_corrections(sheet).findings
    assert (first.value, first.passes, second.passes) == (5.0, 2, 1)
    reference = (-1.6 - 1.7 - 1.7) / 3
    assert first.deviation == pytest.approx(5.0 - reference)
    u = math.hypot(0.1 / math.sqrt(12.0), POINTS_WANDER)
    assert first.u == pytest.approx(math.hypot(u / math.sqrt(2.0), u / math.sqrt(3.0)), rel=1e-6)


def test_on_times_are_held_against_a_tenth_of_the_middle_one() -> None:
    """Of an even number the upper of the two in the middle; points keep their own limit."""
    sheet = CorrectionSheet(
        injectors=labels(4), unit="ms", step=0.01,
        readings=tuple(
            Value(injector=str(n), number=1, value=v) for n, v in enumerate((0.5, 0.6, 0.8, 0.9), 1)
        ),
    )  # fmt: skip
    assert analyse_corrections(sheet).apart == pytest.approx(ON_TIME_SHARE * 0.8)
    assert pytest.approx(0.1) == ON_TIME_SHARE


def test_a_humps_height_is_known_as_well_as_a_median_of_its_cycles() -> None:
    """1.4826 MAD estimates s; the median's own is sqrt(pi/2) s/sqrt(n) (Kendall and Stuart, vol. 1, 10.10, from memory)."""
    cycles = [96.0, 98.0, 99.0, 100.0, 100.0, 101.0, 102.0, 104.0, 108.0]
    trace = CrankTrace(cycles=tuple((h, 100.0, 100.0, 100.0) for h in cycles), order=labels(4))
    sheet = CrankingSheet(cylinders=tuple((x, None) for x in labels(4)), step=1.0, trace=trace)
    hump = analyse_cranking(sheet).humps[0]
    middle = median(cycles)
    mad = median(abs(h - middle) for h in cycles)
    by_hand = math.sqrt(math.pi / 2.0) * 1.4826 * mad / 100.0 / math.sqrt(9.0)
    assert (hump.median, hump.cycles) == (1.0, 9)
    assert hump.u == pytest.approx(by_hand, rel=2e-3)


def test_what_a_step_of_the_board_takes() -> None:
    """Minutes as the trade reckons: looking is quick, clamping less so, taking out the least; common practice, no source."""
    minutes = {rail: {s.code: s.minutes for s in steps} for rail, steps in STEPS.items()}
    assert minutes == {
        "low": {"vacuum_hose": 1, "outside": 2, "clamp_return": 3, "clamp_supply": 4, "clamp_both": 5, "tips": 10},
        "high": {"low_side": 2, "outside": 3, "tips": 20},
    }  # fmt: skip


def test_a_shim_that_is_noted_again_is_no_new_one() -> None:
    """What was seen at the first stroke still holds: nothing was taken apart."""
    row = [
        Stroke(injector="1", number=1, value=12_600.0, shim_mm=1.00, seat="dry"),
        Stroke(injector="1", number=2, value=12_650.0, shim_mm=1.00),
    ]
    nozzle = analyse_opening(OpeningSheet(injectors=("1",), strokes=tuple(row), step=50.0)).nozzles[
        0
    ]
    assert nozzle.seat == "dry"


@pytest.mark.parametrize(
    ("sound", "spray", "made"),
    [
        ("chatters", "even", {"nozzle_sprays"}),
        ("silent", "even", {"nozzle_silent"}),
        ("chatters", "stream", set()),
    ],
)
def test_a_nozzle_sprays_when_it_is_heard_and_seen(sound: str, spray: str, made: set[str]) -> None:
    """Both, and neither is a sign against anything else."""
    stroke = Stroke(injector="1", number=1, value=12_600.0, sound=sound, spray=spray)
    result = analyse_opening(OpeningSheet(injectors=("1",), strokes=(stroke,), step=50.0))
    told = {f.code: f for f in facts("s1", result)}
    assert {"nozzle_sprays", "nozzle_silent"} & told.keys() == made
    assert all(not told[code].weighs for code in made & {"nozzle_sprays"})


def test_what_goes_with_a_repair_is_told_once_there_is_one() -> None:
    """A sheet that was only taken again brings no seals along."""
    sheet = drop((26.0, 26.5, 26.0, 31.5))
    whole = Job(injectors=labels(4), sheets=(("s1", sheet), ("s2", sheet)))
    results = tuple((key, analyse_sheet(s)) for key, s in whole.sheets)
    again = Repaired(after={"s2": "s1"})
    replaced = Repaired(repairs=(Repair(injector="4", done="replaced"),))
    assert finish(whole, results, again).things == ()
    assert {"seals", "leak_check"} <= {t.code for t in finish(whole, results, replaced).things}


def test_to_wait_costs_nothing_now() -> None:
    """Neither money nor hours, whatever the shop's prices are."""
    result = weigh(4, drop((26.0, 26.5, 26.0, 31.5)))
    wait = next(o for o in options_for(result, Prices(), {}) if o.option == "wait")
    assert wait.cost is not None
    figures = (
        wait.cost.expected,
        wait.cost.low,
        wait.cost.high,
        wait.hours,
        wait.hours_low,
        wait.hours_high,
    )
    assert figures == (0.0,) * 6


def test_figures_and_moments_that_repeat_often_are_scipys_too() -> None:
    """Four of each of three figures, two at each moment: ties of four and of two (Sen 1968, (2.6))."""
    times = [10.0 * (n // 2) for n in range(12)]
    roots = [18.0, 17.5, 17.5, 18.0, 17.5, 17.0, 18.0, 17.0, 17.5, 17.0, 17.0, 18.0]
    slope, _, low, high = theilslopes(roots, times, 0.95)
    assert theil_sen(roots, times) == pytest.approx((slope, low, high))
    slope, _, low, high = theilslopes(sorted(roots), times, 0.95)
    assert theil_sen(sorted(roots), times) == pytest.approx((slope, low, high))


def test_of_two_readings_the_line_goes_through_both() -> None:
    """No interval of Theil and Sen: the gauge's alone, to both sides alike."""
    line = analyse_hold(HoldSheet(series=((0.0, 400.0), (40.0, 361.0)), step=1.0)).leak_line
    assert line is not None
    assert line.k == pytest.approx(1.0 / 40.0)
    assert line.high - line.k == pytest.approx(line.k - line.low)


def test_how_much_surer_one_is_by_brute_force() -> None:
    """Expected sum of squares of the shares after a look, less that before (Brier 1950), column by column."""
    joint, rest = np.array([0.10, 0.25, 0.05]), np.array([0.40, 0.05, 0.15])
    after = sum(
        (a + b) * ((a / (a + b)) ** 2 + (b / (a + b)) ** 2)
        for a, b in zip(joint, rest, strict=True)
    )
    before = 0.40**2 + 0.60**2
    assert float(_surer(joint, rest)) == pytest.approx(after - before)
    assert float(_surer(0.4 * np.array([0.5, 0.5]), 0.6 * np.array([0.5, 0.5]))) == 0.0


def test_a_feed_of_one_is_no_shared_one() -> None:
    """Two on A share it; the one on B shares with nobody, the one without a feed neither."""
    feeds = {"1": "A", "2": "A", "3": "B", "4": ""}
    case = weigh(4, drop((26.0, 26.5, 26.0, 31.5)), feeds=feeds).weighed.case
    assert case.groups() == {"A": frozenset({"1", "2"})}


def test_a_row_that_is_not_settled_leans_by_its_probability() -> None:
    """A quarter outside and below is a quarter low; of a set in halves two in five; settled ones lean nowhere."""
    finding = weigh(4, drop((26.0, 26.5, 26.0, 26.0))).sheets[0][1].findings[0]

    def leans(state: State, out: float | None, deviation: float | None) -> dict[str, float]:
        return dict(
            leaning("drop", replace(finding, state=state, probability_out=out, deviation=deviation))
        )

    assert leans(State.UNSETTLED, 0.25, -0.1) == {"drop_in_plumb": 0.75, "drop_low": 0.25}
    assert leans(State.UNSETTLED, 0.25, 0.1) == {"drop_in_plumb": 0.75, "drop_high": 0.25}
    assert leans(State.UNSETTLED, 0.25, None) == {"drop_in_plumb": 0.75, "drop_high": 0.25}
    assert leans(State.UNSETTLED, None, 0.1) == leans(State.LOW, 0.99, -0.2) == {}
    assert leans(State.SPLIT, None, -0.1) == {"drop_in_plumb": 0.6, "drop_low": 0.4}


def test_a_coil_that_is_not_settled_leans_too() -> None:
    """Both ways together are certain."""
    sheet = coils((14.0, 12.0, 12.0, 12.0))
    result = analyse_sheet(sheet)
    first = result.findings[0]
    assert first.state is State.UNSETTLED
    told = next(f for f in BY_CODE["coil_resistance"].facts("c", result) if f.injector == "1")
    out = first.probability_out
    assert out is not None
    assert dict(told.leans) == {"coil_good": pytest.approx(1.0 - out), "coil_out": out}


def test_a_second_pass_is_a_fact_of_its_own() -> None:
    """Whoever was read once has none."""
    once, twice = (analyse_sheet(drop((26.0, 26.5, 26.0), passes=n)) for n in (1, 2))
    told = [
        {f.injector for f in BY_CODE["pressure_drop"].facts("s", r) if f.code == "two_passes"}
        for r in (once, twice)
    ]
    assert told == [set(), {"1", "2", "3"}]
