"""Where an instrument is: a socket, a serial line, a folder that a logger writes to, or the browser.

>>> address_of("TCPIP::192.168.4.20::5025::SOCKET").way
'line'
>>> address_of("FOLDER:/var/log/rail").where
'/var/log/rail'
"""

import re
from dataclasses import dataclass
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
_SERIAL: Final = re.compile(r"ASRL(?P<device>/dev/[A-Za-z0-9._/-]{1,60}|COM\d{1,3}|\d{1,3})(?:::INSTR)?", re.IGNORECASE)  # fmt: skip
_FOLDER: Final = re.compile(r"FOLDER:(?P<path>/[^\x00]{1,110})", re.IGNORECASE)
_FORMS: Final = (
    "an address like TCPIP::192.168.4.20::5025::SOCKET, ASRL/dev/ttyUSB0, "
    f"FOLDER:/where/the/logger/writes or {BROWSER}"
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Address:
    """An address that was understood: which ``way`` it is reached, and ``where``."""

    text: str
    way: Way
    where: str


def address_of(text: str, path: str = "address") -> Address:
    """Read an address; :class:`PlumbError` tells the forms that there are."""
    text = text.strip()
    if found := _SOCKET.fullmatch(text):
        if not 1 <= int(found["port"]) <= 65535:
            rule = "a port lies between 1 and 65535"
            raise PlumbError(Problem(path=path, rule=rule, value=found["port"], code="no_port"))
        return Address(text=text, way="line", where=f"{found['host']} port {found['port']}")
    if found := _SERIAL.fullmatch(text):
        return Address(text=text, way="line", where=found["device"])
    if found := _FOLDER.fullmatch(text):
        return Address(text=text, way="folder", where=found["path"])
    if text.upper() == BROWSER:
        return Address(text=BROWSER, way="browser", where="the browser's serial port")
    raise PlumbError(Problem(path=path, rule=_FORMS, value=text, code="no_address"))


def command_of(text: str, unit: str, path: str = "command") -> str:
    """The command that reads an instrument; the usual one of its unit where none is given."""
    text = text.strip()
    if not text:
        return COMMANDS.get(unit, PRESSURE_COMMAND)
    if len(text) > 60 or not text.isascii() or not text.isprintable() or not text.endswith("?"):
        rule = "a command of at most 60 plain characters that ends with a question mark"
        raise PlumbError(Problem(path=path, rule=rule, value=text, code="no_command"))
    return text
