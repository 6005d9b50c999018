"""Where a rail rests, how often it goes to and fro, and from where on it is next to nothing: on both sides of each bound."""

import numpy as np
import pytest

from plumb.core.procedures.rail.analysis import RailSheet, analyse_rail
from plumb.core.procedures.rail.rest import CRANKED_S, PERIODS, at_rest, periods

TENTHS = np.arange(0.0, 10.0, 0.1)


def ends(actual: np.ndarray, *, cranking: bool = False, wanted: float = 300.0) -> tuple[int, int]:
    """First and last place at rest of a hundred moments, ten a second."""
    where = at_rest(TENTHS, actual, np.full(len(TENTHS), wanted), cranking=cranking)
    assert list(where) == list(range(where[0], where[-1] + 1))
    return int(where[0]), int(where[-1])


def trace(*pieces: tuple[int, float]) -> np.ndarray:
    """So many moments at each pressure."""
    return np.concatenate([np.full(n, p) for n, p in pieces])


@pytest.mark.parametrize(
    ("actual", "wanted"),
    [
        (trace((100, 300.0)), (0, 99)),
        # Up: from less than half of where it stays, until it is within a tenth of that.
        (trace((10, 149.0), (5, 269.0), (85, 300.0)), (15, 99)),
        (trace((10, 149.0), (5, 270.0), (85, 300.0)), (10, 99)),
        (trace((10, 150.0), (5, 269.0), (85, 300.0)), (0, 99)),
        # Down: to less than half, from the last moment within a tenth on.
        (trace((80, 300.0), (10, 269.0), (10, 149.0)), (0, 79)),
        (trace((80, 300.0), (10, 270.0), (10, 149.0)), (0, 89)),
        (trace((80, 300.0), (10, 269.0), (10, 150.0)), (0, 99)),
    ],
)  # fmt: skip
def test_the_way_up_and_down_are_left_out(actual: np.ndarray, wanted: tuple[int, int]) -> None:
    """Half and a tenth; common practice, no source."""
    assert ends(actual) == wanted


def test_three_seconds_of_cranking_fill_the_rail() -> None:
    """Of a rail that is at once where it stays as well; a later way up counts to its end."""
    assert ends(trace((100, 90.0)), cranking=True) == (round(10 * CRANKED_S), 99)
    assert ends(trace((40, 20.0), (60, 90.0)), cranking=True) == (40, 99)


def test_nothing_wanted_any_more_is_no_rest() -> None:
    """The controller wants nothing of an engine that was switched off."""
    wanted = np.where(np.arange(100) < 70, 300.0, 0.0)
    where = at_rest(TENTHS, trace((70, 300.0), (30, 290.0)), wanted, cranking=False)
    assert (where[0], where[-1]) == (0, 69)


def test_a_rest_of_less_than_a_fifth_is_the_last_third() -> None:
    """A rail that is still on its way when the starter stops: 81 moments up, 19 at rest."""
    assert ends(trace((81, 10.0), (19, 300.0)), cranking=False) == (0, 99)
    slow = np.linspace(0.0, 100.0, 100)
    first, last = ends(slow, cranking=True)
    assert (first, last) == (int(np.flatnonzero(slow >= 0.9 * np.median(slow[49:]))[0]), 99)


@pytest.mark.parametrize(
    ("sides", "often"), [("+-+-+-", 3.0), ("+0-0+", 1.5), ("++++", 0.5), ("0000", 0.0), ("+-", 1.0)]
)
def test_to_and_fro_is_counted_by_halves(sides: str, often: float) -> None:
    """Beyond half of the limit on one side, then on the other; what lies between counts for neither."""
    error = np.array([{"+": 16.0, "-": -16.0, "0": 15.0}[s] for s in sides])
    assert periods(error, np.full(len(error), 30.0)) == often


def wave(halves: int, height: float) -> str:
    """What ten seconds of so many half periods round 300 bar come to."""
    actual = 300.0 + height * np.sin(np.pi * halves * TENTHS / TENTHS[-1])
    series = tuple(
        (float(t), 30_000.0, 100.0 * float(a)) for t, a in zip(TENTHS, actual, strict=True)
    )
    return analyse_rail(RailSheet(series=series)).state


def test_it_surges_from_three_times_on() -> None:
    """Three whole periods are six halves; five leave it unsettled, and within a tenth it is good."""
    assert wave(2 * PERIODS, 45.0) == "surges"
    assert wave(2 * PERIODS - 1, 45.0) != "surges"
    assert wave(20, 29.0) == "good"
    assert wave(20, 33.0) == "surges"


@pytest.mark.parametrize(
    ("actual", "nothing", "state"),
    [(27.9, True, "low"), (28.1, False, "low"), (251.0, False, "unsettled")],
)
def test_next_to_nothing_is_less_than_a_tenth(actual: float, nothing: bool, state: str) -> None:  # noqa: FBT001
    """Of 280 bar wanted, by figures that were read."""
    found = analyse_rail(RailSheet(read=(("cranking", 28_000.0, 100.0 * actual),)))
    assert (found.next_to_nothing, found.state) == (nothing, state)


def test_a_surge_while_cranking_round_a_third_is_low() -> None:
    """The starter's own beat is no surge of the control."""
    side = np.where((np.arange(100) // 5) % 2 == 0, 1.0, -1.0)
    series = tuple(
        (float(t), 28_000.0, 9_000.0 + 3_500.0 * s) for t, s in zip(TENTHS, side, strict=True)
    )
    assert analyse_rail(RailSheet(series=series, engine="cranking")).state == "low"
    assert analyse_rail(RailSheet(series=series, engine="idle")).state == "surges"
