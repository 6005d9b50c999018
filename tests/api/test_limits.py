"""No request holds the server: how much, how deep, how long, and what the others see meanwhile."""

import json
import socket
import threading
import time
from contextlib import suppress
from http.client import HTTPConnection
from statistics import median
from typing import Any

import httpx2
import pytest
from tests.api.test_door import WRITING
from tests.conftest import Live
from tests.drivers import Desk, new_id

from plumb.api import intake
from plumb.api.wire import PatientProtocol
from plumb.core.measure.problems import LONGEST_VALUE, MOST_TOLD

MB = 2**20
HEAD = b"time [s],p [kPa]\n"


@pytest.mark.parametrize(("method", "path", "operation"), WRITING)
def test_every_route_says_how_much_it_takes(
    desk: Desk, method: str, path: str, operation: dict[str, Any]
) -> None:
    """By what the header announces, before anything is read, and by what comes."""
    kind = next(iter(operation.get("requestBody", {}).get("content", {})), None)
    if kind is None:
        return
    told = {"content-type": kind, "content-length": str(600 * MB)}
    assert desk.client.request(method, path, content=b"", headers=told).status_code == 413
    most = operation.get("x-max-bytes", intake.JSON_BYTES if "json" in kind else 20 * MB)
    if most > MB:
        return

    def pieces() -> Any:
        yield from [b" " * 65536] * (most // 65536 + 1)

    came = desk.client.request(method, path, content=pieces(), headers={"content-type": kind})
    assert came.status_code == 413
    assert len(came.content) < 2000


def test_an_answer_repeats_little_of_what_was_sent(desk: Desk) -> None:
    """Values are cut, and of many problems the first fifty are told."""
    sheet = desk.open_job()
    long = desk.type(sheet, "1", "50 26", note="x" * 9000)
    assert long.status_code == 422
    assert len(long.json()["problems"][0]["value"]) <= LONGEST_VALUE
    row = "nobody,first,x\n"
    answer = desk.send(f"/api/sheets/{sheet['id']}/csv", "injector,quantity,value\n" + row * 400)
    told = answer.json()["problems"]
    assert len(told) == MOST_TOLD + 1
    # Two problems a row: the injector and the figure.
    assert told[-1]["rule"] == "and 750 more that do not fit"
    seen = desk.send(
        f"/api/sheets/{sheet['id']}/csv", "injector,quantity,value\n" + row * 400, preview=True
    )
    assert len(seen.json()["problems"]) == MOST_TOLD + 1
    wide = desk.send(f"/api/sheets/{sheet['id']}/csv", ",".join(["x"] * 300_000))
    assert (wide.status_code, len(wide.content) < 2000) == (422, True)


BAD_FILES = {
    "newlines": "\n" * (2 * MB - 1),
    "deep": "[" * (2 * MB - 1),
    "deep, closed": '{"x-a":' * 300 + "1" + "}" * 300,
    "digits": '{"plumb":' + "9" * 1_000_000 + "}",
    "many keys": "{" + ",".join(f'"x{n}":1' for n in range(160_000)) + "}",
    "many nothings": '{"sheets":[' + ",".join(["null"] * 300_000) + "]}",
    "half a character": '{"plumb":1,"x-a":"\\ud800"}',
    "half a key": '{"plumb":1,"x-\\udfff":1}',
    "not a number": '{"plumb":NaN}',
    "a bomb": '{"plumb":1,"vehicle":{"name":"a","fuel_system":"port","distance_km":1e999999999}}',
}


@pytest.mark.parametrize("name", BAD_FILES)
def test_a_bad_job_file_is_refused_in_no_time(desk: Desk, name: str) -> None:
    """Two seconds of a slow processor at most, a short answer, nothing stored."""
    began = time.process_time()
    answer = desk.bring_in(BAD_FILES[name])
    assert time.process_time() - began < 2
    assert answer.status_code == 422
    assert len(answer.content) < 40_000
    assert desk.client.get("/api/jobs").json() == []


TRACE_HEADS = {
    "brackets": b"(" * 64_000,
    "columns": b",".join([b"a"] * 30_000) + b"\n",
    "same names": b",".join([b"t [s]"] * 10_000) + b"\n1\n",
    "brackets and columns": b",".join([b"((((" * 10] * 1500) + b"\n",
    "no line": b"a" * 64_000,
    "spaces": b" " * 64_000 + b"[",
}


@pytest.mark.parametrize("name", TRACE_HEADS)
def test_a_bad_head_of_a_trace_is_refused_in_no_time(desk: Desk, name: str) -> None:
    """64 kB took two minutes once."""
    began = time.process_time()
    answer = desk.send("/api/trace-columns", TRACE_HEADS[name], kind="pressure_drop")
    assert time.process_time() - began < 2
    assert answer.status_code == 200
    assert not answer.json()["fits"]
    assert len(answer.content) < 5000


def test_a_trace_that_is_one_line_ends_early(desk: Desk) -> None:
    """It is not gathered until it is whole."""
    sheet = desk.open_job()
    answer = desk.send(f"/api/sheets/{sheet['id']}/trace", b"x" * (3 * MB), request_id=new_id())
    assert answer.status_code == 422
    assert answer.json()["problems"][0]["code"] == "too_wide"


def test_health_answers_while_files_come_in(live: Live) -> None:
    """Large job files and CSV at once: whoever asks meanwhile waits for a turn, not for a file.

    Senders, asker and server share one process and its interpreter here, on a machine that may stand
    still for a while; so it is the middle one of many that is held against the middle file.
    """
    address = live.address
    made = httpx2.post(
        f"{address}/api/jobs",
        json={"request_id": new_id(), "vehicle_name": "Torvik Lundy 1.8", "cylinders": 16},
    ).json()
    injectors = [{"id": str(n), "cylinder": n} for n in range(1, 17)]
    readings = [
        {"injector": str(n % 16 + 1), "pass": n // 16 + 1, "first": 50, "second": 26.5}
        for n in range(1584)
    ]
    sheets = [
        {"kind": "pressure_drop", "id": f"s{n}", "unit": "psi", "gauge": {"step": 0.5},
         "readings": readings}
        for n in range(15)
    ]  # fmt: skip
    vehicle = {"name": "x", "fuel_system": "port", "injectors": injectors}
    file = json.dumps({"plumb": 1, "vehicle": vehicle, "sheets": sheets})
    rows = "injector,quantity,value\n" + "nobody,first,x\n" * 4999
    done = threading.Event()

    files_took: list[float] = []

    def send() -> None:
        json_head, csv_head = {"content-type": "application/json"}, {"content-type": "text/csv"}
        for _ in range(3):
            sent = time.perf_counter()
            httpx2.post(f"{address}/api/job-files?preview=true", content=file, headers=json_head,
                        timeout=60)  # fmt: skip
            files_took.append(time.perf_counter() - sent)
            httpx2.post(f"{address}/api/sheets/{made['id']}/csv", content=rows, headers=csv_head,
                        timeout=60)  # fmt: skip

    senders = [threading.Thread(target=send) for _ in range(3)]
    for sender in senders:
        sender.start()
    took = []
    with httpx2.Client(timeout=30) as client:
        while any(s.is_alive() for s in senders):
            began = time.perf_counter()
            assert client.get(f"{address}/api/health").status_code == 200
            took.append(time.perf_counter() - began)
            done.wait(0.05)
    assert len(took) > 5
    assert median(took) < median(files_took) / 4, (took, files_took)


def test_a_queue_that_is_full_says_so(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    """Come again, not an error of the file."""
    monkeypatch.setattr(intake, "WAITING", -intake.AT_ONCE)
    answer = desk.bring_in("{}")
    assert answer.status_code == 503
    assert "send it again" in answer.json()["detail"]


HALVES = {
    "nothing": b"",
    "half a line": b"GET /api/hea",
    "half a head": b"POST /api/jobs HTTP/1.1\r\nhost: 127.0.0.1\r\nx: ",
    "half a body": b"POST /api/job-files HTTP/1.1\r\nhost: 127.0.0.1\r\n"
    b"content-type: application/json\r\ncontent-length: 1000\r\n\r\n{",
}


@pytest.mark.parametrize("name", HALVES)
def test_half_a_request_is_cut_off(live: Live, monkeypatch: pytest.MonkeyPatch, name: str) -> None:
    """A sender that brings nothing more loses its place."""
    monkeypatch.setattr(PatientProtocol, "look_s", 0.3)
    with socket.create_connection(("127.0.0.1", live.port), timeout=60) as wire:
        wire.sendall(HALVES[name])
        with suppress(ConnectionResetError):
            assert wire.recv(10) == b""


def test_a_connection_in_use_is_kept(live: Live, monkeypatch: pytest.MonkeyPatch) -> None:
    """A tablet's connection rests between two readings: a look in that moment must not end it."""
    monkeypatch.setattr(PatientProtocol, "look_s", 0.05)
    wire = HTTPConnection("127.0.0.1", live.port, timeout=60)
    wire.connect()
    wire.auto_open = 0  # a connection that was ended is not opened again unseen
    for _ in range(12):
        wire.request("GET", "/api/health")
        answer = wire.getresponse()
        assert (answer.status, answer.read() != b"") == (200, True)
        time.sleep(0.12)
    wire.close()


def test_a_slow_sender_that_goes_on_is_heard_out(
    live: Live, monkeypatch: pytest.MonkeyPatch
) -> None:
    """As long as enough comes between two looks."""
    monkeypatch.setattr(PatientProtocol, "look_s", 1.5)
    body = b'{"plumb":' + b" " * 200_000 + b"2}"
    head = (
        b"POST /api/job-files HTTP/1.1\r\nhost: 127.0.0.1\r\nconnection: close\r\n"
        b"content-type: application/json\r\ncontent-length: %d\r\n\r\n" % len(body)
    )
    with socket.create_connection(("127.0.0.1", live.port), timeout=60) as wire:
        wire.sendall(head)
        for start in range(0, len(body), 20_000):
            wire.sendall(body[start : start + 20_000])
            time.sleep(0.35)
        assert wire.recv(20).startswith(b"HTTP/1.1 422")
