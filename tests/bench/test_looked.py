"""What a person sees at a hidden engine, held against what is hidden in it."""

import re

import numpy as np
import pytest

from plumb.bench.engines.gauges import Bench
from plumb.bench.engines.hidden import SYSTEMS, Hidden, draw, good
from plumb.bench.engines.looked import MAKER, Look, looked, steps_of, tried
from plumb.core.procedures import route


def bench(system: str, *faults: str, count: int = 4, seed: int = 5) -> Bench:
    """An engine with these faults."""
    engine = draw(np.random.default_rng(seed), system, faults, count=count)
    return Bench(engine, np.random.default_rng(1))


def rows(looks: list[Look]) -> dict[str, str]:
    """By row; what the maker says is no row."""
    return {look.row: look.text for look in looks if look.row not in {MAKER, ""}}


def first(text: str) -> float:
    """The first figure in some words."""
    found = re.search(r"-?\d+(\.\d+)?", text)
    assert found is not None, text
    return float(found[0])


@pytest.mark.parametrize("system", SYSTEMS)
def test_every_sheet_of_every_route_can_be_looked_at(system: str) -> None:
    """Whole, and row by row where its rows are injectors; nothing is said of those not asked for."""
    one = bench(system)
    for kind in route(system):
        seen = rows(looked(one, kind.code))
        assert seen, kind.code
        if {"1", "2", "3", "4"} <= seen.keys():
            assert rows(looked(one, kind.code, ["3"])).keys() & set("124") == set()


def test_coils_are_read_with_their_leads() -> None:
    """20 hundredths of an ohm more than the coil; an open one reads over."""
    one = bench("port", "coil open")
    seen = rows(looked(one, "coil_resistance"))
    for n, coil in enumerate(one.engine.coil, 1):
        if np.isinf(coil):
            assert seen[str(n)] == "OL"
        else:
            assert first(seen[str(n)]) == pytest.approx(coil + 0.2, abs=0.1)


def test_pressures_and_volumes_are_those_of_the_engine() -> None:
    """A weak supply under the maker's window; returns and openings by injector."""
    weak = bench("port", "supply")
    told = looked(weak, "supply_pressure")
    key_on = first(rows(told)["Key on"])
    assert key_on == pytest.approx(300.0 / 6.894757 * weak.engine.supply, abs=1.0)
    maker = next(look.text for look in told if look.row == MAKER)
    low, high = map(float, re.findall(r"\d+\.\d", maker))
    assert key_on < low
    assert (low + high) / 2.0 == pytest.approx(300.0 / 6.894757, abs=0.5)
    diesel = bench("common_rail", "returns")
    for n, back in enumerate(diesel.engine.back, 1):
        share = 1.0 if diesel.engine.starts else 0.5
        assert first(rows(looked(diesel, "return_volume"))[str(n)]) == pytest.approx(back * share, abs=2.0)  # fmt: skip
    nozzles = bench("mechanical_diesel", "opens late")
    for n, opens in enumerate(nozzles.engine.opens, 1):
        assert first(rows(looked(nozzles, "opening_pressure"))[str(n)]) == pytest.approx(opens / 100.0, abs=3.0)  # fmt: skip


def test_a_recorded_rail_comes_as_a_file() -> None:
    """Twenty seconds with what was wanted; a surging one swings by sixty bar either way."""
    engine: Hidden = good(np.random.default_rng(2), "common_rail", count=4)
    engine.rail = "surges"
    recorded = next(look for look in looked(Bench(engine, np.random.default_rng(3)), "rail_pressure") if look.file)  # fmt: skip
    lines = recorded.file.strip().split("\n")
    assert lines[0] == "time_s,rail_wanted_kPa,rail_actual_kPa"
    actual = np.array([float(line.split(",")[2]) for line in lines[1:]])
    assert float(lines[-1].split(",")[0]) == pytest.approx(20.0, abs=0.1)
    assert np.ptp(actual) == pytest.approx(12_000.0, rel=0.2)


@pytest.mark.parametrize(
    ("fault", "step", "seen"),
    [("regulator leaks", "clamp_return", "holds"), ("regulator leaks", "clamp_supply", "falls"),
     ("check valve", "clamp_supply", "holds"), ("drips", "tips", "wet"), ("diaphragm", "vacuum_hose", "wet"),
     ("leak outside", "outside", "wet"), ("check valve", "tips", "dry")],
)  # fmt: skip
def test_where_a_hold_goes_is_seen_step_by_step(fault: str, step: str, seen: str) -> None:
    """The hold need not be watched before somebody tries."""
    look = tried(bench("port", fault), step)
    assert (look.row, look.text) == (steps_of("low")[step], seen)
