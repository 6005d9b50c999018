"""Humps of starter current: recovered from known waveforms, folded, and given to cylinders."""

import numpy as np
import pytest
import scipy.signal

from plumb.bench.traces import Crank, crank_trace
from plumb.core.measure.decision import State
from plumb.core.measure.problems import PlumbError
from plumb.core.procedures.cranking.analysis import (
    CrankingResult,
    CrankingSheet,
    CrankTrace,
    analyse_cranking,
)
from plumb.core.traces.humps import coupled_away, find_humps


def judged(crank: Crank, *, sync: bool = True) -> CrankingResult:
    """The trace of a simulated engine, found and judged; labels are places in firing order."""
    t, current, mark = crank_trace(crank)
    count = len(crank.heights)
    found = find_humps(t, current, cylinders=count, sync=mark if sync else None)
    labels = tuple(str(n + 1) for n in range(count))
    return analyse_cranking(
        CrankingSheet(
            cylinders=tuple((label, None) for label in labels), step=1.0,
            trace=CrankTrace(cycles=found.cycles, order=labels if found.synced else ()),
        )
    )  # fmt: skip


def low(result: CrankingResult) -> list[str]:
    """Who is called weak."""
    return [f.injector for f in result.findings if f.state is State.LOW]


@pytest.mark.parametrize("noise", [0.0, 0.5])
def test_a_known_waveform_comes_back(noise: float) -> None:
    """Recovery: 2000 Hz, cycle 0.4 s, six humps A cos^2, A = 30 (1, 1, .92, 1, .80, 1), base 120."""
    heights = np.array([1, 1, 0.92, 1, 0.80, 1])
    t = np.arange(int(20 * 0.4 * 2000)) / 2000.0
    phase = (t / 0.4 * 6) % 6
    place = np.floor(phase).astype(int)
    current = 120 + 30 * heights[place] * np.cos(np.pi * (phase - place - 0.5)) ** 2
    current += np.random.default_rng(8).normal(0.0, noise, len(t)) if noise else 0.0
    found = find_humps(t, current, cylinders=6)
    folded = np.median(np.array(found.cycles) / 100.0, axis=0)
    # Without a sync the cycle may begin at any hump: turn it until the lowest stands fifth.
    folded = np.roll(folded, 4 - int(np.argmin(folded)))
    middle = np.median(folded)
    assert folded / middle == pytest.approx(heights, abs=0.012)
    assert found.hz == pytest.approx(15.0, abs=0.1)


@pytest.mark.parametrize("count", [3, 4, 5, 6, 8])
@pytest.mark.parametrize("weak", [0, 2])
def test_one_hump_a_fifth_low_on_a_battery_that_goes_down(count: int, weak: int) -> None:
    """With noise; with a sync the right cylinder and no other."""
    heights = tuple(0.8 if n == weak else 1.0 for n in range(count))
    crank = Crank(heights=heights, slows=0.2, noise_a=2.5, seed=count, seconds=6.0,
                  cycle_s=0.1 * count)  # fmt: skip
    assert low(judged(crank)) == [str(weak + 1)]


@pytest.mark.parametrize("seed", range(4))
def test_an_even_engine_with_one_noisy_cycle_is_not_condemned(seed: int) -> None:
    """One hump halved once by a knock on the clamp."""
    crank = Crank(heights=(1.0,) * 4, noisy=((3, seed % 4),), noise_a=2.0, seed=seed)
    result = judged(crank)
    assert result.passed
    assert any(h.once for h in result.humps)


def test_a_cylinder_without_compression_still_has_its_place() -> None:
    """No hump at all where one should be: found by the gap it leaves."""
    assert low(judged(Crank(heights=(1.0, 0.0, 1.0, 1.0), seed=3))) == ["2"]


@pytest.mark.parametrize("kept", [slice(0, None, 3), slice(2, 3)], ids=["every third", "one"])
def test_marks_of_the_sync_that_are_missing_are_counted_out(kept: slice) -> None:
    """The third hump of four is low; as many cycles are folded as with every mark."""
    t, current, mark = crank_trace(Crank(heights=(1.0, 1.0, 0.78, 1.0)))
    rises = np.flatnonzero(np.diff((mark > 2.5).astype(int)) == 1)
    few = np.zeros_like(mark)
    for k in rises[kept]:
        few[k + 1 : k + 20] = 5.0
    whole, found = (find_humps(t, current, cylinders=4, sync=m) for m in (mark, few))
    assert found.synced
    assert len(found.cycles) == pytest.approx(len(whole.cycles), abs=1)
    assert np.argmin(np.median(np.array(found.cycles), axis=0)) == 2


@pytest.mark.parametrize("share", [0.5, 1.5])
def test_marks_at_anything_but_whole_cycles_name_nobody(share: float) -> None:
    """A mark each turn of the crank, or each three: nobody knows which is the first cylinder's."""
    t, current, mark = crank_trace(Crank(heights=(1.0, 1.0, 0.78, 1.0)))
    rises = t[np.flatnonzero(np.diff((mark > 2.5).astype(int)) == 1)]
    every = share * float(np.median(np.diff(rises)))
    turns = np.where((t - rises[0]) % every < 0.01, 5.0, 0.0)
    assert not find_humps(t, current, cylinders=4, sync=turns).synced


def test_without_a_sync_only_the_place_is_known() -> None:
    """Uneven, but nobody's; an even one clears everybody."""
    result = judged(Crank(heights=(1.0, 1.0, 0.75, 1.0)), sync=False)
    assert result.uneven
    assert low(result) == []
    assert judged(Crank(heights=(1.0,) * 4), sync=False).passed


def test_a_clamp_the_wrong_way_round_is_turned() -> None:
    """Negative current, the same humps."""
    t, current, mark = crank_trace(Crank(heights=(1.0, 0.78, 1.0, 1.0)))
    found = find_humps(t, -current, cylinders=4, sync=mark)
    assert found.turned
    assert int(np.argmin(np.median(np.array(found.cycles), axis=0))) == 1


@pytest.mark.parametrize(
    "current",
    [
        pytest.param(np.zeros_like, id="nothing"),
        pytest.param(lambda t: 120.0 + 0 * t, id="flat"),
        pytest.param(lambda t: np.where(t < 0.05, 150.0, 0.0), id="a flick of the key"),
    ],
)
def test_no_cranking_is_told(current) -> None:  # type: ignore[no-untyped-def]  # noqa: ANN001
    """No humps are made up where there are none."""
    t = np.arange(0.0, 3.0, 0.001)
    with pytest.raises(PlumbError):
        find_humps(t, current(t), cylinders=4)


def test_a_trace_of_a_few_samples_is_told() -> None:
    """Thirty samples of good humps show nothing."""
    t, current, mark = crank_trace(Crank(heights=(1.0,) * 4))
    with pytest.raises(PlumbError, match="too short"):
        find_humps(t[3000:3030], current[3000:3030], cylinders=4, sync=mark[3000:3030])


def test_time_that_goes_backwards_is_told_by_its_sample() -> None:
    """Not sorted away."""
    t, current, _ = crank_trace(Crank(heights=(1.0,) * 4))
    t[500] = 0.0
    with pytest.raises(PlumbError) as caught:
        find_humps(t, current, cylinders=4)
    assert "sample 501" in caught.value.problems[0].path


@pytest.mark.parametrize(
    ("rate", "worked_on"),
    [(1000.0, 1000.0), (1900.0, 1900.0), (2100.0, 1050.0), (5000.0, 1000.0), (50_000.0, 1000.0)],
)
def test_a_fast_trace_is_worked_on_at_about_a_kilohertz(rate: float, worked_on: float) -> None:
    """By whole steps, at most ten at once; what is slower than two kilohertz stays as it is."""
    t, current = evenly_cranked(24, rate=rate)
    found = find_humps(t, current, cylinders=4)
    assert found.grid.rate == pytest.approx(worked_on)
    assert found.hz == pytest.approx(10.0, abs=0.1)


def evenly_cranked(
    humps: int, *, rate: float = 1000.0, hz: float = 10.0, before_s: float = 0.0
) -> tuple[np.ndarray, np.ndarray]:
    """So many humps A cos^2, A = 30 A on 120 A, after a time without current."""
    t = np.arange(round((before_s + humps / hz) * rate)) / rate
    phase = (t - before_s) * hz
    current = 120.0 + 30.0 * np.cos(np.pi * (phase - np.floor(phase) - 0.5)) ** 2
    return t, np.where(t < before_s, 0.0, current)


@pytest.mark.parametrize(("humps", "cycles"), [(10, 2), (14, 3)])
def test_two_whole_cycles_are_enough(humps: int, cycles: int) -> None:
    """Of four cylinders eight humps; the trace may cut one at either end."""
    assert len(find_humps(*evenly_cranked(humps), cylinders=4).cycles) == cycles


def test_less_than_two_whole_cycles_are_told() -> None:
    """Seven humps of four cylinders."""
    with pytest.raises(PlumbError, match="no humps of compression stand out"):
        find_humps(*evenly_cranked(7), cylinders=4)


@pytest.mark.parametrize(("count", "told"), [(63, "too short"), (64, "turn for long enough|humps")])
def test_sixty_four_samples_are_looked_at(count: int, told: str) -> None:
    """One fewer shows no humps whatever it is."""
    t, current = evenly_cranked(24)
    with pytest.raises(PlumbError, match=told):
        find_humps(t[:count], current[:count], cylinders=4)


def test_the_inrush_of_a_starter_is_left_out() -> None:
    """A quarter of a second after it begins to turn; from then on every hump stands where it was made."""
    t, current = evenly_cranked(30, before_s=1.0)
    at = np.array(find_humps(t, current, cylinders=3).at).ravel()
    made = 1.0 + (np.arange(30) + 0.5) / 10.0
    assert at[0] >= 1.25
    assert abs(at[:, None] - made[None, :]).min(axis=1).max() < 0.004


def test_of_two_stretches_of_cranking_the_longer_one_is_read() -> None:
    """One of a second and one of three, two seconds apart."""
    t1, first = evenly_cranked(10, before_s=1.0)
    t2, second = evenly_cranked(30, before_s=2.0)
    t = np.concatenate([t1, t1[-1] + 0.001 + t2])
    at = np.array(find_humps(t, np.concatenate([first, second]), cylinders=3).at)
    assert at.min() > 4.0
    assert at.max() > 6.5


def test_current_that_swings_by_less_than_a_hundredth_is_flat() -> None:
    """0.4 A and 3 A of humps on 120 A."""
    t, current = evenly_cranked(24)
    with pytest.raises(PlumbError, match="the current is flat"):
        find_humps(t, 120.0 + (current - 120.0) * 0.4 / 30.0, cylinders=4)
    found = find_humps(t, 120.0 + (current - 120.0) * 3.0 / 30.0, cylinders=4)
    assert found.hz == pytest.approx(10.0, abs=0.1)


def coupled(t: np.ndarray, current: np.ndarray, hz: float) -> np.ndarray:
    """The same through a coupling that takes the mean away (first order, by scipy)."""
    rate = 1.0 / float(t[1] - t[0])
    passed: np.ndarray = scipy.signal.lfilter(
        *scipy.signal.butter(1, hz, "highpass", fs=rate), current
    )
    return passed


@pytest.mark.parametrize("hz", [0.1, 0.5, 1.0])
@pytest.mark.parametrize("turned", [False, True])
def test_a_clamp_without_its_mean_is_read(hz: float, turned: bool) -> None:  # noqa: FBT001
    """AC-coupled, either way round: the weak cylinder is the same as with the mean."""
    crank = Crank(heights=(1.0, 1.0, 0.75, 1.0), seconds=6.0, noise_a=1.0)
    t, current, sync = crank_trace(crank)
    ac = coupled(t, current, hz) * (-1.0 if turned else 1.0)
    found = find_humps(t, ac, cylinders=4, sync=sync)
    assert found.synced
    assert found.turned is turned
    folded = np.median(np.array(found.cycles), axis=0)
    assert folded / np.median(folded) == pytest.approx([1.0, 1.0, 0.75, 1.0], abs=0.03)


def test_what_has_no_mean_is_told_from_what_has_one() -> None:
    """Humps on 120 A, a trace that is mostly before the cranking, and one that swings round nought."""
    t, current = evenly_cranked(24, before_s=1.0)
    assert not coupled_away(current)
    assert not coupled_away(-current)
    assert coupled_away(coupled(t, current, 0.5))
    noise = np.random.default_rng(3).normal(0.0, 1.0, 3000)
    assert not coupled_away(np.concatenate([noise, current]))
