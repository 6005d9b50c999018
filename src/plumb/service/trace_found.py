"""From a trace's columns to what a sheet keeps of it, by the kind of sheet."""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from typing import Any, Final

import numpy as np

from plumb.core.evenly import Grid, envelope, evenly, thinned
from plumb.core.humps import find_humps
from plumb.core.pressure_log import PressureLog, TracedBurst, find_bursts
from plumb.core.problems import PlumbError, Problem
from plumb.core.quantities import KPA_PER
from plumb.jobfile.tracecolumns import kpa, seconds, unit_of
from plumb.jobfile.tracefile import TraceTable

DRAWN: Final = 1200
"""So many runs of a trace are drawn: about one for each dot of a screen."""
MOST_POINTS: Final = 2000
"""So many moments of a rail's trace are kept on the sheet."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """What a trace brings: keys for the sheet's conditions, and what is drawn of it."""

    conditions: dict[str, Any]
    body: dict[str, Any]
    unit: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """The sheet a trace is for: how many cylinders, a step of its gauge in kPa, a unit if told."""

    cylinders: int
    step: float = 0.0
    unit: str = ""


def channel(name: str, unit: str, values: np.ndarray) -> dict[str, Any]:
    """A channel as it is drawn: lowest and highest of equal runs, with five telling digits."""
    low, high = envelope(values, DRAWN)
    return {
        "name": name, "unit": unit,
        "low": [float(f"{x:.5g}") for x in low], "high": [float(f"{x:.5g}") for x in high],
    }  # fmt: skip


def _body(grid: Grid, channels: list[dict[str, Any]]) -> dict[str, Any]:
    return {
        "from_s": round(grid.t0, 4),
        "to_s": round(grid.t0 + (len(grid.values[0]) - 1) / grid.rate, 4),
        "rate_hz": round(grid.rate, 3),
        "channels": channels,
    }


def crank(table: TraceTable, at: dict[str, int], wanted: Wanted) -> Found:
    """Humps of starter current: their heights cycle by cycle, and where they stand."""
    sync = table.values[:, at["sync"]] if "sync" in at else None
    found = find_humps(
        seconds(table, at["time"]), table.values[:, at["current"]], cylinders=wanted.cylinders,
        sync=sync,
    )  # fmt: skip
    column = table.columns[at["current"]]
    cycles = [[Decimal(f"{h:.1f}") for h in cycle] for cycle in found.cycles]
    notes = []
    if found.turned:
        notes.append("The clamp sat the wrong way round; the trace was turned.")
    if sync is not None and not found.synced:
        notes.append("The sync does not come once a cycle, so it was not used.")
    return Found(
        conditions={"trace": {"synced": found.synced, "cycles": cycles}},
        body={
            **_body(found.grid, [channel(column.name, column.unit, found.grid.values[0])]),
            "hump_times": [round(x, 3) for cycle in found.at for x in cycle],
            "notes": notes,
        },
    )


def rail(table: TraceTable, at: dict[str, int], wanted: Wanted) -> Found:
    """Pressure wanted and actual, thinned to what a sheet keeps."""
    columns = [at["wanted"], at["actual"]]
    grid = evenly(seconds(table, at["time"]), *(kpa(table, c, wanted.unit) for c in columns))
    unit = unit_of(table, at["actual"], wanted.unit)
    factor = KPA_PER[unit]
    times, goal, actual = (thinned(x, MOST_POINTS) for x in (grid.times - grid.t0, *grid.values))
    series = [
        {"t_s": Decimal(f"{t:.3f}"), "wanted": _digits(w / factor), "actual": _digits(a / factor)}
        for t, w, a in zip(times, goal, actual, strict=True)
    ]
    names = ("wanted", "actual")
    return Found(
        conditions={"series": series, "trace": {}},
        body={
            **_body(
                grid,
                [channel(n, unit, v / factor) for n, v in zip(names, grid.values, strict=True)],
            ),
            "notes": [],
        },
        unit=unit,
    )


def _digits(value: float) -> Decimal:
    """Five telling digits, never below zero."""
    return Decimal(f"{max(0.0, float(value)):.5g}").normalize() + Decimal(0)


def log(table: TraceTable, at: dict[str, int], wanted: Wanted) -> Found:
    """Bursts of a pressure log, each with both readings."""
    found = read_log(table, at, wanted)
    unit = unit_of(table, at["pressure"], wanted.unit)
    name = table.columns[at["pressure"]].name
    return Found(
        conditions={},
        body={
            **_body(found.grid, [channel(name, unit, found.grid.values[0] / KPA_PER[unit])]),
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


FINDERS: Final[dict[str, Callable[[TraceTable, dict[str, int], Wanted], Found]]] = {
    "cranking_balance": crank,
    "rail_pressure": rail,
    "pressure_drop": log,
}
"""What is looked for in the trace of each kind of sheet."""


def finder(kind: str) -> Callable[[TraceTable, dict[str, int], Wanted], Found]:
    """What a sheet of that kind looks for; :class:`PlumbError` where it takes no trace."""
    if kind not in FINDERS:
        raise PlumbError(
            Problem(path="sheet", rule="traces are for " + ", ".join(FINDERS), value=kind,
                    code="no_trace")
        )  # fmt: skip
    return FINDERS[kind]
