"""Watches, fed sample by sample with streams whose truth is known by how they were made."""

import math
from collections.abc import Callable, Iterable

import numpy as np
import pytest

from plumb.core.capture.bursts import BurstWatch
from plumb.core.capture.holding import HoldWatch
from plumb.core.capture.rest import RestWatch
from plumb.core.capture.spells import SpellWatch
from plumb.core.capture.strokes import StrokeWatch
from plumb.core.capture.watch import (
    BurstSeen,
    Event,
    Moment,
    Moved,
    Opened,
    Rested,
    Spell,
    Watch,
    noise_of,
)

HZ = 25.0


def stream(
    *pieces: tuple[float, Callable[[float], float]], hz: float = HZ
) -> list[tuple[float, float]]:
    """Samples of pieces (seconds, value by the seconds into the piece), one after the other."""
    made, begin = [], 0.0
    for seconds, value in pieces:
        made += [(begin + n / hz, value(n / hz)) for n in range(round(seconds * hz))]
        begin += seconds
    return made


def flat(value: float) -> Callable[[float], float]:
    """It stands still."""
    return lambda _: value


def line(start: float, per_s: float) -> Callable[[float], float]:
    """It goes in a straight line."""
    return lambda t: start + per_s * t


def watched(watch: Watch, samples: Iterable[tuple[float, float]]) -> list[Event]:
    """Everything that a watch tells of a stream."""
    return [event for t, value in samples for event in watch.feed(t, value)]


def bursts(events: list[Event]) -> list[tuple[int, int]]:
    """Both readings of every burst that was seen."""
    seen = [e.burst for e in events if isinstance(e, BurstSeen)]
    return [(round(b.first), round(b.second)) for b in seen]


def states(events: list[Event]) -> list[str]:
    """What was seen, in order."""
    return [e.state for e in events if isinstance(e, Moved)]


PUMP = (1.0, line(100.0, 200.0))
REST = (3.0, flat(300.0))
BURST = (0.8, line(300.0, -150.0))
AFTER = (3.0, flat(180.0))


def test_one_burst_is_read_once() -> None:
    """Rest at 300, a straight fall of 0.8 s at 150 kPa/s, rest at 180."""
    events = watched(BurstWatch(0.7), stream(PUMP, REST, BURST, AFTER))
    assert bursts(events) == [(300, 180)]
    assert states(events)[:3] == ["steady", "falling", "settling"]


def test_a_leak_and_a_creep_are_carried_to_the_ends_of_the_burst() -> None:
    """The rest leaks 1 kPa/s: 297 when the burst begins.  What follows creeps back: 4 (1 − e^(−t/2.5))."""
    leaking = (3.0, line(300.0, -1.0))
    fall = (0.8, line(297.0, -146.25))
    creeping = (3.0, lambda t: 180.0 + 4.0 * (1.0 - math.exp(-t / 2.5)))
    events = watched(BurstWatch(0.7), stream(PUMP, leaking, fall, creeping))
    (seen,) = [e.burst for e in events if isinstance(e, BurstSeen)]
    assert seen.first == pytest.approx(297.0, abs=0.35)
    assert seen.second == pytest.approx(180.0, abs=0.35)
    assert not seen.doubtful


def test_the_pump_going_off_is_no_burst() -> None:
    """A fall of a few kPa as the check valve closes: small, and the rest after it counts."""
    events = watched(
        BurstWatch(0.7),
        stream(PUMP, (2.0, flat(308.0)), (0.1, line(308.0, -80.0)), REST, BURST, AFTER),
    )
    assert bursts(events) == [(300, 180)]
    assert "small_fall" in states(events)


@pytest.mark.parametrize("share", [0.05, 0.07])
def test_what_takes_less_than_six_hundredths_is_no_burst(share: float) -> None:
    """Common practice, no source: a burst takes more than a check valve that closes."""
    fall = (0.5, line(300.0, -600.0 * share))
    events = watched(BurstWatch(0.7), stream(REST, fall, (3.0, flat(300.0 * (1.0 - share)))))
    assert bursts(events) == ([] if share < 0.06 else [(300, 279)])


def test_a_rail_that_falls_for_long_has_no_burst() -> None:
    """A clamp that was let go: nine seconds of falling are no burst."""
    events = watched(BurstWatch(0.7), stream(REST, (9.5, line(300.0, -25.0)), AFTER))
    assert bursts(events) == []
    assert "slow_fall" in states(events)


def test_two_bursts_from_one_filling_are_two() -> None:
    """Fired again without the pump: each has its own rest before it."""
    again = ((0.8, line(180.0, -100.0)), (3.0, flat(100.0)))
    assert bursts(watched(BurstWatch(0.7), stream(REST, BURST, AFTER, *again))) == [
        (300, 180),
        (180, 100),
    ]


def test_the_pump_that_comes_on_soon_ends_the_reading() -> None:
    """One second after the burst the rail is filled again: read by then, and not twice."""
    events = watched(BurstWatch(0.7), stream(PUMP, REST, BURST, (1.0, flat(180.0)), (0.5, line(180.0, 240.0)), REST, BURST, AFTER))  # fmt: skip
    assert bursts(events) == [(300, 180), (300, 180)]


def test_a_burst_without_a_rest_is_not_waited_for() -> None:
    """The rail is still being filled when it is fired: nothing was at rest, so nothing is read."""
    events = watched(BurstWatch(0.7), stream((1.5, line(100.0, 133.0)), BURST, AFTER))
    assert bursts(events) == []


def test_a_gap_in_a_burst_makes_it_unseen() -> None:
    """The cable was out while it fell: nobody knows what happened, and it says so."""
    samples = [s for s in stream(PUMP, REST, BURST, AFTER, REST) if not 4.2 < s[0] < 5.5]
    events = watched(BurstWatch(0.7), samples)
    assert bursts(events) == []
    assert "gap" in states(events)
    short = [s for s in stream(PUMP, REST, BURST, AFTER, REST) if not 2.0 < s[0] < 2.5]
    assert bursts(watched(BurstWatch(0.7), short)) == [(300, 180)]


def test_a_coarse_gauge_that_flickers_between_two_steps_is_at_rest() -> None:
    """A step of 3.4 kPa, and noise that tips it now and then."""
    rng = np.random.default_rng(5)
    step = 3.4474
    made = stream(
        (2.0, flat(310.3)), (2.5, flat(301.6)), (1.0, line(301.6, -130.0)), (3.0, flat(171.6))
    )
    noisy = [(t, round((p + float(rng.normal(0.0, 0.3))) / step) * step) for t, p in made]
    (seen,) = [e.burst for e in watched(BurstWatch(step), noisy) if isinstance(e, BurstSeen)]
    assert abs(seen.first - 301.6) <= step
    assert abs(seen.second - 171.6) <= step
    assert not seen.doubtful


def test_an_empty_rail_is_doubted() -> None:
    """What was left cannot be read: the burst is too long."""
    events = watched(
        BurstWatch(0.7), stream(PUMP, REST, (0.8, line(300.0, -375.0)), (3.0, flat(0.0)))
    )
    (seen,) = [e.burst for e in events if isinstance(e, BurstSeen)]
    assert "empty" in seen.doubts


def test_a_figure_is_taken_when_it_stands_still() -> None:
    """Probes settle for a second, stand, are lifted (overload), and go on the next coil."""
    events = watched(
        RestWatch(step=0.1, least=0.3),
        stream((0.5, flat(math.inf)), (1.0, line(9.0, 3.4)), (2.0, flat(12.4)), (0.3, flat(math.inf)),
               (2.0, flat(12.5)), (1.0, flat(0.2)), hz=20.0),
    )  # fmt: skip
    taken = [e for e in events if isinstance(e, Rested)]
    assert [round(e.value, 2) for e in taken] == [12.4, 12.5]
    # A step of 0.1 that never moves: u = 0.1 / √12 (JCGM 100:2008, F.2.2.1).
    assert taken[0].u == pytest.approx(0.1 / math.sqrt(12.0))
    # It stood from 1.5 s on, and 1.2 s of that are waited for.
    assert taken[0].end == pytest.approx(2.7, abs=0.11)
    assert states(events)[-1] == "empty_hand"


def test_the_same_figure_is_taken_once() -> None:
    """It stays on the scale: one reading, until it goes away, or somebody says it is the next."""
    watch = RestWatch(step=0.1, least=0.5)
    assert (
        sum(isinstance(e, Rested) for e in watched(watch, stream((6.0, flat(14.0)), hz=20.0))) == 1
    )
    watch.kick(6.0)
    later = [(6.0 + t, v) for t, v in stream((2.0, flat(14.0)), hz=20.0)]
    assert sum(isinstance(e, Rested) for e in watched(watch, later)) == 1


def test_straight_from_one_tube_to_the_next() -> None:
    """Nobody waited for the scale to be empty: another figure is another reading."""
    events = watched(
        RestWatch(step=0.1, least=0.5), stream((2.0, flat(14.0)), (2.0, flat(12.0)), hz=20.0)
    )
    assert [round(e.value) for e in events if isinstance(e, Rested)] == [14, 12]


def test_a_figure_that_drifts_is_not_taken() -> None:
    """Fuel still runs into the tube."""
    events = watched(RestWatch(step=0.1, least=0.5), stream((4.0, line(5.0, 1.0)), hz=20.0))
    assert not any(isinstance(e, Rested) for e in events)


def test_a_nozzle_opens_at_the_top_of_its_stroke() -> None:
    """700 kPa/s up to 17,500, then at once down; chatter after it is no second opening."""
    chatter = [(0.2, line(15_000.0, 9_000.0)), (0.04, flat(15_000.0))] * 2
    events = watched(
        StrokeWatch(50.0),
        stream((1.0, line(0.0, 14_000.0)), (5.0, line(14_000.0, 700.0)), *chatter, (2.0, flat(15_000.0)),
               (0.5, line(15_000.0, -30_000.0)), hz=40.0),
    )  # fmt: skip
    (seen,) = [e for e in events if isinstance(e, Opened)]
    assert seen.value == pytest.approx(17_500.0, abs=50.0)
    # Between two samples, 17.5 kPa apart, anywhere alike: 17.5 / √12 at least.
    assert 17.5 / math.sqrt(12.0) <= seen.u < 50.0


def test_a_handle_that_is_let_go_is_no_opening() -> None:
    """The pressure goes down slowly, by itself."""
    events = watched(
        StrokeWatch(50.0),
        stream((2.0, line(0.0, 7_000.0)), (4.0, line(14_000.0, -1_500.0)), hz=40.0),
    )
    assert not any(isinstance(e, Opened) for e in events)


def test_a_hold_begins_when_the_pressure_leaves_its_plateau() -> None:
    """Shut off at 6 s, 2 kPa/s from then on: 300 at once, 280 after 10 s."""
    samples = stream((1.0, line(0.0, 300.0)), (5.0, flat(300.0)), (12.0, line(300.0, -2.0)))
    events = watched(HoldWatch(step=0.7, due=(0.0, 10.0)), samples)
    moments = [e for e in events if isinstance(e, Moment)]
    assert [m.at_s for m in moments] == [0.0, 10.0]
    assert [m.value for m in moments] == pytest.approx([300.0, 280.0], abs=0.7)
    assert moments[0].u == pytest.approx(0.7 / math.sqrt(12.0))
    assert states(events)[-2:] == ["pump_runs", "holding"]


def test_a_rail_that_holds_has_to_be_told() -> None:
    """Nothing leaves the plateau: the clock starts when somebody says so, and what is due is read."""
    watch = HoldWatch(step=0.7, due=(0.0, 10.0, 60.0))
    before = stream((1.0, line(0.0, 300.0)), (5.0, flat(300.0)))
    assert not any(isinstance(e, Moment) for e in watched(watch, before))
    first = [e for e in watch.kick(6.0) if isinstance(e, Moment)]
    assert [(m.at_s, m.value) for m in first] == [(0.0, 300.0)]
    later = [(6.0 + t, v) for t, v in stream((11.0, flat(299.0)))]
    assert [m.at_s for m in watched(watch, later) if isinstance(m, Moment)] == [10.0]
    assert watch.kick(20.0) == ()


def test_what_was_due_in_a_gap_is_not_made_up() -> None:
    """The cable was out at ten seconds; the reading at sixty comes all the same."""
    samples = stream((6.0, flat(300.0)), (70.0, line(300.0, -2.0)))
    events = watched(
        HoldWatch(step=0.7, due=(0.0, 10.0, 60.0)), [s for s in samples if not 12.0 < s[0] < 20.0]
    )
    moments = [(e.at_s, round(e.value)) for e in events if isinstance(e, Moment)]
    assert moments == [(0.0, 300), (60.0, 180)]


def test_a_pump_that_comes_on_again_is_no_shut_off() -> None:
    """The pressure dips for half a second and is back: the plateau goes on."""
    samples = stream(
        (5.0, flat(300.0)), (0.5, flat(290.0)), (4.0, flat(300.0)), (4.0, line(300.0, -5.0))
    )
    (moment,) = [
        e for e in watched(HoldWatch(step=0.7, due=(0.0,)), samples) if isinstance(e, Moment)
    ]
    assert moment.value == pytest.approx(300.0, abs=1.0)


def test_a_spell_of_cranking_ends_with_its_current() -> None:
    """From 1 s to 4 s; a knock of the clamp of half a second is none."""
    knock = (0.5, flat(90.0))
    events = watched(
        SpellWatch(),
        stream((1.0, flat(0.0)), (3.0, flat(140.0)), (2.0, flat(0.5)), knock, (1.0, flat(0.0))),
    )
    (spell,) = [e for e in events if isinstance(e, Spell)]
    assert (spell.begin, spell.end) == (pytest.approx(1.0), pytest.approx(4.0, abs=0.05))


@pytest.mark.parametrize(("seconds", "spells"), [(0.8, 0), (1.2, 1)])
def test_what_is_shorter_than_a_second_is_no_spell(seconds: float, spells: int) -> None:
    """Too few humps to compare; common practice, no source."""
    events = watched(
        SpellWatch(), stream((1.0, flat(0.0)), (seconds, flat(140.0)), (1.0, flat(0.0)))
    )
    assert sum(isinstance(e, Spell) for e in events) == spells


def test_noise_is_told_from_a_slope() -> None:
    """σ of figures about a line (1.4826 MAD of second differences / √6): a slope and an offset change nothing."""
    rng = np.random.default_rng(2)
    t = np.arange(4000) / 25.0
    noisy = 300.0 - 2.0 * t + rng.normal(0.0, 0.5, t.size)
    assert noise_of(noisy) == pytest.approx(0.5, rel=0.06)
    curved = 4000.0 * t**2 + rng.normal(0.0, 0.5, t.size)
    assert noise_of(curved) == pytest.approx(0.5, rel=0.06)


def test_a_noisy_plateau_is_one() -> None:
    """Noise of 3 kPa on a gauge of 0.7: five times that is what a figure may move by without meaning."""
    rng = np.random.default_rng(4)
    made = stream((6.0, flat(300.0)), (12.0, line(300.0, -4.0)))
    noisy = [(t, v + float(rng.normal(0.0, 3.0))) for t, v in made]
    events = watched(HoldWatch(step=0.7, due=(0.0, 5.0)), noisy)
    moments = [e for e in events if isinstance(e, Moment)]
    assert [m.at_s for m in moments] == [0.0, 5.0]
    assert moments[0].value - moments[1].value == pytest.approx(20.0, abs=8.0)


def test_a_starter_that_draws_less_than_forty_amperes_turns_nothing() -> None:
    """Common practice, no source."""
    for amperes, spells in ((35.0, 0), (45.0, 1)):
        events = watched(SpellWatch(), stream((3.0, flat(amperes)), (1.0, flat(0.0))))
        assert sum(isinstance(e, Spell) for e in events) == spells
