"""The rail pressure on the screen: a trace, and no rows."""

import re
from decimal import Decimal
from typing import Any, Final

import numpy as np
from sqlalchemy import Connection

from plumb.core.measure.quantities import KPA_PER
from plumb.core.procedures.kind import Setting
from plumb.core.procedures.rail.analysis import BEYOND, KIND, NAMES, RailResult
from plumb.core.procedures.rail.together import beside_the_rail
from plumb.core.procedures.rail.words import told_in
from plumb.core.traces.evenly import Grid, evenly, thinned
from plumb.jobfile.tracecolumns import kpa, seconds, unit_of
from plumb.jobfile.tracefile import TraceTable
from plumb.service.kinds.kind import ScreenKind, hangs_by_share
from plumb.service.kinds.knobs import ENGINE, Field, Knob, between
from plumb.service.kinds.shown import Noted
from plumb.service.kinds.tracing import Found, Tracing, Wanted, body_of, channel
from plumb.service.views.sheet import ScaleView
from plumb.store.records import WholeSheet

MOST_POINTS: Final = 2000
"""So many moments of a rail's trace are kept on the sheet."""


def follow(table: TraceTable, at: dict[str, int], wanted: Wanted) -> Found:
    """Pressure wanted and actual, thinned to what a sheet keeps."""
    columns = [at["wanted"], at["actual"]]
    corrections = _corrections(table, set(at.values()), wanted.cylinders)
    grid = evenly(
        seconds(table, at["time"]),
        *(kpa(table, c, wanted.unit) for c in columns),
        *(table.values[:, c] for c in corrections.values()),
    )
    unit = unit_of(table, at["actual"], wanted.unit)
    factor = KPA_PER[unit]
    rail = grid.values[:2]
    times, goal, actual = (thinned(x, MOST_POINTS) for x in (grid.times - grid.t0, *rail))
    series = [
        {"t_s": Decimal(f"{t:.3f}"), "wanted": _digits(w / factor), "actual": _digits(a / factor)}
        for t, w, a in zip(times, goal, actual, strict=True)
    ]
    names = ("wanted", "actual")
    return Found(
        conditions={
            "series": series,
            "trace": {},
            "together": _together(grid, rail[1] - rail[0], list(corrections)),
        },
        body={
            **body_of(
                grid,
                [channel(n, unit, v / factor) for n, v in zip(names, rail, strict=True)],
            ),
            "notes": [],
        },
        unit=unit,
    )


_CORRECTION: Final = re.compile(r"corr|balanc|adjust|quantit|trim")
"""What a column of corrections is called; its cylinder is the number in its name."""


def _corrections(table: TraceTable, taken: set[int], cylinders: int) -> dict[str, int]:
    """The columns of corrections by their cylinder, of those that nothing else is read from."""
    made: dict[str, int] = {}
    for n, column in enumerate(table.columns):
        numbers = re.findall(r"\d+", column.name)
        told = _CORRECTION.search(column.name.lower()) and len(numbers) == 1
        if n not in taken and told and 1 <= int(numbers[0]) <= cylinders:
            made.setdefault(str(int(numbers[0])), n)
    return made


def _together(grid: Grid, error: np.ndarray, labels: list[str]) -> list[dict[str, Any]]:
    """How each correction goes beside the rail, with what a sheet keeps of it."""
    found = beside_the_rail(error, dict(zip(labels, grid.values[2:], strict=True)), grid.rate)
    return [
        {
            "injector": x.injector, "swing": _digits(x.swing),
            "with_rail": Decimal(f"{x.with_rail:.3f}"),
        }
        for x in found
    ]  # fmt: skip


def _digits(value: float) -> Decimal:
    """Five telling digits, never below zero."""
    return Decimal(f"{max(0.0, float(value)):.5g}").normalize() + Decimal(0)


def from_sheet(whole: WholeSheet) -> dict[str, Any]:
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


def scale(_result: RailResult, _unit: str) -> ScaleView:
    """Per cent of what is wanted."""
    edge = 100.0 * BEYOND
    return ScaleView(relative=True, unit="%", centre=0.0, low=-edge, high=edge, decimals=0)


def more(_whole: WholeSheet, result: RailResult, _unit: str) -> dict[str, Any]:
    """How many moments there are."""
    return {"measured": len(result.sheet.series) + len(result.sheet.read)}


def begins_with(_connection: Connection, setting: Setting) -> dict[str, Any]:
    """An engine that does not start is cranked."""
    return {} if setting.starts else {"engine": {"state": "cranking"}}


def cells(row: Noted, _result: RailResult) -> list[str]:
    """What is wanted and what is there."""
    if not row.readings:
        return ["", ""]
    last = row.readings[-1]
    return [
        (typed or "") if last.unit == row.unit else told_in(kpa or 0.0, row.unit).partition(" ")[0]
        for kpa, typed in (
            (last.first_kpa, last.first_typed), (last.second_kpa, last.second_typed)
        )
    ]  # fmt: skip


TO_AND_FRO: Final = Knob(
    "To and fro",
    (
        Field("swing.low", "Lowest that it went to at idle, {unit}"),
        Field("swing.high", "Highest, {unit}"),
    ),
    lambda get: between(get, "swing.low", "swing.high", "{unit}") or "not seen",
    "Watch what is there for half a minute: what it goes to and fro between. A trace tells better.",
)


RAIL = ScreenKind(
    code=KIND,
    gauge=None,
    begins_with=begins_with,
    columns=("wanted", "actual"),
    names=NAMES,
    cells=cells,
    hangs=hangs_by_share,
    scale=scale,
    knobs=(TO_AND_FRO, ENGINE),
    trace=Tracing(
        words="Bring in a trace of the rail", find=follow, from_sheet=from_sheet, band=BEYOND
    ),
    more=more,
)
