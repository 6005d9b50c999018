"""What had no place: second figures of a correction, a rail's swing by eye, how fast a nozzle loses pressure.

Figures are of the trade, common practice, no source; the arithmetic is done by hand beside each.
"""

from typing import Any

import numpy as np
import pytest

from plumb.core.measure.problems import PlumbError
from plumb.core.procedures import kind_of
from plumb.core.procedures.opening.held import Held
from plumb.core.procedures.rail.together import beside_the_rail, goes_with
from tests.core.job_files import headline, job, notes, values
from tests.core.test_rounds import nozzles


def rail(swing: dict[str, float] | None, wanted: float | None = 300.0) -> Any:
    """A rail at idle, watched: the figure that was read is the one wanted."""
    rows = [] if wanted is None else [{"state": "idle", "wanted": wanted, "actual": wanted}]
    sheet = {"kind": "rail_pressure", "unit": "bar", "engine": {"state": "idle"}, "readings": rows}
    return job("common_rail", 4, "surges", sheet | ({"swing": swing} if swing else {}))


@pytest.mark.parametrize(
    ("low", "high", "surges"),
    [(269.0, 331.0, True), (270.0, 330.0, False), (200.0, 262.0, True), (295.0, 305.0, False)],
)
def test_a_rail_that_somebody_saw_swing(low: float, high: float, *, surges: bool) -> None:
    """Wanted 300 bar: a tenth is 30 to either side of its middle, wherever that lies."""
    told = rail({"low": low, "high": high})
    code = "rail_surges" if surges else "rail_good"
    assert [f.code for f in told.now.facts if f.code.startswith("rail_")] == [code]
    found = {c.fault.code for c in told.now.diagnosis.found}
    assert ("rail_control" in found) is surges
    if surges:
        assert f"{high - low:g} bar from low to high, as it was seen" in headline(told.now, "s1")
        off = (low + high) / 2 - 300
        assert ("below on average" in headline(told.now, "s1")) is (off < -3)
    else:
        assert f"between {low:g} bar and {high:g} bar" in notes(told.now, "s1")


def test_without_a_wanted_figure_the_middle_counts_and_without_a_swing_no_surge_is_told() -> None:
    """250 to 350: 50 of 300 is a sixth.  A figure that stands still says nothing of a surge."""
    assert "surges" in headline(rail({"low": 250, "high": 350}, None).now, "s1")
    assert "show no surge" in notes(rail(None).now, "s1")
    with pytest.raises(PlumbError, match="the lowest is not above the highest"):
        rail({"low": 310, "high": 290})


def test_channels_that_go_together_whatever_the_sign_and_within_a_second() -> None:
    """A sine against itself: 1 at once and a second late, cos(2 pi f tau) beyond that; against one of another pitch next to 0."""
    t = np.arange(0.0, 40.0, 0.05)
    wave = np.sin(2.0 * np.pi * 0.25 * t)
    assert goes_with(wave, -2.0 * wave, 20.0) == pytest.approx(1.0)
    assert goes_with(wave, np.roll(wave, 18), 20.0) == pytest.approx(1.0, abs=0.03)
    slow, late = (np.sin(2.0 * np.pi * 0.1 * (t - by)) for by in (0.0, 2.0))
    assert goes_with(slow, late, 20.0) == pytest.approx(np.cos(2.0 * np.pi * 0.1), abs=0.03)
    assert goes_with(wave, np.sin(2.0 * np.pi * 0.9 * t), 20.0) < 0.2
    assert goes_with(wave, np.zeros_like(wave), 20.0) == 0.0
    (one,) = beside_the_rail(wave, {"3": 5.0 + 2.0 * wave}, 20.0)
    assert (one.injector, one.goes) == ("3", True)
    # The middle 90 % of a sine: 2 a sin(0.45 pi).
    assert one.swing == pytest.approx(4.0 * np.sin(0.45 * np.pi), rel=0.01)


def corrections(beside: dict[str, Any]) -> Any:
    """Cylinder 1 asks for far more by quantity, beside that these."""
    first = values("correction", "mm3", 0.1, [8.0, -2.5, -3.0, -2.5])
    return job("common_rail", 4, "rough idle", first | {"beside": beside})


def test_second_figures_stand_beside_the_first_and_are_judged_by_themselves() -> None:
    """0.61 ms agree; 1.12 is 84 % above them and says the same of cylinder 1; 0.62 says it does not."""
    same = corrections({"unit": "ms", "values": [1.12, 0.61, 0.60, 0.62]})
    result: Any = dict(same.now.sheets)["s1"]
    assert result.differ == ()
    assert "1.12 ms beside it" in kind_of(result).because(result.findings[0], result, "mm3")
    assert kind_of(result).under(result.findings[0], result, "mm3") == "1.12 ms beside it"
    assert result.beside is not None
    assert result.beside.apart == pytest.approx(0.062)
    other = corrections({"unit": "ms", "values": [0.62, 0.61, 1.12, 0.60]})
    result = dict(other.now.sheets)["s1"]
    assert result.differ == ("1", "3")
    told = notes(other.now, "s1")
    assert "By quantity 1 is weak; by on-time beside it 3 is weak. Look again at 1 and 3" in told
    few = corrections({"unit": "ms", "values": [1.12, 0.61, 0.60]})
    assert "Second figures of 3 of 4 cylinders" in notes(few.now, "s1")
    with pytest.raises(PlumbError, match="at most a figure for each of 4 cylinders"):
        corrections({"values": [1, 1, 1, 1, 1]})


def held(**how: Any) -> Any:
    """Four nozzles that open where they should, dry, held for ten seconds."""
    return job("mechanical_diesel", 4, "black smoke", nozzles(0, {}) | {"held": how})


def test_a_nozzle_that_loses_pressure_faster_than_its_maker_allows() -> None:
    """40 psi in ten seconds where 20 are allowed: its needle lets by, though its seat is dry."""
    told = held(lost=[12, 10, 40, 20], at_most=20)
    verdicts = dict(told.now.verdicts)
    assert [verdicts[x].condition for x in "1234"] == ["sound", "sound", "seat_leaks", "sound"]
    assert verdicts["3"].action == "clean_and_repeat"
    assert headline(told.now, "s1") == "3: loses pressure."


def test_without_a_limit_it_is_told_beside_the_others_and_nobody_is_condemned() -> None:
    """The middle of 12, 10, 40, 11 is 11.5: 40 is more than twice that, 12 is not."""
    told = held(lost=[12, 10, 40, 11])
    assert {v.condition for _, v in told.now.verdicts} == {"sound"}
    assert "3 loses over twice" in notes(told.now, "s1")
    assert Held(for_s=10.0, lost=(("1", 1.0), ("2", 2.0), ("3", 4.0))).apart == ()
    assert Held(for_s=10.0, lost=(("1", 1.0), ("2", 2.0), ("3", 4.1))).apart == ("3",)
    assert Held(for_s=10.0, lost=(("1", 1.0), ("2", 9.0))).apart == ()
    with pytest.raises(PlumbError, match="at most a figure for each of the 4 nozzles"):
        held(lost=[1, 2, 3, 4, 5])
