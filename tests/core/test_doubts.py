"""A thing is judged once: sheet and verdict say the same of an empty rail, an edge, an expected set."""

from dataclasses import replace

import pytest

from plumb.core.compare.drops.sheet import Doubt, doubt_of
from plumb.core.compare.seen import SeenSheet
from plumb.core.measure.decision import State
from plumb.core.measure.readings import Seen
from plumb.core.procedures import COMMAND, DROP
from plumb.core.weigh.job import analyse_sheet
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
