"""What was captured, kept as a trace: it can be drawn, saved and read again like one from a file."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlalchemy import Engine

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import PlumbError
from plumb.core.traces.evenly import evenly
from plumb.service.kinds.tracing import body_of, channel
from plumb.service.stored.known import known_sheet
from plumb.service.stored.parts import now
from plumb.service.uses.traces import Incoming, NewTrace, add_trace, look, tracing
from plumb.store import traces as store
from plumb.store.session import retried, transaction

LEAST_SAMPLES = 25
_QUANTITIES = {"A": "current", "ml": "volume", "ohm": "resistance"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Stream:
    """The figures of a capture so far: times (s), values, what they are and in which unit."""

    request_id: str
    name: str
    unit: str
    t: Sequence[float]
    values: Sequence[float]

    @property
    def quantity(self) -> str:
        """What the figures are of."""
        return _QUANTITIES.get(self.unit, "pressure")

    def text(self, begin: float = -np.inf, end: float = np.inf) -> bytes:
        """The figures as CSV with units in the first line."""
        lines = [f"time (s),{self.quantity} ({self.unit})"]
        lines += [
            f"{t:.4f},{v:.6g}"
            for t, v in zip(self.t, self.values, strict=True)
            if begin <= t <= end
        ]
        return ("\n".join(lines) + "\n").encode()


@dataclass(frozen=True, slots=True, kw_only=True)
class TakenFrom:
    """A reading and where in the stream it lies."""

    row: str
    reading_id: str
    begin: float
    end: float


@retried
def keep(engine: Engine, sheet_id: int, stream: Stream, taken: Sequence[TakenFrom]) -> int:
    """Keep the stream on its sheet, in place of what was kept of it before; the trace's id.

    0 where there is too little of it to keep.
    """
    if len(stream.t) < LEAST_SAMPLES:
        return 0
    incoming = Incoming()
    incoming.feed(stream.text())
    table, parts = incoming.close()
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
    try:
        tracing(whole.sheet.kind)
        body = look(whole, table, NewTrace(request_id=stream.request_id, name=stream.name)).body
        for burst in body.get("bursts", []):
            _marked(burst, taken)
    except PlumbError:
        # No trace is brought onto this kind of sheet, or nothing was found in it: it is drawn.
        grid = evenly(np.array(stream.t), np.array(stream.values))
        body = body_of(grid, [channel(stream.quantity, stream.unit, grid.values[0])])
        body |= {"unit": stream.unit, "notes": [], "captured": True}
    with transaction(engine) as connection:
        known_sheet(connection, sheet_id, lock=True, though_closed=True)
        values = {
            "sheet_id": sheet_id, "request_id": stream.request_id, "name": stream.name[:120],
            "samples": len(stream.t), "taken_at": now(), "body": body,
        }  # fmt: skip
        return store.put_trace(connection, values, parts)


def _marked(burst: dict[str, Any], taken: Sequence[TakenFrom]) -> None:
    """A burst of the log that is a reading already says whose."""
    for one in taken:
        if one.begin < float(burst["end_s"]) and one.end > float(burst["start_s"]):
            burst |= {"injector": one.row, "reading_id": one.reading_id}


def bring_in(
    engine: Engine, sheet_id: int, stream: Stream, span: tuple[float, float], thresholds: Thresholds
) -> None:
    """A stretch of the stream as the sheet's trace, as if it had come from a file.

    Raises :class:`PlumbError` where nothing is found in it.
    """
    incoming = Incoming()
    incoming.feed(stream.text(*span))
    wanted = NewTrace(request_id=str(uuid.uuid4()), name=stream.name)
    add_trace(engine, sheet_id, incoming, wanted, thresholds)
