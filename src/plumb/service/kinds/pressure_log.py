"""A pressure log of many bursts: what is kept of it, and its bursts on the screen."""

from collections.abc import Mapping
from typing import Any

from plumb.core.measure.quantities import KPA_PER, rounded
from plumb.core.traces.pressure_log import DOUBTS, PressureLog, TracedBurst, find_bursts
from plumb.jobfile.kinds.kind import factor_of
from plumb.jobfile.tracecolumns import kpa, seconds, unit_of
from plumb.jobfile.tracefile import TraceTable
from plumb.service.kinds.shown import as_noted
from plumb.service.kinds.tracing import Found, Wanted, body_of, channel
from plumb.service.views.trace import BurstView
from plumb.store.records import WholeSheet


def log(table: TraceTable, at: dict[str, int], wanted: Wanted) -> Found:
    """Bursts of a pressure log, each with both readings."""
    found = read_log(table, at, wanted)
    unit = unit_of(table, at["pressure"], wanted.unit)
    name = table.columns[at["pressure"]].name
    return Found(
        conditions={},
        body={
            **body_of(found.grid, [channel(name, unit, found.grid.values[0] / KPA_PER[unit])]),
            "unit": unit,
            "noise": round(found.noise, 4),
            "bursts": [burst_json(b) for b in found.bursts],
            "notes": [],
        },
    )


def read_log(table: TraceTable, at: dict[str, int], wanted: Wanted) -> PressureLog:
    """The log itself, for reading a burst again."""
    return find_bursts(
        seconds(table, at["time"]), kpa(table, at["pressure"], wanted.unit), step=wanted.step
    )


def burst_json(burst: TracedBurst) -> dict[str, Any]:
    """A burst as it is kept, pressures in kPa."""
    return {
        "start_s": round(burst.start_s, 3), "end_s": round(burst.end_s, 3),
        "first": round(burst.first, 4), "second": round(max(0.0, burst.second), 4),
        "confidence": round(burst.confidence, 4),
        "drift_before": round(burst.drift_before, 4), "drift_after": round(burst.drift_after, 4),
        "doubts": list(burst.doubts), "doubtful": burst.doubtful, "injector": "",
        "reading_id": "", "moved": False,
    }  # fmt: skip


def bursts(whole: WholeSheet, body: Mapping[str, Any]) -> list[BurstView]:
    """The bursts of a log, each offered to the next row that has no reading."""
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
                first=as_noted(float(b["first"]), whole),
                second=as_noted(float(b["second"]), whole),
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
