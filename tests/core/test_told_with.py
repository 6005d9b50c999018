"""What goes with a finding: its quantity, its passes, what is told of one that has nothing to compare with.

Figures by hand, JCGM 100:2008 (GUM) 5.1.2 where uncertainties are put together.
"""

import math
from statistics import NormalDist

import pytest

from plumb.core.compare.flow_rule import judge_by_flow
from plumb.core.measure.decision import State
from plumb.core.measure.readings import Window
from plumb.core.procedures import kind_of
from plumb.core.procedures.coils.analysis import analyse_coils
from plumb.core.procedures.cranking.analysis import CrankingSheet, analyse_cranking
from plumb.core.procedures.cranking.words import notes
from plumb.core.procedures.opening.analysis import OpeningSheet, Stroke, analyse_opening
from plumb.core.procedures.opening.shims import REASSEMBLY_KPA, Sensitivity, plan
from plumb.core.weigh.job import analyse_sheet
from tests.core.job_files import conditions, done, drops, job
from tests.core.jobs import coils, drop, scan
from tests.core.sets import bursts


def test_without_anybody_who_answers_nothing_is_a_deviation() -> None:
    """Four silent ones: no reference, no vote, and no figure that could be taken for one."""
    judged = judge_by_flow(bursts([(50, 50)] * 4), 0.10)
    assert judged.reference is None
    assert not judged.alone
    assert [(v.deviation, v.u, v.votes, v.agrees) for v in judged.views] == [
        (0.0, 0.0, False, False)
    ] * 4


def test_the_only_injector_is_held_against_what_is_expected() -> None:
    """It stands alone, and is settled by that and by nobody else."""
    expected = math.sqrt(50 * 6.894757293168) - math.sqrt(26 * 6.894757293168)
    held = judge_by_flow(bursts([(50, 26)]), 0.10, expected_flow=expected, alone=True)
    assert (held.alone, held.settled_by_expected, held.agreeing) == (True, True, ())
    assert held.views[0].state is State.IN_PLUMB


def test_facts_that_only_order_the_work_do_not_weigh() -> None:
    """That every pass agrees, and that most cylinders misfire, says nothing of any injector by itself."""
    twice = analyse_sheet(drop([26.0, 26.0, 26.0, 26.0], passes=2))
    agree = [f for f in kind_of(twice).facts("s", twice) if f.code == "passes_agree"]
    assert len(agree) == 4
    assert not any(f.weighs for f in agree)
    many = analyse_sheet(scan("60 58 61 57"))
    [told] = [f for f in kind_of(many).facts("s", many) if f.code == "misfires_many"]
    assert not told.weighs


def test_a_hump_that_was_not_typed_has_no_pass() -> None:
    """Three typed, one not: nought passes, no state, and three are enough to compare."""
    typed = (("1", 100.0), ("2", 101.0), ("3", 99.0), ("4", None))
    result = analyse_cranking(CrankingSheet(cylinders=typed, step=1.0))
    assert [f.passes for f in result.findings] == [1, 1, 1, 0]
    assert result.reference == 100.0
    assert result.findings[3].state is State.NOT_JUDGED
    two = analyse_cranking(CrankingSheet(cylinders=typed[:2], step=1.0))
    assert two.reference is None
    assert notes(two, "percent") == ("At least three humps are needed to compare.",)


def test_a_coil_against_those_that_agree() -> None:
    """12.0, 12.0, 12.1 and 13.0 ohm, leads 0: the last lies by its difference over the mean of the others."""
    result = analyse_coils(coils([12.0, 12.0, 12.1, 13.0]))
    four = result.findings[3]
    assert four.quantity == "resistance_20"
    assert four.reference is not None
    assert four.deviation == pytest.approx((four.value or 0.0) / four.reference - 1.0, abs=1e-12)
    assert four.u is not None
    assert 0.0 < four.u < 0.05
    alone = analyse_coils(coils([12.0])).findings[0]
    assert (alone.deviation, alone.u) == (None, None)


def test_what_a_change_of_shims_is_known_to() -> None:
    """Two settings of one nozzle: the u of the change is the root of the mean of the squares."""
    strokes = [("1.00", 120.0), ("1.00", 120.0), ("1.10", 131.0)]
    sheet = OpeningSheet(
        injectors=("1",), step=50.0, window=Window(low=None, high=None),
        strokes=tuple(
            Stroke(injector="1", number=n, value=bar * 100.0, shim_mm=float(shim))
            for n, (shim, bar) in enumerate(strokes, 1)
        ),
    )  # fmt: skip
    result = analyse_opening(sheet)
    [(_, change)] = result.changes
    one, two = result.nozzles[0].settings
    assert change.shim_mm == pytest.approx(0.10)
    assert (change.before, change.after) == pytest.approx((12_000.0, 13_100.0))
    assert change.u == pytest.approx(math.sqrt((one.u**2 + two.u**2) / 2.0))


def test_how_likely_a_stack_lands_in_its_window() -> None:
    """One shim of 0.05 mm at 20 bar for 0.1 mm: both sides of the window count, by the normal law."""
    s = Sensitivity(kpa_per_mm=20_000.0, u=0.0, changes=9)
    window = Window(low=12_200.0, high=12_700.0)
    made = plan(11_600.0, 0.0, None, (0.05,), window, s)
    assert made is not None
    law = NormalDist(11_600.0 + 1_000.0, REASSEMBLY_KPA)
    assert made.probability == pytest.approx(law.cdf(12_700.0) - law.cdf(12_200.0), abs=1e-9)
    assert 0.5 < made.probability < 0.95


def test_who_was_not_read_again_is_still_due() -> None:
    """1 and 4 are cleaned, only 1 is read again: 4 is asked for, 1 is not."""
    before = drops((31, 26, 26, 26, 26, 33))
    after = drops({1: 26, 2: 26}, after="s1")
    made = job("port", 6, "misfire", before, after, repairs=done("cleaned", "1", "6"))
    [due] = [d for d in made.due if d.kind == "pressure_drop"]
    assert due.injectors == ("6",)


def test_what_is_not_the_injectors_is_left_alone() -> None:
    """Both on one feed are dead, the others answer: the feed comes first, and nobody asks to read them again."""
    vehicle = {
        "name": "Torvik Lundy", "fuel_system": "port",
        "injectors": [{"id": str(n), "cylinder": n, "feed": "A" if n < 3 else "B"} for n in range(1, 5)],
    }  # fmt: skip
    found = job("port", 4, "misfire", drops((None, None, 26, 26)), vehicle=vehicle).now
    assert [conditions(found)[x] for x in ("1", "2")] == ["not_the_injector"] * 2
    step = found.next_step
    assert step is None or not {"1", "2"} & set(step.injectors) or step.kind != "pressure_drop"


def test_once_more_is_asked_of_those_that_looked_good_once() -> None:
    """A misfire with four that are even after one pass: further passes, of them."""
    aside = [
        {"kind": k, "reason": "not here"}
        for k in ("walk_round", "supply_pressure", "hold", "command", "coil_resistance",
                  "coil_voltage_drop", "tip_leak", "flow_bench", "scan", "cranking_balance",
                  "injector_balance_running")
    ]  # fmt: skip
    found = job("port", 4, "misfire", drops((26, 26, 26, 26)), set_aside=aside).now
    assert found.next_step is not None
    assert (found.next_step.reason, found.next_step.injectors) == (
        "once_more",
        ("1", "2", "3", "4"),
    )
