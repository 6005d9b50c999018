"""Where a watch draws its lines: just inside and just outside of each; what lies there is common practice, no source."""

import math
from collections.abc import Iterable

import numpy as np
import pytest

from plumb.core.capture.bursts import BurstWatch
from plumb.core.capture.holding import HoldWatch
from plumb.core.capture.rest import RestWatch
from plumb.core.capture.spells import SpellWatch
from plumb.core.capture.strokes import StrokeWatch
from plumb.core.capture.watch import (
    BurstSeen,
    Moment,
    Moved,
    Opened,
    Rested,
    Spell,
    Watch,
    noise_of,
)
from tests.core.test_capture import (
    AFTER,
    BURST,
    PUMP,
    REST,
    bursts,
    flat,
    line,
    states,
    stream,
    watched,
)

Samples = Iterable[tuple[float, float]]


def moments(watch: Watch, samples: Samples, state: str) -> list[float]:
    """When a watch saw that."""
    return [
        t
        for t, value in samples
        for event in watch.feed(t, value)
        if isinstance(event, Moved) and event.state == state
    ]


def flickering(swing: float, period_s: float, seconds: float) -> list[tuple[float, float]]:
    """Figures about 300 that flicker by 1 up and down, and swing slowly by so much in all."""
    return [
        (n / 25.0, 300.0 + (-1) ** n + 0.5 * swing * math.sin(2.0 * math.pi * n / 25.0 / period_s))
        for n in range(round(25.0 * seconds))
    ]


def read_at(samples: Samples) -> list[float]:
    """When each burst was read."""
    watch = BurstWatch(0.7)
    return [t for t, v in samples for e in watch.feed(t, v) if isinstance(e, BurstSeen)]


@pytest.mark.parametrize(("gap", "seen"), [(0.56, 1), (0.68, 0)])
def test_figures_that_stop_while_it_falls(gap: float, seen: int) -> None:
    """Six tenths of a second."""
    made = [s for s in stream(PUMP, REST, BURST, AFTER) if not 4.2 < s[0] < 4.16 + gap]
    assert (bursts(watched(BurstWatch(0.7), made)) == [(300, 180)]) == seen


@pytest.mark.parametrize(("gap", "told"), [(1.9, 0), (2.2, 1)])
def test_figures_that_stop_while_it_rests(gap: float, told: int) -> None:
    """Two seconds."""
    made = [
        s for s in stream(PUMP, (6.0, flat(300.0)), BURST, AFTER) if not 3.0 < s[0] < 2.96 + gap
    ]
    assert ("gap" in states(watched(BurstWatch(0.7), made))) == told


def test_a_rest_is_waited_for_a_second() -> None:
    """And a fall has ended four tenths after the last of it."""
    made = stream(PUMP, REST, BURST, AFTER)
    assert moments(BurstWatch(0.7), made, "steady")[0] == pytest.approx(2.0, abs=0.09)
    assert moments(BurstWatch(0.7), made, "settling") == [pytest.approx(4.8 + 0.4, abs=0.13)]


@pytest.mark.parametrize(("pause", "falls"), [(0.3, 1), (0.55, 2)])
def test_pauses_between_pulses(pause: float, falls: int) -> None:
    """Three tenths of a second belong to one burst; half a second is where it ended."""
    half, rest = (0.4, line(300.0, -150.0)), (pause, flat(240.0))
    made = stream(PUMP, REST, half, rest, (0.4, line(240.0, -150.0)), AFTER)
    settled = moments(BurstWatch(0.7), made, "settling")
    assert (settled[0] > 4.4 + pause + 0.4) is (falls == 1)


@pytest.mark.parametrize(("rise", "soon"), [(9.0, 0), (15.0, 1)])
def test_what_disturbs_the_reading_after_a_burst(rise: float, soon: int) -> None:
    """A tenth of the burst, 12 kPa of 120; undisturbed it is read two seconds after the fall."""
    made = stream(PUMP, REST, BURST, (1.0, flat(180.0)), (3.0, flat(180.0 + rise)))
    (at,) = read_at(made)[:1]
    ended = 4.8
    assert at == pytest.approx(ended + (1.0 if soon else 2.0), abs=0.15)


@pytest.mark.parametrize(
    ("step", "fall", "seen"),
    [(0.7, 4.2, 0), (0.7, 5.5, 1), (3.0, 11.0, 0), (3.0, 14.0, 1)],
)
def test_a_fall_begins_with_so_much(step: float, fall: float, seen: int) -> None:
    """1.5 % of the pressure, 4.5 of 300; on a coarse gauge four of its steps, 12."""
    made = stream(PUMP, REST, (0.2, line(300.0, -5.0 * fall)), (1.0, flat(300.0 - fall)))
    assert bool(moments(BurstWatch(step), made, "falling")) == seen


@pytest.mark.parametrize(("per_s", "rests"), [(5.0, 1), (7.0, 0)])
def test_a_leak_that_is_still_a_rest(per_s: float, rests: int) -> None:
    """2 % a second, 6 kPa of 300."""
    made = stream((4.0, line(320.0, -per_s)))
    assert bool(moments(BurstWatch(0.7), made, "steady")) == rests


@pytest.mark.parametrize(("per_s", "falls_on"), [(15.0, 0), (32.0, 1)])
def test_a_fall_goes_on_on_a_coarse_gauge(per_s: float, falls_on: int) -> None:
    """Half a step of 10 in a fifth of a second is a fall, less is the creep after it."""
    made = stream(PUMP, REST, BURST, (1.6, line(180.0, -per_s)), (3.0, flat(180.0 - 1.6 * per_s)))
    (settled,) = moments(BurstWatch(10.0), made, "settling")[:1]
    assert (settled > 6.4) == falls_on


def openings(samples: Samples, step: float = 50.0) -> list[Opened]:
    """The openings of a hand pump's nozzle."""
    return [e for e in watched(StrokeWatch(step), samples) if isinstance(e, Opened)]


def stroke(top: float, *then: tuple[float, float, float]) -> Samples:
    """Slowly up to ``top``; then pieces of (seconds, from, to)."""
    rise = [(1.0, line(0.0, 0.8 * top)), (3.0, line(0.8 * top, 0.2 * top / 3.0))]
    return stream(*rise, *((s, line(a, (b - a) / s)) for s, a, b in then), hz=50.0)


@pytest.mark.parametrize(("share", "count"), [(0.025, 0), (0.036, 1)])
def test_an_opening_takes_three_hundredths(share: float, count: int) -> None:
    """Less is the needle of the gauge."""
    left = 17_500.0 * (1.0 - share)
    assert len(openings(stroke(17_500.0, (0.02, left, left), (2.0, left, left)))) == count


@pytest.mark.parametrize(("share", "count"), [(0.58, 1), (0.42, 0)])
def test_a_nozzle_shuts_before_half_is_gone(share: float, count: int) -> None:
    """Below that the handle was let go."""
    left = 17_500.0 * share
    assert len(openings(stroke(17_500.0, (2.0, left, left)))) == count


@pytest.mark.parametrize(("seconds", "count"), [(0.3, 1), (1.2, 0)])
def test_an_opening_falls_at_once(seconds: float, count: int) -> None:
    """3 % within 0.13 s: here after 0.05 s, and after 0.21 s."""
    pieces = ((seconds, 17_500.0, 14_500.0), (2.0, 14_500.0, 14_500.0))
    assert len(openings(stroke(17_500.0, *pieces))) == count


@pytest.mark.parametrize(("top", "count"), [(1_950.0, 0), (2_080.0, 1)])
def test_no_nozzle_opens_below_twenty_bar(top: float, count: int) -> None:
    """What falls there is air."""
    assert len(openings(stroke(top, (2.0, 0.85 * top, 0.85 * top)), step=10.0)) == count


@pytest.mark.parametrize(("apart", "count"), [(0.8, 1), (1.3, 2)])
def test_openings_near_each_other_are_one(apart: float, count: int) -> None:
    """Nearer than a second: chatter."""
    up = (apart - 0.4, 15_000.0, 17_600.0)
    pieces = ((0.4, 15_000.0, 15_000.0), up, (2.0, 15_000.0, 15_000.0))
    assert len(openings(stroke(17_500.0, *pieces))) == count


def test_a_pressure_that_was_held_is_no_stroke() -> None:
    """It stood when the watch began, and then it was let down a little at once: nothing was pumped."""
    assert openings(stream((2.0, flat(15_000.0)), (3.0, flat(13_000.0)), hz=50.0)) == []


def test_the_top_lies_between_two_samples() -> None:
    """On average over where it fell between them: no bias, though 28 kPa lie between two samples."""
    wrong = []
    for n in range(10):
        t_open = 4.0 + n / 10.0 / 25.0
        made = [
            (k / 25.0, 14_700.0 + 700.0 * k / 25.0 if k / 25.0 < t_open else 15_000.0)
            for k in range(200)
        ]
        (seen,) = openings(made, step=5.0)
        wrong.append(seen.value - (14_700.0 + 700.0 * t_open))
    assert abs(sum(wrong) / len(wrong)) < 4.0
    assert max(map(abs, wrong)) < 15.0


def held(watch: HoldWatch, samples: Samples) -> list[Moment]:
    """The readings of a hold."""
    return [e for e in watched(watch, samples) if isinstance(e, Moment)]


def test_a_plateau_takes_two_seconds() -> None:
    """Then the pump is known to run."""
    made = stream((1.0, line(0.0, 300.0)), (5.0, flat(300.0)))
    (at,) = moments(HoldWatch(step=0.7, due=(0.0,)), made, "pump_runs")
    assert at == pytest.approx(3.0, abs=0.09)


@pytest.mark.parametrize(("seconds", "begun"), [(0.85, 0), (1.3, 1)])
def test_a_dip_is_a_shut_off_after_a_second(seconds: float, begun: int) -> None:
    """Shorter it was the pump that stuttered."""
    made = stream((5.0, flat(300.0)), (seconds, flat(290.0)), (0.3, flat(300.0)))
    assert bool(held(HoldWatch(step=0.7, due=(0.0,)), made)) == begun


def test_a_higher_plateau_is_another_one() -> None:
    """The pump brings it up by five grains (2 steps each) more: what falls then falls from there."""
    made = stream((4.0, flat(300.0)), (4.0, flat(320.0)), (14.0, line(320.0, -2.0)))
    seen = held(HoldWatch(step=2.0, due=(0.0, 10.0)), made)
    assert [m.value for m in seen] == pytest.approx([320.0, 300.0], abs=2.0)


def test_an_empty_rail_is_nought() -> None:
    """Noise below nought is not a pressure."""
    made = stream((4.0, flat(300.0)), (1.0, line(300.0, -300.2)), (12.0, flat(-0.2)))
    assert held(HoldWatch(step=0.7, due=(10.0,)), made)[0].value == 0.0


@pytest.mark.parametrize(
    ("taken", "moved", "count"), [(4.0, 0.4, 1), (4.0, 0.6, 2), (20.0, 0.8, 1), (20.0, 1.2, 2)]
)
def test_another_figure_is_another_tube(taken: float, moved: float, count: int) -> None:
    """Five steps of 0.1, or 5 % of what stood there."""
    made = stream((2.0, flat(taken)), (2.0, flat(taken - moved)), hz=20.0)
    seen = [e for e in watched(RestWatch(step=0.1, least=0.5), made) if isinstance(e, Rested)]
    assert len(seen) == count


@pytest.mark.parametrize(("steps", "rests"), [(1, 1), (2, 0)])
def test_a_figure_may_flicker_by_a_step(steps: int, rests: int) -> None:
    """Every second slowly turns it over; by two steps it is not at rest."""
    made = stream((4.0, lambda t: 14.0 + 0.1 * steps * (math.floor(t / 0.6) % 2)), hz=20.0)
    seen = [e for e in watched(RestWatch(step=0.1, least=0.5), made) if isinstance(e, Rested)]
    assert bool(seen) == rests


@pytest.mark.parametrize(("pause", "spells"), [(0.3, 1), (0.56, 2)])
def test_a_pause_in_cranking(pause: float, spells: int) -> None:
    """Three tenths of a second are a dead centre, half a second is two spells."""
    made = stream(
        (1.0, flat(0.0)),
        (1.5, flat(140.0)),
        (pause, flat(0.0)),
        (1.5, flat(140.0)),
        (1.0, flat(0.0)),
    )
    assert sum(isinstance(e, Spell) for e in watched(SpellWatch(), made)) == spells


@pytest.mark.parametrize(("gap", "spells"), [(0.5, 1), (0.7, 0)])
def test_a_gap_in_cranking(gap: float, spells: int) -> None:
    """What stopped for longer than six tenths is not taken for a spell."""
    made = stream((1.0, flat(0.0)), (3.0, flat(140.0)), (1.0, flat(0.0)))
    made = [s for s in made if not 3.3 < s[0] < 3.3 + gap]
    assert sum(isinstance(e, Spell) for e in watched(SpellWatch(), made)) == spells


@pytest.mark.parametrize(("fall", "seen"), [(14.0, 0), (22.0, 1)])
def test_a_fall_in_noise_takes_eight_times_of_it(fall: float, seen: int) -> None:
    """σ 2 kPa: 16 of 300; the fall is told apart from noise, not from the gauge."""
    rng = np.random.default_rng(8)
    made = stream((5.0, flat(300.0)), (1.0, flat(300.0 - fall)))
    noisy = [(t, v + (float(rng.normal(0.0, 2.0)) if t < 5.0 else 0.0)) for t, v in made]
    assert bool(moments(BurstWatch(0.7), noisy, "falling")) == seen


def test_a_single_sample_is_no_fall() -> None:
    """A knock on the hose: one figure far below, and the next as before."""
    made = stream(PUMP, REST, (0.04, flat(260.0)), REST)
    assert moments(BurstWatch(0.7), made, "falling") == []


@pytest.mark.parametrize(("wobble", "rests"), [(3.4, 1), (5.0, 0)])
def test_a_rest_may_wobble_by_four_steps(wobble: float, rests: int) -> None:
    """Slowly, three times in a second; more is not at rest."""
    made = stream((4.0, lambda t: 300.0 + wobble * (math.floor(t * 3.0) % 2)), hz=50.0)
    assert bool(moments(BurstWatch(1.0), made, "steady")) == rests


@pytest.mark.parametrize(("late", "count"), [(0.8, 1), (1.3, 0)])
def test_a_reading_that_comes_late(late: float, count: int) -> None:
    """The figures paused when it was due: it is taken up to a second later, and not made up after that."""
    made = stream((6.0, flat(300.0)), (14.0, line(300.0, -2.0)))
    kept = [s for s in made if not 15.2 < s[0] < 16.0 + late]
    assert len(held(HoldWatch(step=0.7, due=(10.0,)), kept)) == count


@pytest.mark.parametrize(("fall", "count"), [(560.0, 0), (720.0, 1)])
def test_an_opening_on_a_coarse_gauge_takes_three_steps(fall: float, count: int) -> None:
    """Steps of 200 kPa, 2 bar: 600, more than 3 % of 17,500."""
    left = 17_500.0 - fall
    assert len(openings(stroke(17_500.0, (2.0, left, left)), step=200.0)) == count


def test_a_slow_stroke_on_a_coarse_gauge_is_one() -> None:
    """It climbs by three and a half steps of 330 in half a second: that is a stroke."""
    assert len(openings(stroke(17_500.0, (2.0, 14_000.0, 14_000.0)), step=170.0)) == 1


def test_a_handle_let_go_quickly_is_no_opening() -> None:
    """Down to a third within a fifth of a second: at once, but it does not stay."""
    pieces = ((0.2, 17_500.0, 5_800.0), (2.0, 5_800.0, 5_800.0))
    assert openings(stroke(17_500.0, *pieces)) == []


def test_where_a_figure_stood_still() -> None:
    """From when to when, in the stream: the last 1.2 s."""
    (rested,) = [
        e
        for e in watched(RestWatch(step=0.1, least=0.5), stream((3.0, flat(14.0)), hz=20.0))
        if isinstance(e, Rested)
    ]
    assert (rested.begin, rested.end) == (
        pytest.approx(0.0, abs=0.06),
        pytest.approx(1.2, abs=0.06),
    )


def test_a_clock_that_is_started_while_the_figures_pause() -> None:
    """The instrument fell silent before the pump was shut off: no reading of that moment is made up, the next is read."""
    watch = HoldWatch(step=0.7, due=(0.0, 10.0))
    assert held(watch, stream((4.0, flat(300.0)))) == []
    assert [e for e in watch.kick(8.0) if isinstance(e, Moment)] == []
    later = [(12.0 + t, v) for t, v in stream((8.0, line(296.0, -1.0)))]
    assert [(m.at_s, round(m.value)) for m in held(watch, later)] == [(10.0, 290)]


def test_a_reading_of_a_hold_is_of_its_last_second() -> None:
    """What the rail did before that does not carry it: here it stood still until 1.1 s before."""
    watch = HoldWatch(step=0.5, due=(10.0,))
    seen: list[float] = []
    for n in range(400):
        t = n / 25.0
        value = 300.0 if t < 12.9 else 300.0 - 5.0 * (t - 12.9)
        seen += [e.value for e in watch.feed(t, value) if isinstance(e, Moment)]
        if n == 100:
            watch.kick(t)
    assert seen == [pytest.approx(300.0 - 5.0 * 1.1, abs=0.01)]


def test_scatter_of_five_figures() -> None:
    """By hand: bends 2, -2, -6 lie 4, 0, 4 from their middle; 1.4826 times that, over the root of 1 + 4 + 1."""
    assert noise_of(np.array([0.0, 1.0, 4.0, 5.0, 0.0])) == pytest.approx(1.4826 * 4 / math.sqrt(6))
    assert noise_of(np.array([0.0, 1.0, 4.0, 5.0])) == 0.0


@pytest.mark.parametrize(("swing", "stands"), [(19.0, 1), (27.0, 0)])
def test_a_plateau_in_noise_swings_by_ten_times_of_it(swing: float, stands: int) -> None:
    """Figures that flicker by 1 kPa up and down scatter by 1.4826 times 4, over the root of 6: 2.42 kPa."""
    watch = HoldWatch(step=0.01, due=(10.0,))
    assert len(moments(watch, flickering(swing, 2.0, 6.0), "pump_runs")) == stands


@pytest.mark.parametrize(("swing", "rests"), [(12.0, 1), (36.0, 0)])
def test_a_rest_in_noise_swings_by_ten_times_of_it(swing: float, rests: int) -> None:
    """As on the plateau of a hold: 2.42 kPa of scatter."""
    assert ("steady" in states(watched(BurstWatch(0.01), flickering(swing, 1.0, 4.0)))) == rests


def test_a_stroke_may_stand_on_its_highest_figure() -> None:
    """A coarse gauge shows the same one for a quarter of a second; the fall is counted from its end."""
    climb = [(n / 25.0, 12_000.0 + 1000.0 * n / 25.0) for n in range(75)]
    stand = [(3.0 + n / 25.0, 15_000.0) for n in range(7)]
    after = [(3.28 + n / 25.0, 13_000.0) for n in range(25)]
    seen = watched(StrokeWatch(10.0), [*climb, *stand, *after])
    assert [e.at for e in seen if isinstance(e, Opened)] == [pytest.approx(3.24)]
