"""The line on which screens hear of changes: who hears what, and who may listen at all."""

import json
from typing import Any

import pytest
from fastapi.testclient import TestClient
from starlette.testclient import WebSocketDenialResponse
from tests.conftest import Live
from tests.drivers import DEAD_S, Desk, eventually, new_id
from tests.live.conftest import Capturer
from tests.virtual_time import VirtualTime
from websockets.sync.client import connect


def listen(live: Live, job: str, sheet: int, **more: str) -> Any:
    """A line for a job and its sheet."""
    address = f"ws://127.0.0.1:{live.port}/api/live?job={job}&sheet={sheet}"
    return connect(address + "".join(f"&{k}={v}" for k, v in more.items()))


def hears(line: Any, what: str) -> dict[str, Any]:
    """The next message of a sort."""
    while True:
        message: dict[str, Any] = json.loads(line.recv(timeout=DEAD_S))
        if message["type"] == what:
            return message


def test_what_one_notes_another_is_told(live: Live, desk: Desk) -> None:
    """With the name of who noted it, in the unit that the other looks in; a stranger hears of theirs alone."""
    sheet = desk.open_job()
    other = desk.open_job(vehicle_name="Torvik Skerry")
    job = sheet["job_number"]
    with (
        listen(live, job, sheet["id"]) as mine,
        listen(live, job, sheet["id"], unit="kPa") as theirs,
        listen(live, other["job_number"], other["id"]) as strange,
    ):
        eventually(lambda: live.app.state.hub.lookers() == 3)
        assert desk.type(sheet, "1", "50 26", by="Tomas R.").status_code == 200
        seen = hears(mine, "sheet")["sheet"]
        (reading,) = seen["rows"][0]["readings"]
        assert (reading["shown"], reading["by"]) == ("50.0 26.0", "Tomas R.")
        in_kpa = hears(theirs, "sheet")["sheet"]["rows"][0]["readings"][0]["shown"]
        # 50 psi = 344.7 kPa, 26 psi = 179.3 kPa (NIST SP 811).
        assert [round(float(x)) for x in in_kpa.split()] == [345, 179]
        assert hears(mine, "job")["job"] == job
        assert desk.type(other, "2", "50 26").status_code == 200
        assert json.loads(strange.recv(timeout=DEAD_S))["sheet"]["id"] == other["id"]


def test_a_foreign_page_may_not_listen(client: TestClient) -> None:
    """The door stands before the line as before everything else."""
    headers = {"host": "127.0.0.1", "origin": "http://elsewhere.example"}
    with (
        pytest.raises(WebSocketDenialResponse) as turned_away,
        client.websocket_connect("/api/live", headers=headers),
    ):
        pass
    assert turned_away.value.status_code == 403


def test_a_browsers_serial_port_fills_a_sheet(
    live: Live, desk: Desk, virtual_time: VirtualTime
) -> None:
    """Figures that a browser sends are watched like those of any instrument."""
    capturer = Capturer(desk, virtual_time)
    desk.client.app.state.hub = live.app.state.hub  # type: ignore[attr-defined]
    capturer.gauge("serial meter", "ohm", "0.1", "BROWSER:SERIAL")
    sheet = capturer.sheet("coil_resistance", "serial meter", "ohm", "0.1", 2)
    answer = desk.client.get(f"/api/sheets/{sheet}/capture/offer").json()
    assert (answer["pushed"], answer["why_not"]) == (True, "")
    import httpx2  # noqa: PLC0415

    begun = httpx2.post(f"{live.address}/api/sheets/{sheet}/capture", json={"by": "Wen L."})
    assert begun.json()["running"]
    session = live.app.state.captures._going[sheet]
    with listen(live, "", sheet) as line:
        line.send("no JSON")
        line.send(json.dumps({"values": ["far"]}))
        for wanted, value in enumerate((12.4, 12.6), 1):
            for _ in range(200):
                known = len(session._t)
                line.send(json.dumps({"values": [value]}))
                eventually(lambda known=known: len(session._t) > known or not session.running)  # type: ignore[misc]
                if session.view().taken == wanted:
                    break
                virtual_time.sleep(0.06)
            line.send(json.dumps({"values": [float("9.9e37")]}))
        while (seen := hears(line, "capture")["capture"])["running"]:
            assert seen["trouble"] == ""
    assert seen["taken"] == 2
    rows = capturer.rows(sheet)
    assert [float(rows[k]["readings"][0]["value_typed"]) for k in "12"] == [12.4, 12.6]


def test_figures_of_a_capture_reach_whoever_looks(
    live: Live, desk: Desk, virtual_time: VirtualTime
) -> None:
    """A line that comes late hears at once how the capture stands."""
    capturer = Capturer(desk, virtual_time)
    capturer.gauge("silent", "psi", "0.1", "TCPIP::127.0.0.1::9::SOCKET")
    sheet = capturer.sheet("pressure_drop", "silent", "psi", "0.1")
    import httpx2  # noqa: PLC0415

    httpx2.post(f"{live.address}/api/sheets/{sheet}/capture", json={"by": new_id()[:8]})
    with listen(live, "", sheet) as line:
        first = json.loads(line.recv(timeout=DEAD_S))
        assert first["type"] == "capture"
        while not first["capture"]["trouble"]:
            first = hears(line, "capture")
        assert "nothing answers" in first["capture"]["trouble"]
    with virtual_time.goes_on():
        httpx2.delete(f"{live.address}/api/sheets/{sheet}/capture")
