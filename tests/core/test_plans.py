"""Passes planned over the set: who is read again, how often, and when no longer."""

import pytest

from plumb.core.compare.drops.asks import next_step
from plumb.core.compare.drops.sheet import analyse_drop
from plumb.core.compare.flow_rule import settles
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.quantities import KPA_PER
from tests.core.sets import drop_sheet

PSI = KPA_PER["psi"]
Pair = tuple[float, float]


def asked(passes: list[list[Pair]], step: float = 0.5) -> tuple[tuple[str, ...], int, str]:
    """Who is asked for how often, and why."""
    made = next_step(analyse_drop(drop_sheet(passes, step)), minutes=1.5)
    return (made.injectors, made.passes, made.reason) if made else ((), 0, "")


def test_the_doubtful_one_alone_where_that_is_enough() -> None:
    """Five that agree know the reference well: a pass or two of the doubtful one settle it."""
    near = [[(50.0, 26.0)]] * 5 + [[(50.0, 28.5)]]
    who, times, reason = asked(near)
    assert (who, reason) == (("6",), "unsettled")
    assert times == 1


def test_the_reference_is_read_again_where_it_is_what_is_not_known() -> None:
    """One injector read four times, three that agree once each: one round of those settles it."""
    passes = [[(50.0, 26.0)], [(50.0, 26.5)], [(50.0, 25.5)], [(50.0, 28.5)] * 4]
    found = analyse_drop(drop_sheet(passes, 1.0))
    counts = {f.injector: f.passes for f in found.findings}
    assert not any(settles(found.flow, counts, "4", own, 0, Thresholds()) for own in range(4))
    assert settles(found.flow, counts, "4", 0, 1, Thresholds())
    assert asked(passes, 1.0) == (("1", "2", "3"), 1, "reference")


def test_a_source_falls_with_the_root_of_its_passes() -> None:
    """Reading everybody four times halves u(d): about one u outside becomes two, which is called."""
    found = analyse_drop(drop_sheet([[(50.0, 26.0)]] * 5 + [[(50.0, 28.5)]], 1.0))
    view = next(v for v in found.flow.views if v.injector == "6")
    counts = {f.injector: 1 for f in found.findings}
    away = (abs(view.deviation) - found.tolerance) / view.u
    # One side of a normal distribution beyond 1.645 is five in a hundred.
    assert 0.5 * 1.645 < away < 1.645
    assert not settles(found.flow, counts, "6", 0, 0, Thresholds())
    assert settles(found.flow, counts, "6", 3, 3, Thresholds())


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
    from dataclasses import replace  # noqa: PLC0415

    made = next_step(analyse_drop(replace(base, readings=(*others, silent, awake))), minutes=1.5)
    assert made is not None
    assert (made.injectors, made.reason) == (("2",), "woken")


@pytest.mark.parametrize(("times", "left"), [(5, 3), (6, 2), (7, 1)])
def test_no_more_is_asked_than_eight_in_all(times: int, left: int) -> None:
    """A coarse gauge would want more passes of the doubtful one than there may be: what is left of eight."""
    near = [[(50.0, 26.0)] * 3] * 5 + [[(50.0, 28.6)] * times]
    assert asked(near, 2.0) == (("6",), left, "unsettled")
