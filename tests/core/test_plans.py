"""Passes planned over the set: who is read again, how often, and when no longer."""

from dataclasses import replace

import pytest

from plumb.core.compare.drops.asks import next_step
from plumb.core.compare.drops.sheet import analyse_drop
from plumb.core.compare.flow_rule import settles
from plumb.core.compare.rules import RuleChoice
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.quantities import KPA_PER
from tests.core.sets import drop_sheet

PSI = KPA_PER["psi"]
Pair = tuple[float, float]


def asked(passes: list[list[Pair]], step: float = 0.5) -> tuple[tuple[str, ...], int, str]:
    """Who is asked for how often, and why."""
    made = next_step(analyse_drop(drop_sheet(passes, step)), minutes=1.5)
    return (made.injectors, made.passes, made.reason) if made else ((), 0, "")


STARTS = (50.0, 51.0, 49.0, 52.0, 48.0, 53.0, 47.0, 54.0)


def flowing(
    shares: list[float], passes: list[int], starts: tuple[float, ...] = STARTS
) -> list[list[Pair]]:
    """Each gives that share of what takes 50 psi to 26, from one start after the other."""
    whole = 50.0**0.5 - 26.0**0.5
    return [
        [(s, (s**0.5 - share * whole) ** 2) for s in starts[:count]]
        for share, count in zip(shares, passes, strict=True)
    ]


def test_the_doubtful_one_alone_where_that_is_enough() -> None:
    """Five that agree know the reference well: what settles it is the doubtful one, once its scatter is known."""
    near = [1.0] * 5 + [0.87]
    assert asked(flowing(near, [2] * 5 + [1])) == (("6",), 1, "unsettled")
    assert asked(flowing(near, [2] * 5 + [1]), 1.0) == (("6",), 3, "unsettled")
    assert asked(flowing(near, [1] * 5 + [4])) == ((), 0, "")


def test_the_reference_is_read_again_where_it_is_what_is_not_known() -> None:
    """One injector read four times on a 1 psi gauge, five that agree once each: a round of all settles it, no more of it alone."""
    passes = flowing([1.0] * 5 + [0.885], [1] * 5 + [4])
    found = analyse_drop(drop_sheet(passes, 1.0))
    assert not any(settles(found.flow, "6", own, 0, Thresholds()) for own in range(4))
    assert settles(found.flow, "6", 3, 3, Thresholds(), other_starts=True)
    assert asked(passes, 1.0) == (tuple("123456"), 1, "reference")


def test_from_one_mark_a_further_pass_tells_nothing_new() -> None:
    """A 2 psi dial, all from 50: more of the same does not settle it, one from a step higher is asked for."""
    once = flowing([1.0] * 5 + [0.83], [1] * 6)
    found = analyse_drop(drop_sheet(once, 2.0))
    assert not any(settles(found.flow, "6", own, 0, Thresholds()) for own in range(1, 6))
    assert settles(found.flow, "6", 5, 0, Thresholds(), other_starts=True)
    assert asked(once, 2.0) == (("6",), 1, "another_start")
    # Read again from the mark it is asked for as before; from elsewhere what it reads counts.
    same = [row * 3 for row in once]
    assert asked(same, 2.0) == (("6",), 1, "another_start")
    assert asked(once[:-1] + flowing([0.83], [4]), 2.0) == ((), 0, "")


def test_a_workshop_rule_asks_for_whom_it_repeats_however_the_set_is_spread() -> None:
    """Ends left out, over 1.5 psi: repeat.  That the flow index would find the set spread evenly is no matter there."""
    pairs = flowing([1.0 - 0.03 * k for k in range(6)], [3] * 6)
    sheet = replace(drop_sheet(pairs, 0.5), rule=RuleChoice(name="ends_left_out"))
    found = analyse_drop(sheet)
    assert found.flow.graded == ("1", "6")
    step = next_step(found, 1.5)
    assert step is not None
    assert (step.injectors, step.reason) == (("1", "6"), "unsettled")


def test_a_source_falls_with_the_root_of_its_passes() -> None:
    """Reading everybody four times halves u(d), and tells how bursts scatter: then one and a half u outside are three."""
    found = analyse_drop(drop_sheet(flowing([1.0] * 5 + [0.87], [1] * 6), 1.0))
    view = next(v for v in found.flow.views if v.injector == "6")
    assert view.held is not None
    away = (abs(view.deviation) - found.tolerance) / view.held.u()
    assert 1.0 < away < 1.96
    assert view.held.u(3, 3, other_starts=True) == pytest.approx(view.held.u() / 2.0)
    assert view.held.u(3, 3) > view.held.u() / 2.0
    assert not settles(found.flow, "6", 0, 0, Thresholds())
    assert settles(found.flow, "6", 3, 3, Thresholds(), other_starts=True)


def test_a_split_that_may_close_is_read_again_and_one_that_cannot_is_not() -> None:
    """Three that lie a little apart; and halves a quarter apart, which no mean brings together."""
    touching = [[(50.0, 26.0)], [(50.0, 28.2)], [(50.0, 34.0)]]
    who, times, reason = asked(touching)
    assert (who, times, reason) == (("1", "2", "3"), 1, "split_again")
    assert asked([[(40.0, 32.0)], [(40.0, 28.0)], [(40.0, 28.0)], [(40.0, 32.0)]]) == ((), 0, "")
    thrice = [row * 3 for row in touching]
    assert asked(thrice)[2] != "split_again"


@pytest.mark.parametrize("times", [8, 9])
def test_nobody_is_read_for_ever(times: int) -> None:
    """Eight passes each, and it is left to a finer gauge or a longer burst."""
    near = [[(50.0, 26.0), (50.0, 26.5)] * (times // 2)] * 3 + [
        [(50.0, 28.0), (50.0, 28.5)] * (times // 2)
    ]
    found = analyse_drop(drop_sheet(near, 2.0))
    assert next_step(found, minutes=1.5) is None or times < 8


def test_one_that_woke_up_is_read_once_more() -> None:
    """Silent, then it answered: a single answer does not tell whether it stays awake."""
    from plumb.core.measure.readings import Mark, Noted  # noqa: PLC0415

    silent = Noted(injector="2", number=1, first=50 * PSI, mark=Mark.NONE)
    awake = Noted(injector="2", number=2, first=50 * PSI, second=26 * PSI)
    others = tuple(Noted(injector=x, number=1, first=50 * PSI, second=26 * PSI) for x in "134")
    base = drop_sheet([[(50.0, 26.0)]] * 4)
    made = next_step(analyse_drop(replace(base, readings=(*others, silent, awake))), minutes=1.5)
    assert made is not None
    assert (made.injectors, made.reason) == (("2",), "woken")


@pytest.mark.parametrize(("times", "left"), [(5, 3), (6, 2), (7, 1)])
def test_no_more_is_asked_than_eight_in_all(times: int, left: int) -> None:
    """A gauge would want more passes of the doubtful one than there may be: what is left of eight."""
    near = flowing([1.0] * 5 + [0.872], [3] * 5 + [times])
    assert asked(near, 2.0) == (("6",), left, "unsettled")
