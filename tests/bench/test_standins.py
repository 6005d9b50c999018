"""The stand-ins as a program of their own, spoken to by a client that knows nothing of Plumb."""

import json
import re
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
import pyvisa

from plumb.bench.standins.beside import Beside
from plumb.bench.standins.files import FaultsFile, InstrumentFaults, engine_of
from plumb.bench.standins.instruments import Set
from plumb.bench.standins.scpi import Words
from plumb.bench.virtual import VirtualEngine

Start = Callable[..., dict[str, int]]


class Line:
    """A plain socket that sends lines and reads lines."""

    def __init__(self, port: int) -> None:
        self._socket = socket.create_connection(("127.0.0.1", port), timeout=60)
        self._file = self._socket.makefile("rb")

    def tell(self, text: str) -> None:
        self._socket.sendall(text.encode() + b"\n")

    def ask(self, text: str) -> str:
        self.tell(text)
        answer = self._file.readline()
        assert answer.endswith(b"\n"), f"no answer to {text}"
        return answer.decode().strip()

    def is_cut_off(self) -> bool:
        """Waits until the other side has ended it."""
        try:
            return self._file.read(1) == b""
        except ConnectionResetError:
            return True

    def close(self) -> None:
        self._file.close()
        self._socket.close()


@pytest.fixture
def start(tmp_path: Path) -> Iterator[Start]:
    """Start the program with an engine and faults; gives the port of each instrument."""
    running: list[subprocess.Popen[str]] = []

    def begin(engine: object = None, faults: object = None, *more: str) -> dict[str, int]:
        arguments = [*more]
        for name, given in (("engine", engine), ("faults", faults)):
            if given is not None:
                path = tmp_path / f"{name}.json"
                path.write_text(json.dumps(given))
                arguments += [f"--{name}", str(path)]
        program = subprocess.Popen(
            [sys.executable, "-m", "plumb.cli", "standins", "--port", "0", *arguments],
            stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        running.append(program)
        ports = {}
        assert program.stdout is not None
        for _ in range(7):
            name, address = program.stdout.readline().split()
            found = re.fullmatch(r"TCPIP::127\.0\.0\.1::(\d+)::SOCKET", address)
            assert found, address
            ports[name] = int(found[1])
        return ports

    yield begin
    for program in running:
        program.terminate()
        assert program.wait(10) == 0
        assert program.stdout is not None
        program.stdout.close()


@pytest.fixture
def line() -> Iterator[Callable[[int], Line]]:
    """Line."""
    opened: list[Line] = []

    def connect(port: int) -> Line:
        opened.append(Line(port))
        return opened[-1]

    yield connect
    for one in opened:
        one.close()


GOOD = {"count": 4, "injectors": {str(n): {"flow": 1.0, "coil": 12.0} for n in range(1, 5)}}


def test_another_client_reads_the_gauge(start: Start) -> None:
    """PyVISA, told nothing but the address."""
    ports = start()
    manager = pyvisa.ResourceManager("@py")
    gauge = manager.open_resource(
        f"TCPIP::127.0.0.1::{ports['gauge']}::SOCKET", read_termination="\n",
        write_termination="\n", timeout=60_000,
    )  # fmt: skip
    assert len(gauge.query("*IDN?").split(",")) == 4
    assert abs(float(gauge.query("MEAS:PRES?"))) < 1.0
    assert gauge.query("SYST:ERR?").startswith("0,")
    gauge.close()
    manager.close()


@pytest.fixture
def beside() -> Iterator[Callable[..., tuple[dict[str, int], list[float]]]]:
    """Stand-ins in this process; gives their ports, and the clock, which is set by hand."""
    opened: list[Beside] = []

    def begin(engine: object, **faults: InstrumentFaults) -> tuple[dict[str, int], list[float]]:
        now = [0.0]

        def clock() -> float:
            return now[0]

        made = VirtualEngine(engine_of(engine), clock=clock)
        opened.append(Beside(Set(made, FaultsFile(**faults), clock=clock, seed=1)))
        return {n: int(a.split("::")[2]) for n, a in opened[-1].addresses.items()}, now

    yield begin
    for one in opened:
        one.close()


def test_a_technician_works_the_engine_by_hand(
    beside: Callable[..., tuple[dict[str, int], list[float]]], line: Callable[[int], Line]
) -> None:
    """Pump, rest, burst, read: good injectors agree, the clogged one gives less."""
    ports, now = beside({**GOOD, "injectors": {**GOOD["injectors"], "3": {"flow": 0.7}}})  # type: ignore[dict-item]
    gauge, box = line(ports["gauge"]), line(ports["box"])

    def passes(seconds: float) -> None:
        # What the box was told last is done before time goes on.
        assert box.ask("SYST:ERR?") == '0,"No error"'
        now[0] += seconds

    box.tell("BURS:NCYC 50;WIDT 10ms")
    assert box.ask("BURS:NCYC?;WIDT?") == "50;0.01"
    roots = {}
    for injector in (1, 2, 3):
        box.tell(f"OUTP:PUMP ON;:ROUT:CLOS (@{injector})")
        passes(0.6)
        box.tell("OUTP:PUMP OFF")
        passes(0.6)
        first = float(gauge.ask("MEAS:PRES?"))
        box.tell("INIT")
        passes(0.9)
        box.tell("INIT")
        assert box.ask("SYST:ERR?").startswith("-213,"), "50 bursts of 20 ms take a second"
        passes(0.1)
        assert box.ask("*OPC?") == "1"
        roots[injector] = first**0.5 - float(gauge.ask("MEAS:PRES?")) ** 0.5
    assert box.ask("SYST:ERR?") == '0,"No error"'
    assert roots[2] / roots[1] == pytest.approx(1.0, abs=0.08)
    assert roots[3] / roots[1] == pytest.approx(0.7, abs=0.08)


def test_wrong_words_go_into_the_queue_and_never_close_the_line(
    start: Start, line: Callable[[int], Line]
) -> None:
    """Wrong words go into the queue and never close the line."""
    box = line(start(GOOD)["box"])
    for said, number in (
        ("SPIN:FAST", -113), ("MEAS:PRES?", -113), ("BURS:NCYC", -109), ("BURS:NCYC many", -121),
        ("BURS:NCYC 5000", -222), ("BURS:WIDT 10 kg", -131), ("OUTP:PUMP MAYBE", -224),
        ("ROUT:CLOS (@5)", -222), ("ROUT:CLOS 3", -102), ("INIT", -221), ("BURS:NCYC? 3", -108),
    ):  # fmt: skip
        box.tell(said)
        assert box.ask("SYST:ERR?").startswith(f"{number},"), said
    assert box.ask("SYST:ERR?") == '0,"No error"'
    box.tell("x" * 10_000)
    assert box.ask("SYST:ERR?").startswith("-1")
    box.tell("\x00\xff;;;:;?")
    assert box.ask("*CLS;*IDN?").count(",") == 3


def test_the_meter_reads_copper_and_leads(start: Start, line: Callable[[int], Line]) -> None:
    """The meter reads copper and leads."""
    ports = start({**GOOD, "hot": True, "injectors": {"1": {"coil": 12.0}, "2": {"coil": "open"}}})
    meter = line(ports["meter"])
    # 12.0 ohm at 80 °C: 12 (1 + 0.00393 · 60) = 14.83, and 0.2 of the leads.
    assert float(meter.ask("ROUT:CLOS (@1);:MEAS:RES?")) == pytest.approx(15.03, abs=0.03)
    # SCPI-99, volume 1, 7.2.1.4: 9.9E37 stands for infinity.
    assert float(meter.ask("ROUT:CLOS (@2);:MEAS:RES?")) == 9.9e37


def test_what_is_wrong_with_an_instrument(start: Start, line: Callable[[int], Line]) -> None:
    """Another unit, and an answer that is late each third time: by its own count, and on the wire."""
    faults = {"gauge": {"unit": "bar", "late_s": 0.3, "late_every": 3, "noise": 0}}
    wrong = FaultsFile(gauge=InstrumentFaults(**faults["gauge"]))  # type: ignore[arg-type]
    made = Set(VirtualEngine(engine_of(GOOD), clock=float), wrong, clock=float, seed=1)
    assert [made.named("gauge").late_s() for _ in range(6)] == [0.0, 0.0, 0.3] * 2
    gauge = line(start(GOOD, faults)["gauge"])
    for late in (False, False, True) * 2:
        begun = time.monotonic()
        assert gauge.ask("UNIT:PRES?") == "BAR"
        assert not late or time.monotonic() - begun >= 0.3


def test_a_cable_is_pulled_and_put_back(
    beside: Callable[..., tuple[dict[str, int], list[float]]], line: Callable[[int], Line]
) -> None:
    """By a clock that is set by hand: whoever is connected is cut off, and heard again afterwards."""
    ports, now = beside(GOOD, clamp=InstrumentFaults(unplug_at_s=2.0, unplug_s=1.0))
    port = ports["clamp"]
    before = line(port)
    assert before.ask("*IDN?").count(",") == 3
    now[0] = 2.0
    assert before.is_cut_off()
    assert line(port).is_cut_off()
    now[0] = 3.0
    assert line(port).ask("*IDN?").count(",") == 3


@pytest.mark.parametrize(
    ("engine", "said"),
    [
        ({"system": "steam"}, "system"),
        ({"faults": ["bad karma"]}, "bad karma"),
        ({"count": 4, "injectors": {"9": {"flow": 0.5}}}, "1 to 4"),
        ({"injectors": {"1": {"flow": -1}}}, "flow"),
    ],
)
def test_an_engine_that_does_not_fit_is_told(engine: object, said: str, tmp_path: Path) -> None:
    """An engine that does not fit is told."""
    path = tmp_path / "engine.json"
    path.write_text(json.dumps(engine))
    done = subprocess.run(
        [sys.executable, "-m", "plumb.cli", "standins", "--engine", str(path)],
        capture_output=True, text=True, check=False, timeout=60,
    )  # fmt: skip
    assert done.returncode == 2
    assert said in done.stderr


def test_a_port_that_is_taken_is_told() -> None:
    """A port that is taken is told."""
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = str(taken.getsockname()[1])
        done = subprocess.run(
            [sys.executable, "-m", "plumb.cli", "standins", "--port", port],
            capture_output=True, text=True, check=False, timeout=60,
        )  # fmt: skip
    assert done.returncode == 2
    assert port in done.stderr


def test_headers_have_one_short_form_and_one_long_one() -> None:
    """Headers have one short form and one long one."""
    # SCPI-99, volume 1, 6.2.1: only the exact short and long forms are taken.
    said = Words()
    said.knows("OUTPut:CLAMp:SUPPly?", lambda _: "1")
    for taken in ("OUTP:CLAM:SUPP?", "output:clamp:supply?", ":OUTP:CLAMp:SUPP?"):
        assert said.obeys(taken) == ["1"], taken
    for refused in ("OUTPU:CLAM:SUPP?", "OUT:CLAM:SUPP?", "CLAM:SUPP?", "OUTP:CLAM:SUPP"):
        assert said.obeys(refused) == [], refused
    # Volume 1, 6.2.4: a header after a semicolon goes on from where the last one was.
    assert said.obeys("OUTP:CLAM:SUPP?;SUPP?;*OPC?;SUPP?") == ["1", "1", "1", "1"]


def test_a_full_queue_says_so() -> None:
    """A full queue says so."""
    said = Words()
    for _ in range(30):
        said.obeys("NO:SUCH")
    told = [said.obeys("SYST:ERR?")[0] for _ in range(20)]
    assert told[0].startswith("-113")
    assert told[-1].startswith("-350")
    assert said.obeys("SYST:ERR?") == ['0,"No error"']
