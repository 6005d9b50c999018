"""Supply pressure, walk-round, command and tips: what is noted before an injector is measured."""

import pytest

from plumb.core.compare.seen import SeenSheet
from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.quantities import KPA_PER
from plumb.core.measure.readings import Seen, Window
from plumb.core.procedures import COMMAND, TIPS, AnyKind
from plumb.core.procedures.supply.analysis import SupplyResult, SupplySheet, analyse_supply
from plumb.core.procedures.supply.facts import facts
from plumb.core.procedures.supply.words import headline, notes
from plumb.core.procedures.walk.analysis import WalkSheet, analyse_walk

PSI = KPA_PER["psi"]


def supply(pump: str = "runs", **psi: float) -> SupplyResult:
    """Key on 48 to 55, running 38 to 46 psi, read to 0.5 psi."""
    windows = (
        ("key_on", Window(low=48 * PSI, high=55 * PSI)),
        ("running", Window(low=38 * PSI, high=46 * PSI)),
    )
    readings = tuple((state, value * PSI) for state, value in psi.items())
    return analyse_supply(
        SupplySheet(readings=readings, step=0.5 * PSI, windows=windows, pump=pump)
    )


@pytest.mark.parametrize(
    ("psi", "states"),
    [
        ({"key_on": 50.5, "running": 42.0}, ["in_plumb", "in_plumb", "not_judged"]),
        ({"key_on": 44.0}, ["low", "not_judged", "not_judged"]),
        ({"key_on": 50.5, "running": 52.0}, ["in_plumb", "high", "not_judged"]),
        ({"key_on": 48.0}, ["unsettled", "not_judged", "not_judged"]),
    ],
)
def test_each_state_has_its_own_window(psi: dict[str, float], states: list[str]) -> None:
    """At the limit the gauge's step cannot tell."""
    assert [f.state.value for f in supply(**psi).findings] == states


@pytest.mark.parametrize(
    ("running", "hose_off", "answers"),
    [
        (42.0, 50.0, True),
        (42.0, 43.2, True),
        (42.0, 43.0, False),
        (42.0, 42.0, False),
        (42.0, 38.0, False),
    ],
)
def test_the_regulator_answers_to_its_hose(
    running: float,
    hose_off: float,
    answers: bool,  # noqa: FBT001
) -> None:
    """It rises when the hose comes off (common practice); two steps of the gauge are no answer yet."""
    assert supply(running=running, hose_off=hose_off).regulator_answers is answers
    assert supply(running=running).regulator_answers is None


@pytest.mark.parametrize(
    ("pump", "key_on", "ends"),
    [("runs", 50.0, False), ("clicks_only", 50.0, True), ("silent", 0.0, True), ("runs", 0.5, True),
     ("", 50.0, False)],
)  # fmt: skip
def test_no_motor_sound_or_no_pressure_ends_the_injector_work(
    pump: str,
    key_on: float,
    ends: bool,  # noqa: FBT001
) -> None:
    """The relay clicks but the motor is silent (common practice); less than two steps is nothing."""
    assert supply(pump=pump, key_on=key_on).ends_here is ends


def test_it_passes_only_with_something_read_and_nothing_out() -> None:
    """An empty sheet has not passed."""
    assert supply(key_on=50.0).passed
    assert not supply().passed
    assert not supply(key_on=40.0).passed


def test_a_pump_that_was_listened_to_is_a_beginning() -> None:
    """So is a figure; an empty sheet is none."""
    nothing = SupplySheet(readings=(), step=0.5 * PSI, windows=(), pump="")
    assert not analyse_supply(nothing).begun
    assert supply(pump="runs").begun
    assert supply(pump="", key_on=50.0).begun


@pytest.mark.parametrize(
    ("sheet", "begun", "passed"),
    [
        (WalkSheet(), False, False),
        (WalkSheet(hose="dry", connectors="good"), True, True),
        (WalkSheet(hose="damp", connectors="good"), True, True),
        (WalkSheet(hose="wet", connectors="good"), True, False),
        (WalkSheet(hose="dry", connectors="broken"), True, False),
        (WalkSheet(codes=("P0304",)), True, False),
    ],
)
def test_the_walk_round(
    sheet: WalkSheet,
    begun: bool,  # noqa: FBT001
    passed: bool,  # noqa: FBT001
) -> None:
    """Slight dampness is told to the customer; fuel in the hose is a torn diaphragm."""
    found = analyse_walk(sheet)
    assert (found.begun, found.passed) == (begun, passed)


@pytest.mark.parametrize(("kind", "wanted"), [(COMMAND, "blinks"), (TIPS, "dry")])
def test_every_word_that_can_be_typed_reads_as_something_and_only_one_is_good(
    kind: AnyKind, wanted: str
) -> None:
    """Blinks, and dry; all others lean one way or are no response."""
    good = []
    for word, _ in kind.entry.words:
        seen = (Seen(injector="1", word=word),)
        sheet = SeenSheet(kind=kind.code, injectors=("1",), readings=seen)
        state = kind.analyse(sheet, Thresholds()).findings[0].state
        assert state is not State.NOT_JUDGED
        good += [word] if state is State.IN_PLUMB else []
    assert good == [wanted]


def test_the_last_word_counts_and_an_unseen_one_holds_back() -> None:
    """Looked at again; one not looked at at all."""
    seen = (Seen(injector="1", word="dark"), Seen(injector="1", word="blinks"))
    sheet = SeenSheet(kind=COMMAND.code, injectors=("1", "2"), readings=seen)
    found = COMMAND.analyse(sheet, Thresholds())
    assert dict(found.words) == {"1": "blinks", "2": ""}
    assert not found.passed


@pytest.mark.parametrize(
    ("pump", "volts", "leads"),
    [
        ("clicks_only", None, "the volts at its plug tell which"),
        ("clicks_only", 11.8, "the pump itself or its ground"),
        ("clicks_only", 10.0, "the pump itself or its ground"),
        ("clicks_only", 9.9, "a bad contact or wire on the way"),
        ("clicks_only", 1.0, "a bad contact or wire on the way"),
        ("clicks_only", 0.9, "its contacts, the fuse or the wire behind them"),
        ("silent", 0.0, "what switches the relay"),
        ("silent", 12.1, "the pump itself or its ground"),
    ],
)
def test_a_pump_that_does_not_run_is_followed_by_its_volts(
    pump: str, volts: float | None, leads: str
) -> None:
    """Silent, clicks, no volts (common practice, no source): headline and fact lead to the same place."""
    found = analyse_supply(SupplySheet(readings=(), step=PSI, pump=pump, pump_v=volts))
    assert found.ends_here
    assert leads in "".join(s.text for s in headline(found, "psi"))
    (fact,) = facts("s1", found)
    assert fact.code == "no_supply"
    assert (leads in fact.text) is (volts is not None)


@pytest.mark.parametrize(("volts", "told"), [(9.1, True), (10.0, False), (None, False)])
def test_a_pump_that_runs_on_too_few_volts_is_not_blamed(volts: float | None, told: bool) -> None:  # noqa: FBT001
    """Low pressure at 9 V is the feed's (common practice, no source)."""
    found = analyse_supply(
        SupplySheet(readings=(("running", 30 * PSI),), step=PSI, pump="runs", pump_v=volts)
    )
    assert not found.ends_here
    assert any("before the pump is blamed" in note for note in notes(found, "psi")) is told


def test_volts_alone_are_a_beginning() -> None:
    """The sheet is begun by them."""
    assert analyse_supply(SupplySheet(readings=(), step=PSI, pump_v=0.0)).begun
