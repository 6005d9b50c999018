"""Where an instrument is: a socket, a serial line, a folder that a logger writes to, or the browser.

>>> address_of("TCPIP::192.168.4.20::5025::SOCKET").way
'line'
>>> address_of("FOLDER:/var/log/rail").where
'/var/log/rail'
>>> address_of("ASRL/dev/ttyUSB0 19200 7E1").serial
Serial(baud=19200, bits=7, parity='E', stops=1)
"""

import re
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Final, Literal

from plumb.core.measure.problems import PlumbError, Problem

Way = Literal["line", "folder", "browser"]

COMMANDS: Final = {
    "ohm": "MEAS:RES?", "V": "MEAS:VOLT?", "A": "MEAS:CURR?", "ml": "MEAS:VOL?",
}  # fmt: skip
"""What is asked of an instrument by its unit, where the shelf says nothing else (SCPI-99)."""
PRESSURE_COMMAND: Final = "MEAS:PRES?"
BROWSER: Final = "BROWSER:SERIAL"

_SOCKET: Final = re.compile(
    r"TCPIP\d*::(?P<host>[A-Za-z0-9.-]{1,80}|\[[0-9A-Fa-f:]{2,45}\])::(?P<port>\d{1,5})::SOCKET",
    re.IGNORECASE,
)
_SERIAL: Final = re.compile(
    r"(?P<visa>ASRL(?P<device>/dev/[A-Za-z0-9._/-]{1,60}|COM\d{1,3}|\d{1,3})(?:::INSTR)?)"
    r"(?:[ ,]+(?P<baud>\d{1,8})(?:[ ,]+(?P<bits>[78])(?P<parity>[NEO])(?P<stops>[12]))?)?",
    re.IGNORECASE,
)
_FOLDER: Final = re.compile(r"FOLDER:(?P<path>/[^\x00]{1,110})", re.IGNORECASE)
_SLOWEST: Final = 110
_FASTEST: Final = 4_000_000
_FORMS: Final = (
    "an address like TCPIP::192.168.4.20::5025::SOCKET, ASRL/dev/ttyUSB0 9600 8N1, "
    f"FOLDER:/where/the/logger/writes or {BROWSER}"
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Serial:
    """How a serial line is set: its speed (baud), data bits, parity (N, E, O) and stop bits."""

    baud: int = 9600
    bits: int = 8
    parity: str = "N"
    stops: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Address:
    """An address that was understood: which ``way`` it is reached, ``where``, and the name that VISA has for it."""

    text: str
    way: Way
    where: str
    visa: str = ""
    serial: Serial | None = None


def address_of(text: str, path: str = "address") -> Address:
    """Read an address; :class:`PlumbError` tells the forms that there are."""
    text = text.strip()
    if found := _SOCKET.fullmatch(text):
        if not 1 <= int(found["port"]) <= 65535:
            rule = "a port lies between 1 and 65535"
            raise PlumbError(Problem(path=path, rule=rule, value=found["port"], code="no_port"))
        where = f"{found['host'].lower()} port {int(found['port'])}"
        return Address(text=text, way="line", where=where, visa=text)
    if found := _SERIAL.fullmatch(text):
        serial = _serial_of(found, path)
        return Address(
            text=text, way="line", where=found["device"], visa=found["visa"], serial=serial
        )
    if found := _FOLDER.fullmatch(text):
        return Address(text=text, way="folder", where=str(PurePosixPath(found["path"])))
    if text.upper() == BROWSER:
        return Address(text=BROWSER, way="browser", where="the browser's serial port")
    raise PlumbError(Problem(path=path, rule=_FORMS, value=text, code="no_address"))


def _serial_of(found: re.Match[str], path: str) -> Serial:
    """What follows a serial line's name; 9600 8N1 where nothing does."""
    baud = int(found["baud"] or Serial().baud)
    if not _SLOWEST <= baud <= _FASTEST:
        rule = f"a serial line runs at {_SLOWEST} to {_FASTEST} baud"
        raise PlumbError(Problem(path=path, rule=rule, value=found["baud"], code="no_baud"))
    if not found["bits"]:
        return Serial(baud=baud)
    return Serial(
        baud=baud, bits=int(found["bits"]), parity=found["parity"].upper(),
        stops=int(found["stops"]),
    )  # fmt: skip


def command_of(text: str, unit: str, path: str = "command") -> str:
    """The command that reads an instrument; the usual one of its unit where none is given."""
    text = text.strip()
    if not text:
        return COMMANDS.get(unit, PRESSURE_COMMAND)
    if len(text) > 60 or not text.isascii() or not text.isprintable() or not text.endswith("?"):
        rule = "a command of at most 60 plain characters that ends with a question mark"
        raise PlumbError(Problem(path=path, rule=rule, value=text, code="no_command"))
    return text
