"""A trace on the screen: what is drawn, the humps of a cycle, the bursts of a log."""

from collections.abc import Sequence

from plumb.core.measure.decision import Thresholds
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.stored.analysis import analysed
from plumb.service.views.trace import ChannelView, TraceNameView, TraceView
from plumb.store.records import WholeSheet
from plumb.store.traces import TraceRecord


def trace_view(
    whole: WholeSheet,
    record: TraceRecord | None,
    names: Sequence[tuple[int, str]],
    thresholds: Thresholds,
) -> TraceView:
    """A trace as it is drawn; without its file only what the sheet keeps of it.

    ``names`` are the ids and names of all traces of the sheet, newest first.
    """
    tracing = SCREEN_KINDS[whole.sheet.kind].trace
    body = record.body if record else tracing.from_sheet(whole) if tracing else {}
    noted = whole.sheet.conditions.get("trace") or {}
    return TraceView(
        id=record.id if record else 0,
        log=tracing is not None and tracing.many,
        band=tracing.band if tracing else None,
        name=record.name if record else str(noted.get("name") or ""),
        samples=record.samples if record else int(noted.get("samples") or 0),
        rate_hz=float(body.get("rate_hz", 0)),
        from_s=float(body.get("from_s", 0)),
        to_s=float(body.get("to_s", 0)),
        unit=str(body.get("unit") or whole.sheet.unit),
        channels=[
            ChannelView(
                name=c["name"], unit=c["unit"],
                low=[float(x) for x in c["low"]], high=[float(x) for x in c["high"]],
            )
            for c in body.get("channels", [])
        ],
        humps=tracing.humps(analysed(whole, thresholds)) if tracing else [],
        hump_times=[float(x) for x in body.get("hump_times", [])],
        bursts=tracing.bursts(whole, body) if tracing else [],
        synced=bool(noted.get("synced")),
        notes=[str(n) for n in body.get("notes", [])],
        all=[TraceNameView(id=i, name=n) for i, n in names],
    )  # fmt: skip
