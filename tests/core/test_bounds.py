"""Bounds, orders and defaults that nothing else held: each worked by hand beside it."""

from dataclasses import replace
from statistics import fmean

import pytest

from plumb.core.compare.bursts import Decision, Limits
from plumb.core.compare.drops.asks import next_step
from plumb.core.compare.drops.doubt import Doubt, doubt_of
from plumb.core.compare.drops.sheet import DropSheet, analyse_drop
from plumb.core.compare.mean_rules import ends_left_out, plain_mean
from plumb.core.compare.outlier_rules import judge_extreme, judge_modified_z
from plumb.core.compare.window_rule import Item, judge
from plumb.core.diagnose.explain import RANK
from plumb.core.diagnose.moved import moved_by
from plumb.core.measure.decision import State
from plumb.core.measure.quantities import KPA_PER
from plumb.core.measure.readings import Window
from plumb.core.procedures.opening.analysis import OpeningSheet, Stroke, analyse_opening
from plumb.core.procedures.rail.analysis import RailSheet, analyse_rail
from tests.core.jobs import drop, scan, supply, walk
from tests.core.sets import PSI, drop_sheet, drops
from tests.core.test_diagnosis import job


def test_a_modified_z_is_cut_at_three_and_a_half() -> None:
    """Of 23 to 25 the median is 24.25 and the deviations' 0.75 (Iglewicz and Hoaglin 1993: 3.5, from memory)."""
    middle, mad = 24.25, 0.75
    for z, decision in ((3.4, Decision.KEEP), (3.6, Decision.REJECT)):
        far = middle + z * mad / 0.6745
        set_ = drops(50.0, [23.0, 24.0, 25.0, 23.5, 24.5, far], step=0.01)
        assert judge_modified_z(set_, Limits()).rows[-1].decision is decision, z


def test_two_are_enough_for_a_mean_and_three_for_an_outlier() -> None:
    """Of two the mean lies between; which of two lies out nobody can say."""
    two, three = drops(50.0, [24.0, 20.0]), drops(50.0, [24.0, 24.5, 20.0])
    limits = Limits(limit=1.5 * PSI, reject=3.0 * PSI)
    for rule in (plain_mean, ends_left_out):
        told = rule(two, limits)
        assert told.applies
        assert told.centre == pytest.approx(22.0 * PSI)
    for rule in (judge_modified_z, judge_extreme):
        assert not rule(two, Limits()).applies
        assert rule(three, Limits()).applies


def test_up_to_half_of_a_set_may_lie_out() -> None:
    """Two of five far off on one side: both are taken out, and the centre is the mean of the three."""
    told = judge_extreme(drops(50.0, [24.0, 24.1, 23.9, 24.05, 35.0, 36.0], step=0.01), Limits())
    assert [r.decision for r in told.rows][-2:] == [Decision.REJECT] * 2
    assert told.centre == pytest.approx(fmean([24.0, 24.1, 23.9, 24.05]) * PSI, rel=1e-6)


def test_two_in_a_window_are_compared_with_each_other() -> None:
    """One alone has nobody beside it, and no deviation; two have."""
    alone, both = (
        judge([Item(label=str(n), value=v, u=0.01) for n, v in enumerate(values)], Window())
        for values in ((12.0,), (12.0, 12.1))
    )
    assert [v.deviation for v in alone.views] == [None]
    assert all(v.deviation is not None for v in both.views)


def test_a_split_set_is_read_again_until_three_passes_are_there() -> None:
    """Halves 5 % apart in flow may yet touch: asked at two passes of each, only of who lacks one at three, then no more."""

    def passes(*counts: int) -> DropSheet:
        ends = [26.0, 26.0, 28.3, 28.3]
        return drop_sheet([[(50, end)] * n for end, n in zip(ends, counts, strict=True)])

    for counts, asked in (((2, 2, 2, 2), "1234"), ((3, 3, 2, 2), "34"), ((3, 3, 3, 2), "4")):
        again = next_step(analyse_drop(passes(*counts)), 1.5)
        assert again is not None
        assert (again.reason, again.injectors) == ("split_again", tuple(asked))
    done = next_step(analyse_drop(passes(3, 3, 3, 3)), 1.5)
    assert done is None or done.reason != "split_again"


def test_what_moved_most_is_told_first_and_found_before_what_may_be() -> None:
    """By the size of the change, up or down, not by what it came to."""
    result = job(walk("misfire"), supply(), drop([26, 33.5, 26, 26]), scan("0 90 0 0"))
    changes = [abs(m.after - m.before) for m in moved_by(result.weighed, "s2")]
    assert changes == sorted(changes, reverse=True)
    assert len(changes) > 1
    assert RANK["found"] < RANK["suspected"] == RANK["possible"] < RANK["cleared"]
    ranks = [RANK[c.state] for c in result.diagnosis.causes]
    assert ranks == sorted(ranks)


def test_connectors_that_are_home_are_told_and_loose_ones_are_not_good() -> None:
    """All home, and not anything else."""
    for word, told in (("good", True), ("loose", False), ("broken", False)):
        sheet = walk("misfire")
        facts = {f.code for f in job(type(sheet)(**{**_fields(sheet), "connectors": word})).facts}
        assert ("connectors_good" in facts) is told, word
        assert ("connectors_bad" in facts) is not told, word


def _fields(sheet: object) -> dict[str, object]:
    return {name: getattr(sheet, name) for name in sheet.__slots__}  # type: ignore[attr-defined]


def test_strokes_scatter_by_their_squares() -> None:
    """s2 = (4 x 30^2 + sum of squares) / (4 + degrees), whatever the gauge: 17000, 17300, 17300 against their mean 17200."""
    strokes = tuple(
        Stroke(injector="1", number=n, value=v)
        for n, v in enumerate((17_000.0, 17_300.0, 17_300.0), 1)
    )
    squares = 200.0**2 + 2 * 100.0**2
    for step in (1.0, 100.0):
        told = analyse_opening(OpeningSheet(injectors=("1",), strokes=strokes, step=step))
        assert told.scatter == pytest.approx(((4 * 30.0**2 + squares) / 6) ** 0.5)


def test_a_trace_is_as_long_as_from_its_first_to_its_last_moment() -> None:
    """Three seconds are too short, though the recorder had run for a hundred before."""
    series = tuple((100.0 + k / 20.0, 30_000.0, 30_000.0) for k in range(60))
    told = analyse_rail(RailSheet(series=series))
    assert told.duration_s == pytest.approx(59 / 20)
    assert told.state == "too_short"
    assert KPA_PER["psi"] == PSI


def test_a_gauge_is_called_too_coarse_after_three_readings() -> None:
    """4 psi steps on drops of 24 and 22: three are asked for, then a finer gauge is said; from one mark 24 and 20 stay so as well."""

    def read(end: float, passes: int) -> tuple[set[Doubt | None], bool]:
        sheet = replace(drop_sheet([[(50, x)] * passes for x in (26, 26, 26, end)]), step=4.0 * PSI)
        told = analyse_drop(sheet)
        doubts = {doubt_of(f) for f in told.findings if f.state is State.UNSETTLED}
        return doubts - {None}, next_step(told, 1.5) is not None

    for passes, asked in ((1, True), (2, True), (3, False)):
        assert read(28.0, passes) == ({Doubt.TOO_COARSE}, asked), passes
    assert read(30.0, 1) == ({Doubt.TOO_COARSE}, True)
    assert read(30.0, 3)[0] == {Doubt.TOO_COARSE}
