"""A gauge on a serial line: a pseudo-terminal with an instrument of a few lines at its other end."""

import os
import pty
import termios
import threading
import tty
from collections.abc import Iterator

import pytest
from tests.drivers import Desk

from plumb.core.measure.problems import PlumbError
from plumb.devices import scpi
from plumb.devices.address import address_of


class Wire:
    """A serial instrument that answers two queries; ``seen`` is how the line was set when it was asked."""

    def __init__(self) -> None:
        self._end, self._plug = pty.openpty()
        tty.setraw(self._plug)
        self.device = os.ttyname(self._plug)
        self.seen: list[int] = []
        self.says_unit = True
        threading.Thread(target=self._answers, daemon=True).start()

    def _answers(self) -> None:
        said = {b"*IDN?": b"Brannock,RP-2,7,1.0", b"MEAS:PRES?": b"3.02E+2", b"UNIT:PRES?": b"KPA"}
        left = b""
        while True:
            try:
                left += os.read(self._end, 100)
            except OSError:
                return
            *whole, left = left.split(b"\n")
            for query in whole:
                self.seen = termios.tcgetattr(self._plug)
                if query in said and (self.says_unit or query != b"UNIT:PRES?"):
                    os.write(self._end, said[query] + b"\n")

    def close(self) -> None:
        """Pull it out."""
        os.close(self._plug)
        os.close(self._end)


@pytest.fixture
def wire() -> Iterator[Wire]:
    """A serial line, its instrument switched on."""
    made = Wire()
    yield made
    made.close()


@pytest.mark.parametrize(
    ("setting", "speed", "two_stop_bits"),
    [("", termios.B9600, False), (" 19200 8N2", termios.B19200, True)],
    ids=["as usual", "as typed"],
)
def test_a_serial_gauge_is_asked_at_its_speed(
    desk: Desk, wire: Wire, setting: str, speed: int, *, two_stop_bits: bool
) -> None:
    """The kernel has the line at the speed and frame that stand behind its address."""
    body = {"address": f"ASRL{wire.device}{setting}", "command": "", "unit": "kPa"}
    tried = desk.client.post("/api/instruments/try", json=body).json()
    assert (tried["answers"], tried["readings"][0]) == (True, "3.02E+2")
    assert tried["identity"].startswith("Brannock")
    assert wire.seen[4:6] == [speed, speed]
    assert bool(wire.seen[2] & termios.CSTOPB) is two_stop_bits


def test_a_gauge_that_does_not_say_its_unit_is_believed(
    desk: Desk, wire: Wire, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Many know their figure alone: what is not answered is not waited for twice."""
    monkeypatch.setattr(scpi, "PATIENCE_S", 3.0)
    wire.says_unit = False
    body = {"address": f"ASRL{wire.device}", "command": "", "unit": "kPa"}
    tried = desk.client.post("/api/instruments/try", json=body).json()
    assert (tried["answers"], tried["readings"][0]) == (True, "3.02E+2")


def test_parity_and_seven_bits_are_understood() -> None:
    """An older instrument's frame; the pseudo-terminal of the tests knows no parity."""
    serial = address_of("asrl/dev/ttyS0::INSTR, 2400, 7e1").serial
    assert serial is not None
    assert (serial.baud, serial.bits, serial.parity, serial.stops) == (2400, 7, "E", 1)


@pytest.mark.parametrize(
    "address", ["ASRL/dev/ttyS0 50", "ASRL/dev/ttyS0 5000000", "ASRL/dev/ttyS0 9600 9N1"]
)
def test_a_speed_or_frame_that_there_is_not_is_refused(address: str) -> None:
    """Before anything is opened, with what would do."""
    with pytest.raises(PlumbError) as caught:
        address_of(address)
    assert "baud" in caught.value.problems[0].rule or "9600 8N1" in caught.value.problems[0].rule
