"""Hold: root law, Theil and Sen, both kinds of limit, heat soak, collapse, what is foretold."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumb.core.decision import State
from plumb.core.hold import HoldResult, HoldSheet, Limits, analyse_hold
from plumb.core.quantities import KPA_PER

PSI = KPA_PER["psi"]


def hold(series: list[tuple[float, float]], step: float = 0.5, **limits: float) -> HoldResult:
    """A hold in psi."""
    scaled = {
        k: v * PSI if k in {"lost_at_most", "left_at_least"} else v for k, v in limits.items()
    }
    return analyse_hold(
        HoldSheet(
            series=tuple((t, p * PSI) for t, p in series),
            step=step * PSI,
            limits=Limits(**scaled),  # type: ignore[arg-type]
        )
    )


# p = (sqrt 300 - 0.02 t / 2)^2, t every 10 s: the root law, computed from its own formula.
ROOT_LAW = [300.0, 293.111797, 286.303594, 279.57539, 272.927187, 266.358984, 259.870781]


def test_the_leak_constant_of_a_known_decay() -> None:
    """a 300, b 0.02 per s by the root law: k = 0.02 * sqrt(300) * ... recovered from the points."""
    series = tuple((10.0 * n, p) for n, p in enumerate(ROOT_LAW))
    found = analyse_hold(HoldSheet(series=series, step=0.001))
    k = (math.sqrt(300.0) - math.sqrt(ROOT_LAW[-1])) / 60.0
    assert found.leak == pytest.approx(k, rel=1e-6)
    assert found.leak_line is not None
    assert found.leak_line.low <= k <= found.leak_line.high


def test_a_draining_tank_in_print() -> None:
    """Kreyszig, Advanced Engineering Mathematics, 10th ed., 1.3 ex. 7: h = (15 - 0.000332 t)^2.

    190.572503 cm after 3600 s, 81.432576 after 18000 (text from memory).
    """
    level = {t: (15.0 - 0.000332 * t) ** 2 for t in (0, 900, 1800, 2700)}
    sheet = HoldSheet(
        series=tuple(level.items()), step=1e-6, limits=Limits(left_at_least=80.0, after_s=18000.0)
    )
    found = analyse_hold(sheet)
    assert found.leak == pytest.approx(0.000332, rel=1e-6)
    assert found.judged[0].then.value == pytest.approx(81.432576, rel=1e-4)
    early = analyse_hold(
        HoldSheet(series=sheet.series, step=1e-6, limits=Limits(left_at_least=1.0, after_s=3600.0))
    )
    assert early.judged[0].then.value == pytest.approx(190.572503, rel=1e-4)


def test_one_bad_reading_does_not_move_the_slope() -> None:
    """Theil and Sen: y = 2x + 1 but one wild point keeps slope 2 (Sen 1968)."""
    good = [(t, (18.0 - 0.02 * t) ** 2 / PSI) for t in (0.0, 10.0, 20.0, 30.0, 40.0, 50.0, 60.0)]
    wild = [*good[:5], (50.0, good[5][1] * 0.5), good[6]]
    assert hold(wild, step=0.01).leak == pytest.approx(0.02, rel=0.02)


@pytest.mark.parametrize(
    ("after", "state"), [(46.0, "in_plumb"), (44.5, "low"), (45.5, "unsettled")]
)
def test_lost_at_most(after: float, state: str) -> None:
    """5 psi in 1 min at most (common practice); at the limit the gauge cannot tell."""
    found = hold([(0, 50.5), (30, 49), (60, after)], lost_at_most=5, within_s=60)
    assert found.state.value == state


def test_left_at_least_after_twenty_minutes() -> None:
    """14.5 psi left 20 min after 43.5 psi (common practice)."""
    good = [(0.0, 43.5), (60.0, 42.0), (600.0, 33.0), (1200.0, 24.5)]
    assert hold(good, left_at_least=14.5, after_s=1200).passed
    bad = [(0.0, 43.5), (600.0, 22.0), (1200.0, 9.0)]
    assert hold(bad, left_at_least=14.5, after_s=1200).state is State.LOW


def test_it_can_be_called_early_when_the_range_is_on_one_side() -> None:
    """Five minutes of twenty, and the whole range above what is asked for."""
    series = [(0.0, 38.0), (60.0, 37.5), (180.0, 36.5), (300.0, 35.5)]
    found = hold(series, left_at_least=12, after_s=1200)
    assert (found.state, found.early) == (State.IN_PLUMB, True)
    close = hold(series[:2], left_at_least=30, after_s=1200)
    assert (close.state, close.early) == (State.UNSETTLED, False)
    assert close.due_after(60.0) == 300.0


def test_rising_while_hot_is_no_leak() -> None:
    """Heat soak: no leak rate from the rising part, and the limit is kept."""
    found = hold([(0, 50), (60, 51.5), (300, 54)], lost_at_most=5, within_s=300)
    assert found.soaked
    assert found.rising
    assert found.passed
    assert found.leak == 0.0


def test_after_the_soak_the_slope_is_taken_from_the_peak_on() -> None:
    """Up for five minutes, then down."""
    found = hold([(0, 50), (300, 54), (600, 53), (900, 52), (1200, 51)])
    assert (found.soaked, found.rising) == (True, False)
    assert found.leak_line is not None
    assert found.leak_line.start_s == 300
    assert found.leak > 0.0


def test_a_rising_rail_foretells_nothing_good() -> None:
    """While it still rises nobody knows how it will fall."""
    found = hold([(0, 50), (60, 52)], left_at_least=30, after_s=1200)
    assert found.state is State.UNSETTLED


def test_gone_in_three_seconds_is_a_collapse() -> None:
    """Whatever the limit says later."""
    found = hold([(0, 48), (3, 4)], lost_at_most=5, within_s=300)
    assert found.collapsed
    assert found.state is State.LOW


def test_timers_ask_for_what_is_due() -> None:
    """0, 10 s, 60 s, then up to the limit's time; what was read is not asked for again."""
    found = hold([(0, 50), (11, 50)], lost_at_most=5, within_s=300)
    assert found.due_after(11.0) == 60.0
    assert hold([(0, 50), (10, 50), (60, 50), (300, 49)], lost_at_most=5, within_s=300).due_after(
        300.0) is None  # fmt: skip


def test_without_a_limit_nothing_is_judged() -> None:
    """Noted, no more."""
    assert hold([(0, 50), (60, 20)]).state is State.NOT_JUDGED


@given(
    st.lists(st.floats(min_value=5.0, max_value=60.0), min_size=2, max_size=12),
    st.floats(min_value=0.5, max_value=20.0),
)
def test_any_series_gives_a_stated_result(pressures: list[float], lost: float) -> None:
    """Bounds in order, no rate below zero, whatever was typed."""
    series = [(15.0 * n, round(p, 1)) for n, p in enumerate(pressures)]
    found = hold(series, lost_at_most=lost, within_s=600)
    then = found.judged[0].then
    assert then.low <= then.value + 1e-9
    assert then.value <= then.high + 1e-9
    assert found.leak >= 0.0
