"""The group that agrees: majority, ties, splits; against a slow, plain search."""

from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumb.core.compare.agreement import agreeing


def largest_by_force(values: list[float], half: float) -> int:
    """Size of the largest subset that fits in +-half of some centre, by trying all subsets."""
    for size in range(len(values), 0, -1):
        for subset in combinations(values, size):
            low, high = min(subset), max(subset)
            # Some c has low >= c (1 - h) and high <= c (1 + h) exactly when this holds.
            if high * (1 - half) <= low * (1 + half) * (1 + 1e-12):
                return size
    return 0


@given(st.lists(st.floats(1.0, 3.0), min_size=1, max_size=7), st.floats(0.02, 0.2))
def test_the_group_is_a_largest_one(values: list[float], half: float) -> None:
    """Never larger than possible, and at least as large as any pair's midpoint finds."""
    group = agreeing(values, half)
    best = largest_by_force(values, half)
    assert len(group.members) <= best
    # Midpoints as centres reach the optimum except in a sliver of second order in the width.
    assert len(group.members) >= largest_by_force(values, half * (1 - half))


@given(st.lists(st.floats(1.0, 3.0), min_size=2, max_size=7), st.randoms(use_true_random=False))
def test_the_order_of_readings_does_not_matter(values: list[float], random) -> None:  # type: ignore[no-untyped-def]  # noqa: ANN001
    """Whoever is measured first has no more say."""
    shuffled = values.copy()
    random.shuffle(shuffled)
    one, two = agreeing(values, 0.05), agreeing(shuffled, 0.05)
    assert one.mean == pytest.approx(two.mean)
    assert one.split == two.split


def test_two_against_two_is_split() -> None:
    """A tie is called a tie."""
    group = agreeing([10.0, 8.0, 8.05, 9.97], 0.05)
    assert group.split
    assert {group.members, *group.others} == {(1, 2), (3, 0)}


def test_three_that_all_differ_are_split() -> None:
    """Three groups of one: nobody is right."""
    assert len(agreeing([1.0, 2.0, 3.0], 0.05).others) == 2


def test_the_tighter_of_two_overlapping_groups_wins() -> None:
    """Equal counts: the tighter one."""
    group = agreeing([9.60, 10.00, 10.05, 10.50], 0.03)
    assert group.members == (0, 1, 2)
    assert group.spread == pytest.approx(0.45)


def test_an_absolute_width_does_not_scale() -> None:
    """For corrections around zero the half-width is in their own unit."""
    group = agreeing([-5.0, -4.6, -5.2, 14.0, 15.0, -4.9], 2.0, absolute=True)
    assert sorted(group.members) == [0, 1, 2, 5]


def test_more_bad_than_good_can_still_be_outvoted_only_by_agreement() -> None:
    """Four that lean each their own way do not beat three that agree."""
    group = agreeing([10.0, 10.1, 9.95, 7.0, 8.2, 12.0, 14.0], 0.05)
    assert sorted(group.members) == [0, 1, 2]


def test_figures_below_zero_agree_like_those_above() -> None:
    """-60 and -62 lie within 10 of a centre, -100 does not, though it is as far from zero as they are from it."""
    assert sorted(agreeing([-100.0, -60.0, -62.0], 10.0, absolute=True).members) == [1, 2]
    assert sorted(agreeing([100.0, 60.0, 62.0], 10.0, absolute=True).members) == [1, 2]
