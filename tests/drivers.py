"""Tests speak in a technician's verbs: open a job, type a burst, look at what the set says."""

import json
import re
import socket
import threading
import time
import uuid
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any, Final, TypeVar

import httpx2
from fastapi.testclient import TestClient
from httpx2 import Response
from playwright.sync_api import Locator, Page, expect
from sqlalchemy import Engine

from plumb.demo import load
from plumb.demo.load import SIGNED
from plumb.service.stored import analysis, lessons, parts
from plumb.service.uses import bursts
from plumb.store import sheets
from plumb.store.server import PRACTICE
from plumb.store.session import quiet
from plumb.store.tables import Base

T = TypeVar("T")
DEMO = Path(__file__).parents[1] / "src" / "plumb" / "demo"


def open_demo() -> list[Path]:
    """The demo jobs that stand on Today: those that nobody has closed."""
    files = sorted(DEMO.glob("*.json"))
    closed = {p for p in files if "closed" in json.loads(p.read_text())["job"]}
    return [p for p in files if p not in closed and p.stem != SIGNED]


_loaded: list[str] = []


def forget() -> None:
    """What is remembered by an id, wherever: the same ids come again, for other things."""
    for remembered in (analysis._kept, sheets._kept, bursts._logs, lessons._known, parts._noted):
        remembered.clear()


def _tables() -> Iterator[tuple[str, str]]:
    """Every table but the journal's, with the columns that are written to."""
    for table in Base.metadata.sorted_tables:
        if table.name != "change_entry":
            yield table.name, ", ".join(f"`{c.name}`" for c in table.c if c.computed is None)


def set_aside(engine: Engine, name: str) -> str:
    """A copy of all that is in a store, in tables of that name beside those of practice, for :func:`put_back`."""
    with engine.connect() as connection:
        for table, columns in _tables():
            connection.exec_driver_sql(
                f"CREATE TABLE {PRACTICE}.{name}_{table} SELECT {columns} FROM {table}"
            )
    return name


def put_back(engine: Engine, name: str) -> None:
    """Exactly what was set aside in an empty store, but for what its application noted itself when it started."""
    forget()
    with engine.begin() as connection, quiet(connection):
        connection.exec_driver_sql("SET FOREIGN_KEY_CHECKS=0")
        for table, columns in _tables():
            kept = f"SELECT {columns} FROM {PRACTICE}.{name}_{table}"
            if connection.exec_driver_sql(f"{kept} LIMIT 1").first():
                connection.exec_driver_sql(f"DELETE FROM {table}")
                connection.exec_driver_sql(f"INSERT INTO {table} ({columns}) {kept}")
        connection.exec_driver_sql("SET FOREIGN_KEY_CHECKS=1")


def load_demo(engine: Engine) -> None:
    """The demo in an empty store: brought in the first time, then put there as it was."""
    if _loaded:
        put_back(engine, *_loaded)
    else:
        load.once(engine)
        _loaded.append(set_aside(engine, "demo"))


ASK: Final = httpx2.Client(
    timeout=120, verify=False, limits=httpx2.Limits(max_keepalive_connections=0)
)
"""Asks an application on a port; to make one costs more than a hundred answers, and each has a line of its own."""
DEAD_S: Final = 120.0
"""What is awaited comes as soon as the work is done; only a dead machine keeps anybody waiting so long."""


def eventually(holds: Callable[[], T]) -> T:
    """What something comes to as soon as it holds, where no event tells of it."""
    until = time.monotonic() + DEAD_S
    pause = threading.Event()
    while not (now := holds()):
        assert time.monotonic() < until, "never"
        pause.wait(0.01)
    return now


def free_port() -> int:
    """A port that nobody uses now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def new_id() -> str:
    """An id as a browser makes it."""
    return str(uuid.uuid4())


def job_file(
    pairs: Sequence[tuple[object, object]] = ((50, 26), (50, 26.5), (50, 31.5)),
    **sheet: Any,
) -> dict[str, Any]:
    """A small job file; one burst an injector."""
    return {
        "plumb": 1,
        "job": {"number": "900"},
        "vehicle": {
            "name": "Torvik Lundy 1.8",
            "fuel_system": "port",
            "injectors": [{"id": str(n), "cylinder": n} for n in range(1, len(pairs) + 1)],
        },
        "sheets": [
            {
                "kind": "pressure_drop",
                "id": "s1",
                "unit": "psi",
                "gauge": {"step": 0.5},
                "readings": [
                    {"injector": str(n), "first": a, "second": b}
                    for n, (a, b) in enumerate(pairs, 1)
                ],
                **sheet,
            }
        ],
    }


class Desk:
    """A technician at the API."""

    def __init__(self, client: TestClient) -> None:
        self.client = client

    def open_job(self, cylinders: int = 4, **more: Any) -> dict[str, Any]:
        """A new job; its first sheet."""
        body = {
            "request_id": new_id(), "vehicle_name": "Torvik Lundy 1.8", "cylinders": cylinders,
            **more,
        }  # fmt: skip
        answer = self.client.post("/api/jobs", json=body)
        assert answer.status_code == 201, answer.text
        made: dict[str, Any] = answer.json()
        return made

    def type(self, sheet: dict[str, Any], injector: str, figures: str, **more: Any) -> Response:
        """One burst, as ``50 26``."""
        first, second = figures.split()
        body = {
            "id": new_id(), "injector": injector, "first": first, "second": second, **more,
        }  # fmt: skip
        return self.client.post(f"/api/sheets/{sheet['id']}/readings", json=body)

    def put(self, sheet: dict[str, Any], **texts: str) -> dict[str, Any]:
        """Change what is noted beside the readings; the sheet as it is then."""
        answer = self.client.patch(
            f"/api/sheets/{sheet['id']}", json={"version": sheet["version"], "put": texts}
        )
        assert answer.status_code == 200, answer.text
        made: dict[str, Any] = answer.json()
        return made

    def close(self, number: str, reason: str = "brought in for a look only") -> Response:
        """Close a job and sign it."""
        return self.client.post(
            f"/api/jobs/{number}/closing", json={"by": "Ines K.", "reason": reason}
        )

    def bring_in(self, file: dict[str, Any] | str) -> Response:
        """Import a job file."""
        content = file if isinstance(file, str) else json.dumps(file)
        return self.send("/api/job-files", content, "application/json")

    def send(
        self, path: str, content: str | bytes, media: str = "text/csv", **params: Any
    ) -> Response:
        """A file, as the page sends it."""
        return self.client.post(
            path, content=content, params=params, headers={"content-type": media}
        )


_TURN = """(to) => {
  const other = location.pathname !== new URL(to, location).pathname;
  // The screen that is left is known by its heading: one of the same words may come after it.
  if (other) document.querySelectorAll("h1").forEach((h) => h.setAttribute("data-left", ""));
  history.pushState({}, "", to);
  dispatchEvent(new PopStateEvent("popstate", { state: {} }));
  return other;
}"""


class Bench:
    """A technician at the screen, with the keyboard alone unless a method says otherwise."""

    def __init__(self, page: Page, address: str) -> None:
        self.page = page
        self.address = address

    def go(self, path: str = "/") -> "Bench":
        """Open a screen."""
        self.page.goto(self.address + path)
        return self

    def turn_to(self, path: str) -> "Bench":
        """Another screen of the page that is open, as a link in it opens it; it stands there whole."""
        if self.page.evaluate(_TURN, path):
            expect(self.page.locator("h1[data-left]")).to_have_count(0)
        expect(self.page.locator("main h1")).not_to_have_count(0)
        expect(self.page.locator("main[aria-busy=true]")).to_have_count(0)
        return self

    def press(self, *keys: str) -> "Bench":
        """Press keys one after the other."""
        for key in keys:
            self.page.keyboard.press(key)
        return self

    def type(self, text: str) -> "Bench":
        """Type as a person does, key by key."""
        self.page.keyboard.type(text)
        return self

    def burst(self, figures: str) -> "Bench":
        """``50 26`` and Enter."""
        return self.type(figures).press("Enter")

    def begun(self, cylinders: int = 4) -> "Bench":
        """A job with a drop sheet is there, and the sheet is open."""
        wanted = {"request_id": new_id(), "vehicle_name": "Van", "cylinders": cylinders}
        answer = ASK.post(f"{self.address}/api/jobs", json=wanted)
        made = answer.raise_for_status().json()
        self.go(f"/jobs/{made['job_number']}/{made['key']}")
        expect(self.entry("first")).to_be_focused()
        return self

    def new_job(self, vehicle: str, cylinders: int = 4) -> "Bench":
        """N, the name, the cylinders by arrow keys, Enter."""
        expect(self.page.get_by_role("heading", name="Today")).to_be_visible()
        self.press("n")
        expect(self.page.get_by_role("dialog")).to_be_visible()
        self.type(vehicle).press("Tab")
        steps = [3, 4, 5, 6, 8].index(cylinders) - 1
        self.press(*["ArrowRight" if steps > 0 else "ArrowLeft"] * abs(steps)).press("Enter")
        expect(self.entry("first")).to_be_focused()
        return self

    def entry(self, which: str) -> Locator:
        """The field for the first or the second pressure."""
        return self.page.get_by_label(re.compile(f"^{which}, "))

    def row(self, injector: str) -> Locator:
        """An injector's row."""
        return self.page.get_by_role("row").filter(
            has=self.page.get_by_role("button", name=f"Enter injector {injector}", exact=True)
        )

    def hangs(self, injector: str) -> Locator:
        """The drawing of an injector's row, with what it says to those who hear it."""
        return self.row(injector).locator("svg[role=img]")

    def says(self, text: str) -> "Bench":
        """The headline holds this text."""
        panel = self.page.get_by_label("What the set says", exact=True)
        expect(panel).to_contain_text(text)
        return self

    def asked(self) -> Locator:
        """The question that stands."""
        return self.page.get_by_role("region", name="Question")

    def fits(self, width: int, height: int = 844) -> "Bench":
        """Nothing is wider than a screen of that size, once it is laid out anew."""
        self.page.set_viewport_size({"width": width, "height": height})
        eventually(lambda: self.page.evaluate("document.documentElement.scrollWidth") <= width)
        return self

    def saved(self) -> "Bench":
        """Everything typed is kept by the server."""
        expect(self.page.get_by_role("status").first).to_contain_text("Saved")
        return self
