"""What it takes to be sure, redone by hand."""

import math

import pytest

from plumb.core.compare.planning import (
    MOST_PASSES,
    Aim,
    RailPlan,
    certainty_of,
    deviation_u,
    plans,
)
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.quantities import KPA_PER

PSI = KPA_PER["psi"]


def rail(step: float = 0.5, second: float = 26.0, **more: object) -> RailPlan:
    """50 psi, six injectors."""
    return RailPlan(first=50.0 * PSI, second=second * PSI, step=step * PSI, size=6, **more)  # type: ignore[arg-type]


def test_the_uncertainty_of_a_deviation_by_hand() -> None:
    """Steps of 0.5 psi: u = 0.5/√12 = 0.1443 (JCGM 100:2008, F.2.2.1), in √psi 0.01021 and 0.01415.

    Of √50 − √26 = 1.9720 that is 0.885 %; with 1 % of the burst 1.335 %; against five others
    1.335 · √(1 + 1/5) = 1.463 %.  Four passes halve it.
    """
    u = deviation_u(50 * PSI, 26 * PSI, 0.5 * PSI, passes=1, size=6)
    assert u == pytest.approx(0.01463, abs=0.00001)
    four = deviation_u(50 * PSI, 26 * PSI, 0.5 * PSI, passes=4, size=6)
    assert four == pytest.approx(u / 2.0)
    assert deviation_u(50 * PSI, 26 * PSI, 0.5 * PSI, passes=1, size=2) == pytest.approx(
        0.01335 * math.sqrt(2.0), abs=0.00002
    )


def test_the_certainty_is_that_of_the_normal_distribution() -> None:
    """Eight passes: (15 − 10)/1.463 − 1.645 = 1.773, and Φ(1.773) = 0.9619 (any table of the normal distribution).

    After two 1.645 · √(8/2) = 3.29 would be asked for (O'Brien and Fleming 1979), and 3 is: Φ(0.418) = 0.6620.
    """
    aim = Aim(off=0.15, certainty=0.95)
    assert certainty_of(0.01463, aim, 8) == pytest.approx(0.9619, abs=0.0002)
    assert certainty_of(0.01463, aim, 2) == pytest.approx(0.6620, abs=0.0005)
    strict = Aim(off=0.15, certainty=0.95, thresholds=Thresholds(call=0.99))
    # z = 2.326: Φ(3.418 − 2.326) = Φ(1.092) = 0.8626.
    assert certainty_of(0.01463, strict, 8) == pytest.approx(0.8626, abs=0.0005)


def test_what_does_already_needs_nothing_more() -> None:
    """One pass with the gauge and burst as they are: the one plan, six bursts."""
    (plan,) = plans(rail(), Aim(off=0.17, certainty=0.95))
    assert (plan.longer, plan.passes, plan.bursts) == (1.0, 1, 6)
    assert plan.step == pytest.approx(0.5 * PSI)


def test_a_coarse_dial_wants_a_longer_burst_more_passes_or_a_finer_gauge() -> None:
    """2 psi ticks: every way that is offered reaches the aim, none is beaten by a plainer one."""
    aim = Aim(off=0.16, certainty=0.95)
    found = plans(rail(step=2.0, steps=(0.5 * PSI, 0.1 * PSI)), aim)
    assert len(found) > 1
    assert [p.bursts for p in found] == sorted(p.bursts for p in found)
    for p in found:
        u = deviation_u(50 * PSI, p.second, p.step, passes=p.passes, size=6)
        assert u == pytest.approx(p.u)
        assert certainty_of(u, aim, p.passes) >= 0.95
        if p.passes > 1:
            fewer = deviation_u(50 * PSI, p.second, p.step, passes=p.passes - 1, size=6)
            assert certainty_of(fewer, aim, p.passes - 1) < 0.95, "a pass fewer would do"
        for other in found:
            plainer = other.step >= p.step and other.longer <= p.longer and other.passes <= p.passes
            assert other is p or not plainer


def test_a_longer_burst_leaves_a_tenth_of_the_pressure() -> None:
    """√p₂ falls in a straight line: twice 1.972 from √50 = 7.071 leaves 3.127² = 9.78 psi, a fifth."""
    found = plans(rail(step=2.0), Aim(off=0.13, certainty=0.9))
    ends = {p.longer: p.second / PSI for p in found}
    assert all(end > 5.0 for end in ends.values())
    if 2.0 in ends:
        assert ends[2.0] == pytest.approx(9.78, abs=0.01)
    # Half of the pressure in one burst: twice as long would empty it.
    deep = plans(rail(step=2.0, second=14.0), Aim(off=0.13, certainty=0.9))
    assert all(p.longer < 2.0 for p in deep)


def test_longer_bursts_by_hand() -> None:
    """√50 − √36 = 1.0711; 1.25, 1.5 and 2 times so much off √50 = 7.0711 leave 32.86, 29.86, 24.29 psi."""
    found = plans(rail(step=2.0, second=36.0), Aim(off=0.2, certainty=0.95))
    ends = {p.longer: p.second / PSI for p in found}
    by_hand = {1.25: 32.86, 1.5: 29.86, 2.0: 24.29}
    assert ends.keys() == by_hand.keys()
    for longer, end in ends.items():
        assert end == pytest.approx(by_hand[longer], abs=0.01)
    # The longer the burst, the fewer passes; as it is six would be too many.
    assert [p.passes for p in sorted(found, key=lambda p: p.longer)] == [5, 4, 3]


def test_what_nothing_reaches_has_no_plan() -> None:
    """An injector just beyond the tolerance cannot be called out with a coarse gauge."""
    assert plans(rail(step=2.0), Aim(off=0.105, certainty=0.99)) == []


def test_no_plan_has_more_passes_than_anybody_would_make() -> None:
    """An aim that so many passes just reach is offered; one that takes a pass more is not."""
    assert MOST_PASSES == 5, "common practice, no source"
    for passes, offered in ((MOST_PASSES, True), (MOST_PASSES + 1, False)):
        u = deviation_u(50 * PSI, 26 * PSI, 2.0 * PSI, passes=passes, size=6)
        worse = deviation_u(50 * PSI, 26 * PSI, 2.0 * PSI, passes=passes - 1, size=6)
        off = next(
            o / 10_000.0
            for o in range(1_000, 4_000)
            if certainty_of(u, Aim(off=o / 10_000.0, certainty=0.95), passes) >= 0.95
        )
        aim = Aim(off=off, certainty=0.95)
        assert certainty_of(worse, aim, passes - 1) < 0.95
        plain = [p for p in plans(rail(step=2.0), aim) if p.longer == 1.0]
        assert [p.passes for p in plain] == ([passes] if offered else [])


def test_the_burst_as_it_is_may_leave_little() -> None:
    """5 psi left, under three ticks of 2 psi: the sheet's own burst is planned with, a longer one is not."""
    found = plans(rail(step=2.0, second=5.0), Aim(off=0.2, certainty=0.9))
    assert {p.longer for p in found} == {1.0}
