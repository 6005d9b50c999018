"""The hold in the job file, with its isolation board."""

from collections.abc import Iterator
from decimal import Decimal
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.measure.quantities import kpa_per
from plumb.core.measure.readings import Noted
from plumb.core.procedures.hold.analysis import HoldResult, HoldSheet, Limits
from plumb.core.procedures.hold.isolation import board
from plumb.jobfile.kinds.kind import Engine, FileKind, scaled, too_high
from plumb.jobfile.models import (
    EnginePart,
    GaugePart,
    Instant,
    NotNegative,
    Part,
    Positive,
    SheetPart,
    UnitName,
)
from plumb.jobfile.numbers import Number


class HoldLimitsPart(Part):
    """Both kinds of limit: lost at most within a time, left at least after a time."""

    lost_at_most: Positive | None = None
    within_s: Positive | None = None
    left_at_least: Positive | None = None
    after_s: Positive | None = None
    source: str = Field("", max_length=200)

    @model_validator(mode="after")
    def _timed(self) -> Self:
        if self.lost_at_most is not None and self.within_s is None:
            message = "a largest loss needs the seconds within which it holds"
            raise ValueError(message)
        if self.left_at_least is not None and self.after_s is None and self.within_s is None:
            message = "a least pressure left needs the seconds after which it holds"
            raise ValueError(message)
        return self


class PointPart(Part):
    """One reading of a hold."""

    t_s: Annotated[Number, Field(ge=0, le=100_000)]
    value: NotNegative
    note: str = Field("", max_length=500)
    taken: Instant | None = None


class IsolationPart(Part):
    """One thing that was tried, and what came of it."""

    step: Literal[
        "clamp_supply", "clamp_return", "clamp_both", "vacuum_hose", "tips", "outside", "low_side"
    ]
    outcome: Literal["holds", "falls", "dry", "wet", "rises", "steady"]
    taken: Instant | None = None


class HoldPart(SheetPart):
    """The hold, with its isolation board."""

    kind: Literal["hold"]
    unit: UnitName
    gauge: GaugePart
    rail: Literal["low", "high"] = "low"
    window: HoldLimitsPart = HoldLimitsPart()
    engine: EnginePart = EnginePart()
    series: list[PointPart] = Field([], max_length=5000)
    isolation: list[IsolationPart] = Field([], max_length=40)


def core(part: HoldPart, rows: tuple[Noted, ...], _engine: Engine) -> HoldSheet:
    """Moments by their time, and what was tried."""
    factor, window = kpa_per(part.unit), part.window
    return HoldSheet(
        series=tuple((r.at_s, r.value) for r in rows if r.at_s is not None and r.value is not None),
        step=float(part.gauge.step) * factor,
        u_class=part.gauge.u_class(factor),
        rail=part.rail,
        isolation=tuple((r.slot, r.word) for r in rows if r.word is not None),
        engine_c=scaled(part.engine.temperature_c),
        limits=Limits(
            lost_at_most=scaled(window.lost_at_most, factor),
            within_s=scaled(window.within_s),
            left_at_least=scaled(window.left_at_least, factor),
            after_s=scaled(window.after_s),
            source=window.source,
        ),
    )


def problems(part: HoldPart, _engine: Engine, path: str) -> Iterator[Problem]:
    """Steps that this rail does not have, two readings of one moment, pressures beyond any rail."""
    for m, tried in enumerate(part.isolation):
        try:
            board(((tried.step, tried.outcome),), part.rail)
        except PlumbError as error:
            for one in error.problems:
                yield Problem(
                    path=f"{path}.isolation[{m}].{one.path}", rule=one.rule, value=one.value,
                    code=one.code,
                )  # fmt: skip
    earlier: set[Decimal] = set()
    for m, point in enumerate(part.series):
        if point.t_s in earlier:
            yield Problem(
                path=f"{path}.series[{m}].t_s", rule="one reading for each moment",
                value=str(point.t_s), code="double",
            )  # fmt: skip
        earlier.add(point.t_s)
        yield from too_high(point.value, part.unit, f"{path}.series[{m}].value")


def more(result: HoldResult, unit: str) -> dict[str, Any]:  # noqa: ARG001  a board has no unit
    """The isolation board: what is left, what was struck out and why, what contradicts."""
    board_ = result.board
    return {
        "isolation": {
            "left": list(board_.left),
            "struck": {s.source: s.because for s in board_.struck},
            "contradiction": board_.contradiction,
            "against": [list(pair) for pair in board_.against],
        }
    }


HOLD = FileKind(
    model=HoldPart,
    entries={"series": PointPart, "isolation": IsolationPart},
    core=core,
    problems=problems,
    quantities=("t_s", "value"),
    more=more,
)
