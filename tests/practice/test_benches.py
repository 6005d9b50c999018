"""The bench of a run: its instruments, what outlives the server, and how many stand at once."""

import math
from typing import Any

import pytest
from sqlalchemy import Engine
from tests.practice.conftest import School, Trainee
from tests.virtual_time import VirtualTime

from plumb.devices.address import address_of
from plumb.devices.scpi import Line
from plumb.service.practice.world import MOST_SET_UP, World


def test_two_benches_have_instruments_of_their_own(school: School) -> None:
    """A sheet is offered those of its own engine; a burst fired through the box counts like one by hand."""
    one, two = school.begin("01"), school.begin("05", by="Tomas R.")

    def offer(run: Trainee) -> dict[str, Any]:
        key = run.sheet("pressure_drop")
        path = f"/practice/api/sheets/{run.sheets[key]['id']}/capture/offer"
        made: dict[str, Any] = school.client.get(path).json()
        return made

    first, second = offer(one), offer(two)
    assert first["why_not"] == second["why_not"] == ""
    assert first["address"] != second["address"]
    gauge = Line(address_of(first["address"]))
    assert float(gauge.ask("MEAS:PRES?")) == pytest.approx(0.0, abs=0.3)
    refused = one.act("wait", 409, seconds=10.0)
    assert (
        "real time" in refused["problems"][0]["rule"] or "capture" in refused["problems"][0]["rule"]
    )
    gauge.close()
    assert two.now()["minutes"] == 2 + 3 + 6 * 1.5


def test_a_capture_is_paid_and_watched_too(
    school: School, practice: Engine, virtual_time: VirtualTime
) -> None:
    """Two bursts of the box at one injector: a repeat to pay, and a danger."""
    run = school.begin("01")
    key = run.sheet("pressure_drop")
    world: World = school.client.app.state.world  # type: ignore[attr-defined]
    assert world.engine is practice
    minutes = run.now()["minutes"]
    box = Line(address_of(world._benches[run.number].addresses["box"]))
    box.tell("OUTP:PUMP ON")
    box.tell("ROUT:CLOS (@2)")
    for _ in range(2):
        box.tell("INIT")
        assert box.ask("SYST:ERR?").startswith("0,")
        virtual_time.sleep(1.1)
        assert box.ask("*OPC?") == "1"
    box.close()
    now = run.now()
    assert now["minutes"] == minutes + 1.5
    assert ["second burst at 2" in i["what"] for i in now["incidents"]] == [True]
    assert run.sheets[key]["kind"] == "pressure_drop"


def test_what_is_left_to_a_person_while_an_instrument_reads(
    school: School, virtual_time: VirtualTime
) -> None:
    """A stroke of the hand pump, a tube on the scale, a clip on a coil: the instrument then shows that injector."""
    run = school.begin("24")
    world: World = school.client.app.state.world  # type: ignore[attr-defined]
    bench = world._benches[run.number]
    key = run.sheet("opening_pressure")
    pump = Line(address_of(bench.addresses["handpump"]))
    assert float(pump.ask("MEAS:PRES?")) == pytest.approx(0.0, abs=0.5)
    seen = run.seen(key, "2")["2"]
    assert f"seat {bench.hidden.seat[1]}" in seen
    assert f"spray {bench.hidden.spray[1]}" in seen
    virtual_time.sleep(1.2)
    lifted = float(pump.ask("MEAS:PRES?"))
    assert lifted > 0.75 * bench.hidden.opens[1] / 100.0
    pump.close()
    petrol = school.begin("03")
    bench = world._benches[petrol.number]
    key = petrol.sheet("coil_resistance")
    meter = Line(address_of(bench.addresses["meter"]))
    meter.ask("*IDN?")
    for row, coil in enumerate(bench.hidden.coil, 1):
        petrol.act("look", sheet=key, rows=[str(row)])
        shown = float(meter.ask("MEAS:RES?"))
        assert shown > 1e30 if math.isinf(coil) else shown == pytest.approx(coil + 0.2, abs=0.05)
    meter.close()


def test_what_was_done_outlives_the_server(school: School) -> None:
    """Put away and set up again: the engine is as it was left overnight, what it cost is kept."""
    run = school.begin("07")
    run.act("repair", name="pump")
    run.act("relieve")
    run.act("lift")
    before = run.now()
    school.client.app.state.world.close()  # type: ignore[attr-defined]
    after = run.now()
    kept = {k: v for k, v in before.items() if k != "bench"}
    assert {k: v for k, v in after.items() if k != "bench"} == kept
    assert after["bench"]["lifted"]
    run.act("put_back")
    run.act("switch", name="pump", on=True)
    run.act("wait", seconds=5.0)
    assert float(run.now()["bench"]["gauge"]) > 40.0, "the pump stays repaired"


def test_more_runs_than_benches(school: School) -> None:
    """The one longest untouched is put away, and stands there again when somebody comes back to it."""
    runs = [school.begin("01", by=f"trainee {n}") for n in range(MOST_SET_UP + 1)]
    world: World = school.client.app.state.world  # type: ignore[attr-defined]
    assert len(world._benches) == MOST_SET_UP
    assert runs[0].number not in world._benches
    runs[0].act("switch", name="ignition", on=True)
    assert runs[0].now()["bench"]["on"] == ["ignition"]
    assert len(world._benches) == MOST_SET_UP
