"""Sheets that fill themselves in, from stand-ins that speak over real sockets."""

from pathlib import Path

import numpy as np
import pytest
from tests.drivers import eventually
from tests.live.conftest import Capturer, MakeStandIns, StandIns

from plumb.bench.traces import Log, pressure_log
from plumb.core.measure.quantities import KPA_PER
from plumb.devices import scpi

PSI = KPA_PER["psi"]
STEP = 0.1


def drop_sheet(capturer: Capturer, standins: StandIns, count: int = 4) -> int:
    """A drop sheet that the stand-ins' rail gauge serves."""
    capturer.gauge("rail gauge", "psi", str(STEP), standins.addresses["gauge"])
    return capturer.sheet("pressure_drop", "rail gauge", "psi", str(STEP), count)


def put_box(capturer: Capturer, standins: StandIns) -> None:
    """The stand-ins' burst box on the shelf."""
    body = {"what": "box", "name": "box", "values": {"address": standins.addresses["box"]}}
    assert capturer.client.post("/api/shelf", json=body).status_code == 201


def test_a_drop_sheet_fills_itself_while_somebody_works_the_engine(
    capturer: Capturer, make_standins: MakeStandIns
) -> None:
    """Three bursts by hand: three readings within a step of what truly happened, kept as a trace."""
    standins = make_standins({"count": 3, "injectors": {"2": {"flow": 0.7}}})
    sheet = drop_sheet(capturer, standins, 3)
    begun = capturer.start(sheet)
    assert (begun["row"], begun["running"], begun["gauge"]) == ("1", True, "rail gauge")
    for injector in (1, 2, 3):
        standins.burst(injector)
    ended = capturer.until(sheet, lambda now: not now["running"])
    assert (ended["taken"], ended["sound"], ended["trouble"]) == (3, "done", "")
    rows = capturer.rows(sheet)
    for k, truth in enumerate(standins.engine.fired):
        (reading,) = rows[str(k + 1)]["readings"]
        for typed, true in (
            (reading["first_typed"], truth.first),
            (reading["second_typed"], truth.second),
        ):
            assert float(typed) * PSI == pytest.approx(true, abs=STEP * PSI)
        assert reading["by"] == "Ines K."
        assert reading["captured"].startswith("rail gauge, ")
    assert rows["2"]["state"] == "low"
    trace = capturer.client.get(f"/api/sheets/{sheet}/trace").json()
    assert [b["injector"] for b in trace["bursts"]] == ["1", "2", "3"]
    assert all(b["reading_id"] for b in trace["bursts"])
    moved = capturer.client.get(f"/api/traces/{trace['id']}/csv").text
    assert moved.startswith("time (s),pressure (psi)")


@pytest.fixture
def soon_silent(monkeypatch: pytest.MonkeyPatch) -> None:
    """Whose cable is pulled is waited for as long as patience lasts, by the machine's clock."""
    monkeypatch.setattr(scpi, "PATIENCE_S", 2.0)


@pytest.mark.usefixtures("soon_silent")
def test_a_box_works_the_set_though_a_cable_is_pulled(
    capturer: Capturer, make_standins: MakeStandIns
) -> None:
    """The gauge falls silent: said within two seconds, nothing lost or doubled, and on it goes."""
    standins = make_standins()
    sheet = drop_sheet(capturer, standins)
    put_box(capturer, standins)
    capturer.start(sheet, fires=True)
    capturer.until(sheet, lambda now: now["taken"] == 1)
    # While the pump fills the rail for the second one, so that no burst falls into the gap.
    pulled = capturer.time.now()
    standins.unplug("gauge", 2.5)
    said = capturer.until(sheet, lambda now: now["trouble"])
    assert capturer.time.now() - pulled < 2.0
    assert "port" in said["trouble"]
    ended = capturer.until(sheet, lambda now: not now["running"], 60.0)
    assert (ended["taken"], ended["trouble"]) == (4, "")
    rows = capturer.rows(sheet)
    assert [rows[k]["count"] for k in "1234"] == [1, 1, 1, 1]
    assert len(standins.engine.fired) == 4
    # The box is told; its own thread does it.
    eventually(lambda: not standins.engine.is_on("pump"))


@pytest.mark.usefixtures("soon_silent")
def test_a_second_burst_waits_until_the_engine_has_run(
    capturer: Capturer, make_standins: MakeStandIns
) -> None:
    """A burst that nobody saw left raw fuel: the box fires there again only after a run."""
    standins = make_standins({"count": 3})
    sheet = drop_sheet(capturer, standins, 3)
    put_box(capturer, standins)
    capturer.start(sheet, fires=True)
    capturer.until(sheet, lambda now: now["state"] == "falling")
    standins.unplug("gauge", 1.5)
    told = capturer.until(sheet, lambda now: "raw fuel in cylinder 1" in now["waits"])
    assert told["row"] == "1"
    capturer.time.sleep(60.0)
    assert [f.injector for f in standins.engine.fired] == [0]
    assert capturer.client.post(f"/api/sheets/{sheet}/engine-runs").status_code == 200
    capturer.until(sheet, lambda now: now["taken"] == 1)
    assert [f.injector for f in standins.engine.fired] == [0, 0]
    capturer.stop(sheet)
    # The box is told; its own thread does it.
    eventually(lambda: not standins.engine.is_on("pump"))


def test_a_hold_is_read_when_it_is_due(capturer: Capturer, make_standins: MakeStandIns) -> None:
    """The clock starts when the pump is shut off, by what the gauge shows alone."""
    standins = make_standins({"leaks": {"outside_leak": 60.0}})
    capturer.gauge("rail gauge", "psi", "0.1", standins.addresses["gauge"])
    sheet = capturer.sheet("hold", "rail gauge", "psi", "0.1")
    capturer.start(sheet)
    standins.tell("engine", "OUTP:PUMP ON")
    capturer.until(sheet, lambda now: now["state"] == "pump_runs")
    standins.tell("engine", "OUTP:PUMP OFF")
    standins.passes("engine", 0.0)
    full = standins.engine.rail() / PSI
    ended = capturer.until(sheet, lambda now: now["taken"] == 2)
    points = capturer.client.get(f"/api/sheets/{sheet}").json()["hold"]["points"]
    assert [p["t_s"] for p in points] == [0.0, 10.0]
    assert points[0]["value"] == pytest.approx(full, abs=0.5)
    # 60 kPa a minute is 1.45 psi in ten seconds, and the regulator shuts a little below the plateau.
    assert points[0]["value"] - points[1]["value"] == pytest.approx(1.6, abs=0.4)
    assert ended["kick"] == "The pump is off now"
    capturer.stop(sheet)
    assert capturer.client.get(f"/api/sheets/{sheet}/trace").json()["samples"] > 200


def test_cranking_is_seen_in_the_starters_current(
    capturer: Capturer, make_standins: MakeStandIns
) -> None:
    """A spell of three seconds becomes the sheet's trace; the weak compression shows."""
    standins = make_standins(
        {"system": "common_rail", "words": ["no_start"], "injectors": {"2": {"hump": 60.0}}}
    )
    capturer.gauge("clamp", "A", "0.1", standins.addresses["clamp"])
    sheet = capturer.sheet("cranking_balance", "hump", "percent", "1", fuel_system="common_rail")
    capturer.start(sheet)
    capturer.time.sleep(0.5)
    standins.tell("engine", "OUTP:IGN ON", "OUTP:STAR ON")
    standins.passes("engine", 3.5)
    standins.tell("engine", "OUTP:STAR OFF", "OUTP:IGN OFF")
    ended = capturer.until(sheet, lambda now: not now["running"])
    assert (ended["taken"], ended["trouble"]) == (1, "")
    trace = capturer.client.get(f"/api/sheets/{sheet}/trace").json()
    weak = [h for h in trace["humps"] if h["state"] == "low"]
    assert len(trace["humps"]) == 4
    assert len(weak) == 1
    assert weak[0]["percent"] == pytest.approx(60.0, abs=8.0)


def test_tubes_on_a_scale_and_probes_on_coils(
    capturer: Capturer, make_standins: MakeStandIns
) -> None:
    """Each figure is taken when it stands still, and the next one when it is another."""
    standins = make_standins(
        {
            "injectors": {
                str(n): {"back": 10.0 + 4.0 * n, "coil": 12.0 + 0.1 * n} for n in range(1, 5)
            }
        }
    )
    capturer.gauge("meter", "ohm", "0.01", standins.addresses["meter"])
    coils = capturer.sheet("coil_resistance", "meter", "ohm", "0.01")
    capturer.start(coils)
    for k in range(4):
        standins.tell("meter", "ROUT:OPEN")
        standins.passes("meter", 0.2)
        standins.tell("meter", f"ROUT:CLOS (@{k + 1})")
        capturer.until(coils, lambda now, k=k: now["taken"] == k + 1)  # type: ignore[misc]
    rows = capturer.rows(coils)
    for k in range(4):
        # The stand-in's leads have 0.2 ohm.
        read = float(rows[str(k + 1)]["readings"][0]["value_typed"])
        assert read == pytest.approx(standins.engine.hidden.coil[k] + 0.2, abs=0.01)

    standins.engine._y[4 + 4 :] = [12.0, 13.0, 40.0, 12.5]
    capturer.gauge("scale", "ml", "0.1", standins.addresses["scale"])
    tubes = capturer.sheet("return_volume", "scale", "ml", "0.1", fuel_system="common_rail")
    capturer.start(tubes)
    for k in range(4):
        standins.tell("scale", f"ROUT:CLOS (@{k + 1})")
        capturer.until(tubes, lambda now, k=k: now["taken"] == k + 1)  # type: ignore[misc]
        standins.tell("scale", "ROUT:OPEN:ALL")
        capturer.until(tubes, lambda now: now["state"] == "empty_hand" or not now["running"])
    read = [float(capturer.rows(tubes)[k]["readings"][0]["value_typed"]) for k in "1234"]
    assert read == pytest.approx([12.0, 13.0, 40.0, 12.5], abs=0.1)


def test_a_nozzle_is_read_where_it_opens(capturer: Capturer, make_standins: MakeStandIns) -> None:
    """The top of a slow stroke is the opening pressure."""
    standins = make_standins(
        {"system": "mechanical_diesel", "injectors": {"1": {"opens": 15_000.0}}}
    )
    capturer.gauge("hand pump", "bar", "0.5", standins.addresses["handpump"])
    sheet = capturer.sheet(
        "opening_pressure", "hand pump", "bar", "0.5", fuel_system="mechanical_diesel"
    )
    capturer.start(sheet)
    capturer.time.sleep(0.3)
    assert standins.ask("handpump", "ROUT:CLOS (@1);:INIT;*IDN?")
    opens = standins.engine._hand_pump.opens
    assert opens > 0.0
    now = capturer.until(sheet, lambda now: now["taken"] == 1)
    assert now["row"] == "1"
    read = float(capturer.rows(sheet)["1"]["readings"][0]["value_typed"])
    assert read == pytest.approx(opens / 100.0, abs=0.5)
    capturer.stop(sheet)


def test_a_gauge_set_to_another_unit_is_not_believed(
    capturer: Capturer, make_standins: MakeStandIns
) -> None:
    """What it says it answers in, and what the shelf has it in, must be the same."""
    standins = make_standins(gauge={"unit": "bar"})
    sheet = drop_sheet(capturer, standins)
    capturer.start(sheet)
    told = capturer.until(sheet, lambda now: now["trouble"])
    assert "BAR" in told["trouble"]
    assert "psi" in told["trouble"]
    assert capturer.stop(sheet)["taken"] == 0


def test_what_cannot_be_captured_is_told(capturer: Capturer, make_standins: MakeStandIns) -> None:
    """No address, a kind that is not captured, an instrument that is busy, a closed job."""
    standins = make_standins()
    blind = capturer.sheet("pressure_drop", "dial A", "psi", "0.5")
    refused = capturer.client.post(f"/api/sheets/{blind}/capture", json={})
    assert refused.status_code == 409
    assert "has no address" in refused.json()["problems"][0]["rule"]
    assert capturer.client.get(f"/api/sheets/{blind}/capture").json() is None
    sheet = drop_sheet(capturer, standins)
    assert capturer.start(sheet)["running"]
    assert capturer.start(sheet)["running"], "beginning twice is beginning once"
    other = capturer.sheet("pressure_drop", "rail gauge", "psi", "0.1")
    busy = capturer.client.post(f"/api/sheets/{other}/capture", json={})
    assert busy.json()["problems"][0]["code"] == "busy"
    number = capturer.client.get(f"/api/sheets/{other}").json()["job_number"]
    capturer.stop(sheet)
    assert capturer.desk.close(number).status_code == 200
    closed = capturer.client.post(f"/api/sheets/{other}/capture", json={})
    assert closed.json()["problems"][0]["code"] == "closed"
    nobody = capturer.client.post(f"/api/sheets/{sheet}/capture/said", json={"what": "kick"})
    assert nobody.status_code == 404


def test_a_loggers_folder_is_watched(capturer: Capturer, tmp_path: Path) -> None:
    """A new CSV becomes a trace, its sure bursts the readings of the rows that have none."""
    capturer.gauge("logger", "kPa", "1", f"FOLDER:{tmp_path}")
    sheet = capturer.sheet("pressure_drop", "logger", "kPa", "1", 3)
    (tmp_path / "old.csv").write_text("it was there before\n")
    capturer.start(sheet)
    drops = ((345.0, 180.0), (346.0, 182.0), (344.0, 215.0))
    t, p, _ = pressure_log(Log(bursts=drops))
    lines = ["time (s),pressure (kPa)", *(f"{a:.3f},{b:.2f}" for a, b in zip(t, p, strict=True))]
    with (tmp_path / "run 1.csv").open("w") as file:
        # A logger writes for a while.
        for piece in np.array_split(np.array(lines), 4):
            file.write("\n".join(piece) + "\n")
            file.flush()
            capturer.time.sleep(0.3)
    capturer.until(sheet, lambda now: now["taken"] == 1)
    rows = capturer.rows(sheet)
    for k, (first, second) in enumerate(drops):
        (reading,) = rows[str(k + 1)]["readings"]
        assert float(reading["first_typed"]) == pytest.approx(first, abs=2.0)
        assert float(reading["second_typed"]) == pytest.approx(second, abs=2.0)
    (tmp_path / "run 2.csv").write_text("no,trace\nat,all\n")
    told = capturer.until(sheet, lambda now: now["trouble"])
    assert "run 2.csv" in told["trouble"]
    capturer.stop(sheet)
