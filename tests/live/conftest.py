"""Stand-ins in a thread of the test, and somebody who works the engine by hand."""

import itertools
from collections.abc import Callable, Iterator
from dataclasses import asdict
from typing import Any

import pytest
from tests.drivers import Desk, job_file, new_id
from tests.virtual_time import VirtualTime

from plumb.bench.standins.beside import Beside
from plumb.bench.standins.files import FaultsFile, InstrumentFaults, engine_of
from plumb.bench.standins.instruments import Set
from plumb.bench.virtual import VirtualEngine
from plumb.devices.address import address_of
from plumb.devices.scpi import Line
from plumb.service.live.captures import Captures


class StandIns:
    """A virtual engine with its instruments on the wire; ``addresses`` by name."""

    def __init__(
        self, engine: dict[str, Any], faults: dict[str, Any], virtual_time: VirtualTime
    ) -> None:
        begun = virtual_time.now()

        def clock() -> float:
            return virtual_time.now() - begun

        self.time = virtual_time

        self.engine = VirtualEngine(engine_of(engine), clock=clock, seed=1)
        named = {name: InstrumentFaults(**wrong) for name, wrong in faults.items()}
        self.set = Set(self.engine, FaultsFile(**named), clock=clock, seed=1)
        self._beside = Beside(self.set)
        self.addresses = self._beside.addresses
        self._lines: dict[str, Line] = {}

    def tell(self, name: str, *commands: str) -> None:
        """Commands for an instrument."""
        for command in commands:
            self._line(name).tell(command)

    def ask(self, name: str, query: str) -> str:
        """The answer of an instrument."""
        return self._line(name).ask(query)

    def _line(self, name: str) -> Line:
        if name not in self._lines:
            self._lines[name] = Line(address_of(self.addresses[name]))
        return self._lines[name]

    def burst(self, injector: int) -> None:
        """One burst as by hand: pump, rest, burst, hands off."""
        self.tell("box", f"ROUT:CLOS (@{injector})", "OUTP:PUMP ON")
        self.passes("box", 0.8)
        self.tell("box", "OUTP:PUMP OFF")
        self.passes("box", 1.8)
        self.tell("box", "INIT")
        self.passes("box", 1.0)
        assert self.ask("box", "*OPC?") == "1"
        self.time.sleep(2.6)

    def passes(self, name: str, seconds: float) -> None:
        """So long passes, once an instrument has done what it was told last."""
        self.ask(name, "SYST:ERR?")
        self.time.sleep(seconds)

    def unplug(self, name: str, seconds: float) -> None:
        """Pull the cable of an instrument now, for so long."""
        one = self.set.named(name)
        one.faults = one.faults.model_copy(update={"unplug_at_s": one.clock(), "unplug_s": seconds})

    def close(self) -> None:
        """End them."""
        for line in self._lines.values():
            line.close()
        self._beside.close()


MakeStandIns = Callable[..., StandIns]


@pytest.fixture
def make_standins(virtual_time: VirtualTime) -> Iterator[MakeStandIns]:
    """Stand-ins of an engine of four good injectors, unless the test says otherwise."""
    made: list[StandIns] = []

    def make(engine: dict[str, Any] | None = None, **faults: Any) -> StandIns:
        wanted = {"count": 4, "seed": 3, **(engine or {})}
        made.append(StandIns(wanted, faults, virtual_time))
        return made[-1]

    yield make
    for one in made:
        one.close()


class Capturer:
    """A technician whose gauges speak for themselves."""

    def __init__(
        self, desk: Desk, virtual_time: VirtualTime, captures: Captures | None = None
    ) -> None:
        self.desk, self.client, self.time = desk, desk.client, virtual_time
        self._captures = captures or desk.client.app.state.captures  # type: ignore[attr-defined]
        self._numbers = itertools.count(900)

    def gauge(self, name: str, unit: str, step: str, address: str, **more: str) -> None:
        """Put a gauge with an address on the shelf."""
        body = {"name": name, "unit": unit, "step": step, "address": address, **more}
        answer = self.client.post("/api/gauges", json=body)
        assert answer.status_code == 201, answer.text

    def sheet(self, kind: str, gauge: str, unit: str, step: str, count: int = 4, **job: Any) -> int:
        """A new job with a sheet of that kind, read by that gauge; the sheet's id."""
        file = job_file(pairs=((50, 26),) * count)
        file["sheets"] = []
        file["job"]["number"] = str(next(self._numbers))
        file["vehicle"] |= job
        number = self.desk.bring_in(file).json()["job_number"]
        body = {
            "request_id": new_id(), "kind": kind,
            "gauge": {"name": gauge, "unit": unit, "step": step},
        }  # fmt: skip
        answer = self.client.post(f"/api/jobs/{number}/sheets", json=body)
        assert answer.status_code == 201, answer.text
        return int(answer.json()["id"])

    def start(self, sheet: int, **wanted: Any) -> dict[str, Any]:
        """Begin to capture."""
        answer = self.client.post(f"/api/sheets/{sheet}/capture", json={"by": "Ines K.", **wanted})
        assert answer.status_code == 200, answer.text
        made: dict[str, Any] = answer.json()
        return made

    def stop(self, sheet: int) -> dict[str, Any]:
        """End it."""
        with self.time.goes_on():
            made: dict[str, Any] = self.client.delete(f"/api/sheets/{sheet}/capture").json()
        return made

    def now(self, sheet: int) -> dict[str, Any]:
        """How it stands."""
        return asdict(self._captures.view(sheet))

    def until(
        self, sheet: int, holds: Callable[[dict[str, Any]], object], seconds: float = 60.0
    ) -> dict[str, Any]:
        """Wait until something holds of how it stands, at most so long of the engine's time."""
        until = self.time.now() + seconds
        while self.time.now() < until:
            now = self.now(sheet)
            if holds(now):
                return now
            self.time.sleep(0.1)
        message = f"still {self.now(sheet)}"
        raise AssertionError(message)

    def rows(self, sheet: int) -> dict[str, dict[str, Any]]:
        """The rows of a sheet by injector."""
        view = self.client.get(f"/api/sheets/{sheet}").json()
        return {r["injector"]: r for r in view["rows"]}


@pytest.fixture
def capturer(desk: Desk, virtual_time: VirtualTime) -> Capturer:
    """A technician at the API, whose captures end with the test."""
    return Capturer(desk, virtual_time)
