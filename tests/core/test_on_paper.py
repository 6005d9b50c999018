"""Windows, entry conditions, causes and slides, worked out on paper."""

import math
from itertools import pairwise
from types import SimpleNamespace
from typing import cast

import pytest
from scipy.stats import norm

from plumb.core.causes.table import faults_on
from plumb.core.compare.bursts import Limits
from plumb.core.compare.drops.asks import _step
from plumb.core.compare.drops.sheet import DropResult
from plumb.core.compare.mean_rules import within_each_other
from plumb.core.compare.planning import LEFT, Aim, RailPlan, plans
from plumb.core.diagnose.case import Case, _word_tables
from plumb.core.diagnose.explain import _SPEAKS, POSSIBLE, RANK, causes_of
from plumb.core.diagnose.sets import as_told, weigh_faults
from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.fact import Fact
from plumb.core.measure.readings import Mark, Value, Window
from plumb.core.measure.uncertainty import Repeatability
from plumb.core.mend.finish import _told_by
from plumb.core.mend.options import Prices, _certain, _on_the_bench, _rank
from plumb.core.procedures.coils.analysis import CoilSheet, Meter, analyse_coils
from plumb.core.procedures.coils.facts import facts as coil_facts
from plumb.core.procedures.hold.analysis import _soak
from plumb.core.procedures.opening.analysis import OpeningSheet, Setting, _more
from plumb.core.procedures.running.analysis import LOST_AT_MOST, LOW_SIDE, outside_running
from plumb.core.procedures.supply.analysis import SupplySheet, analyse_supply
from plumb.core.years.drift import Point, _leaves, _Line
from tests.core.jobs import PSI, hold, labels, supply, tips, walk
from tests.core.sets import drops
from tests.core.test_diagnosis import job


def test_a_window_that_has_two_ends_has_a_middle() -> None:
    """48 to 55 psi: 51.5; 45 psi lie 6.5/51.5 under it, the ends 3.5/51.5 from it; with one end there is none."""
    sheet = SupplySheet(
        pump="runs", step=0.5,
        windows=(("key_on", Window(low=48.0, high=55.0)), ("running", Window(low=40.0, high=None))),
        readings=(("key_on", 45.0), ("running", 45.0)),
    )  # fmt: skip
    by_state = {f.place: f for f in analyse_supply(sheet, Thresholds()).findings}
    both, one = by_state["key_on"], by_state["running"]
    assert (both.reference, both.deviation, both.tolerance) == pytest.approx(
        (51.5, -6.5 / 51.5, 3.5 / 51.5)
    )
    assert both.u == pytest.approx(one_step_u(0.5) / 51.5)
    assert (one.reference, one.deviation, one.tolerance, one.u) == (None, None, None, None)
    assert both.state is State.LOW
    assert one.state is State.IN_PLUMB


def one_step_u(step: float) -> float:
    """A figure lies anywhere within its step (JCGM 100:2008, F.2.2.1)."""
    return step / math.sqrt(12.0)


def test_entry_conditions_are_told_in_the_unit_of_the_gauge() -> None:
    """Asked for in kPa, told in psi without and in bar with one decimal."""
    (low,) = outside_running(low_side=200.0, lost=None, rail=None, unit="psi")
    (rail,) = outside_running(low_side=None, lost=None, rail=10_000.0, unit="bar")
    ends = [round(x / PSI) for x in LOW_SIDE]
    assert low == f"the low side is at 29 psi, asked for {ends[0]} to {ends[1]}"
    assert rail.startswith("the rail is at 100.0 bar, asked for ")
    for value in LOW_SIDE:
        assert outside_running(low_side=value, lost=None, rail=None) == ()
    assert outside_running(low_side=None, lost=LOST_AT_MOST, rail=None) == ()
    assert len(outside_running(low_side=None, lost=LOST_AT_MOST + 0.1, rail=None)) == 1


def test_at_least_one_of_several_has_it() -> None:
    """A cause that shows without its place: one less the product of none having it."""
    labels = ("1", "2", "3")
    found = weigh_faults(Case(fuel_system="port", injectors=labels, words=("misfire",)))
    for fault in found.states:
        if not fault.found_somewhere:
            continue
        fact = Fact(code=next(iter(fault.found_somewhere)), injector="", sheet="s1", text="so")
        told = weigh_faults(
            Case(fuel_system="port", injectors=labels, words=("misfire",), facts=(fact,))
        )
        (cause,) = [c for c in causes_of(told, {}) if (c.fault, c.place) == (fault, "")]
        said = as_told(told)
        none = math.prod(1.0 - said.share_at(x, fault.code) for x in labels)
        assert cause.share == pytest.approx(1.0 - none)
        assert cause.state == "found"


def test_causes_stand_by_their_state_and_then_by_their_share() -> None:
    """The likelier of two that stand alike comes first."""
    found = weigh_faults(
        Case(fuel_system="port", injectors=("1", "2"), words=("misfire",), codes=("P0301",),
             cylinders={"1": 1, "2": 2})
    )  # fmt: skip
    causes = causes_of(found, {})
    assert len(causes) > 4
    for before, after in pairwise(causes):
        assert (RANK[before.state], -before.share) <= (RANK[after.state], -after.share)


@pytest.mark.parametrize(
    ("slope", "low", "high", "value", "leaves"),
    [
        # Up to the upper limit, 10 away; the flat side of the band still rises.
        (2.0, 1.0, 4.0, 90.0, (5.0, 2.5, 10.0)),
        # Its flat side falls: it may never get there.
        (2.0, -1.0, 4.0, 90.0, (5.0, 2.5, None)),
        # Down to the lower limit, 30 away.
        (-3.0, -6.0, -1.5, 80.0, (10.0, 5.0, 20.0)),
        (0.0, -1.0, 1.0, 80.0, None),
        # It is there already.
        (2.0, 1.0, 4.0, 100.0, None),
    ],
)  # fmt: skip
def test_when_a_figure_that_slides_leaves_its_window(
    slope: float, low: float, high: float, value: float, leaves: tuple[float, float, float | None] | None
) -> None:  # fmt: skip
    """Way divided by speed: at its slope, at the steep end of its band, at the flat one."""
    point = Point(at=0.0, value=value, u=1.0)
    line = _Line(slope, low, high, value, 0.0)
    assert _leaves([point], line, Window(low=50.0, high=100.0)) == (leaves and pytest.approx(leaves))  # fmt: skip
    assert _leaves([point], line, None) is None


def test_how_well_the_line_is_known_counts_on_both_days() -> None:
    """10 to go at 2 a year, the line known to 4: 6 at the steep end of 4, 14 at the flat end of 1."""
    line = _Line(2.0, 1.0, 4.0, 90.0, 4.0)
    made = _leaves([Point(at=0.0, value=92.0, u=1.0)], line, Window(high=100.0))
    assert made == pytest.approx((5.0, 1.5, 14.0))


def test_the_fewest_strokes_that_settle_a_nozzle() -> None:
    """By the probabilities of JCGM 106:2012, stroke by stroke, from one more to five."""
    window = Window(low=20_000.0, high=21_000.0)
    sheet = OpeningSheet(injectors=("1",), step=50.0, window=window, strokes=())
    counts = set()
    for mean in (20_050.0, 20_080.0, 20_110.0, 20_150.0, 20_400.0):
        now = Setting(shim_mm=None, mean=mean, u=0.0, strokes=1)
        wanted = None
        for more in range(5, 0, -1):
            u = math.hypot(one_step_u(50.0), 100.0 / math.sqrt(1 + more))
            outside = norm.cdf(20_000.0, mean, u) + norm.sf(21_000.0, mean, u)
            if outside <= 0.1:
                wanted = more
        assert _more(now, sheet, (100.0, Thresholds(call=0.9, clear=0.1))) == wanted
        counts.add(wanted)
    assert {1, None} <= counts
    assert len(counts) > 2


def test_what_has_to_be_done_on_the_engine_comes_first_and_waiting_last() -> None:
    """Whatever they cost; between them the cheaper way, or the shorter one where nobody has prices."""
    costs = {"engine_first": (9.0, 900.0), "replace": (3.0, 100.0), "bench": (2.0, 200.0), "wait": (0.0, 0.0)}  # fmt: skip
    ways = [_certain(name, (), hours, money, "so") for name, (hours, money) in costs.items()]
    by_money = sorted(ways, key=lambda w: _rank(w, money=True))
    by_hours = sorted(ways, key=lambda w: _rank(w, money=False))
    assert [w.option for w in by_money] == ["engine_first", "replace", "bench", "wait"]
    assert [w.option for w in by_hours] == ["engine_first", "bench", "replace", "wait"]


def test_further_passes_take_their_minutes_on_each_injector() -> None:
    """Two passes on three injectors, two minutes each: twelve."""
    result = cast("DropResult", SimpleNamespace(kind="pressure_drop"))
    step = _step(result, ("1", "2", "3"), 2, "repeat", 2.0)
    assert (step.minutes, step.passes, step.injectors) == (12.0, 2, ("1", "2", "3"))


@pytest.mark.parametrize("step", [3.5, 15.0, 40.0])
def test_no_longer_burst_is_planned_that_leaves_too_little(step: float) -> None:
    """What is left holds at least three steps of the gauge, and so much of the start."""
    aim = Aim(off=0.2, certainty=0.8, tolerance=0.08)
    found = plans(RailPlan(first=345.0, second=240.0, step=step, size=4, steps=(0.7,)), aim)
    for plan in found:
        if plan.longer > 1.0:
            assert plan.second >= max(LEFT * 345.0, 3.0 * plan.step)
    assert found


@pytest.mark.parametrize(
    ("told_by", "speaks", "state", "at", "told"),
    [
        ("s1", "", State.IN_PLUMB, "", True),
        ("s9", "low", State.LOW, "", True),
        ("s9", "low", State.LOW, "2", True),
        ("s9", "low", State.LOW, "3", False),
        ("s9", "low", State.IN_PLUMB, "", False),
        ("s9", "other", State.LOW, "", False),
        ("s9", "", State.LOW, "", False),
    ],
)
def test_which_sheet_told_of_a_cause(
    *, told_by: str, speaks: str, state: State, at: str, told: bool
) -> None:
    """The one that found it, or one with a row that is out whose facts speak for it."""
    kind = SimpleNamespace(code="k", makes={"low": "while it is"})
    row = SimpleNamespace(shows=state is State.LOW, injector="2")
    sheet = SimpleNamespace(kind="k", findings=(row,))
    cause = SimpleNamespace(
        place=at, told_by=told_by, speaks_for=((speaks, 9.0),) if speaks else ()
    )
    found = SimpleNamespace(sheets=(("s1", sheet),))
    assert _told_by(kind, cause, found) is told  # type: ignore[arg-type]


def test_the_scatter_of_a_set_is_pooled_by_its_degrees_of_freedom() -> None:
    """Squares and degrees add up (JCGM 100:2008, H.3.6): a prior of 1 % with 10, and two of 2 and 3 degrees."""
    made = Repeatability.of_scatters([(8e-4, 2), (3e-4, 3)], prior=0.01, prior_degrees=10.0)
    assert made.relative == pytest.approx(math.sqrt((10 * 1e-4 + 8e-4 + 3e-4) / 15.0))
    assert (made.degrees, made.own_degrees) == (15.0, 5)


def test_how_often_a_word_is_said_of_a_fault() -> None:
    """Of those who have it seven in ten mention it; common practice, no source."""
    tables = _word_tables("port")
    assert "misfire" in tables
    for word, table in tables.items():
        for fault in faults_on("port"):
            if word in fault.brings:
                assert table.rows[fault.code] == pytest.approx(
                    (1.0 - 0.7 * fault.brings[word], 0.7 * fault.brings[word])
                )


def test_two_are_within_each_other_or_not() -> None:
    """Two injectors are enough; of two as far from the middle the first is named; one is too few."""
    within = within_each_other(drops(50.0, [24.0, 25.0]), Limits(limit=2.0 * PSI))
    apart = within_each_other(drops(50.0, [24.0, 27.0]), Limits(limit=2.0 * PSI))
    assert within.applies
    assert [r.decision for r in within.rows] == [within.rows[0].decision] * 2
    assert len({r.decision for r in apart.rows}) == 2
    assert not within_each_other(drops(50.0, [24.0]), Limits(limit=2.0 * PSI)).applies


@pytest.mark.parametrize(
    ("actions", "ways"),
    [
        (("reshim", "reshim"), {"reshim"}),
        (("bench_test", "reshim"), {"rebuild"}),
        (("bench_test", "bench_test"), {"rebuild"}),
        (("replace", "reshim"), set()),
        (("replace", "bench_test"), set()),
    ],
)
def test_what_can_be_done_on_a_bench(actions: tuple[str, str], ways: set[str]) -> None:
    """Set where only the spring is off; rebuilt where at least one has to be looked at, and the others can be."""
    verdicts = {str(n): SimpleNamespace(action=a) for n, a in enumerate(actions, 1)}
    made = _on_the_bench(["1", "2"], verdicts, Prices())  # type: ignore[arg-type]
    assert {w.option for w in made} == ways


def test_one_coil_reads_or_none_does() -> None:
    """What is open, and what was not read, is no coil that reads."""

    def told(*ohms: float | None) -> set[str]:
        readings = tuple(
            Value(injector=str(n), number=1, value=ohm, mark=None if ohm else Mark.OVER)
            for n, ohm in enumerate(ohms, 1)
        )  # fmt: skip
        sheet = CoilSheet(
            injectors=labels(2), meter=Meter(step=0.1), readings=readings,
            window=Window(low=11.0, high=14.0),
        )  # fmt: skip
        return {f.code for f in coil_facts("s1", analyse_coils(sheet))}

    assert "a_coil_reads" in told(12.0, None)
    assert "a_coil_reads" not in told(None, None)


def test_a_pressure_that_rose_after_the_key_went_off() -> None:
    """Beyond twice the u of a difference of two readings, and where it stood highest."""
    u = 1.0
    bound = 2.0 * math.sqrt(2.0) * u
    assert _soak(((0.0, 300.0),), u) == (False, False, None)
    assert _soak(((0.0, 300.0), (60.0, 300.0 + bound - 0.01)), u)[0] is False
    assert _soak(((0.0, 300.0), (60.0, 300.0 + bound + 0.01)), u) == (True, True, (60.0, 300.0 + bound + 0.01))  # fmt: skip
    assert _soak(((0.0, 300.0), (60.0, 310.0), (120.0, 305.0)), u) == (True, False, (60.0, 310.0))


def test_a_cause_of_the_engine_is_told_where_there_is_something_to_tell() -> None:
    """It is likely enough, a fact shows it, or something speaks against it at one and a half to one."""
    weighed = job(walk("misfire", "fuel_smell"), supply(), hold(((0, 50), (60, 49.9), (300, 49.6))), tips("dry weeps dry dry")).weighed  # fmt: skip
    case = weighed.case
    listed = {(c.fault.code, c.place) for c in causes_of(weighed, {})}
    told = set()
    for shared in weighed.shared:
        code, places = shared.fault.code, shared.places
        against = any(
            s.facts and code in s.table.rows and s.speaks_for(code) < 1.0 / _SPEAKS
            for s in case.seen()
            if places is None or s.place in {"", *places}
        )
        facts = {f.code for f in case.facts if f.injector in (places or ("",))}
        shown = bool(shared.fault.found_by) and all(facts & set(g) for g in shared.fault.found_by)
        likely = weighed.share_of(shared) >= POSSIBLE
        assert ((code, shared.name) in listed) == (against or shown or likely), code
        told |= {(against, likely)}
    assert {(True, False), (False, False)} <= told
