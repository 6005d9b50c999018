"""The line on which screens hear of changes: who hears what, and who may listen at all."""

import json
import time
from typing import Any

import pytest
from fastapi.testclient import TestClient
from starlette.testclient import WebSocketDenialResponse
from tests.conftest import Live
from tests.drivers import Desk, Stopwatch, new_id
from tests.live.conftest import Capturer
from websockets.sync.client import connect


def listen(live: Live, job: str, sheet: int, **more: str) -> Any:
    """A line for a job and its sheet."""
    address = f"ws://127.0.0.1:{live.port}/api/live?job={job}&sheet={sheet}"
    return connect(address + "".join(f"&{k}={v}" for k, v in more.items()))


def hears(line: Any, what: str, seconds: float = 60.0) -> dict[str, Any]:
    """The next message of a sort."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        message: dict[str, Any] = json.loads(line.recv(timeout=seconds))
        if message["type"] == what:
            return message
    raise TimeoutError(what)


def test_what_one_notes_another_sees_within_a_second(live: Live, desk: Desk) -> None:
    """With the name of who noted it, in the unit that the other looks in; a stranger hears nothing."""
    sheet = desk.open_job()
    other = desk.open_job(vehicle_name="Torvik Skerry")
    job = sheet["job_number"]
    with (
        listen(live, job, sheet["id"]) as mine,
        listen(live, job, sheet["id"], unit="kPa") as theirs,
        listen(live, other["job_number"], other["id"]) as strange,
    ):
        time.sleep(0.2)
        with Stopwatch() as watch:
            assert desk.type(sheet, "1", "50 26", by="Tomas R.").status_code == 200
            seen = hears(mine, "sheet")["sheet"]
        assert watch.seconds < 1.0
        (reading,) = seen["rows"][0]["readings"]
        assert (reading["shown"], reading["by"]) == ("50.0 26.0", "Tomas R.")
        in_kpa = hears(theirs, "sheet")["sheet"]["rows"][0]["readings"][0]["shown"]
        # 50 psi = 344.7 kPa, 26 psi = 179.3 kPa (NIST SP 811).
        assert [round(float(x)) for x in in_kpa.split()] == [345, 179]
        assert hears(mine, "job")["job"] == job
        with pytest.raises(TimeoutError):
            strange.recv(timeout=0.4)


def test_a_foreign_page_may_not_listen(client: TestClient) -> None:
    """The door stands before the line as before everything else."""
    headers = {"host": "127.0.0.1", "origin": "http://elsewhere.example"}
    with (
        pytest.raises(WebSocketDenialResponse) as turned_away,
        client.websocket_connect("/api/live", headers=headers),
    ):
        pass
    assert turned_away.value.status_code == 403


def test_a_browsers_serial_port_fills_a_sheet(live: Live, desk: Desk) -> None:
    """Figures that a browser sends are watched like those of any instrument."""
    capturer = Capturer(desk)
    desk.client.app.state.hub = live.app.state.hub  # type: ignore[attr-defined]
    capturer.gauge("serial meter", "ohm", "0.1", "BROWSER:SERIAL")
    sheet = capturer.sheet("coil_resistance", "serial meter", "ohm", "0.1", 2)
    answer = desk.client.get(f"/api/sheets/{sheet}/capture/offer").json()
    assert (answer["pushed"], answer["why_not"]) == (True, "")
    import httpx2  # noqa: PLC0415

    begun = httpx2.post(f"{live.address}/api/sheets/{sheet}/capture", json={"by": "Wen L."})
    assert begun.json()["running"]
    with listen(live, "", sheet) as line:
        for value in (12.4, 12.6):
            for _ in range(40):
                line.send(json.dumps({"values": [value]}))
                time.sleep(0.05)
            line.send(json.dumps({"values": [float("9.9e37")]}))
        line.send("no JSON")
        line.send(json.dumps({"values": ["far"]}))
        seen = [hears(line, "capture")["capture"]["taken"] for _ in range(3)]
    assert max(seen) >= 1
    rows = capturer.rows(sheet)
    assert [float(rows[k]["readings"][0]["value_typed"]) for k in "12"] == [12.4, 12.6]


def test_figures_of_a_capture_reach_whoever_looks(live: Live, desk: Desk) -> None:
    """A line that comes late hears at once how the capture stands."""
    capturer = Capturer(desk)
    capturer.gauge("silent", "psi", "0.1", "TCPIP::127.0.0.1::9::SOCKET")
    sheet = capturer.sheet("pressure_drop", "silent", "psi", "0.1")
    import httpx2  # noqa: PLC0415

    httpx2.post(f"{live.address}/api/sheets/{sheet}/capture", json={"by": new_id()[:8]})
    with listen(live, "", sheet) as line:
        first = json.loads(line.recv(timeout=60))
        assert first["type"] == "capture"
        while not first["capture"]["trouble"]:
            first = hears(line, "capture")
        assert "nothing answers" in first["capture"]["trouble"]
    httpx2.delete(f"{live.address}/api/sheets/{sheet}/capture")
