"""A busy shop: what a save, a job and Today cost when there is much of everything."""

import json
import statistics
import threading
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from http.client import HTTPConnection
from typing import Any, Final

from fastapi import FastAPI
from rich.console import Console

from plumb.api.wire import PatientServer, config_of
from plumb.core.procedures import DROP

SIXTEEN: Final = [str(n) for n in range(1, 17)]
JOBS: Final = 400
ROUNDS: Final = 15
_HEAD: Final = {"Content-Type": "application/json"}


@contextmanager
def served(app: FastAPI, port: int) -> Iterator[None]:
    """An application on a port of this machine, as long as the block goes on."""
    server = PatientServer(config_of(app, port, log_level="error"))
    running = threading.Thread(target=server.run, daemon=True)
    running.start()
    try:
        while not server.started:
            time.sleep(0.02)
        yield
    finally:
        server.should_exit = True
        running.join(5.0)


def busy_shop(console: Console, link: HTTPConnection) -> None:
    """Print what each costs through HTTP, with what is asked for."""
    few, small = _save(link, 3)
    many, large = _save(link, 90)
    console.print(
        f"saving a reading with 16 injectors: median {few:.1f} ms and {small / 1024:.0f} kB with 3 "
        f"passes, {many:.1f} ms and {large / 1024:.0f} kB with 90; ratio [bold]{many / few:.2f}[/]"
    )
    _bring(link, _file("twenty", 20, 3))
    looked = partial(ask, link, "/api/jobs/twenty")
    first = ms_of(looked)
    console.print(
        f"a job of 20 sheets: first look {first:.0f} ms, then median "
        f"[bold]{_median(looked):.0f} ms[/]  (asked: at most 200)"
    )
    for n in range(JOBS):
        _bring(link, _file(f"j{n}", 2, 1))
    looked = partial(ask, link, "/api/jobs")
    first = ms_of(looked)
    console.print(
        f"Today with {JOBS} open jobs: first look at a page {first:.0f} ms, then median "
        f"[bold]{_median(looked):.0f} ms[/]  (asked: at most 300)"
    )


def ms_of(work: Callable[[], object]) -> float:
    """Milliseconds of one call."""
    begin = time.perf_counter()
    work()
    return (time.perf_counter() - begin) * 1000.0


def _median(work: Callable[[], object]) -> float:
    return statistics.median(ms_of(work) for _ in range(ROUNDS))


def ask(link: HTTPConnection, path: str, body: object = None) -> bytes:
    """The answer to a look, or to a body that is sent; an error where it was refused."""
    if body is None:
        link.request("GET", path)
    else:
        link.request("POST", path, json.dumps(body), _HEAD)
    answer = link.getresponse()
    data = answer.read()
    if answer.status >= 300:
        raise RuntimeError(data.decode())
    return data


def _bring(link: HTTPConnection, file: dict[str, Any]) -> str:
    made: str = json.loads(ask(link, "/api/job-files", file))["job_number"]
    return made


def _readings(passes: int) -> Iterator[dict[str, Any]]:
    for n in range(passes):
        for k, label in enumerate(SIXTEEN):
            second = 26.0 + 0.5 * ((n + k) % 3)
            yield {"injector": label, "pass": n + 1, "first": 50.0, "second": second}


def _file(number: str, sheets: int, passes: int) -> dict[str, Any]:
    """A job with so many drop sheets."""
    sheet = {"kind": DROP.code, "unit": "psi", "gauge": {"step": 0.5},
             "readings": list(_readings(passes))}  # fmt: skip
    injectors = [{"id": x, "cylinder": int(x)} for x in SIXTEEN]
    return {
        "plumb": 1,
        "job": {"number": number},
        "vehicle": {"name": "Brannock Tender", "fuel_system": "port", "injectors": injectors},
        "sheets": [{**sheet, "id": f"s{n}"} for n in range(1, sheets + 1)],
    }


def _save(link: HTTPConnection, passes: int) -> tuple[float, int]:
    """Median milliseconds of a save on a sheet with so many passes, and the bytes of its answer."""
    number = _bring(link, _file(f"p{passes}", 1, passes))
    route = json.loads(ask(link, f"/api/jobs/{number}"))["route"]
    sheet = next(k["sheet_id"] for k in route if k["sheet_id"])
    took, size = [], 0
    # Nine passes on one row are all that ninety leave.
    for label in SIXTEEN[:9]:
        reading = {"id": str(uuid.uuid4()), "injector": label, "first": "50", "second": "26"}
        begin = time.perf_counter()
        size = len(ask(link, f"/api/sheets/{sheet}/readings", reading))
        took.append((time.perf_counter() - begin) * 1000.0)
    return statistics.median(took), size
