"""Deciding against a window and between neighbours, against published conformity probabilities."""

import math
from statistics import NormalDist

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumb.core.compare.window_rule import (
    Item,
    decide_window,
    judge,
    outside_window,
    probability_above,
)
from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.readings import Window


@pytest.mark.parametrize(
    ("value", "u", "window", "conforms"),
    [
        # JCGM 106:2012, Zener diode example (input from memory): at most -5.40 V.
        (-5.47, 0.05, Window(high=-5.40), 0.919243),
        # JCGM 106:2012, burst pressure example (input from memory): at least 490 kPa.
        (509.7, 8.6, Window(low=490.0), 0.989010),
        # Both limits, computed from the normal distribution: [-6, 6], 4, u 1.
        (4.0, 1.0, Window(low=-6.0, high=6.0), 0.977250),
    ],
)
def test_conformity_probabilities_in_print(
    value: float, u: float, window: Window, conforms: float
) -> None:
    """JCGM 106:2012."""
    assert 1.0 - outside_window(value, u, window).out == pytest.approx(conforms, abs=1e-6)


def test_a_guard_band_of_one_sided_95_percent() -> None:
    """ISO 14253-1 (default from memory): 1.644854 u inside the limit is just in plumb."""
    window = Window(high=10.0)
    assert decide_window(10.0 - 1.6449, 1.0, window) is State.IN_PLUMB
    assert decide_window(10.0 - 1.6448, 1.0, window) is State.UNSETTLED
    assert decide_window(10.0 + 1.6449, 1.0, window) is State.HIGH


@pytest.mark.parametrize(
    ("window", "state"),
    [(Window(), "not_judged"), (Window(low=5.0), "low"), (Window(high=9.0), "in_plumb")],
)
def test_one_sided_windows(window: Window, state: str) -> None:
    """A limit may stand alone; without any nothing is judged."""
    assert decide_window(4.0, 0.1, window).value == state


def test_what_is_common_cancels_between_neighbours() -> None:
    """A common error of 1 does not blur a difference of 0.5 with 0.2 allowed."""
    items = [
        Item(label=str(n), value=v, u=0.02, u_common=1.0) for n, v in enumerate((5.0, 5.0, 5.5))
    ]
    found = judge(items, Window(spread=0.2))
    assert [v.state for v in found.views] == [State.IN_PLUMB, State.IN_PLUMB, State.HIGH]


def test_who_is_part_of_the_mean_counts_less() -> None:
    """JCGM 100:2008, 5.1.2, by hand: a difference to a mean of three, inside it and outside it."""
    items = [Item(label=str(n), value=v, u=0.3) for n, v in enumerate((10.0, 10.1, 9.9, 14.0))]
    inside, *_, outside = judge(items, Window(spread=1.0)).views
    assert inside.u_deviation == pytest.approx(0.3 * math.sqrt(1.0 - 2.0 / 3.0 + 1.0 / 3.0))
    assert outside.u_deviation == pytest.approx(0.3 * math.sqrt(1.0 + 1.0 / 3.0))


@pytest.mark.parametrize(("low", "high"), [(11.0, None), (None, 13.0)])
def test_one_limit_and_a_set_that_agrees(low: float | None, high: float | None) -> None:
    """A window with one limit judges that side only; JCGM 106:2012, 8.3.2 with the normal of 10.9."""
    items = [Item(label=str(n), value=v, u=0.05) for n, v in enumerate((12.0, 12.1, 10.9, 13.2))]
    states = [v.state for v in judge(items, Window(low=low, high=high)).views]
    assert states[:2] == [State.IN_PLUMB, State.IN_PLUMB]
    assert states[2] is (State.LOW if low else State.IN_PLUMB)
    assert states[3] is (State.HIGH if high else State.IN_PLUMB)


def test_one_alone_has_a_window_but_no_neighbours() -> None:
    """It is judged by its limits, and lies off nobody."""
    (only,) = judge([Item(label="1", value=12.0, u=0.1)], Window(low=11.0, spread=0.5)).views
    assert (only.state, only.deviation) == (State.IN_PLUMB, None)


def test_an_exact_meter_decides_at_the_limit() -> None:
    """No uncertainty at all: the limit itself still belongs to the window."""
    assert outside_window(10.0, 0.0, Window(high=10.0)).out == 0.0
    assert outside_window(10.1, 0.0, Window(high=10.0)) == (0.0, 1.0)
    exact = [Item(label=str(n), value=v, u=0.0) for n, v in enumerate((1.0, 1.25, 1.5))]
    assert judge(exact, Window(spread=0.5)).spread_out == 0.0
    assert judge(exact, Window(spread=0.25)).spread_out == 1.0


@given(
    st.lists(st.floats(min_value=1.0, max_value=20.0), min_size=2, max_size=8),
    st.floats(min_value=0.001, max_value=0.5),
)
def test_the_order_of_a_set_changes_nothing(values: list[float], u: float) -> None:
    """Each figure reads as the same, whoever was measured first."""
    items = [Item(label=str(n), value=v, u=u) for n, v in enumerate(values)]
    one = {v.item.label: v.state for v in judge(items, Window(low=5.0, high=15.0)).views}
    two = {v.item.label: v.state for v in judge(items[::-1], Window(low=5.0, high=15.0)).views}
    assert one == two


def test_every_figure_of_a_set_by_hand() -> None:
    """Three that agree and one 0.92 away: own and common u against the window, own alone among neighbours (JCGM 100:2008, 5.1.2)."""
    items = [
        Item(label=str(n), value=v, u=0.03, u_common=0.1)
        for n, v in enumerate((12.0, 12.2, 12.1, 13.02), 1)
    ]
    found = judge(items, Window(low=11.0, high=13.0, spread=1.0))
    assert found.agreeing == ("1", "2", "3")
    assert found.reference == pytest.approx(12.1)
    assert (found.tolerance, found.spread) == (1.0, pytest.approx(1.02))
    u_ref = 0.03 / math.sqrt(3.0)
    assert found.u_reference == pytest.approx(u_ref)
    # Both ends of the spread carry their own.
    assert found.spread_out == pytest.approx(NormalDist(sigma=0.03 * math.sqrt(2.0)).cdf(0.02))
    first, *_, last = found.views
    # A member's own share of the mean cancels: u^2 (1 - 2/3) + u_ref^2.
    assert first.u_deviation == pytest.approx(math.sqrt(0.03**2 / 3.0 + u_ref**2))
    assert last.u_deviation == pytest.approx(math.hypot(0.03, u_ref))
    assert last.deviation == pytest.approx(0.92)
    over = NormalDist(sigma=math.hypot(0.03, 0.1)).cdf(0.02)
    assert last.probability_out == pytest.approx(over)
    assert (last.state, last.by_window) == (State.UNSETTLED, True)


@pytest.mark.parametrize(
    ("out", "state"), [(0.05, State.IN_PLUMB), (0.0501, State.UNSETTLED), (0.9499, State.UNSETTLED), (0.95, State.LOW)]
)  # fmt: skip
def test_at_a_threshold_the_window_decides(out: float, state: State) -> None:
    """Called from 95 % on, cleared up to 5 %, both belong to the decision."""
    value = NormalDist(mu=11.0, sigma=0.1).inv_cdf(1.0 - out)
    sure = Thresholds(call=0.95 - 1e-12, clear=0.05 + 1e-12)
    assert decide_window(value, 0.1, Window(low=11.0), sure) is state


def test_without_any_spread_the_limit_alone_decides() -> None:
    """u of nought is no division by nought: at the limit it is not above it."""
    assert [probability_above(v, 0.0, 3.0) for v in (2.9, 3.0, 3.1)] == [0.0, 0.0, 1.0]
    window = Window(low=11.0, high=14.0)
    assert [outside_window(v, 0.0, window).out for v in (10.9, 11.0, 14.0, 14.1)] == [
        1.0,
        0.0,
        0.0,
        1.0,
    ]


def test_the_farthest_of_a_set_that_spreads_too_far_is_called() -> None:
    """All inside the window, 3.4 from end to end where 3 are allowed: the one farthest from those that agree."""
    items = [Item(label=str(n), value=v, u=0.01) for n, v in enumerate((11.0, 11.1, 11.2, 14.4), 1)]
    found = judge(items, Window(low=10.0, high=15.0, spread=3.0))
    assert found.spread_out == pytest.approx(1.0)
    assert [v.state for v in found.views] == [State.IN_PLUMB] * 3 + [State.HIGH]
