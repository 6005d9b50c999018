"""Rail pressure, wanted against actual: states, frequency, bias, and what is too short."""

import numpy as np
import pytest

from plumb.core.measure.decision import State
from plumb.core.procedures import RAIL
from plumb.core.procedures.rail.analysis import RailResult, RailSheet, analyse_rail


def watched(
    *, bias: float = 0.0, swing: float = 0.0, hz: float = 1.0, seconds: float = 30.0,
    noise: float = 100.0, rate: float = 25.0,
) -> RailResult:  # fmt: skip
    """A rail wanted at 300 bar, in kPa."""
    t = np.arange(0.0, seconds, 1.0 / rate)
    rng = np.random.default_rng(6)
    actual = 30_000.0 + bias + swing * np.sin(2 * np.pi * hz * t) + rng.normal(0, noise, len(t))
    return analyse_rail(
        RailSheet(
            series=tuple((float(x), 30_000.0, float(a)) for x, a in zip(t, actual, strict=True))
        )
    )


@pytest.mark.parametrize(
    ("made", "state"),
    [
        ({}, "good"),
        ({"swing": 1500.0}, "good"),
        ({"swing": 4500.0}, "surges"),
        ({"bias": -4500.0}, "low"),
        ({"bias": 4500.0}, "high"),
        ({"bias": -4500.0, "swing": 4500.0}, "surges"),
        ({"swing": 4500.0, "seconds": 2.0}, "too_short"),
    ],
)
def test_states(made: dict[str, float], state: str) -> None:
    """A tenth of what is wanted is the limit (common practice, no source); surging comes first."""
    result = watched(**made)
    assert result.state == state
    assert RAIL.headline(result, "bar")[0].text
    assert result.passed == (state == "good")


@pytest.mark.parametrize("hz", [0.4, 1.3, 2.7, 6.1])
def test_the_strongest_frequency(hz: float) -> None:
    """The one that was put in, to a hundredth; noise has none."""
    found = watched(swing=4000.0, hz=hz).frequency_hz
    assert found == pytest.approx(hz, abs=0.02)
    assert watched(noise=900.0).frequency_hz is None


def test_bias_and_swing() -> None:
    """Median of the difference; the middle 90 % of a sine reach 2 sin(81 degrees) of its height."""
    result = watched(bias=-2000.0, swing=3000.0, noise=0.0)
    assert result.bias == pytest.approx(-2000.0, abs=60.0)
    assert result.swing == pytest.approx(2 * 3000.0 * np.sin(np.pi / 2 * 0.9), rel=0.02)
    shared = {x.label: x.figure for x in RAIL.working(result, "bar").shared}
    assert shared["bias"].startswith("-20")


@pytest.mark.parametrize(
    ("shares", "named"), [((0.36, 0.32, 0.32), 0.5), ((0.27, 0.25, 0.24, 0.24), None)]
)
def test_a_frequency_is_named_by_its_share_of_the_power(
    shares: tuple[float, ...], named: float | None
) -> None:
    """Sines that lie apart, by Parseval's theorem a share of the power each: from three tenths on."""
    t = np.arange(0.0, 60.0, 0.04)
    sines = (np.sqrt(s) * np.sin(2 * np.pi * (0.5 + 2 * n) * t) for n, s in enumerate(shares))
    actual = 30_000.0 + 4_000.0 * sum(sines)
    series = tuple((float(x), 30_000.0, float(a)) for x, a in zip(t, actual, strict=True))
    found = analyse_rail(RailSheet(series=series))
    assert found.duration_s == pytest.approx(59.96)
    assert found.frequency_hz == (None if named is None else pytest.approx(named, abs=0.01))


def test_where_little_is_wanted_it_is_held_against_that() -> None:
    """Only where nothing is wanted there is nothing to hold it against."""
    little, nothing = analyse_rail(
        RailSheet(read=(("idle", 0.2, 0.3), ("cranking", 0.0, 0.3)))
    ).findings[1::-1]
    assert (little.state, nothing.state) == (State.HIGH, State.NOT_JUDGED)


def test_figures_of_a_trace_by_hand() -> None:
    """Wanted 300 bar; 250 for one sample in ten, 310 for the others: median 10 over, 5 to 95 % of it 60 bar."""
    actual = [25_000.0 if k % 10 == 0 else 31_000.0 for k in range(400)]
    found = analyse_rail(
        RailSheet(series=tuple((k / 20, 30_000.0, a) for k, a in enumerate(actual)))
    )
    assert (found.bias, found.swing, found.wanted) == (1_000.0, 6_000.0, 30_000.0)
    assert found.beyond == found.swings_beyond == pytest.approx(0.1)
    assert found.duration_s == pytest.approx(399 / 20)


@pytest.mark.parametrize(
    ("wanted", "actual", "state"),
    [(280.0, 280.0, State.IN_PLUMB), (280.0, 240.0, State.LOW), (280.0, 320.0, State.HIGH), (0.0, 5.0, State.NOT_JUDGED)],
)  # fmt: skip
def test_a_figure_that_was_read_is_held_against_a_tenth(
    wanted: float, actual: float, state: State
) -> None:
    """Of what is wanted, to either side; where nothing is wanted there is nothing to hold it against."""
    sheet = RailSheet(series=(), read=(("idle", 100.0 * wanted, 100.0 * actual),))
    (found,) = analyse_rail(sheet).findings
    assert (found.state, found.value, found.passes) == (state, 100.0 * actual, 1)
    if wanted:
        assert (found.deviation, found.tolerance) == (pytest.approx(actual / wanted - 1.0), 0.1)
