"""No request holds the server: how much, how deep, how long, and what the others see meanwhile."""

import socket
import sys
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from http.client import HTTPConnection
from typing import Any

import httpx2
import pytest
from tests.api.test_door import WRITING
from tests.conftest import Live
from tests.drivers import DEAD_S, Desk, new_id

from plumb.api import intake, routes_files
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


def test_health_answers_while_files_come_in(live: Live, monkeypatch: pytest.MonkeyPatch) -> None:
    """As many files at work as there may be and one that waits: whoever asks is not behind them.

    And what computes gives the interpreter away after a thousandth of a second.
    """
    begun, goes_on = threading.Semaphore(0), threading.Event()

    def works(*_: object) -> None:
        begun.release()
        assert goes_on.wait(DEAD_S)

    monkeypatch.setattr(routes_files.service, "preview_job", works)
    kind = {"content-type": "application/json"}
    path = f"{live.address}/api/job-files?preview=true"

    def send(_: int) -> httpx2.Response:
        return httpx2.post(path, content="{}", headers=kind, timeout=DEAD_S)

    with ThreadPoolExecutor(intake.AT_ONCE + 1) as senders:
        try:
            answers = [senders.submit(send, n) for n in range(intake.AT_ONCE + 1)]
            for _ in range(intake.AT_ONCE):
                assert begun.acquire(timeout=DEAD_S)
            for _ in range(3):
                assert httpx2.get(f"{live.address}/api/health", timeout=DEAD_S).is_success
            assert not any(a.done() for a in answers)
            assert not begun.acquire(blocking=False)
        finally:
            goes_on.set()
    assert sys.getswitchinterval() == pytest.approx(0.001)


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
def test_half_a_request_is_cut_off(live: Live, name: str) -> None:
    """A sender that brings nothing more between two looks loses its place."""
    with socket.create_connection(("127.0.0.1", live.port), timeout=DEAD_S) as wire:
        wire.sendall(HALVES[name])
        live.looks(came=len(HALVES[name]))
        live.looks()
        with suppress(ConnectionResetError):
            assert wire.recv(10) == b""


def test_a_connection_in_use_is_kept(live: Live) -> None:
    """A tablet's connection rests between two readings: looks in that moment must not end it."""
    wire = HTTPConnection("127.0.0.1", live.port, timeout=DEAD_S)
    wire.connect()
    wire.auto_open = 0  # a connection that was ended is not opened again unseen
    for _ in range(4):
        wire.request("GET", "/api/health")
        answer = wire.getresponse()
        assert (answer.status, answer.read() != b"") == (200, True)
        live.looks()
        live.looks()
    wire.close()


def test_a_slow_sender_that_goes_on_is_heard_out(live: Live) -> None:
    """As long as enough comes between two looks."""
    body = b'{"plumb":' + b" " * 200_000 + b"2}"
    head = (
        b"POST /api/job-files HTTP/1.1\r\nhost: 127.0.0.1\r\nconnection: close\r\n"
        b"content-type: application/json\r\ncontent-length: %d\r\n\r\n" % len(body)
    )
    with socket.create_connection(("127.0.0.1", live.port), timeout=DEAD_S) as wire:
        wire.sendall(head)
        for start in range(0, len(body), 20_000):
            piece = body[start : start + 20_000]
            wire.sendall(piece)
            if start + len(piece) < len(body):
                live.looks(came=len(piece))
        assert wire.recv(20).startswith(b"HTTP/1.1 422")
