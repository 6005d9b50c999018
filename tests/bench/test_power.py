"""The detection bench: the truth it draws, and what the default rule must reach on it."""

import numpy as np
import pytest

from plumb.bench.power import Measured, detect
from plumb.bench.rail import Rail, Setup, burst, draw_truth
from plumb.core.compare.rules import RULES


def test_the_truth_keeps_its_promises() -> None:
    """Bad: off by 12 % or more from the good ones' mean, fewer than half; good within 6 %."""
    for n in range(300):
        truth = draw_truth(np.random.default_rng(n), Setup(step=0.5, ideal=bool(n % 2)))
        good = [f for k, f in enumerate(truth.flows) if k not in truth.bad]
        mean = sum(good) / len(good)
        assert len(truth.bad) * 2 < len(truth.flows)
        assert all(abs(f - 1) <= 0.06 for f in good)
        assert all(abs(truth.flows[k] / mean - 1) >= 0.12 - 1e-9 for k in truth.bad)


def test_the_gauge_shows_only_its_steps() -> None:
    """Every figure is a multiple of the step."""
    rng = np.random.default_rng(1)
    setup = Setup(step=0.5, ideal=False)
    truth = draw_truth(rng, setup)
    for _ in range(50):
        for figure in burst(rng, truth, 0, setup):
            assert figure % 0.5 == 0


def test_a_bent_rail_still_ends_where_it_should() -> None:
    """Compliance that grows with pressure: a good injector still goes from start to end."""
    assert Rail(start=50, end=26, bend=0.3).second(50, 1.0) == pytest.approx(26)
    assert Rail(start=50, end=26, seep=0.1).second(50, 1.0) == pytest.approx(23.6)


def test_every_rule_sees_the_same_bursts() -> None:
    """The n-th burst of an injector does not depend on who asks."""
    setup = Setup(step=0.5)
    truth = draw_truth(np.random.default_rng(3), setup)
    one, two = (Measured(truth=truth, setup=setup, seed=9) for _ in range(2))
    one.more(1)
    two.more(0)
    two.more(1)
    assert one.flows[1] == two.flows[1]


@pytest.mark.parametrize("ideal", [True, False])
def test_the_flow_index_reaches_its_aim_at_half_a_psi(ideal: bool) -> None:  # noqa: FBT001
    """Caught about 98 % (400 sets: 95 % interval +-1.6 %), alarms <= 0.3 %, repeats a quarter."""
    cells = detect(Setup(step=0.5, ideal=ideal), sets=400, seed=7)
    mine = cells["flow_index"].row()
    assert mine["caught"] >= 0.96
    assert mine["false_alarms"] <= 0.003
    assert mine["repeats"] <= 0.25
    for code in RULES:
        if code not in {"flow_index", "analysis_of_means"}:
            assert cells[code].row()["caught"] < mine["caught"]
