"""A thing is judged once: sheet and verdict say the same of an empty rail, an edge, an expected set."""

from dataclasses import replace

import pytest

from plumb.core.compare.drops.doubt import Doubt, doubt_of
from plumb.core.compare.seen import SeenSheet
from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.readings import Seen
from plumb.core.procedures import COMMAND, DROP
from plumb.core.weigh.job import analyse_sheet
from plumb.core.weigh.verdict import judge
from tests.core.jobs import drop, weigh


def test_a_rail_that_ran_empty_is_asked_for_a_shorter_burst_everywhere() -> None:
    """On its row, in the notes, and in its verdict; nobody is told to make it longer."""
    found = weigh(4, sheet := drop([26, 0.0, 26, 26.5]))
    result = analyse_sheet(sheet)
    row = result.findings[1]
    assert doubt_of(row) is Doubt.RAN_EMPTY or row.state is State.HIGH
    few = weigh(4, drop([0.0, 0.0, 0.0, 0.0]))
    for _, verdict in few.verdicts:
        assert "shorter burst" in verdict.because
        assert "longer" not in verdict.because
    assert not any("longer burst" in v.because for _, v in found.verdicts)


@pytest.mark.parametrize(
    ("u", "doubt"),
    [(0.026, Doubt.TOO_COARSE), (0.024, Doubt.ON_THE_EDGE), (None, Doubt.ON_THE_EDGE)],
)
def test_a_gauge_is_too_coarse_where_its_95_percent_fill_half_the_band(
    u: float | None, doubt: Doubt
) -> None:
    """Two standard uncertainties (JCGM 100:2008, 6.3.3) of 5 %, half of a band of 10 %."""
    row = analyse_sheet(drop([26, 26, 26.5, 26])).findings[0]
    open_ = replace(row, state=State.UNSETTLED, passes_to_settle=None, tolerance=0.10, u=u)
    assert doubt_of(open_) is doubt
    assert doubt_of(replace(open_, passes_to_settle=2)) is None


@pytest.mark.parametrize(
    ("ends", "said"),
    [([0.0] * 4, "Every burst emptied the rail"), ([26.0], "One injector alone")],
)
def test_the_headline_tells_an_empty_rail_from_one_that_is_alone(
    ends: list[float], said: str
) -> None:
    """Four empty bursts are not one injector alone."""
    result = analyse_sheet(drop(ends))
    assert DROP.headline(result, "psi")[0].text.startswith(said)
    assert DROP.under(result.findings[0], result, "psi") != ""


@pytest.mark.parametrize(
    ("expected", "call", "state"),
    [
        (24.0, 0.95, State.IN_PLUMB),
        (30.0, 0.95, State.LOW),
        (19.0, 0.95, State.HIGH),
        # A set on the edge of its tolerance: a shop that asks for less calls it.
        (26.2, 0.9999, State.UNSETTLED),
        (26.2, 0.51, State.LOW),
    ],
)
def test_the_set_is_judged_against_what_is_expected_by_the_shops_thresholds(
    expected: float, call: float, state: State
) -> None:
    """And the note and the fact follow that one judgement."""
    thresholds = Thresholds(call=call, clear=0.05)
    result = DROP.analyse(drop([26, 26, 26, 26], expected=expected), thresholds)
    assert result.set_state is state
    codes = {f.code for f in DROP.facts("s1", result)}
    wanted = {State.IN_PLUMB: "set_as_expected", State.LOW: "set_low", State.HIGH: "set_high"}
    told = {wanted[state]} if state in wanted else set()
    assert codes & set(wanted.values()) == told
    notes = [n for n in DROP.notes(result, "psi") if "expected" in n]
    assert len(notes) == 1
    assert ("not settled" in notes[0]) == (state is State.UNSETTLED)


@pytest.mark.parametrize(("volts", "weak"), [(11.9, True), (12.0, False), (13.8, False)])
def test_a_weak_supply_is_noted_and_weighed_alike(volts: float, weak: bool) -> None:  # noqa: FBT001
    """Below 12 V (common practice, no source)."""
    result = analyse_sheet(drop([26, 26, 26, 33], supply_v=volts))
    codes = {f.code for f in DROP.facts("s1", result)}
    assert ("tester_weak" in codes) == weak
    assert ("tester_good" in codes) != weak
    assert any("weak one makes good injectors" in n for n in DROP.notes(result, "psi")) == weak


@pytest.mark.parametrize(
    ("facts", "fuel_system", "open_"),
    [
        ("drop_low", "port", {"coil", "command", "tester_supply"}),
        ("bench_low", "port", {"coil"}),
        ("running_low", "direct", {"coil", "command", "compression"}),
        ("drop_high", "port", {"read_late", "leak_during_the_burst", "tip"}),
        ("running_high", "direct", {"tip"}),
        ("bench_high", "port", {"tip"}),
        ("returns_high", "common_rail", {"rail_pressure"}),
        ("returns_high", "mechanical_diesel", set()),
        ("opens_low", "mechanical_diesel", {"compression"}),
    ],
)
def test_only_what_could_imitate_what_was_measured_is_a_doubt(
    facts: str, fuel_system: str, open_: set[str]
) -> None:
    """A volume on a bench knows no tester, no late reading, no rail; common practice, no source."""
    assert set(judge(frozenset(facts.split()), fuel_system).not_ruled_out) == open_


@pytest.mark.parametrize(
    ("ends", "said"), [([26, 26], "Both are in plumb."), ([26, 26, 26], "All three are in plumb.")]
)
def test_counting_words_agree(ends: list[float], said: str) -> None:
    """Two are both, three are all."""
    told = "".join(s.text for s in DROP.headline(analyse_sheet(drop(ends)), "psi"))
    assert told == said


def test_one_that_was_looked_at_is_good() -> None:
    """Not: the one are."""
    seen = SeenSheet(kind="command", injectors=("1", "2"),
                     readings=(Seen(injector="1", word="blinks"),))  # fmt: skip
    told = "".join(s.text for s in COMMAND.headline(analyse_sheet(seen), ""))
    assert told == "The one looked at so far is good; one to go."
