"""Running balance and flow bench: the drop's comparison on other quantities."""

import pytest

from plumb.core.compare.bursts import Limits
from plumb.core.compare.drops.sheet import DropResult, DropSheet, analyse_drop
from plumb.core.compare.rules import RuleChoice
from plumb.core.measure.quantities import KPA_PER
from plumb.core.measure.readings import Noted
from plumb.core.procedures import FLOW_BENCH, RUNNING
from plumb.core.procedures.running.analysis import burst_of, outside_running
from tests.core.jobs import labels

PSI = KPA_PER["psi"]
# Eight rail drops of a direct-injection engine, the first suspected (common practice, no source).
EIGHT = [25.0, 31.0, 27.0, 32.0, 29.0, 32.0, 26.0, 33.0]


def running(drops: list[float], rail: float | None = 540.0, **more: object) -> DropResult:
    """A balance while idling, read to 0.5 psi."""
    readings = []
    for n, drop in enumerate(drops, 1):
        burst = burst_of(drop * PSI, None if rail is None else rail * PSI)
        readings.append(Noted(injector=str(n), number=1, first=burst.first, second=burst.second))
    given = {"step": 0.5 * PSI, "kind": RUNNING.code, **more}
    return analyse_drop(
        DropSheet(injectors=labels(len(drops)), readings=tuple(readings), **given)  # type: ignore[arg-type]
    )


def bench(volumes: list[float], **more: object) -> DropResult:
    """Volumes in ml to 0.5 ml."""
    readings = tuple(
        Noted(injector=str(n), number=1, first=v, second=0.0) for n, v in enumerate(volumes, 1)
    )
    given = {"step": 0.5, "kind": FLOW_BENCH.code, "linear": True, **more}
    return analyse_drop(
        DropSheet(injectors=labels(len(volumes)), readings=readings, **given)  # type: ignore[arg-type]
    )


def test_the_suspect_left_out_keeps_the_first_of_eight() -> None:
    """Mean of the others 30, +-20 % is 24 to 36 (common practice): the first is kept."""
    rule = RuleChoice(name="suspect_left_out", limits=Limits(suspect="1"))
    found = running(EIGHT, rule=rule)
    chosen = found.chosen
    assert chosen.centre == pytest.approx(30.0 * PSI)
    assert "1" not in chosen.reject


@pytest.mark.parametrize("rail", [300.0, 540.0, None])
def test_small_drops_on_a_high_rail_are_nearly_linear(rail: float | None) -> None:
    """The index's deviation is that of the drop itself, within a per cent of it."""
    found = running([28.0, 28.0, 28.0, 22.4], rail=rail)
    assert found.findings[3].deviation == pytest.approx(-0.20, abs=0.01)


@pytest.mark.parametrize(
    ("given", "named"),
    [
        ({"low_side": 65.0, "lost": 2.0, "rail": 500.0}, []),
        ({"low_side": 40.0, "lost": 2.0, "rail": 500.0}, ["low side is"]),
        ({"low_side": 65.0, "lost": 6.0, "rail": 500.0}, ["loses"]),
        ({"low_side": 65.0, "lost": 5.0, "rail": 800.0}, ["rail is"]),
        ({"low_side": 90.0, "lost": 9.0, "rail": 100.0}, ["low side is", "rail is", "loses"]),
        ({"low_side": None, "lost": None, "rail": None}, []),
    ],
)
def test_entry_conditions(given: dict[str, float | None], named: list[str]) -> None:
    """46 to 84 psi and at most 5 psi lost in a minute, 276 to 725 psi (common practice)."""
    kpa = {k: None if v is None else v * PSI for k, v in given.items()}
    found = outside_running(**kpa, unit="psi")  # type: ignore[arg-type]
    assert len(found) == len(named)
    assert all(any(n in reason for reason in found) for n in named)


def test_volumes_are_proportional_to_what_passed() -> None:
    """25 % less volume is 25 % less, whatever the root law says of pressures."""
    found = bench([60.0, 60.0, 45.0, 60.5])
    assert found.findings[2].deviation == pytest.approx(45.0 / 60.1667 - 1.0, abs=1e-3)
    assert found.findings[2].state.value == "low"
    assert found.limit_in_flow is None


def test_rules_with_a_pressure_limit_need_one_in_ml() -> None:
    """1.5 psi means nothing to a tube; 5 ml does."""
    found = bench([60.0, 60.0, 52.0, 60.0])
    plain = next(o for o in found.rules() if o.rule == "plain_mean")
    assert not plain.applies
    assert "unit" in plain.reason
    stated = bench(
        [60.0, 60.0, 52.0, 60.0], rule=RuleChoice(name="plain_mean", limits=Limits(limit=5.0))
    )
    assert stated.chosen.reject == ("3",)
    by_flow = bench([60.0, 60.0, 52.0, 60.0], rule=RuleChoice(limits=Limits(limit=3.0)))
    assert by_flow.tolerance == pytest.approx(3.0 / 60.0)


def test_a_tube_that_stays_empty_is_no_response() -> None:
    """Nothing beyond what the tube could show."""
    assert bench([60.0, 61.0, 0.0, 60.0]).findings[2].state.value == "no_response"


def test_a_limit_in_ml_survives_a_bench_that_gives_nothing() -> None:
    """Every tube empty: a share of nothing is no tolerance, and all of them did not respond."""
    found = bench([0.0, 0.0, 0.0], rule=RuleChoice(limits=Limits(limit=3.0)))
    assert {f.state.value for f in found.findings} == {"no_response"}
