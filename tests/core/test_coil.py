"""Coils: copper from the standard, windows at their own temperature, spread, shorts, leads."""

import pytest

from plumb.core.compare.bursts import Limits
from plumb.core.compare.rules import RuleChoice
from plumb.core.measure.decision import State
from plumb.core.measure.readings import Mark, Value, Window
from plumb.core.procedures import BY_CODE
from plumb.core.procedures.coils.analysis import (
    VOLTAGE,
    CoilSheet,
    Meter,
    analyse_coils,
    at,
    at_20,
    held_at,
    range_of_tester,
)
from plumb.core.weigh.job import Job, analyse_job
from tests.core.jobs import coils as coil_sheet
from tests.core.jobs import labels

# IEC 60028 (0.00393 per K) from 12.0 ohm at 20 degC.
COPPER = {
    -10: 10.5852,
    0: 11.0568,
    25: 12.2358,
    40: 12.9432,
    75: 14.5938,
    90: 15.3012,
    120: 16.7160,
}


def coils(values: list[float | None], **more: object) -> CoilSheet:
    """A sheet of one reading a coil; None is an overload."""
    readings = tuple(
        Value(injector=str(n), number=1, value=v, mark=None if v is not None else Mark.OVER)
        for n, v in enumerate(values, 1)
    )
    labels = tuple(str(n) for n in range(1, len(values) + 1))
    given = {"meter": Meter(step=0.1), **more}
    return CoilSheet(injectors=labels, readings=readings, **given)  # type: ignore[arg-type]


def states(sheet: CoilSheet) -> list[str]:
    """What each coil reads as."""
    return [f.state.value for f in analyse_coils(sheet).findings]


@pytest.mark.parametrize(("celsius", "ohm"), COPPER.items())
def test_copper_follows_the_standard(celsius: float, ohm: float) -> None:
    """IEC 60028, both ways."""
    assert at(12.0, celsius) == pytest.approx(ohm, abs=5e-5)
    assert at_20(ohm, celsius) == pytest.approx(12.0, abs=5e-5)


@pytest.mark.parametrize("celsius", [-10, 0, 25, 40, 75, 90, 120])
def test_copper_agrees_with_the_machine_standard(celsius: float) -> None:
    """IEC 60034-1 and IEEE 118 use (234.5 + T) / 254.5: within 5.3e-5 of it."""
    assert at(1.0, celsius) == pytest.approx((234.5 + celsius) / 254.5, rel=5.3e-5)


def test_a_length_of_wire_from_the_copper_table() -> None:
    """Copper wire table (print, from memory): 1000 ft of AWG 30 are 103.2 ohm at 20 degC."""
    warm = at(103.2, 60.0)
    assert at_20(warm, 60.0) == pytest.approx(103.2)
    assert warm > 103.2 * 1.15


def test_hot_coils_are_not_thrown_away() -> None:
    """All 15.3 ohm at 90 degC against 11 to 14 at 10 to 32 degC (common practice): in plumb."""
    window = Window(low=11.0, high=14.0, spread=3.0)
    sheet = coils(
        [15.3] * 4, temperature_c=90.0, window=window, window_from_c=10.0, window_to_c=32.0
    )
    assert held_at(sheet) == 32.0
    assert states(sheet) == ["in_plumb"] * 4
    raw = coils([15.3] * 4, window=window)
    assert states(raw) == ["high"] * 4


@pytest.mark.parametrize(
    ("celsius", "where"), [(5.0, 10.0), (20.0, 20.0), (31.0, 31.0), (90.0, 32.0)]
)
def test_the_window_is_held_at_its_nearest_temperature(celsius: float, where: float) -> None:
    """Inside its range nothing is moved; outside, to the nearer end."""
    sheet = coils([12.0], temperature_c=celsius, window_from_c=10.0, window_to_c=32.0)
    assert held_at(sheet) == where


def test_leads_are_taken_off_low_ohm_coils() -> None:
    """0.4 ohm of leads on 1.8 ohm coils would push them out of 1.2 to 2.0 (common practice)."""
    window = Window(low=1.2, high=2.0)
    with_leads = coils([2.2] * 4, meter=Meter(step=0.1, lead=0.4), window=window)
    assert states(with_leads) == ["in_plumb"] * 4
    assert states(coils([2.3] * 4, window=window)) == ["high"] * 4


@pytest.mark.parametrize(
    ("ohm", "wanted"), [(1.2, "high"), (1.8, "high"), (1.81, "low"), (16.5, "low")]
)
def test_the_testers_current_range(ohm: float, wanted: str) -> None:
    """At or below 1.8 ohm the high range, above it the low one (common practice)."""
    assert range_of_tester(ohm) == wanted


def test_open_and_shorted_coils() -> None:
    """An overload is open; below half of the window turns are shorted."""
    window = Window(low=11.0, high=14.0)
    found = analyse_coils(coils([12.4, None, 12.5, 4.0], window=window))
    assert [f.state for f in found.findings] == [
        State.IN_PLUMB, State.OPEN, State.IN_PLUMB, State.LOW]  # fmt: skip
    assert found.shorted == ("4",)
    alone = analyse_coils(coils([12.4, 12.3, 12.5, 4.0]))
    assert alone.shorted == ("4",)


def test_the_spread_of_a_set_has_a_limit_of_its_own() -> None:
    """3 ohm at most across the set (common practice): all inside the window, one too far off."""
    window = Window(low=11.0, high=17.0, spread=3.0)
    found = analyse_coils(coils([12.0, 12.1, 12.2, 15.9], window=window))
    assert [f.state.value for f in found.findings] == ["in_plumb"] * 3 + ["high"]
    assert found.compared.spread == pytest.approx(3.9)
    close = analyse_coils(coils([12.0, 12.1, 12.2, 14.5], window=window))
    assert close.passed


def test_a_reading_at_the_limit_is_not_settled() -> None:
    """The meter's step cannot tell 14.0 from just above it."""
    assert (
        states(coils([14.0, 12.5, 12.5, 12.5], window=Window(low=11.0, high=14.0)))[0]
        == "unsettled"
    )


def test_two_halves_are_split_unless_a_window_says_which() -> None:
    """Comparing alone cannot tell; a window can."""
    assert set(states(coils([12.0, 12.1, 16.0, 16.1]))) == {"split"}
    told = states(coils([12.0, 12.1, 16.0, 16.1], window=Window(low=15.0, high=17.0)))
    assert told == ["low", "low", "in_plumb", "in_plumb"]


def test_the_meters_class_counts_against_a_window_only() -> None:
    """+-2 % on 13.9 of 14: not settled; between neighbours it cancels."""
    meter = Meter(step=0.01, percent=2.0)
    window = Window(low=11.0, high=14.0)
    found = analyse_coils(coils([13.9] * 4, meter=meter, window=window))
    assert {f.state for f in found.findings} == {State.UNSETTLED}
    assert {f.state for f in analyse_coils(coils([13.9] * 4, meter=meter)).findings} == {
        State.IN_PLUMB}  # fmt: skip


@pytest.mark.parametrize(
    ("meter", "wide"),
    [
        (Meter(step=0.01), 0.0),
        (Meter(step=0.01, percent=1.0), 0.05),
        (Meter(step=0.01, counts=3.0), 0.03),
        (Meter(step=0.01, percent=1.0, counts=3.0), 0.08),
    ],
)
def test_a_meters_class_is_a_share_of_the_reading_and_so_many_counts(
    meter: Meter, wide: float
) -> None:
    """As meters are specified, evenly spread between the two limits (JCGM 100:2008, 4.3.7): at 5 V."""
    coil = analyse_coils(coils([5.0, 5.0], kind=VOLTAGE, meter=meter)).coils[0]
    assert coil.u_common == pytest.approx(wide / 3**0.5)


def test_voltage_drops_are_compared_without_a_temperature() -> None:
    """The same current through each; one 0.9 V above the others, 0.3 V allowed."""
    sheet = coils(
        [5.2, 5.22, 6.1, 5.19], kind=VOLTAGE, meter=Meter(step=0.01), window=Window(spread=0.3)
    )
    assert states(sheet) == ["in_plumb", "in_plumb", "high", "in_plumb"]
    assert analyse_coils(sheet).range is None


def test_an_unknown_temperature_corrects_nothing() -> None:
    """Compared as read."""
    found = analyse_coils(coils([12.0, 12.1]))
    assert found.held_at_c is None
    assert [c.at_20 for c in found.coils] == [12.0, 12.1]


def test_one_coil_alone_has_nothing_to_be_compared_with() -> None:
    """Without a window."""
    assert states(coils([12.0])) == ["not_judged"]


def test_another_rule_may_decide_between_neighbours() -> None:
    """Plain mean with 1 ohm; a coil that its window has called stays called."""
    ohms: list[float | None] = [12.0, 12.1, 12.0, 14.0]
    rule = RuleChoice(name="plain_mean", limits=Limits(limit=1.0))
    assert states(coils(ohms, rule=rule)) == ["in_plumb"] * 3 + ["high"]
    wide = RuleChoice(name="plain_mean", limits=Limits(limit=3.0))
    assert states(coils(ohms, rule=wide)) == ["in_plumb"] * 4
    assert states(coils(ohms, rule=wide, window=Window(low=11.0, high=13.0)))[3] == "high"
    near = RuleChoice(limits=Limits(tolerance=0.30))
    assert states(coils(ohms, rule=near)) == ["in_plumb"] * 4


def test_a_coil_without_its_temperature_is_told_as_read() -> None:
    """Nobody knows what it has at 20 degrees; with a temperature noted it is said."""
    for temperature, words in ((None, "as read"), (60.0, "at 20 °C")):
        result = analyse_job(
            Job(
                injectors=labels(4),
                sheets=(("c", coil_sheet([14.2] * 4, temperature_c=temperature)),),
            )
        )
        texts = [f.text for f in result.facts if f.injector]
        assert texts
        assert all(text.endswith(words) for text in texts)
        other = "at 20" if temperature is None else "as read"
        found = result.sheets[0][1]
        said = [BY_CODE[found.kind].because(f, found, "ohm") for f in found.findings]
        assert all(words in text and other not in text for text in said)
