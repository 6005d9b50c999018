"""The cranking balance on the screen: humps, typed or from a trace."""

from decimal import Decimal
from typing import Any

from plumb.core.capture.spells import SpellWatch
from plumb.core.capture.watch import Event, Spell
from plumb.core.measure.decision import State
from plumb.core.measure.quantities import rounded
from plumb.core.procedures.cranking.analysis import KIND, CrankingResult
from plumb.core.traces.humps import find_humps
from plumb.jobfile.tracecolumns import seconds
from plumb.jobfile.tracefile import TraceTable
from plumb.service.kinds.capturing import Capturing
from plumb.service.kinds.kind import ScreenKind, cell_of_value, hangs_by_share
from plumb.service.kinds.knobs import Field, Knob
from plumb.service.kinds.shown import Noted, one_figure
from plumb.service.kinds.tracing import Found, Tracing, Wanted, body_of, channel
from plumb.service.stored.gauges import Gauge
from plumb.service.views.sheet import FormView, ScaleView
from plumb.service.views.trace import HumpView
from plumb.store.records import WholeSheet


def cells(row: Noted, result: CrankingResult) -> list[str]:
    """The hump as typed, else the one of the trace."""
    if not result.humps or row.values:
        return one_figure(row)
    told = next(f.value for f in result.findings if f.injector == row.label)
    return ["" if told is None else rounded(told, 0)]


def scale(result: CrankingResult, _unit: str) -> ScaleView:
    """Per cent of the middle hump; only a low one leans."""
    low = -100.0 * result.sheet.limit
    return ScaleView(relative=True, unit="%", centre=0.0, low=low, high=None, decimals=0)


def more(whole: WholeSheet, result: CrankingResult, _unit: str) -> dict[str, Any]:
    """What was seen by eye; how many humps a trace has, or an eye has seen."""
    seen = result.sheet.low_by_eye is not None
    by_eye = whole.sheet.conditions.get("by_eye") or {}
    form = FormView(
        complaint=[], codes=[], hose="", connectors="", note="", pump="", complaints=[], told="",
        looked_at=[], looked=seen, low_by_eye=[int(n) for n in by_eye.get("low") or ()],
    )  # fmt: skip
    count = len(result.humps) or (len(result.findings) if seen else 0)
    return {"form": form, **({"measured": count} if count else {})}


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
            **body_of(found.grid, [channel(column.name, column.unit, found.grid.values[0])]),
            "hump_times": [round(x, 3) for cycle in found.at for x in cycle],
            "notes": notes,
        },
    )


_SAID = {State.LOW: "weak hump", State.IN_PLUMB: "even", State.UNSETTLED: "not settled"}


def humps(result: CrankingResult) -> list[HumpView]:
    """The humps of a trace, each over all its cycles."""
    trace = result.sheet.trace
    if trace is None:
        return []
    return [
        HumpView(
            place=h.place, injector=h.label, percent=round(100.0 * h.median, 1),
            cycles=[c[h.place] for c in trace.cycles], low_cycles=h.low_cycles,
            state=h.state.value,
            words="even, low once: noise" if h.once else _SAID[h.state],
        )
        for h in result.humps
    ]  # fmt: skip


def spell(event: Event) -> tuple[float, float] | None:
    """A spell of cranking, with a little of what was before and after."""
    return (event.begin - 0.3, event.end + 0.3) if isinstance(event, Spell) else None


CRANKING = ScreenKind(
    code=KIND,
    gauge=Gauge(name="clamp", unit="percent", step="1"),
    knobs=(
        Knob(
            "Firing order",
            (Field("firing_order", "Cylinders in firing order, with a space between", "wholes"),),
            lambda get: get("firing_order") or "the usual one",
            "Only a trace with a sync needs it: its humps come in this order.",
        ),
    ),
    form=(
        Field("by_eye.looked", "Looked at", "yes"),
        Field("by_eye.low", "Low by eye", "wholes"),
    ),
    capture=Capturing(
        words="Clamp round all cables of the starter, engine kept from starting: crank for three seconds.",
        watch=lambda _whole: SpellWatch(),
        unit="A",
        rate_hz=250.0,
        rows=False,
        traced=spell,
    ),
    trace=Tracing(words="Bring in a trace of the starter current", find=crank, humps=humps),
    columns=("hump",),
    cells=cells,
    hangs=hangs_by_share,
    scale=scale,
    cell=cell_of_value,
    more=more,
)
