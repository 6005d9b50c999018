"""What every instrument looks like to Plumb, whatever speaks behind it."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Protocol


class Silent(Exception):
    """An instrument that does not answer, or answers what cannot be read: why, in words."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Identity:
    """Who answered: the four fields of ``*IDN?`` (IEEE 488.2, 10.14), empty where it has none."""

    maker: str = ""
    model: str = ""
    serial: str = ""
    version: str = ""

    @property
    def told(self) -> str:
        """Maker and model in one line."""
        return " ".join(x for x in (self.maker, self.model) if x)


class Source(Protocol):
    """Moments (s) and figures until it falls silent; asked again it goes on."""

    def stream(self) -> Iterator[tuple[float, float]]:
        """Figures as they come; ends with :class:`Silent`."""

    def close(self) -> None:
        """Let go of it."""


class Instrument(Source, Protocol):
    """One that shows a figure: in ``unit``, to ``step``, at most ``rate_hz`` times a second."""

    unit: str
    step: float
    rate_hz: float

    def identity(self) -> Identity:
        """Who it is; :class:`Silent` where nothing answers."""

    def read(self) -> float:
        """One figure in its unit; infinity where there is no end to it.  Raises :class:`Silent`."""


class BurstBox(Protocol):
    """One that pulses an injector: arm, fire, done.  Raises :class:`Silent`."""

    def identity(self) -> Identity:
        """Who it is."""

    def arm(self, channel: int, *, pulses: int, width_s: float) -> None:
        """Choose the injector (from 1 on) and the burst."""

    def fire(self) -> None:
        """Begin."""

    def done(self) -> bool:
        """Whether the burst has ended; waits until it has."""

    def pump(self, *, on: bool) -> None:
        """Switch the pump's line."""

    def close(self) -> None:
        """Let go of it."""
