"""Deciding against a window and between neighbours, against published conformity probabilities."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumb.core.compare.window_rule import Item, decide_window, judge, outside_window
from plumb.core.measure.decision import State
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
    assert 1.0 - outside_window(value, u, window) == pytest.approx(conforms, abs=1e-6)


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
    assert outside_window(10.0, 0.0, Window(high=10.0)) == 0.0
    assert outside_window(10.1, 0.0, Window(high=10.0)) == 1.0
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
