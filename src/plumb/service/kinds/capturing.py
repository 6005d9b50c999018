"""How a sheet lets its instrument fill it in: what is watched for, and what a reading is made of."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Final

from plumb.core.capture.bursts import BurstWatch
from plumb.core.capture.rest import RestWatch
from plumb.core.capture.strokes import StrokeWatch
from plumb.core.capture.watch import BurstSeen, Event, Opened, Rested, Watch
from plumb.core.traces.pressure_log import DOUBTS
from plumb.service.kinds.shown import as_noted
from plumb.store.records import WholeSheet

GAUGE_HZ: Final = 25.0
"""A rail's gauge is asked so often: a burst lasts half a second or more."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Captured:
    """A reading as it was captured: its figures by field, where it lies in the stream (s).

    ``confidence`` is the probability that it is right to a step of the gauge, ``doubts`` say in words
    why it is asked for again.
    """

    figures: dict[str, str]
    begin: float
    end: float
    confidence: float = 1.0
    doubts: tuple[str, ...] = ()

    @property
    def shown(self) -> str:
        """Its figures for a person."""
        figures = [v for name, v in self.figures.items() if name != "at_s"]
        at = self.figures.get("at_s")
        return " ".join(figures) + (f" after {at} s" if at is not None else "")


def _no_spell(_event: Event) -> tuple[float, float] | None:
    return None


@dataclass(frozen=True, slots=True, kw_only=True)
class Capturing:
    """What a kind of sheet captures.

    ``words`` say what the technician does meanwhile; ``watch`` begins to look, ``reads`` makes a
    reading of what was seen, None where it is none.  ``unit`` is what the instrument reads in where
    the sheet has no gauge, ``rate_hz`` how often it is asked; ``fires``: a burst box can do the work.
    ``kick`` names what a person may say that nobody can see; ``rows``: its readings are of rows, one
    after the other.  ``traced`` gives begin and end (s) of
    what is brought in as a trace, as if it came from a file.
    """

    words: str
    watch: Callable[[WholeSheet], Watch]
    reads: Callable[[Event, WholeSheet], Captured | None] = lambda _event, _whole: None
    unit: str = ""
    rate_hz: float = GAUGE_HZ
    fires: bool = False
    kick: str = ""
    rows: bool = True
    traced: Callable[[Event], tuple[float, float] | None] = field(default=_no_spell)


def _burst(event: Event, whole: WholeSheet) -> Captured | None:
    if not isinstance(event, BurstSeen):
        return None
    b = event.burst
    unsure = () if b.doubts or not b.doubtful else ("the gauge flickers too much to be sure",)
    return Captured(
        figures={"first": as_noted(b.first, whole), "second": as_noted(max(0.0, b.second), whole)},
        begin=b.start_s, end=b.end_s, confidence=b.confidence,
        doubts=(*(DOUBTS[d] for d in b.doubts), *unsure),
    )  # fmt: skip


BURSTS: Final = Capturing(
    words="Rail up, pump off, a rest, the burst, hands off for two seconds; then the next injector.",
    watch=lambda whole: BurstWatch(whole.sheet.gauge_step),
    reads=_burst,
    fires=True,
)
"""Bursts on a shut rail."""


def _rested(event: Event, whole: WholeSheet) -> Captured | None:
    if not isinstance(event, Rested):
        return None
    value = as_noted(event.value, whole)
    return Captured(figures={"value": value}, begin=event.begin, end=event.end)


def resting(words: str, *, least_steps: float) -> Capturing:
    """Figures that come to rest one after the other; less than so many steps is nothing."""

    def watch(whole: WholeSheet) -> Watch:
        step = whole.sheet.gauge_step
        return RestWatch(step=step, least=least_steps * step)

    return Capturing(
        words=words, watch=watch, reads=_rested, rate_hz=20.0, kick="The next one is on",
    )  # fmt: skip


def _opened(event: Event, whole: WholeSheet) -> Captured | None:
    if not isinstance(event, Opened):
        return None
    return Captured(
        figures={"value": as_noted(event.value, whole)}, begin=event.at - 1.0, end=event.at
    )


STROKES: Final = Capturing(
    words="Stroke slowly until it opens; after the last stroke of a nozzle put the next one on.",
    watch=lambda whole: StrokeWatch(whole.sheet.gauge_step),
    reads=_opened,
    rate_hz=40.0,
)
"""Strokes of a hand pump."""
