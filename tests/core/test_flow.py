"""The flow index against Torricelli's law as printed, and against an integrated rail."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from plumb.core.compare.bursts import Injected
from plumb.core.compare.flow import (
    flow_index,
    flow_of,
    second_for,
    tolerance_in_flow,
    tolerance_in_pressure,
)


@pytest.mark.parametrize(
    ("start", "drop"),
    [(44, 5.798710), (45, 5.866548), (46, 5.933637), (48, 6.065661), (50, 6.194962)],
)
def test_the_same_burst_from_other_starts(start: float, drop: float) -> None:
    """Burst 47 to 41: other drops, one flow index (checked by solve_ivp, two ways)."""
    flow = flow_index(47.0, 41.0)
    assert flow == pytest.approx(0.452530363, abs=1e-9)
    assert start - second_for(start, flow) == pytest.approx(drop, abs=1e-6)


def test_an_integrated_rail_agrees() -> None:
    """dp/dt = -k sqrt(p) integrated numerically gives the index k t / 2 from any start."""
    k, t = 0.9, 1.0
    for start in (40.0, 47.0, 55.0):
        end = solve_ivp(lambda _t, p: -k * p**0.5, (0, t), [start], rtol=1e-10).y[0, -1]
        assert flow_index(start, end) == pytest.approx(k * t / 2, rel=1e-7)


@pytest.mark.parametrize(("seconds", "height"), [(3600, 190.572503), (18000, 81.432576)])
def test_kreyszigs_tank(seconds: float, height: float) -> None:
    """Kreyszig, 10th ed., 1.3 ex. 7 (text from memory): h = (15 - 0.000332 t)^2 cm."""
    assert second_for(225.0, 0.000332 * seconds) == pytest.approx(height, abs=1e-6)
    assert second_for(225.0, 0.000332 * 45_200) == 0.0


def test_zills_tank_empties() -> None:
    """Zill, ex. 3.2 (text from memory): 10 ft, radius 2 ft, hole 1/2 in: empty in 1821.472 s."""
    share = (0.5 / 12) ** 2 / 2.0**2
    rate = share * math.sqrt(2 * 32) / 2
    assert flow_index(10.0, 0.0) / rate == pytest.approx(1821.472, abs=0.001)


@pytest.mark.parametrize(
    ("first", "second", "percent"), [(46, 36, 16.0), (43, 29, 12.0), (50, 26, 7.5), (55, 14, 5.4)]
)
def test_what_a_pressure_tolerance_means_in_flow(
    first: float, second: float, percent: float
) -> None:
    """+-1.5 psi is another thing on each rail; figures of the trade, common practice."""
    assert 100 * tolerance_in_flow(first, second, 1.5) == pytest.approx(percent, abs=0.15)


@given(st.floats(30, 60), st.floats(0.3, 0.8), st.floats(0.01, 0.1))
def test_flow_and_pressure_tolerances_undo_each_other(
    first: float, share: float, fraction: float
) -> None:
    """There and back again, to second order."""
    second = first * share
    there = tolerance_in_pressure(first, second, fraction)
    assert tolerance_in_flow(first, second, there) == pytest.approx(fraction, rel=0.02)


def test_no_drop_has_no_tolerance_in_flow() -> None:
    """A dead injector cannot scale a tolerance."""
    assert tolerance_in_flow(50.0, 50.0, 1.5) == math.inf


def test_the_gauges_part_of_the_uncertainty() -> None:
    """du = u / (2 sqrt(p)) by differentiation (JCGM 100:2008, 5.1.2), checked by a difference."""
    flow = flow_of(50.0, 26.0, 0.5)
    u = 0.5 / math.sqrt(12)
    nudge = 1e-4
    slope = (flow_index(50.0, 26.0 + nudge) - flow_index(50.0, 26.0)) / nudge
    assert flow.u_second == pytest.approx(abs(slope) * u, rel=1e-4)
    assert flow.u_drop == pytest.approx(u * math.sqrt(2))


@pytest.mark.parametrize(("second", "bound"), [(0.0, True), (0.5, True), (1.0, False)])
def test_an_empty_rail_gives_a_bound(second: float, bound: bool) -> None:  # noqa: FBT001
    """Within one step of zero the rail ran empty; nothing divides by zero."""
    flow = flow_of(50.0, second, 0.5)
    assert flow.bound is bound
    assert math.isfinite(math.hypot(flow.u_first, flow.u_second))


def test_a_tolerance_is_the_same_in_any_unit() -> None:
    """As a fraction it has none: 50 to 26 psi within 1.5, and the same in MPa."""
    mpa = 0.00689475729  # of a psi; NIST SP 811, appendix B.8
    scaled = tolerance_in_flow(50 * mpa, 26 * mpa, 1.5 * mpa)
    assert scaled == pytest.approx(tolerance_in_flow(50.0, 26.0, 1.5), rel=1e-9)
    back = tolerance_in_pressure(50 * mpa, 26 * mpa, 0.1)
    assert back == pytest.approx(mpa * tolerance_in_pressure(50.0, 26.0, 0.1), rel=1e-9)


def test_the_mean_of_four_passes_is_known_twice_as_well() -> None:
    """u / sqrt(n) of independent readings (JCGM 100:2008, 4.2.3)."""
    one = flow_of(50.0, 26.0, 0.5)
    four = Injected("1", tuple(flow_of(50.0 + k, 26.0 + k, 0.5) for k in range(4)))
    halves = [math.sqrt(sum(getattr(f, n) ** 2 for f in four.flows)) / 4 for n in _PARTS]
    assert (four.u_drop, four.u_first, four.u_second) == pytest.approx(tuple(halves))
    assert four.u_drop == pytest.approx(one.u_drop / 2)


def test_a_rounding_that_comes_again_is_known_no_better() -> None:
    """From one mark the gauge rounds alike (JCGM 100:2008, F.2.2.1): four readings of it are one; half a step is no other mark."""
    one = flow_of(50.0, 26.0, 0.5)
    for starts, news in (((50.0,) * 4, 1), ((50.0, 50.2, 50.4), 1), ((50.0, 50.5, 50.5), 2)):
        row = Injected("1", tuple(flow_of(s, 26.0, 0.5) for s in starts))
        assert row.situations == news
        assert row.u_drop == pytest.approx(one.u_drop / news**0.5)
    four = Injected("1", (one,) * 4)
    assert (four.u_drop, four.u_first, four.u_second) == pytest.approx(
        (one.u_drop, one.u_first, one.u_second)
    )


_PARTS = ("u_drop", "u_first", "u_second")
