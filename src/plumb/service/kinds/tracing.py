"""From a trace's columns to what a sheet keeps of it: what is common to every kind."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Final

import numpy as np

from plumb.core.traces.evenly import Grid, envelope
from plumb.jobfile.tracefile import TraceTable
from plumb.service.views.trace import BurstView, HumpView
from plumb.store.records import WholeSheet

DRAWN: Final = 1200
"""So many runs of a trace are drawn: about one for each dot of a screen."""


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


def body_of(grid: Grid, channels: list[dict[str, Any]]) -> dict[str, Any]:
    """Where a trace begins and ends, how fast it was sampled, and its channels."""
    return {
        "from_s": round(grid.t0, 4),
        "to_s": round(grid.t0 + (len(grid.values[0]) - 1) / grid.rate, 4),
        "rate_hz": round(grid.rate, 3),
        "channels": channels,
    }


def _no_bursts(_whole: WholeSheet, _body: Mapping[str, Any]) -> list[BurstView]:
    return []


def _no_humps(_result: Any) -> list[HumpView]:  # noqa: ANN401  of any kind
    return []


def _nothing_kept(_whole: WholeSheet) -> dict[str, Any]:
    return {}


@dataclass(frozen=True, slots=True, kw_only=True)
class Tracing:
    """What a kind of sheet makes of a trace.

    ``words`` name bringing one in.  ``find`` looks through it; ``many``: each trace stands beside the earlier ones, else it takes
    their place.  For the screen: its ``bursts``, its ``humps`` (from the sheet's result), what can be
    drawn of it ``from_sheet`` where its file is not here, and a ``band`` to each side of the first
    channel, as a share of it.
    """

    words: str
    find: Callable[[TraceTable, dict[str, int], Wanted], Found]
    many: bool = False
    bursts: Callable[[WholeSheet, Mapping[str, Any]], list[BurstView]] = _no_bursts
    humps: Callable[[Any], list[HumpView]] = _no_humps
    from_sheet: Callable[[WholeSheet], dict[str, Any]] = field(default=_nothing_kept)
    band: float | None = None
