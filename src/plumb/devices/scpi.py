"""Instruments that speak SCPI over a socket or a serial line, by PyVISA and its backend in Python.

A line that was late is opened anew: an answer that comes after all would else be taken for the next one.
"""

import math
import re
from collections.abc import Iterator
from typing import Any, Final

from plumb.core.measure.quantities import KPA_PER
from plumb.devices.address import Address
from plumb.devices.instrument import Identity, Silent
from plumb.devices.scheduler import REAL_TIME, Scheduler

PATIENCE_S: Final = 0.8
"""So long an answer may take; what takes longer is said to be silent."""
OVERLOAD: Final = 9.9e37
"""What SCPI-99 (volume 1, 7.2.1.4) answers for infinity; anything near it means the same."""
_NUMBER: Final = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?")
_DRAINED: Final = 16
"""So many errors are read out of a queue at most."""


class Line:
    """A line to one instrument: opened when it is first needed, and again after it fell silent."""

    def __init__(self, address: Address, *, patience_s: float | None = None) -> None:
        self.address, self.patience_s = address, patience_s or PATIENCE_S
        self._resource: Any = None

    def ask(self, text: str, *, patience_s: float | None = None) -> str:
        """Send a query, give back its answer; :class:`Silent` says why there is none."""
        return str(self._tried(lambda line: line.query(text), patience_s)).strip()

    def tell(self, text: str) -> None:
        """Send a command that answers nothing; :class:`Silent` where it cannot be sent."""
        self._tried(lambda line: line.write(text), None)

    def close(self) -> None:
        """Let go; the next ask opens it again."""
        line, self._resource = self._resource, None
        if line is not None:
            _quietly(line)

    def _tried(self, work: Any, patience_s: float | None) -> Any:  # noqa: ANN401  PyVISA's own
        import pyvisa  # noqa: PLC0415  a start must not wait for it

        try:
            line = self._opened()
            line.timeout = 1000.0 * (patience_s or self.patience_s)
            return work(line)
        except UnicodeDecodeError:
            self.close()
            why = f"what answers at {self.address.where} is no text"
            raise Silent(why) from None
        except (pyvisa.Error, OSError, ValueError) as error:
            self.close()
            raise Silent(self._why(error)) from None

    def _opened(self) -> Any:  # noqa: ANN401  PyVISA's own
        if self._resource is None:
            import pyvisa  # noqa: PLC0415

            self._resource = pyvisa.ResourceManager("@py").open_resource(
                self.address.visa, read_termination="\n", write_termination="\n",
                open_timeout=round(1000.0 * self.patience_s), **self._settings(),
            )  # fmt: skip
        return self._resource

    def _settings(self) -> dict[str, Any]:
        """How a serial line is set, in PyVISA's words; nothing for a socket."""
        serial = self.address.serial
        if serial is None:
            return {}
        from pyvisa.constants import Parity, StopBits  # noqa: PLC0415

        return {
            "baud_rate": serial.baud, "data_bits": serial.bits,
            "parity": {"N": Parity.none, "E": Parity.even, "O": Parity.odd}[serial.parity],
            "stop_bits": {1: StopBits.one, 2: StopBits.two}[serial.stops],
        }  # fmt: skip

    def _why(self, error: Exception) -> str:
        text = str(error).lower()
        where = self.address.where
        if "tmo" in text or "timeout" in text or "timed out" in text:
            return f"{where} does not answer"
        if "permission" in text:
            return f"{where} may not be opened by who runs Plumb"
        if (
            isinstance(error, OSError)
            or "rsrc_nfound" in text
            or "conn" in text
            or "refused" in text
        ):
            return f"nothing answers at {where}: is it on, and is the cable in"
        return f"{where} cannot be asked ({type(error).__name__})"


def same_unit(said: str, unit: str) -> bool:
    """Whether an instrument means a unit by what it says: ``PSI`` is psi, ``KPA`` kPa."""
    return said.lower().replace("²", "2") == unit.lower()


def _quietly(line: Any) -> None:  # noqa: ANN401  PyVISA's own
    import pyvisa  # noqa: PLC0415

    try:
        line.close()
    except (pyvisa.Error, OSError, ValueError):
        # It was cut off already.
        return


def figure_of(answer: str) -> float:
    """The figure of an answer; what follows it (a unit, a mark) is left.  Raises :class:`Silent`."""
    found = _NUMBER.match(answer.strip())
    if found is None:
        why = f"the answer “{answer[:40]}” is no figure"
        raise Silent(why)
    value = float(found[0])
    if abs(value) >= OVERLOAD / 10.0:
        return math.inf
    return value


class ScpiGauge:
    """A gauge that answers a query with a figure."""

    def __init__(
        self, address: Address, *, command: str, unit: str, step: float, rate_hz: float,
        scheduler: Scheduler = REAL_TIME,
    ) -> None:  # fmt: skip
        self.line, self.command, self._scheduler = Line(address), command, scheduler
        self.unit, self.step, self.rate_hz = unit, step, rate_hz

    def identity(self) -> Identity:
        """Who it is; one that does not know ``*IDN?`` has no name."""
        return _identity(self.line)

    def says_unit(self) -> str:
        """The unit that it says it answers in, as it writes it; empty where it says none."""
        try:
            said = (
                self.line.ask("UNIT:PRES?", patience_s=0.5 * self.line.patience_s)
                .strip()
                .strip('"')
            )
        except Silent:
            return ""
        return said if re.fullmatch(r"[A-Za-z0-9/]{2,10}", said) else ""

    def read(self) -> float:
        """One figure in its unit."""
        return figure_of(self.line.ask(self.command))

    def stream(self) -> Iterator[tuple[float, float]]:
        """Moments (s, of its scheduler) and figures; ends with :class:`Silent`.

        A gauge that says it answers in another unit is not believed.
        """
        said = self.says_unit() if self.unit in KPA_PER else ""
        if said and not same_unit(said, self.unit):
            why = f"it answers in {said}, and the shelf has it in {self.unit}: set either right"
            raise Silent(why)
        now = self._scheduler.now
        due = now()
        while True:
            asked = now()
            value = self.read()
            # The figure is of somewhere between asking and answering.
            yield 0.5 * (asked + now()), value
            due = max(due + 1.0 / self.rate_hz, now() - 0.5 / self.rate_hz)
            self._scheduler.sleep(max(0.0, due - now()))

    def close(self) -> None:
        """Let go of it."""
        self.line.close()


class ScpiBox:
    """A burst box: channel, pulses and width, fired by ``INIT``, done by ``*OPC?``."""

    def __init__(self, address: Address) -> None:
        self.line = Line(address)
        self._burst_s = 0.0

    def identity(self) -> Identity:
        """Who it is."""
        return _identity(self.line)

    def arm(self, channel: int, *, pulses: int, width_s: float) -> None:
        """Choose the injector and the burst; :class:`Silent` where the box refuses it."""
        self.line.tell("*CLS")
        self.line.tell(f"BURS:NCYC {pulses};WIDT {width_s:g};:ROUT:CLOS (@{channel})")
        self._burst_s = 3.0 * pulses * width_s
        refused = self.errors()
        if refused:
            why = f"the burst box refuses it: {refused[0]}"
            raise Silent(why)

    def fire(self) -> None:
        """Begin."""
        self.line.tell("INIT")

    def done(self) -> bool:
        """Whether the burst has ended; waits until it has."""
        return self.line.ask("*OPC?", patience_s=self._burst_s + 1.25 * self.line.patience_s) == "1"

    def pump(self, *, on: bool) -> None:
        """Switch the pump's line."""
        self.line.tell(f"OUTP:PUMP {'ON' if on else 'OFF'}")

    def pump_is_on(self) -> bool:
        """Whether the pump's line is on; :class:`Silent` where the box has none."""
        return self.line.ask("OUTP:PUMP?").strip() == "1"

    def errors(self) -> list[str]:
        """What stands in its error queue, oldest first; reading empties it."""
        told = []
        for _ in range(_DRAINED):
            text = self.line.ask("SYST:ERR?")
            if figure_of(text) == 0.0:
                break
            told.append(text)
        return told

    def close(self) -> None:
        """Let go of it."""
        self.line.close()


def _identity(line: Line) -> Identity:
    fields = [f.strip() for f in line.ask("*IDN?").split(",")]
    return Identity(**dict(zip(("maker", "model", "serial", "version"), fields, strict=False)))
