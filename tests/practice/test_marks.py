"""The marks of worked exercises, redone by hand, and the thirty engines themselves."""

from dataclasses import replace

import numpy as np
import pytest

from plumb.bench.engines.follow import follow
from plumb.bench.engines.hidden import FAULTS, IMITATORS
from plumb.practice.exercises import EXERCISES, engine_of, exercise_of
from plumb.practice.marks import REPAIRS, Incident, Judged, Said, Worked, mark

QUICK = Worked(minutes=20.0, own_minutes=20.0, full_minutes=55.0)


def bad(code: str) -> int:
    """The number of the one bad injector of an exercise."""
    (k,) = engine_of(EXERCISES[code]).truth
    return k + 1


def lines(code: str, said: Said, worked: Worked = QUICK) -> dict[str, float]:
    """Points by what they are for."""
    made: dict[str, float] = {}
    for line in mark(engine_of(EXERCISES[code]), said, worked).lines:
        made[line.what] = made.get(line.what, 0.0) + line.got
    return made


def test_the_first_by_hand() -> None:
    """One lean injector, called lean but replaced for nothing's sake with a good one beside it, a hint.

    40 for the lean one, 25 − 12.5 for the good one, 15 for the engine, 25 min against 20: a tenth more
    (22) is free, the whole route is 55: 5 (55 − 25)/(55 − 22) = 4.5.  Money: 25 min at 72 an hour, a
    cleaning and an injector are 30 + 24 + 118 = 172, the whole route with the cleaning 66 + 24 = 90: 0.
    10 for safety, 4 off for the hint.
    """
    lean = bad("01")
    good = next(n for n in range(1, 5) if n != lean)
    said = Said(
        injectors={lean: Judged("gives_less", "clean"), good: Judged("gives_less", "replace")}
    )
    worked = Worked(minutes=25.0, own_minutes=20.0, full_minutes=55.0, hints=1)
    assert lines("01", said, worked) == {
        f"injector {lean}": 40.0, "good ones": 12.5, "the engine": 15.0, "minutes": 4.5,
        "money": 0.0, "safety": 10.0, "hints": -4.0,
    }  # fmt: skip
    assert mark(engine_of(EXERCISES["01"]), said, worked).points == 78.0


def test_a_feed_by_hand() -> None:
    """Two injectors on one feed, both replaced: 40, as none of them is bad; 25 − 2 · 12.5 = 0; 0 for the engine.

    Money: 24 + 2 · 118 = 260, against 66 + 90 for the whole route and the feed: 0.
    With the feed named and the injectors left alone it is all of it.
    """
    engine = engine_of(EXERCISES["16"])
    dead = [k + 1 for k, lamp in enumerate(engine.lamp) if lamp == "dark"]
    assert len(dead) == 2
    parts = Said(injectors={n: Judged("no_response", "replace") for n in dead})
    assert lines("16", parts) == {
        "injectors": 40.0, "good ones": 0.0, "the engine": 0.0, "minutes": 5.0, "money": 0.0,
        "safety": 10.0,
    }  # fmt: skip
    assert mark(engine, parts, QUICK).points == 55.0
    assert mark(engine, Said(causes=frozenset({"shared_feed"})), QUICK).points == 100.0


def test_a_dangerous_one_by_hand() -> None:
    """A dripping injector rightly found, but fired twice into one cylinder and the rail opened under pressure.

    40 + 25 + 0 for a complaint that the ignition brings about too + 5 + 5 + 10 − 5 − 5.
    """
    drips = bad("30")
    worked = Worked(
        minutes=20.0, own_minutes=20.0, full_minutes=55.0,
        incidents=(Incident("fired twice into cylinder 2", 11.0), Incident("rail opened at 300 kPa", 14.0)),
    )  # fmt: skip
    said = Said(injectors={drips: Judged("leaks_at_tip", "replace")})
    marked = mark(engine_of(EXERCISES["30"]), said, worked)
    assert marked.points == 75.0
    assert [(line.why, line.minute) for line in marked.lines if line.minute is not None] == [
        ("fired twice into cylinder 2", 11.0), ("rail opened at 300 kPa", 14.0),
    ]  # fmt: skip
    whole = Said(injectors=said.injectors, elsewhere=True)
    assert mark(engine_of(EXERCISES["30"]), whole, worked).points == 90.0
    third = Worked(
        minutes=20.0, own_minutes=20.0, full_minutes=55.0, incidents=(*worked.incidents, Incident("again", 20.0))
    )  # fmt: skip
    assert mark(engine_of(EXERCISES["30"]), whole, third).points == 90.0, "what is gone is gone"


def test_half_of_it_for_the_name_half_for_the_work() -> None:
    """An open coil that is cleaned: 20 of 40; one replaced under a wrong name: 20; neither: 0."""
    n = bad("03")
    for judged, got in (
        (Judged("coil_open", "replace"), 40.0), (Judged("coil_open", "clean"), 20.0),
        (Judged("gives_more", "replace"), 20.0), (Judged("gives_more", "clean"), 0.0),
    ):  # fmt: skip
        assert lines("03", Said(injectors={n: judged}))[f"injector {n}"] == got
    assert lines("03", Said())[f"injector {n}"] == 0.0


@pytest.mark.parametrize(("minutes", "got"), [(10, 5), (22, 5), (38.5, 2.5), (55, 0), (90, 0)])
def test_minutes_between_plumbs_path_and_the_whole_route(minutes: float, got: float) -> None:
    """22 = 1.1 · 20 are free; half-way to 55 is half of it."""
    worked = Worked(minutes=minutes, own_minutes=20.0, full_minutes=55.0)
    assert lines("01", Said(), worked)["minutes"] == got


@pytest.mark.parametrize(
    ("repair", "repaired", "got"),
    [("clean", (), 5.0), ("replace", (), 5.0), ("reshim", (), 5.0), ("clean", ("supply",), 0.0)],
)
def test_money_is_held_against_the_same_work(
    repair: str, repaired: tuple[str, ...], got: float
) -> None:
    """Dear work that helps costs no points, cheap work that does not help is not held against; a part too many is.

    20 min are 24; with a cleaning 48, with a supply put right that was sound 138, the whole route 90.
    """
    worked = Worked(minutes=20.0, own_minutes=20.0, full_minutes=55.0, repaired=repaired)
    said = Said(injectors={bad("01"): Judged("gives_less", repair)})
    assert lines("01", said, worked)["money"] == got


def test_a_hundred_wrongs_are_nought() -> None:
    """Nobody comes out below it."""
    everybody = {n: Judged("gives_more", "replace") for n in range(1, 5)}
    worked = Worked(minutes=300.0, own_minutes=20.0, full_minutes=55.0, hints=30)
    assert mark(engine_of(EXERCISES["01"]), Said(injectors=everybody), worked).points == 0.0


def test_every_condition_has_its_work() -> None:
    """What can be hidden in an injector can be put right."""
    for n in range(200):
        exercise = exercise_of(f"drawn-{n}")
        assert exercise is not None
        assert set(exercise.faults) <= FAULTS.keys() | IMITATORS.keys()
        assert set(engine_of(exercise).truth.values()) <= REPAIRS.keys()


@pytest.mark.parametrize("code", sorted(EXERCISES))
def test_each_of_the_thirty_is_solved_by_following_next(code: str) -> None:
    """From two other noises than they were chosen by; and it has something to complain of."""
    exercise = EXERCISES[code]
    assert engine_of(exercise).words
    for seed in (11, 12):
        outcome = follow(engine_of(exercise), seed)
        assert outcome.ended
        assert outcome.right, outcome.said


def test_an_engine_is_always_the_same_one() -> None:
    """Of the thirty and of those that are drawn; a code that is none gives none."""
    for code in ("07", "drawn-4711"):
        exercise = exercise_of(code)
        assert exercise is not None
        assert engine_of(exercise) == engine_of(exercise)
    assert {exercise_of(c) for c in ("31", "drawn-", "drawn-x", "", "drawn-12345678901")} == {None}
    drawn = {e.faults for n in range(60) if (e := exercise_of(f"drawn-{n}")) is not None}
    assert len(drawn) > 20
    assert () in drawn, "some have nothing wrong with them"
    assert np.ptp([engine_of(EXERCISES[c]).count for c in EXERCISES]) > 0


def test_a_danger_that_is_left_behind_costs() -> None:
    """The dripping one of 30: unfound it is said, and takes five of the ten for safety; found, nobody was in danger."""
    drips = bad("30")
    engine = engine_of(EXERCISES["30"])

    def safety(said: Said) -> dict[str, float]:
        return {x.why: x.got for x in mark(engine, said, QUICK).lines if x.what == "safety"}

    assert safety(Said()) == {
        f"{drips} was left dripping: fuel in its cylinder and in the oil": -5.0,
        "what is left of it stands above": 10.0,
    }
    found = Said(injectors={drips: Judged("leaks_at_tip", "replace")})
    assert safety(found) == {"nobody was in danger": 10.0}


def test_every_danger_of_the_engine_that_is_left_is_told() -> None:
    """A leak to the outside, and one that stands open; with everything missed no more is lost than there is."""
    engine = replace(
        engine_of(EXERCISES["01"]), causes={"outside_leak", "unions"}, truth={0: "stuck_open", 1: "leaks_at_tip"},
    )  # fmt: skip
    told = [x for x in mark(engine, Said(), QUICK).lines if x.what == "safety"]
    assert len(told) == 5
    assert sum(x.got for x in told) == 0.0
    named = Said(causes=frozenset({"outside_leak"}))
    assert not any("spark" in x.why for x in mark(engine, named, QUICK).lines)
