"""A trace on the screen: what is drawn, the humps of a cycle, the bursts of a log."""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from plumb.core import cranking
from plumb.core.decision import State, Thresholds
from plumb.core.pressure_log import DOUBTS
from plumb.core.quantities import KPA_PER, decimals_for, rounded
from plumb.service.analysis import analysed
from plumb.service.parts import factor_of
from plumb.service.trace_found import channel
from plumb.service.trace_views import BurstView, ChannelView, HumpView, TraceNameView, TraceView
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
    body = record.body if record else _from_sheet(whole)
    noted = whole.sheet.conditions.get("trace") or {}
    return TraceView(
        id=record.id if record else 0,
        kind=whole.sheet.kind,
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
        humps=_humps(whole, thresholds),
        hump_times=[float(x) for x in body.get("hump_times", [])],
        bursts=_bursts(whole, body),
        synced=bool(noted.get("synced")),
        notes=[str(n) for n in body.get("notes", [])],
        all=[TraceNameView(id=i, name=n) for i, n in names],
    )  # fmt: skip


def _from_sheet(whole: WholeSheet) -> dict[str, Any]:
    """What can be drawn of a trace whose file is not here: the rail's moments on the sheet."""
    series = whole.sheet.conditions.get("series") or []
    if not series:
        return {}
    times = [float(p["t_s"]) for p in series]
    channels = [
        channel(name, whole.sheet.unit, np.array([float(p[name]) for p in series]))
        for name in ("wanted", "actual")
    ]
    return {"from_s": times[0], "to_s": times[-1], "channels": channels}


def _humps(whole: WholeSheet, thresholds: Thresholds) -> list[HumpView]:
    if whole.sheet.kind != cranking.KIND:
        return []
    result = analysed(whole, thresholds)
    trace = getattr(result.sheet, "trace", None)
    if not isinstance(result, cranking.CrankingResult) or trace is None:
        return []
    said = {State.LOW: "weak hump", State.IN_PLUMB: "even", State.UNSETTLED: "not settled"}
    return [
        HumpView(
            place=h.place, injector=h.label, percent=round(100.0 * h.median, 1),
            cycles=[c[h.place] for c in trace.cycles], low_cycles=h.low_cycles,
            state=h.state.value,
            words="even, low once: noise" if h.once else said[h.state],
        )
        for h in result.humps
    ]  # fmt: skip


def _bursts(whole: WholeSheet, body: Mapping[str, Any]) -> list[BurstView]:
    """The bursts of a log, each offered to the next row that has no reading."""
    if whole.sheet.kind != "pressure_drop":
        return []
    live = {r.id for r in whole.readings}
    measured = {r.injector_id for r in whole.readings}
    free = [i.label for i in whole.injectors if i.id not in measured]
    made = []
    unit = whole.sheet.unit
    for n, b in enumerate(body.get("bursts", [])):
        taken = b["reading_id"] if b["reading_id"] in live else ""
        offered = b["injector"] if taken else (free.pop(0) if free and not b["doubtful"] else "")
        made.append(
            BurstView(
                number=n,
                start_s=float(b["start_s"]),
                end_s=float(b["end_s"]),
                first=typed(float(b["first"]), whole),
                second=typed(float(b["second"]), whole),
                confidence_percent=round(100.0 * float(b["confidence"]), 1),
                drift=_drift(b, unit),
                doubts=[DOUBTS[d] for d in b["doubts"]],
                doubtful=bool(b["doubtful"]),
                injector=offered,
                reading_id=taken,
                moved=bool(b["moved"]),
            )
        )
    return made


def _drift(burst: Mapping[str, Any], unit: str) -> str:
    """What the pressure does before and after, a second, in the sheet's unit."""
    factor = factor_of(unit)
    before, after = (
        rounded(float(burst[name]) / factor, 2) for name in ("drift_before", "drift_after")
    )
    return f"{before} before, {after} after, {unit} a second"


def typed(kpa: float, whole: WholeSheet) -> str:
    """A pressure of a log as a reading of the sheet: one digit more than its gauge shows."""
    unit = whole.sheet.unit
    step = float(whole.sheet.gauge_step_typed or "1")
    return rounded(kpa / KPA_PER[unit], decimals_for(step) + 1)
