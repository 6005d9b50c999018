"""The cranking balance in the job file: humps typed, or found in a trace."""

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import Field

from plumb.core.measure.problems import Problem
from plumb.core.measure.readings import Noted
from plumb.core.procedures.cranking.analysis import (
    FIRING_ORDERS,
    CrankingResult,
    CrankingSheet,
    CrankTrace,
)
from plumb.jobfile.kinds.kind import Engine, FileKind, cylinder_slot, cylinders_once
from plumb.jobfile.models import (
    GaugePart,
    Instant,
    NotNegative,
    Part,
    SheetPart,
    TraceNotePart,
)
from plumb.jobfile.numbers import Number
from plumb.jobfile.tracecolumns import TIME, Role


class HumpPart(Part):
    """The hump of starter current of one cylinder."""

    cylinder: int = Field(ge=1, le=16)
    value: NotNegative
    note: str = Field("", max_length=500)
    taken: Instant | None = None


class CrankTracePart(TraceNotePart):
    """What was found in a trace of starter current: the humps' heights in per cent, by cycle.

    Each cycle holds one hump a cylinder in firing order.  ``synced`` says that the first is the
    first of ``firing_order``; without it nobody knows which hump is whose.
    """

    synced: bool = False
    cycles: list[
        Annotated[list[Annotated[Number, Field(ge=-1000, le=1000)]], Field(max_length=16)]
    ] = Field(max_length=2000)


class ByEyePart(Part):
    """Humps that were only looked at: the cylinders whose is low, none where all stand even."""

    looked: bool = False
    low: list[Annotated[int, Field(ge=1, le=16)]] = Field([], max_length=16)


class CrankingPart(SheetPart):
    """Cranking balance, a hump a cylinder: typed, or found in a trace; what is typed comes first."""

    kind: Literal["cranking_balance"]
    unit: Literal["percent"]
    gauge: GaugePart
    firing_order: list[Annotated[int, Field(ge=1, le=16)]] | None = Field(None, max_length=16)
    trace: CrankTracePart | None = None
    by_eye: ByEyePart = ByEyePart()
    readings: list[HumpPart] = Field([], max_length=200)


def core(part: CrankingPart, rows: tuple[Noted, ...], engine: Engine) -> CrankingSheet:
    """Humps by cylinder, called by its first injector; those of a trace cycle by cycle."""
    humps = {r.injector or r.slot: r.value for r in rows}
    names = {n: engine.at(n) or cylinder_slot(n) for n in engine.numbers()}
    return CrankingSheet(
        cylinders=tuple((name, humps.get(name)) for name in names.values()),
        bare=frozenset(name for n, name in names.items() if not engine.at(n)),
        beside=tuple((engine.at(n), other) for n in names for other in engine.beside(n)),
        shared=engine.shared(),
        step=float(part.gauge.step),
        trace=_trace(part, engine),
        low_by_eye=tuple(names[n] for n in part.by_eye.low if n in names)
        if part.by_eye.looked or part.by_eye.low
        else None,
    )


def _trace(part: CrankingPart, engine: Engine) -> CrankTrace | None:
    """Humps of a trace; with a sync the first is the first of the firing order."""
    if part.trace is None:
        return None
    numbers = engine.numbers()
    order = part.firing_order or engine.firing_order or FIRING_ORDERS.get(len(numbers), ())
    labels = tuple(engine.at(c) or cylinder_slot(c) for c in order)
    whole = sorted(order) == sorted(numbers)
    return CrankTrace(
        cycles=tuple(tuple(float(h) for h in cycle) for cycle in part.trace.cycles),
        order=labels if part.trace.synced and whole else (),
    )


def problems(part: CrankingPart, engine: Engine, path: str) -> Iterator[Problem]:
    """A firing order that is not this engine's, a cycle with another number of humps, doubles."""
    cylinders = set(engine.numbers())
    order = part.firing_order
    if order is not None and (set(order) != cylinders or len(order) != len(cylinders)):
        yield Problem(
            path=f"{path}.firing_order", value=" ".join(map(str, order)), code="not_the_engine",
            rule="every cylinder once: " + ", ".join(map(str, sorted(cylinders))),
        )  # fmt: skip
    if not set(part.by_eye.low) <= cylinders:
        yield Problem(
            path=f"{path}.by_eye.low", value=" ".join(map(str, part.by_eye.low)),
            code="not_the_engine", rule="cylinders of this engine: " + ", ".join(map(str, sorted(cylinders))),
        )  # fmt: skip
    for m, cycle in enumerate(part.trace.cycles if part.trace else []):
        if len(cycle) != len(cylinders):
            yield Problem(
                path=f"{path}.trace.cycles[{m}]", value=str(len(cycle)), code="not_the_engine",
                rule=f"one hump a cylinder, {len(cylinders)} a cycle",
            )  # fmt: skip
    yield from cylinders_once(part.readings, engine, f"{path}.readings", "reading")


def more(result: CrankingResult, unit: str) -> dict[str, Any]:  # noqa: ARG001  humps are per cent
    """The humps of a trace."""
    return {
        "humps": [
            {
                "injector": h.label or None, "percent": round(100.0 * h.median, 1),
                "low_cycles": h.low_cycles, "cycles": h.cycles, "state": h.state.value,
            }
            for h in result.humps
        ]
    }  # fmt: skip


def slots(engine: Engine) -> tuple[str, ...]:
    """The rows of cylinders without an injector of their own."""
    return tuple(cylinder_slot(n) for n in engine.numbers() if not engine.at(n))


CRANKING = FileKind(
    model=CrankingPart,
    entries={"readings": HumpPart},
    slots=slots,
    core=core,
    problems=problems,
    more=more,
    roles=(
        TIME,
        Role("current", "starter current", names=r"curr|amp|clamp|strom|^i\b"),
        Role("sync", "sync, first cylinder", needed=False, names=r"sync|trig|cyl|tdc|mark|cam|ref"),
    ),
)
