"""A trace on the command line: its humps, its rail, or its bursts, as a table or as JSON."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any, Final

import numpy as np
from rich.console import Console
from rich.progress import Progress
from rich.table import Table

from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.measure.quantities import KPA_PER, kpa_per
from plumb.core.procedures.cranking.analysis import CrankingSheet, CrankTrace, analyse_cranking
from plumb.core.procedures.rail.analysis import RailSheet, analyse_rail
from plumb.core.traces.humps import find_humps
from plumb.core.traces.pressure_log import DOUBTS, find_bursts
from plumb.jobfile.exact import dumps
from plumb.jobfile.kinds import AnyFileKind
from plumb.jobfile.kinds.cranking import CRANKING
from plumb.jobfile.kinds.drop import DROP
from plumb.jobfile.kinds.rail import RAIL
from plumb.jobfile.tracecolumns import kpa, pick, seconds, unit_of
from plumb.jobfile.tracefile import TraceReader, TraceTable

KINDS: Final[dict[str, AnyFileKind]] = {"cranking": CRANKING, "rail": RAIL, "bursts": DROP}
"""What can be looked for, and the sheet it is for."""
_PIECE: Final = 1 << 20


def read_file(path: Path, console: Console | None = None) -> TraceTable:
    """A trace from a file, piece by piece, with a bar where there is someone to look at it."""
    reader = TraceReader()
    size = path.stat().st_size
    with Progress(console=console, transient=True, disable=console is None) as progress:
        task = progress.add_task(path.name, total=size)
        with path.open("rb") as file:
            while piece := file.read(_PIECE):
                reader.feed(piece)
                progress.advance(task, len(piece))
    return reader.close()


def analyse_trace(
    what: str, table: TraceTable, *, cylinders: int = 4, step: float = 0.0, unit: str = ""
) -> dict[str, Any]:
    """What is in a trace, as JSON values; pressures in the header's unit, or ``unit``.

    Raises :class:`PlumbError` for something that is not looked for, and for a trace without it.
    """
    if what not in KINDS:
        raise PlumbError(
            Problem(path="what", rule="one of " + ", ".join(KINDS), value=what, code="unknown_what")
        )
    at = pick(KINDS[what].roles, table, {})
    find = {"cranking": _cranking, "rail": _rail, "bursts": _bursts}[what]
    return {"plumb": 1, "what": what, "samples": len(table.values)} | find(
        table, at, cylinders, step, unit
    )


def _cranking(
    table: TraceTable, at: dict[str, int], cylinders: int, _step: float, _unit: str
) -> dict[str, Any]:
    found = find_humps(
        seconds(table, at["time"]), table.values[:, at["current"]], cylinders=cylinders,
        sync=table.values[:, at["sync"]] if "sync" in at else None,
    )  # fmt: skip
    places = tuple((str(n + 1), None) for n in range(cylinders))
    order = tuple(label for label, _ in places) if found.synced else ()
    result = analyse_cranking(
        CrankingSheet(
            cylinders=places, step=1.0, trace=CrankTrace(cycles=found.cycles, order=order)
        )
    )
    return {
        "synced": found.synced,
        "humps_a_second": round(found.hz, 2),
        "cycles": len(found.cycles),
        "humps": [
            {
                "place": h.place + 1, "percent": round(100 * h.median, 1),
                "low_cycles": h.low_cycles, "state": h.state.value,
            }
            for h in result.humps
        ],
    }  # fmt: skip


def _rail(
    table: TraceTable, at: dict[str, int], _cylinders: int, _step: float, unit: str
) -> dict[str, Any]:
    shown = unit_of(table, at["actual"], unit)
    factor = KPA_PER[shown]
    columns = np.column_stack(
        [seconds(table, at["time"]), *(kpa(table, at[x], unit) for x in ("wanted", "actual"))]
    )
    result = analyse_rail(RailSheet(series=tuple(map(tuple, columns))))
    return {
        "unit": shown, "state": result.state, "bias": round(result.bias / factor, 3),
        "swing": round(result.swing / factor, 3),
        "frequency_hz": None if result.frequency_hz is None else round(result.frequency_hz, 3),
        "beyond_percent": round(100 * result.beyond, 1),
    }  # fmt: skip


def _bursts(
    table: TraceTable, at: dict[str, int], _cylinders: int, step: float, unit: str
) -> dict[str, Any]:
    shown = unit_of(table, at["pressure"], unit)
    factor = kpa_per(shown)
    found = find_bursts(
        seconds(table, at["time"]), kpa(table, at["pressure"], unit), step=step * factor
    )
    return {
        "unit": shown,
        "noise": round(found.noise / factor, 4),
        "bursts": [
            {
                "start_s": round(b.start_s, 3), "end_s": round(b.end_s, 3),
                "first": round(b.first / factor, 4), "second": round(b.second / factor, 4),
                "drift_after": round(b.drift_after / factor, 4),
                "confidence": round(b.confidence, 4), "doubtful": b.doubtful,
                "doubts": [DOUBTS[d] for d in b.doubts],
            }
            for b in found.bursts
        ],
    }  # fmt: skip


def show(found: dict[str, Any], console: Console, *, as_json: bool) -> None:
    """The result as a table for people, or as one JSON object."""
    if as_json:
        console.file.write(dumps(found, indent=1) + "\n")
        return
    rows = found.get("humps") or found.get("bursts") or []
    head = {k: v for k, v in found.items() if k not in {"humps", "bursts", "plumb"}}
    console.print(", ".join(f"{k.replace('_', ' ')} {v}" for k, v in head.items()), markup=False)
    if rows:
        table = Table(*(k.replace("_", " ") for k in rows[0]))
        for line in _texts(rows):
            table.add_row(*line)
        console.print(table)


def _texts(rows: list[dict[str, Any]]) -> Iterator[list[str]]:
    for row in rows:
        yield [
            ", ".join(v) if isinstance(v, list) else str(v).replace("_", " ") for v in row.values()
        ]
